//! The door: sign-in, sign-out, and the first start that makes the workspace and its administrator.

mod welcome;

use crate::{
    AppState, Demo, Error,
    auth::{ACCOUNT, User},
    doors::{self, Deed, Peer},
    mail::Letter,
    sessions,
};
use askama::Template;
use axum::{
    Form, Router,
    extract::{OriginalUri, Path, State},
    http::{HeaderMap, StatusCode, header},
    response::{Html, IntoResponse, Redirect, Response},
    routing::{get, post},
};
use serde::Deserialize;
use snug_store::{
    accounts::{self, Account},
    feeds, mailed_keys, passwords, two_step,
};
use tower_sessions::Session;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/sign-in", get(show).post(sign_in))
        .route("/sign-in/code", get(show_code).post(check_code))
        .route("/forgot", get(show_forgot).post(forgot))
        .route("/reset/{key}", get(show_key).post(pass))
        .route("/join/{key}", get(show_key).post(pass))
        .route("/sign-out", post(sign_out))
        .route("/welcome", get(welcome::show).post(welcome::found))
}

#[derive(Template)]
#[template(path = "sign_in/sign_in.html")]
struct SignInPage {
    workspace: String,
    email: String,
    problem: Option<&'static str>,
    demo: Option<Demo>,
}

async fn show(State(state): State<AppState>, user: Option<User>) -> Result<Response, Error> {
    if user.is_some() {
        return Ok(Redirect::to("/fit").into_response());
    }
    if !accounts::any(state.keeper.db()).await? {
        return Ok(Redirect::to("/welcome").into_response());
    }
    page(&state, String::new(), None, StatusCode::OK)
}

fn page(state: &AppState, email: String, problem: Option<&'static str>, status: StatusCode) -> Result<Response, Error> {
    let workspace = state.keeper.plan().settings.name.clone();
    let page = SignInPage { workspace, email, problem, demo: state.options.demo.clone() };
    Ok((status, Html(page.render()?)).into_response())
}

#[derive(Deserialize)]
struct Credentials {
    email: String,
    password: String,
}

/// What whoever is not let in is told.
const WRONG: &str = "This address and password do not belong together.";

/// The longest address that mail is delivered to, in bytes (RFC 5321).
const LONGEST_ADDRESS: usize = 254;

async fn sign_in(
    State(state): State<AppState>,
    session: Session,
    peer: Peer,
    headers: HeaderMap,
    Form(form): Form<Credentials>,
) -> Result<Response, Error> {
    let key = form.email.trim().to_lowercase();
    // Nothing is remembered of what can be no address.
    if key.len() > LONGEST_ADDRESS {
        return page(&state, form.email, Some(WRONG), StatusCode::UNPROCESSABLE_ENTITY);
    }
    let db = state.keeper.db();
    if !state.limits.admit(&peer, &key) {
        doors::note_of(db, Deed::TooMany, &key, &peer, "").await?;
        return page(&state, form.email, Some(doors::WAIT), StatusCode::TOO_MANY_REQUESTS);
    }
    if let Some(account) = accounts::sign_in(db, &form.email, form.password).await? {
        if two_step::of(db, &state.options.seal, account.id).await?.is_some() {
            session.cycle_id().await?;
            session.insert(HALF, (account.id, chrono::Utc::now().timestamp())).await?;
            return Ok(Redirect::to("/sign-in/code").into_response());
        }
        let_in(&state, &session, &account, &peer, &headers).await?;
        Ok(Redirect::to("/fit").into_response())
    } else {
        doors::note_of(db, Deed::Refused, &key, &peer, "").await?;
        page(&state, form.email, Some(WRONG), StatusCode::UNPROCESSABLE_ENTITY)
    }
}

/// The account whose password was right and whose second step is still to come, and when that was.
const HALF: &str = "half";
/// Seconds in which the second step must follow.
const PATIENCE: i64 = 300;

