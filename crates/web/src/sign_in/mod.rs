//! The door: sign-in, sign-out, and the first start that makes the workspace and its administrator.

use crate::{
    AppState, Demo, Error,
    auth::{ACCOUNT, User},
};
use askama::Template;
use axum::{
    Form, Router,
    extract::State,
    http::StatusCode,
    response::{Html, IntoResponse, Redirect, Response},
    routing::{get, post},
};
use serde::Deserialize;
use snug_core::{Role, settings::Settings};
use snug_store::accounts::{self, SHORTEST_PASSWORD};
use tower_sessions::Session;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/sign-in", get(show).post(sign_in))
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

async fn sign_in(
    State(state): State<AppState>,
    session: Session,
    Form(form): Form<Credentials>,
) -> Result<Response, Error> {
    let key = form.email.trim().to_lowercase();
    if state.attempts.check_key(&key).is_err() {
        let problem = "Too many attempts with this address. Wait a minute, then try again.";
        return page(&state, form.email, Some(problem), StatusCode::TOO_MANY_REQUESTS);
    }
    if let Some(account) = accounts::sign_in(state.keeper.db(), &form.email, form.password).await? {
        // A new identity, so that a session made before sign-in is worth nothing.
        session.cycle_id().await?;
        session.insert(ACCOUNT, account.id).await?;
        Ok(Redirect::to("/fit").into_response())
    } else {
        let problem = "This address and password do not belong together.";
        page(&state, form.email, Some(problem), StatusCode::UNPROCESSABLE_ENTITY)
    }
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
    session.insert(ACCOUNT, account.id).await?;
    Ok(Redirect::to("/fit").into_response())
}
