//! The door: sign-in, sign-out, and the first start that makes the workspace and its administrator.

use crate::{
    AppState, Demo, Error,
    auth::{ACCOUNT, User},
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
use snug_core::{Role, settings::Settings};
use snug_store::{
    accounts::{self, SHORTEST_PASSWORD},
    mailed_keys, two_step,
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
        .route("/welcome", get(show_welcome).post(welcome))
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
    headers: HeaderMap,
    Form(form): Form<Credentials>,
) -> Result<Response, Error> {
    let key = form.email.trim().to_lowercase();
    // Nothing is remembered of what can be no address.
    if key.len() > LONGEST_ADDRESS {
        return page(&state, form.email, Some(WRONG), StatusCode::UNPROCESSABLE_ENTITY);
    }
    if state.attempts.check_key(&key).is_err() {
        let problem = "Too many attempts with this address. Wait a minute, then try again.";
        return page(&state, form.email, Some(problem), StatusCode::TOO_MANY_REQUESTS);
    }
    if let Some(account) = accounts::sign_in(state.keeper.db(), &form.email, form.password).await? {
        if two_step::of(state.keeper.db(), account.id).await?.is_some() {
            session.cycle_id().await?;
            session.insert(HALF, (account.id, chrono::Utc::now().timestamp())).await?;
            return Ok(Redirect::to("/sign-in/code").into_response());
        }
        let_in(&session, account.id, &headers).await?;
        Ok(Redirect::to("/fit").into_response())
    } else {
        page(&state, form.email, Some(WRONG), StatusCode::UNPROCESSABLE_ENTITY)
    }
}

/// The account whose password was right and whose second step is still to come, and when that was.
const HALF: &str = "half";
/// Seconds in which the second step must follow.
const PATIENCE: i64 = 300;

/// Makes the session one of this account.
async fn let_in(session: &Session, account: i32, headers: &HeaderMap) -> Result<(), Error> {
    // A new identity, so that a session made before sign-in is worth nothing.
    session.cycle_id().await?;
    session.remove::<(i32, i64)>(HALF).await?;
    let agent = headers.get(header::USER_AGENT).and_then(|agent| agent.to_str().ok()).unwrap_or_default();
    session.insert(sessions::AGENT, agent.chars().take(300).collect::<String>()).await?;
    session.insert(sessions::SINCE, chrono::Utc::now().to_rfc3339()).await?;
    session.insert(ACCOUNT, account).await?;
    Ok(())
}

#[derive(Template)]
#[template(path = "sign_in/code.html")]
struct CodePage {
    problem: Option<&'static str>,
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
    headers: HeaderMap,
    Form(form): Form<Code>,
) -> Result<Response, Error> {
    let db = state.keeper.db();
    let Some(id) = half(&session).await? else { return Ok(Redirect::to("/sign-in").into_response()) };
    let (Some(account), Some(step)) = (accounts::by_id(db, id).await?, two_step::of(db, id).await?) else {
        return Ok(Redirect::to("/sign-in").into_response());
    };
    if state.attempts.check_key(&format!("code {}", account.email)).is_err() {
        let page = CodePage { problem: Some("Too many attempts. Wait a minute, then try again.") };
        return Ok((StatusCode::TOO_MANY_REQUESTS, Html(page.render()?)).into_response());
    }
    let right = match crate::two_step::step_of(&step.secret, &account.email, &form.code)? {
        Some(step) => two_step::use_step(db, id, step).await?,
        None => two_step::use_code(db, id, &form.code).await?,
    };
    if right {
        let_in(&session, id, &headers).await?;
        return Ok(Redirect::to("/fit").into_response());
    }
    let page = CodePage { problem: Some("This code does not fit, or was used already. Wait for the next one.") };
    Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response())
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
async fn forgot(State(state): State<AppState>, Form(form): Form<Forgotten>) -> Result<Response, Error> {
    let key = form.email.trim().to_lowercase();
    let page = ForgotPage { email: form.email.clone(), sent: true, can_send: state.options.post.is_some() };
    let html = Html(page.render()?);
    if key.len() > LONGEST_ADDRESS || state.attempts.check_key(&format!("forgot {key}")).is_err() {
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
    let Some(post) = &state.options.post else { return Ok(()) };
    let Some((account, key)) = mailed_keys::reset(state.keeper.db(), email).await? else { return Ok(()) };
    let workspace = state.keeper.plan().settings.name.clone();
    let letter = Letter {
        to: &account.email,
        subject: format!("A new password for {workspace}"),
        body: format!(
            "Somebody, probably you, asked for a new password for {workspace} on Snug Roster.\n\nFollow this link within an hour:\n{}/reset/{key}\n\nIf it was not you, leave this letter be: nothing has changed.\n",
            state.base(),
        ),
    };
    post.send(letter).await
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
}

async fn pass(
    State(state): State<AppState>,
    session: Session,
    headers: HeaderMap,
    OriginalUri(uri): OriginalUri,
    Path(key): Path<String>,
    Form(form): Form<NewPassword>,
) -> Result<Response, Error> {
    let db = state.keeper.db();
    let door = mailed_keys::behind(db, &key).await?.ok_or_else(stale)?;
    let problem = if door.is_invitation() && form.name.trim().is_empty() {
        Some("Say how others should call you.".to_owned())
    } else if form.password.chars().count() < SHORTEST_PASSWORD {
        Some(format!("Use at least {SHORTEST_PASSWORD} characters."))
    } else {
        None
    };
    if problem.is_some() {
        let workspace = state.keeper.plan().settings.name.clone();
        let page = KeyPage { here: uri.path().to_owned(), workspace, door, name: form.name, problem };
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response());
    }
    let account = mailed_keys::pass(db, &key, &form.name, form.password).await?.ok_or_else(stale)?;
    // A new password does not stand in for the second step.
    if two_step::of(db, account.id).await?.is_some() {
        return Ok(Redirect::to("/sign-in").into_response());
    }
    let_in(&session, account.id, &headers).await?;
    Ok(Redirect::to("/fit").into_response())
}

async fn sign_out(session: Session) -> Result<Redirect, Error> {
    session.flush().await?;
    Ok(Redirect::to("/sign-in"))
}

#[derive(Template, Default)]
#[template(path = "sign_in/welcome.html")]
struct WelcomePage {
    workspace: String,
    name: String,
    email: String,
    zone: String,
    problem: Option<(&'static str, String)>,
}

impl WelcomePage {
    fn problem_of(&self, field: &str) -> Option<&str> {
        self.problem.as_ref().filter(|(known, _)| *known == field).map(|(_, reason)| reason.as_str())
    }
}

async fn show_welcome(State(state): State<AppState>) -> Result<Response, Error> {
    if accounts::any(state.keeper.db()).await? {
        return Ok(Redirect::to("/sign-in").into_response());
    }
    Ok(Html(WelcomePage { zone: "UTC".to_owned(), ..WelcomePage::default() }.render()?).into_response())
}

#[derive(Deserialize)]
struct Founding {
    workspace: String,
    name: String,
    email: String,
    password: String,
    zone: String,
}

async fn welcome(
    State(state): State<AppState>,
    session: Session,
    headers: HeaderMap,
    Form(form): Form<Founding>,
) -> Result<Response, Error> {
    if accounts::any(state.keeper.db()).await? {
        return Ok(Redirect::to("/sign-in").into_response());
    }
    let Founding { workspace, name, email, password, zone } = form;
    let problem = if workspace.trim().is_empty() {
        Some(("workspace", "Give the workspace a name.".to_owned()))
    } else if name.trim().is_empty() {
        Some(("name", "Say how others should call you.".to_owned()))
    } else if !email.contains('@') {
        Some(("email", "Write an e-mail address, as mira@example.test.".to_owned()))
    } else if password.chars().count() < SHORTEST_PASSWORD {
        Some(("password", format!("Use at least {SHORTEST_PASSWORD} characters.")))
    } else if zone.parse::<chrono_tz::Tz>().is_err() {
        Some(("zone", format!("“{zone}” is no time zone; write one as Europe/Lisbon.")))
    } else {
        None
    };
    if problem.is_some() {
        let page = WelcomePage { workspace, name, email, zone, problem };
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response());
    }
    if !state.keeper.is_founded() {
        let settings = Settings { name: workspace.trim().to_owned(), time_zone: zone, ..Settings::default() };
        state.keeper.found(settings).await?;
    }
    let account = accounts::create(state.keeper.db(), &email, &name, Role::Administrator, password).await?;
    let_in(&session, account.id, &headers).await?;
    Ok(Redirect::to("/start").into_response())
}