/// Makes the session one of this account.
async fn let_in(
    state: &AppState,
    session: &Session,
    account: &Account,
    peer: &Peer,
    headers: &HeaderMap,
) -> Result<(), Error> {
    // A new identity, so that a session made before sign-in is worth nothing.
    session.cycle_id().await?;
    session.remove::<(i32, i64)>(HALF).await?;
    let agent = headers.get(header::USER_AGENT).and_then(|agent| agent.to_str().ok()).unwrap_or_default();
    doors::note(state, Deed::SignIn, account, peer, &sessions::browser(agent)).await?;
    session.insert(sessions::AGENT, agent.chars().take(300).collect::<String>()).await?;
    session.insert(sessions::SINCE, chrono::Utc::now().to_rfc3339()).await?;
    session.insert(ACCOUNT, account.id).await?;
    Ok(())
}

#[derive(Template)]
#[template(path = "sign_in/code.html")]
struct CodePage {
    problem: Option<String>,
}

/// The account that waits for its second step, if it has not waited too long.
async fn half(session: &Session) -> Result<Option<i32>, Error> {
    let waiting = session.get::<(i32, i64)>(HALF).await?;
    Ok(waiting.filter(|(_, at)| chrono::Utc::now().timestamp() - at < PATIENCE).map(|(account, _)| account))
}

async fn show_code(session: Session) -> Result<Response, Error> {
    match half(&session).await? {
        Some(_) => Ok(Html(CodePage { problem: None }.render()?).into_response()),
        None => Ok(Redirect::to("/sign-in").into_response()),
    }
}

#[derive(Deserialize)]
struct Code {
    code: String,
}

async fn check_code(
    State(state): State<AppState>,
    session: Session,
    peer: Peer,
    headers: HeaderMap,
    Form(form): Form<Code>,
) -> Result<Response, Error> {
    let db = state.keeper.db();
    let Some(id) = half(&session).await? else { return Ok(Redirect::to("/sign-in").into_response()) };
    let step = two_step::of(db, &state.options.seal, id).await?;
    let (Some(account), Some(step)) = (accounts::by_id(db, id).await?, step) else {
        return Ok(Redirect::to("/sign-in").into_response());
    };
    if !state.limits.admit(&peer, &format!("code {}", account.email)) {
        let page = CodePage { problem: Some(doors::WAIT.to_owned()) };
        return Ok((StatusCode::TOO_MANY_REQUESTS, Html(page.render()?)).into_response());
    }
    let problem = crate::two_step::problem(&state, &account, &step, &peer, &form.code).await?;
    if problem.is_none() {
        let_in(&state, &session, &account, &peer, &headers).await?;
        return Ok(Redirect::to("/fit").into_response());
    }
    Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(CodePage { problem }.render()?)).into_response())
}

#[derive(Template)]
#[template(path = "sign_in/forgot.html")]
struct ForgotPage {
    email: String,
    sent: bool,
    can_send: bool,
}

async fn show_forgot(State(state): State<AppState>) -> Result<Html<String>, Error> {
    let page = ForgotPage { email: String::new(), sent: false, can_send: state.options.post.is_some() };
    Ok(Html(page.render()?))
}

#[derive(Deserialize)]
struct Forgotten {
    email: String,
}

/// Mails a link for a new password. Whether there is such an account is told to nobody but its owner.
async fn forgot(State(state): State<AppState>, peer: Peer, Form(form): Form<Forgotten>) -> Result<Response, Error> {
    let key = form.email.trim().to_lowercase();
    let page = ForgotPage { email: form.email.clone(), sent: true, can_send: state.options.post.is_some() };
    let html = Html(page.render()?);
    if key.len() > LONGEST_ADDRESS || !state.limits.admit(&peer, &format!("forgot {key}")) {
        return Ok(html.into_response());
    }
    // Behind the answer, which so takes the same time whether there is such an account or not.
    tokio::spawn(async move {
        if let Err(error) = mail_a_link(&state, &key).await {
            tracing::warn!(error = &error as &dyn std::error::Error, "a link for a new password was not mailed");
        }
    });
    Ok(html.into_response())
}

