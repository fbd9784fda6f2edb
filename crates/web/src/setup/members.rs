//! Members: who may sign in, what they may do, and invitations by mail.

use crate::{
    AppState, Error,
    auth::User,
    doors::{self, Deed, Peer},
    drafts::Here,
    frame::{Flash, Frame, Room},
    mail::Letter,
    words,
};
use askama::Template;
use axum::{
    Form,
    extract::Path,
    http::StatusCode,
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_core::Role;
use snug_store::{
    accounts::{self, Account},
    mailed_keys::{self, MailedKey},
};

struct MemberView {
    account: Account,
    two_step: bool,
    oneself: bool,
}

#[derive(Template)]
#[template(path = "setup/members.html")]
struct MembersPage {
    frame: Frame,
    members: Vec<MemberView>,
    open: Vec<(MailedKey, String)>,
    roles: &'static [Role],
    may_change: bool,
    has_post: bool,
    typed: Invitation,
    problem: Option<(&'static str, String)>,
}

impl MembersPage {
    fn problem_of(&self, field: &str) -> Option<&str> {
        self.problem.as_ref().filter(|(known, _)| *known == field).map(|(_, reason)| reason.as_str())
    }
}

/// An invitation as it is typed.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Invitation {
    email: String,
    name: String,
    role: String,
}

async fn view(
    state: &AppState,
    user: &User,
    typed: Invitation,
    problem: Option<(&'static str, String)>,
) -> Result<MembersPage, Error> {
    let db = state.keeper.db();
    let order = state.keeper.plan().settings.date_order;
    let may_change = user.account.role >= Role::Administrator;
    let member =
        |(account, two_step): (Account, bool)| MemberView { oneself: account.id == user.account.id, account, two_step };
    let open = if may_change { mailed_keys::open_invitations(db).await? } else { Vec::new() };
    let until = |door: MailedKey| {
        let until = words::moment(door.expires, state.zone(), order);
        (door, until)
    };
    Ok(MembersPage {
        frame: Frame::of(state, user, Room::Setup).await?,
        members: accounts::all(db).await?.into_iter().map(member).collect(),
        open: open.into_iter().map(until).collect(),
        roles: Role::ALL,
        may_change,
        has_post: state.options.post.is_some(),
        typed,
        problem,
    })
}

/// The page.
pub async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    Ok(Html(view(&state, &user, Invitation::default(), None).await?.render()?))
}

/// Mails an invitation.
pub async fn invite(
    Here(state): Here,
    user: User,
    peer: Peer,
    Form(typed): Form<Invitation>,
) -> Result<Response, Error> {
    user.at_least(Role::Administrator)?;
    let refused = async |typed, field, reason: String| {
        let page = view(&state, &user, typed, Some((field, reason))).await?;
        Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response())
    };
    if state.options.post.is_none() {
        let reason = "This server sends no mail; start it with --mail, or make an account by `snug-roster user`.";
        return refused(typed, "email", reason.to_owned()).await;
    }
    let Ok(role) = typed.role.parse::<Role>() else {
        return refused(typed, "role", "Choose what they may do.".to_owned()).await;
    };
    let email = typed.email.trim().to_lowercase();
    if email.parse::<lettre::Address>().is_err() {
        return refused(typed, "email", "Write an e-mail address, as mira@example.test.".to_owned()).await;
    }
    let key = match mailed_keys::invite(state.keeper.db(), &email, &typed.name, role).await {
        Ok(key) => key,
        Err(snug_store::Error::AccountExists) => {
            return refused(typed, "email", "There is an account with this address already.".to_owned()).await;
        }
        Err(error) => return Err(error.into()),
    };
    let workspace = state.keeper.plan().settings.name.clone();
    let letter = Letter {
        to: email.clone(),
        subject: format!("{} invites you to {workspace}", user.account.name),
        body: format!(
            "{} invites you to {workspace} on Snug Roster, as {role}: {}\n\nFollow this link within a week, and choose a password:\n{}/join/{key}\n",
            user.account.name,
            role.says(),
            state.base(),
        ),
    };
    state.mail(letter).await?;
    doors::note(&state, Deed::Invited, &user.account, &peer, &format!("{email} as {role}")).await?;
    Flash::plain(format!("An invitation is on its way to {email}")).leave(&user.session).await?;
    Ok(Redirect::to("/setup/members").into_response())
}

