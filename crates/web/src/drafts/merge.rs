//! A draft merged: what of it goes into the live plan, with both values where both have changed the same.

use super::{Here, here::open, list};
use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Changed, Pairs, changed},
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    Form,
    extract::{Path, State},
    response::{Html, Response},
};
use snug_core::{
    Command, Eyes, Plan, Role,
    change::Change,
    drafts::{Fate, Take, fate, merged, net},
    kinds::Kind,
    text::Text,
};
use snug_store::drafts::{self, Draft};
use std::collections::BTreeMap;

/// More than these nobody looks through; what is not shown and in no conflict goes in.
const MOST: usize = 300;

/// A record that the draft changed, and what of it could go in.
struct Line {
    /// By which the form names it: `task-412`.
    key: String,
    /// From what stands in the live plan to what would stand there.
    change: Changed,
    /// The draft's value would take the place of one that the live plan got meanwhile; `plan` says whether there is more to take than that.
    conflict: Option<bool>,
}

#[derive(Template)]
#[template(path = "drafts/merge.html")]
struct MergePage {
    frame: Frame,
    id: i32,
    name: String,
    own: bool,
    lines: Vec<Line>,
    conflicts: usize,
    goes_in: usize,
    stands: usize,
    left_out: usize,
    may_change: bool,
}

/// What a draft comes to, the texts that it may be about, and the draft.
struct Meant {
    draft: Draft,
    net: Vec<Change>,
    texts: Vec<Text>,
}

async fn meant(live: &AppState, user: &User, id: i32) -> Result<Meant, Error> {
    open(live, user.account.id, id).await?.ok_or(Error::NotFound)?;
    let draft = drafts::one(live.keeper.db(), id).await?.ok_or(Error::NotFound)?;
    let net = net(drafts::changes_of(live.keeper.db(), &draft).await?);
    let texts = live.keeper.texts_changed_by(&net).await?;
    Ok(Meant { draft, net, texts })
}

fn key_of((kind, id): (Kind, i32)) -> String {
    format!("{kind}-{id}")
}

fn line(eyes: &Eyes<'_>, texts: &[Text], change: &Change, role: Role) -> Option<Line> {
    let key = key_of(change.subject());
    match fate(eyes.plan, texts, change) {
        Fate::Stands => None,
        Fate::GoesIn(change) => Some(Line { key, change: changed(eyes, &change, role), conflict: None }),
        Fate::Conflict(conflict) => {
            let change = changed(eyes, &conflict.draft, role);
            Some(Line { key, change, conflict: Some(conflict.plan.is_some()) })
        }
    }
}

/// The page: each record with what it would become, those in conflict first.
pub async fn page(
    State(live): State<AppState>,
    Here(state): Here,
    user: User,
    Path(id): Path<i32>,
) -> Result<Html<String>, Error> {
    let Meant { draft, net, texts } = meant(&live, &user, id).await?;
    let (plan, frame) = (live.keeper.plan(), Frame::of(&state, &user, Room::None).await?);
    crate::computed(move || {
        let eyes = user.eyes(&plan);
        let mut lines: Vec<Line> =
            net.iter().filter_map(|change| line(&eyes, &texts, change, user.account.role)).collect();
        lines.sort_by_key(|line| line.conflict.is_none());
        let conflicts = lines.iter().filter(|line| line.conflict.is_some()).count();
        let (shown, all) = (MOST.max(conflicts), lines.len());
        lines.truncate(shown);
        let page = MergePage {
            stands: net.len() - all,
            goes_in: all - conflicts,
            left_out: all - lines.len(),
            conflicts,
            lines,
            own: draft.owner == user.account.id,
            may_change: user.account.role >= Role::Member,
            id: draft.id,
            name: draft.name,
            frame,
        };
        page.render()
    })
    .await
}

/// What was chosen: of what stood there with a choice that one, of what was offered to be ticked nothing where it is not.
fn takes(pairs: &Pairs, net: &[Change]) -> BTreeMap<(Kind, i32), Take> {
    let all =
        |name: &'static str| pairs.iter().filter(move |(known, _)| known == name).map(|(_, value)| value.as_str());
    let ticked: Vec<&str> = all("take").collect();
    let offered: Vec<&str> = all("offered").collect();
    let take = |subject: (Kind, i32)| {
        let key = key_of(subject);
        let chosen = pairs.iter().find(|(name, _)| *name == key).and_then(|(_, value)| value.parse().ok());
        let left = offered.contains(&key.as_str()) && !ticked.contains(&key.as_str());
        Some((subject, chosen.or(left.then_some(Take::Nothing))?))
    };
    net.iter().filter_map(|change| take(change.subject())).collect()
}

/// Whether something was changed in the live plan that nobody has chosen about.
fn unclear(plan: &Plan, meant: &Meant, takes: &BTreeMap<(Kind, i32), Take>) -> bool {
    let is_open = |change: &Change| !takes.contains_key(&change.subject());
    meant
        .net
        .iter()
        .filter(|change| is_open(change))
        .any(|it| matches!(fate(plan, &meant.texts, it), Fate::Conflict(_)))
}

/// Merges what was chosen, as one entry of the live plan.
pub async fn merge(
    State(live): State<AppState>,
    user: User,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Member)?;
    let meant = meant(&live, &user, id).await?;
    let plan = live.keeper.plan();
    let takes = takes(&pairs, &meant.net);
    let here = format!("/drafts/{id}/merge");
    let again = async |message: String| answer::again(&user, &here, message).await;
    if unclear(&plan, &meant, &takes) {
        let message = "The live plan has changed since, and says something else than the draft now. Nothing was merged; choose below";
        return again(message.to_owned()).await;
    }
    let changes = merged(&plan, &meant.texts, &meant.net, &takes);
    if changes.is_empty() {
        return again("Nothing of the draft is ticked, so nothing was merged".to_owned()).await;
    }
    let command = Command::Merge { name: meant.draft.name.clone(), changes };
    let title = command.done(&plan);
    let outcome = match answer::carry_out(&live, &user, command).await {
        Ok(outcome) => outcome,
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            return again(format!("Nothing was merged: {}", words::capital(&refusal.message))).await;
        }
        Err(error) => return Err(error),
    };
    super::here::leave(&user.session).await?;
    if pairs.iter().any(|(name, _)| name == "drop") && meant.draft.owner == user.account.id {
        list::forget(&live, &user, &meant.draft).await?;
    }
    let message = format!("{title}: {}", words::count(outcome.changes.len(), "record changed", "records changed"));
    answer::back_to(&user, super::PATH, message, &outcome).await
}