async fn mail_a_link(state: &AppState, email: &str) -> Result<(), Error> {
    if state.options.post.is_none() {
        return Ok(());
    }
    let Some((account, key)) = mailed_keys::reset(state.keeper.db(), email).await? else { return Ok(()) };
    let workspace = state.keeper.plan().settings.name.clone();
    let letter = Letter {
        to: account.email,
        subject: format!("A new password for {workspace}"),
        body: format!(
            "Somebody, probably you, asked for a new password for {workspace} on Snug Roster.\n\nFollow this link within an hour:\n{}/reset/{key}\n\nIf it was not you, leave this letter be: nothing has changed.\n",
            state.base(),
        ),
    };
    state.mail(letter).await
}

#[derive(Template)]
#[template(path = "sign_in/key.html")]
struct KeyPage {
    here: String,
    workspace: String,
    door: mailed_keys::MailedKey,
    name: String,
    problem: Option<String>,
}

fn stale() -> Error {
    Error::BadRequest("This link has been used, or is too old. Ask for another one.".to_owned())
}

async fn show_key(
    State(state): State<AppState>,
    OriginalUri(uri): OriginalUri,
    Path(key): Path<String>,
) -> Result<Html<String>, Error> {
    let door = mailed_keys::behind(state.keeper.db(), &key).await?.ok_or_else(stale)?;
    let workspace = state.keeper.plan().settings.name.clone();
    let page = KeyPage { here: uri.path().to_owned(), workspace, name: door.name.clone(), door, problem: None };
    Ok(Html(page.render()?))
}

#[derive(Deserialize)]
struct NewPassword {
    #[serde(default)]
    name: String,
    password: String,
    #[serde(default)]
    calendar: String,
}

async fn pass(
    State(state): State<AppState>,
    session: Session,
    peer: Peer,
    headers: HeaderMap,
    OriginalUri(uri): OriginalUri,
    Path(key): Path<String>,
    Form(form): Form<NewPassword>,
) -> Result<Response, Error> {
    let db = state.keeper.db();
    let door = mailed_keys::behind(db, &key).await?.ok_or_else(stale)?;
    let problem = if door.is_invitation() && form.name.trim().is_empty() {
        Some("Say how others should call you.".to_owned())
    } else {
        passwords::problem(&form.password, &[&door.email, &form.name])
    };
    if problem.is_some() {
        let workspace = state.keeper.plan().settings.name.clone();
        let page = KeyPage { here: uri.path().to_owned(), workspace, door, name: form.name, problem };
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response());
    }
    let account = mailed_keys::pass(db, &key, &form.name, form.password).await?.ok_or_else(stale)?;
    if door.is_invitation() {
        doors::note(&state, Deed::Joined, &account, &peer, door.role.as_str()).await?;
    } else {
        doors::note(&state, Deed::Password, &account, &peer, "by a mailed link").await?;
        if form.calendar == "end" {
            end_calendar(&state, &account, &peer).await?;
        }
    }
    // A new password does not stand in for the second step.
    if two_step::of(db, &state.options.seal, account.id).await?.is_some() {
        return Ok(Redirect::to("/sign-in").into_response());
    }
    let_in(&state, &session, &account, &peer, &headers).await?;
    Ok(Redirect::to("/fit").into_response())
}

/// Ends the secret address of somebody's own calendar, which whoever knew the old password may have taken along.
pub async fn end_calendar(state: &AppState, account: &Account, peer: &Peer) -> Result<(), Error> {
    let plan = state.keeper.plan();
    let Some(entry) = plan.person_by_email(&account.email) else { return Ok(()) };
    if feeds::end_key(state.keeper.db(), entry.person.id).await? {
        doors::note(state, Deed::Calendar, account, peer, "ended with the password").await?;
    }
    Ok(())
}

async fn sign_out(
    State(state): State<AppState>,
    user: Option<User>,
    session: Session,
    peer: Peer,
) -> Result<Redirect, Error> {
    if let Some(user) = user {
        doors::note(&state, Deed::SignOut, &user.account, &peer, "").await?;
    }
    session.flush().await?;
    Ok(Redirect::to("/sign-in"))
}