/// Which invitation.
#[derive(Deserialize)]
pub struct Which {
    hash: String,
}

/// Takes an invitation back.
pub async fn withdraw(Here(state): Here, user: User, peer: Peer, Form(which): Form<Which>) -> Result<Redirect, Error> {
    user.at_least(Role::Administrator)?;
    doors::note(&state, Deed::Invited, &user.account, &peer, "withdrawn").await?;
    mailed_keys::withdraw(state.keeper.db(), &which.hash).await?;
    Flash::plain("Invitation withdrawn").leave(&user.session).await?;
    Ok(Redirect::to("/setup/members"))
}

/// Another role.
#[derive(Deserialize)]
pub struct NewRole {
    role: String,
}

/// Gives a member another role.
pub async fn role(
    Here(state): Here,
    user: User,
    peer: Peer,
    Path(id): Path<i32>,
    Form(form): Form<NewRole>,
) -> Result<Redirect, Error> {
    user.at_least(Role::Administrator)?;
    let role: Role = form.role.parse().map_err(|_| Error::BadRequest("There is no such role.".to_owned()))?;
    let whose = whose(&state, id).await?;
    let done = accounts::set_role(state.keeper.db(), id, role).await;
    if done.is_ok() {
        doors::note(&state, Deed::Role, &user.account, &peer, &format!("{whose} is {role}")).await?;
    }
    told(&user, done, "Role changed").await
}

/// Takes a member's account away.
pub async fn remove(Here(state): Here, user: User, peer: Peer, Path(id): Path<i32>) -> Result<Redirect, Error> {
    user.at_least(Role::Administrator)?;
    if id == user.account.id {
        return Err(Error::BadRequest("Somebody else must take your account away.".to_owned()));
    }
    let whose = whose(&state, id).await?;
    let done = accounts::remove(state.keeper.db(), id).await;
    if done.is_ok() {
        doors::note(&state, Deed::Removed, &user.account, &peer, &whose).await?;
    }
    told(&user, done, "Account taken away; what it did stays in the activity").await
}

/// Ends every session of a member, as after a lost laptop.
pub async fn end_sessions(Here(state): Here, user: User, peer: Peer, Path(id): Path<i32>) -> Result<Redirect, Error> {
    user.at_least(Role::Administrator)?;
    let whose = whose(&state, id).await?;
    let keep = user.session_id().filter(|_| id == user.account.id);
    let done = accounts::end_sessions(state.keeper.db(), id, keep.as_deref()).await;
    doors::note(&state, Deed::Sessions, &user.account, &peer, &whose).await?;
    told(&user, done, &format!("Every session of {whose} has ended")).await
}

/// The address of an account.
async fn whose(state: &AppState, id: i32) -> Result<String, Error> {
    Ok(accounts::by_id(state.keeper.db(), id).await?.ok_or(Error::NotFound)?.email)
}

/// Leads back to the members with what was done, or why it was not.
async fn told(user: &User, done: Result<(), snug_store::Error>, message: &str) -> Result<Redirect, Error> {
    let flash = match done {
        Ok(()) => Flash::plain(message),
        Err(error @ snug_store::Error::LastAdministrator) => {
            Flash { problem: true, ..Flash::plain(words::capital(&error.to_string())) }
        }
        Err(error) => return Err(error.into()),
    };
    flash.leave(&user.session).await?;
    Ok(Redirect::to("/setup/members"))
}
