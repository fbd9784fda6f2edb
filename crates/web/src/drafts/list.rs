//! The drafts that somebody may open, and what is done with one as a whole.

use super::{
    Here, PATH,
    here::{self, open},
};
use crate::{
    AppState, Error,
    answer::safe_back,
    auth::User,
    frame::{Flash, Frame, Room},
    words,
};
use askama::Template;
use axum::{
    Form,
    extract::{Path, State},
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_core::{Command, Role};
use snug_store::{
    Keeper, accounts,
    drafts::{self, Draft, Origin},
};
use std::{collections::HashMap, sync::Arc};

/// The most letters of a name.
const LONGEST: usize = 80;
/// The most drafts of one account.
const MOST: usize = 50;

/// A draft as it is listed.
struct Line {
    id: i32,
    name: String,
    shared: bool,
    /// Whether it is of who asks.
    own: bool,
    /// Whose it is.
    owner: String,
    /// How many entries it has.
    entries: String,
    /// How many entries the live plan has had since.
    behind: String,
    /// The last day on which it is kept if nobody looks at it.
    until: String,
    /// Whether the session works in it.
    is_here: bool,
}

#[derive(Template)]
#[template(path = "drafts/list.html")]
struct ListPage {
    frame: Frame,
    lines: Vec<Line>,
    /// The draft that the session works in, of which another one can be made.
    here: Option<String>,
    asked: Asked,
    problem: Option<String>,
    may_make: bool,
}

/// What a form says of a draft.
#[derive(Clone, Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    name: String,
    shared: String,
    /// Of what it is made: `live`, or the draft that the session works in.
    from: String,
    back: String,
}

impl Asked {
    /// The name as it is kept, or what is wrong with it.
    fn name(&self) -> Result<&str, String> {
        match self.name.trim() {
            "" => Err("Give the draft a name.".to_owned()),
            name if name.chars().count() > LONGEST => {
                Err(format!("A name has {LONGEST} letters at most; this one has {}.", name.chars().count()))
            }
            name => Ok(name),
        }
    }

    fn is_shared(&self) -> bool {
        !self.shared.is_empty()
    }
}

async fn shown(
    live: &AppState,
    state: &AppState,
    user: &User,
    asked: Asked,
    problem: Option<String>,
) -> Result<Html<String>, Error> {
    let db = live.keeper.db();
    drafts::sweep(db, live.today()).await?;
    let names: HashMap<i32, String> =
        accounts::all(db).await?.into_iter().map(|(account, _)| (account.id, account.name)).collect();
    let (plan, here) = (live.keeper.plan(), state.keeper.plan().draft);
    let line = |draft: Draft| Line {
        id: draft.id,
        shared: draft.shared,
        own: draft.owner == user.account.id,
        owner: names.get(&draft.owner).cloned().unwrap_or_default(),
        entries: words::count(count(draft.revision - draft.base), "change", "changes"),
        behind: match plan.revision - draft.base {
            0 => String::new(),
            since => words::count(count(since), "change", "changes"),
        },
        until: words::date(draft.kept_until(), plan.settings.date_order),
        is_here: draft.id == here,
        name: draft.name,
    };
    let page = ListPage {
        lines: drafts::of_account(db, user.account.id).await?.into_iter().map(line).collect(),
        frame: Frame::of(state, user, Room::None).await?,
        here: state.keeper.draft().map(|draft| draft.name.clone()),
        may_make: user.books(),
        asked,
        problem,
    };
    Ok(Html(page.render()?))
}

fn count(number: i64) -> usize {
    usize::try_from(number).unwrap_or_default()
}

/// The page.
pub async fn page(State(live): State<AppState>, Here(state): Here, user: User) -> Result<Html<String>, Error> {
    shown(&live, &state, &user, Asked::default(), None).await
}

/// Makes a draft of the plan that somebody works in, or of the live one, and goes into it.
pub async fn make(
    State(live): State<AppState>,
    Here(state): Here,
    user: User,
    Form(asked): Form<Asked>,
) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let name = match asked.name() {
        Ok(name) => name.to_owned(),
        Err(problem) => return Ok(shown(&live, &state, &user, asked, Some(problem)).await?.into_response()),
    };
    let of = if asked.from == "live" { &live } else { &state };
    match made(&live, of, &user, (&name, asked.is_shared()), None).await? {
        Ok(_) => Ok(Redirect::to(safe_back(&asked.back)).into_response()),
        Err(problem) => Ok(shown(&live, &state, &user, asked, Some(problem)).await?.into_response()),
    }
}

