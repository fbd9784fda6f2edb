//! One's own account: password, two-step sign-in, sessions, tokens for programs.

mod two_step;

use crate::{
    AppState, Error,
    auth::User,
    doors::{self, Deed, Peer},
    drafts::Here,
    frame::{Flash, Frame, Room},
    sessions,
    sign_in::end_calendar,
    words,
};
use askama::Template;
use axum::{
    Form, Router,
    http::StatusCode,
    response::{Html, IntoResponse as _, Redirect, Response},
    routing::{get, post},
};
use serde::Deserialize;
use snug_store::{
    accounts::{self, Scope, Token},
    passwords, two_step as steps,
};

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/me", get(page))
        .route("/me/password", post(password))
        .route("/me/two-step", get(two_step::page).post(two_step::set_up))
        .route("/me/two-step/begin", post(two_step::begin))
        .route("/me/two-step/off", post(two_step::take_away))
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
        two_step: steps::of(db, &state.options.seal, user.account.id).await?.map(|step| step.codes_left),
        sessions: sessions::of_account(db, user.account.id, user.session_id(), zone, order).await?,
        tokens: tokens.collect(),
        fresh_token,
        problem,
    };
    Ok(Html(page.render()?))
}

async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    view(&state, &user, None, None).await
}

#[derive(Deserialize)]
struct Passwords {
    current: String,
    new: String,
    #[serde(default)]
    calendar: String,
}

/// What is wrong with a password that somebody says is theirs.
async fn not_theirs(state: &AppState, user: &User, peer: &Peer, password: String) -> Result<Option<String>, Error> {
    if !state.limits.admit(peer, &format!("password {}", user.account.email)) {
        return Ok(Some(doors::WAIT.to_owned()));
    }
    if accounts::is_password(state.keeper.db(), &user.account, password).await? {
        return Ok(None);
    }
    doors::note(state, Deed::Refused, &user.account, peer, "on the account page").await?;
    Ok(Some("This is not your password.".to_owned()))
}

async fn password(Here(state): Here, user: User, peer: Peer, Form(form): Form<Passwords>) -> Result<Response, Error> {
    let db = state.keeper.db();
    let theirs = not_theirs(&state, &user, &peer, form.current).await?.map(|reason| ("current", reason));
    let whose = [user.account.email.as_str(), &user.account.name];
    let problem = theirs.or_else(|| passwords::problem(&form.new, &whose).map(|reason| ("new", reason)));
    if problem.is_some() {
        let page = view(&state, &user, None, problem).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    accounts::set_password(db, user.account.id, form.new, user.session_id().as_deref()).await?;
    doors::note(&state, Deed::Password, &user.account, &peer, "").await?;
    if form.calendar == "end" {
        end_calendar(&state, &user.account, &peer).await?;
    }
    Flash::plain("Password changed; your other sessions and your tokens have ended").leave(&user.session).await?;
    Ok(Redirect::to("/me").into_response())
}

#[derive(Deserialize)]
struct Handle {
    handle: String,
}

async fn end_session(Here(state): Here, user: User, peer: Peer, Form(form): Form<Handle>) -> Result<Redirect, Error> {
    sessions::end(state.keeper.db(), user.account.id, &form.handle).await?;
    doors::note(&state, Deed::Sessions, &user.account, &peer, "one of one’s own").await?;
    Flash::plain("Session ended").leave(&user.session).await?;
    Ok(Redirect::to("/me"))
}

async fn end_others(Here(state): Here, user: User, peer: Peer) -> Result<Redirect, Error> {
    accounts::end_sessions(state.keeper.db(), user.account.id, user.session_id().as_deref()).await?;
    doors::note(&state, Deed::Sessions, &user.account, &peer, "all others of one’s own").await?;
    Flash::plain("Your other sessions have ended").leave(&user.session).await?;
    Ok(Redirect::to("/me"))
}

#[derive(Deserialize)]
struct NewToken {
    name: String,
    #[serde(default)]
    scope: String,
}

async fn make_token(Here(state): Here, user: User, peer: Peer, Form(form): Form<NewToken>) -> Result<Response, Error> {
    let name = form.name.trim();
    if name.is_empty() || name.chars().count() > 100 {
        let problem = Some(("token", "Say what the token is for, in at most 100 characters.".to_owned()));
        let page = view(&state, &user, None, problem).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    let scope = if form.scope == "write" { Scope::Write } else { Scope::Read };
    doors::note(&state, Deed::TokenMade, &user.account, &peer, name).await?;
    let token = accounts::create_token(state.keeper.db(), &user.account.email, name, scope).await?;
    Ok(view(&state, &user, token, None).await?.into_response())
}

#[derive(Deserialize)]
struct WhichToken {
    id: i32,
}

async fn end_token(Here(state): Here, user: User, peer: Peer, Form(form): Form<WhichToken>) -> Result<Redirect, Error> {
    accounts::end_token(state.keeper.db(), user.account.id, form.id).await?;
    doors::note(&state, Deed::TokenEnded, &user.account, &peer, "").await?;
    Flash::plain("The token is worth nothing from now on").leave(&user.session).await?;
    Ok(Redirect::to("/me"))
}
