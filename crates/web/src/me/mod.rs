//! One's own account: password, two-step sign-in, sessions, tokens for programs.

use crate::{
    AppState, Error,
    auth::User,
    frame::{Flash, Frame, Room},
    sessions, two_step, words,
};
use askama::Template;
use axum::{
    Form, Router,
    extract::State,
    http::StatusCode,
    response::{Html, IntoResponse as _, Redirect, Response},
    routing::{get, post},
};
use serde::Deserialize;
use snug_store::{
    accounts::{self, SHORTEST_PASSWORD, Scope, Token},
    two_step as steps,
};

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/me", get(page))
        .route("/me/password", post(password))
        .route("/me/two-step", get(two_step_page).post(set_up))
        .route("/me/two-step/off", post(take_away))
        .route("/me/sessions/end", post(end_session))
        .route("/me/sessions/end-others", post(end_others))
        .route("/me/tokens", post(make_token))
        .route("/me/tokens/end", post(end_token))
}

#[derive(Template)]
#[template(path = "me/me.html")]
struct MePage {
    frame: Frame,
    email: String,
    two_step: Option<u64>,
    sessions: Vec<sessions::Open>,
    tokens: Vec<(Token, String)>,
    fresh_token: Option<String>,
    problem: Option<(&'static str, String)>,
}

impl MePage {
    fn problem_of(&self, field: &str) -> Option<&str> {
        self.problem.as_ref().filter(|(known, _)| *known == field).map(|(_, reason)| reason.as_str())
    }
}

async fn view(
    state: &AppState,
    user: &User,
    fresh_token: Option<String>,
    problem: Option<(&'static str, String)>,
) -> Result<Html<String>, Error> {
    let db = state.keeper.db();
    let order = state.keeper.plan().settings.date_order;
    let zone = state.zone();
    let tokens = accounts::tokens(db, user.account.id).await?.into_iter().map(|token| {
        let made = words::moment(token.made, zone, order);
        (token, made)
    });
    let page = MePage {
        frame: Frame::of(state, user, Room::None).await?,
        email: user.account.email.clone(),
        two_step: steps::of(db, user.account.id).await?.map(|step| step.codes_left),
        sessions: sessions::of_account(db, user.account.id, user.session_id(), zone, order).await?,
        tokens: tokens.collect(),
        fresh_token,
        problem,
    };
    Ok(Html(page.render()?))
}

async fn page(State(state): State<AppState>, user: User) -> Result<Html<String>, Error> {
    view(&state, &user, None, None).await
}

#[derive(Deserialize)]
struct Passwords {
    current: String,
    new: String,
}

async fn password(State(state): State<AppState>, user: User, Form(form): Form<Passwords>) -> Result<Response, Error> {
    let db = state.keeper.db();
    let problem = if state.attempts.check_key(&user.account.email).is_err() {
        Some(("current", "Too many attempts. Wait a minute, then try again.".to_owned()))
    } else if !accounts::is_password(db, &user.account, form.current).await? {
        Some(("current", "This is not your password.".to_owned()))
    } else if form.new.chars().count() < SHORTEST_PASSWORD {
        Some(("new", format!("Use at least {SHORTEST_PASSWORD} characters.")))
    } else {
        None
    };
    if problem.is_some() {
        let page = view(&state, &user, None, problem).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    accounts::set_password(db, user.account.id, form.new, user.session_id().as_deref()).await?;
    Flash::plain("Password changed; your other sessions have ended").leave(&user.session).await?;
    Ok(Redirect::to("/me").into_response())
}

#[derive(Template)]
#[template(path = "me/two_step.html")]
struct TwoStepPage {
    frame: Frame,
    secret: String,
    picture: String,
    codes: Vec<String>,
    problem: Option<String>,
}

/// The key under which a secret waits in the session until a code proves that an authenticator has it.
const FRESH: &str = "fresh_secret";

async fn two_step_page(State(state): State<AppState>, user: User) -> Result<Html<String>, Error> {
    let secret = two_step::new_secret();
    user.session.insert(FRESH, &secret).await?;
    Ok(Html(set_up_page(&state, &user, secret, None).await?.render()?))
}

async fn set_up_page(
    state: &AppState,
    user: &User,
    secret: String,
    problem: Option<String>,
) -> Result<TwoStepPage, Error> {
    let picture = two_step::picture(&secret, &user.account.email)?;
    Ok(TwoStepPage { frame: Frame::of(state, user, Room::None).await?, secret, picture, codes: Vec::new(), problem })
}

#[derive(Deserialize)]
struct Code {
    code: String,
}

async fn set_up(State(state): State<AppState>, user: User, Form(form): Form<Code>) -> Result<Response, Error> {
    let Some(secret) = user.session.get::<String>(FRESH).await? else {
        return Ok(Redirect::to("/me/two-step").into_response());
    };
    if two_step::step_of(&secret, &user.account.email, &form.code)?.is_none() {
        let problem = "This code does not fit. Look at your authenticator again; codes change every half minute.";
        let page = set_up_page(&state, &user, secret, Some(problem.to_owned())).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response());
    }
    let codes = steps::set_up(state.keeper.db(), user.account.id, &secret).await?;
    user.session.remove::<String>(FRESH).await?;
    let frame = Frame::of(&state, &user, Room::None).await?;
    let page = TwoStepPage { frame, secret: String::new(), picture: String::new(), codes, problem: None };
    Ok(Html(page.render()?).into_response())
}

#[derive(Deserialize)]
struct Password {
    password: String,
}

async fn take_away(State(state): State<AppState>, user: User, Form(form): Form<Password>) -> Result<Response, Error> {
    if state.attempts.check_key(&user.account.email).is_err()
        || !accounts::is_password(state.keeper.db(), &user.account, form.password).await?
    {
        let problem = Some(("two_step", "This is not your password.".to_owned()));
        let page = view(&state, &user, None, problem).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    steps::take_away(state.keeper.db(), user.account.id).await?;
    Flash::plain("Two-step sign-in is off").leave(&user.session).await?;
    Ok(Redirect::to("/me").into_response())
}

#[derive(Deserialize)]
struct Handle {
    handle: String,
}

async fn end_session(State(state): State<AppState>, user: User, Form(form): Form<Handle>) -> Result<Redirect, Error> {
    sessions::end(state.keeper.db(), user.account.id, &form.handle).await?;
    Flash::plain("Session ended").leave(&user.session).await?;
    Ok(Redirect::to("/me"))
}

async fn end_others(State(state): State<AppState>, user: User) -> Result<Redirect, Error> {
    accounts::end_sessions(state.keeper.db(), user.account.id, user.session_id().as_deref()).await?;
    Flash::plain("Your other sessions have ended").leave(&user.session).await?;
    Ok(Redirect::to("/me"))
}

#[derive(Deserialize)]
struct NewToken {
    name: String,
    #[serde(default)]
    scope: String,
}

async fn make_token(State(state): State<AppState>, user: User, Form(form): Form<NewToken>) -> Result<Response, Error> {
    let name = form.name.trim();
    if name.is_empty() || name.chars().count() > 100 {
        let problem = Some(("token", "Say what the token is for, in at most 100 characters.".to_owned()));
        let page = view(&state, &user, None, problem).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    let scope = if form.scope == "write" { Scope::Write } else { Scope::Read };
    let token = accounts::create_token(state.keeper.db(), &user.account.email, name, scope).await?;
    Ok(view(&state, &user, token, None).await?.into_response())
}

#[derive(Deserialize)]
struct WhichToken {
    id: i32,
}

async fn end_token(State(state): State<AppState>, user: User, Form(form): Form<WhichToken>) -> Result<Redirect, Error> {
    accounts::end_token(state.keeper.db(), user.account.id, form.id).await?;
    Flash::plain("The token is worth nothing from now on").leave(&user.session).await?;
    Ok(Redirect::to("/me"))
}