/// Makes a draft of a plan, carries out in it what is tried, and goes into it; or says why not.
pub async fn made(
    live: &AppState,
    of: &AppState,
    user: &User,
    (name, shared): (&str, bool),
    tried: Option<Command>,
) -> Result<Result<Arc<Keeper>, String>, Error> {
    let db = live.keeper.db();
    if drafts::of_account(db, user.account.id).await?.iter().filter(|it| it.owner == user.account.id).count() >= MOST {
        return Ok(Err(format!("You have {MOST} drafts. Drop one that you do not need any more.")));
    }
    if let Some(command) = &tried {
        user.check(&of.keeper.plan(), command)?;
    }
    let of = match of.keeper.draft() {
        // As it stands, not as it was known last.
        Some(draft) => drafts::one(db, draft.id).await?,
        None => None,
    };
    let origin = of.as_ref().map_or_else(|| Origin::Live(live.keeper.plan().revision), Origin::Draft);
    let name: String = name.chars().take(LONGEST).collect();
    let id = drafts::make(db, user.account.id, (&name, shared), origin, live.today()).await?;
    let keeper = live.keeper.of_draft(id).await?.ok_or(Error::NotFound)?;
    if let Some(command) = tried
        && let Err(error) = keeper.submit(user.actor(), command, live.today()).await
    {
        drafts::drop_own(db, user.account.id, id).await?;
        return match error {
            snug_store::Error::Refused(refusal) => Ok(Err(refusal.message)),
            error => Err(error.into()),
        };
    }
    here::enter(&user.session, id).await?;
    Ok(Ok(keeper))
}

/// A draft of one's own, or one that others share.
async fn draft_for(live: &AppState, user: &User, id: i32) -> Result<Arc<Draft>, Error> {
    let keeper = open(live, user.account.id, id).await?.ok_or(Error::NotFound)?;
    keeper.draft().ok_or(Error::NotFound)
}

/// Goes into a draft.
pub async fn enter(
    State(live): State<AppState>,
    user: User,
    Path(id): Path<i32>,
    Form(asked): Form<Asked>,
) -> Result<Response, Error> {
    let draft = draft_for(&live, &user, id).await?;
    here::enter(&user.session, draft.id).await?;
    Flash::plain(format!("You work in the draft “{}”; nobody’s plan changes but its", draft.name))
        .leave(&user.session)
        .await?;
    Ok(Redirect::to(safe_back(&asked.back)).into_response())
}

/// Goes back into the live plan.
pub async fn leave(user: User, Form(asked): Form<Asked>) -> Result<Response, Error> {
    here::leave(&user.session).await?;
    Flash::plain("You are back in the live plan").leave(&user.session).await?;
    Ok(Redirect::to(safe_back(&asked.back)).into_response())
}

/// Gives a draft another name, and shares it or not.
pub async fn rename(
    State(live): State<AppState>,
    Here(state): Here,
    user: User,
    Path(id): Path<i32>,
    Form(asked): Form<Asked>,
) -> Result<Response, Error> {
    let name = match asked.name() {
        Ok(name) => name,
        Err(problem) => {
            let page = shown(&live, &state, &user, Asked::default(), Some(problem)).await?;
            return Ok(page.into_response());
        }
    };
    if !drafts::rename(live.keeper.db(), user.account.id, id, (name, asked.is_shared())).await? {
        return Err(Error::NotFound);
    }
    live.keeper.catch_up_drafts().await?;
    Flash::plain(format!("Draft “{name}” is {}", if asked.is_shared() { "shared" } else { "private" }))
        .leave(&user.session)
        .await?;
    Ok(Redirect::to(PATH).into_response())
}

/// Forgets a draft with everything that was changed in it.
pub async fn drop_it(State(live): State<AppState>, user: User, Path(id): Path<i32>) -> Result<Response, Error> {
    let draft = draft_for(&live, &user, id).await?;
    forget(&live, &user, &draft).await?;
    Flash::plain(format!("Draft “{}” dropped", draft.name)).leave(&user.session).await?;
    Ok(Redirect::to(PATH).into_response())
}

/// Forgets a draft of one's own; whoever works in it is back in the live plan with their next step.
pub(super) async fn forget(live: &AppState, user: &User, draft: &Draft) -> Result<(), Error> {
    if !drafts::drop_own(live.keeper.db(), user.account.id, draft.id).await? {
        return Err(Error::NotAllowed("A draft is dropped by whoever made it."));
    }
    live.keeper.catch_up_drafts().await?;
    here::leave_if(&user.session, draft.id).await
}
