//! Turning two-step sign-in on, off or anew: each asks for the password and, where it is on, for a code of the old one.

use super::{not_theirs, view};
use crate::{
    AppState, Error,
    auth::User,
    doors::{self, Deed, Peer},
    drafts::Here,
    frame::{Flash, Frame, Room},
    two_step,
};
use askama::Template;
use axum::{
    Form,
    http::StatusCode,
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_store::two_step as steps;

/// What the page shows.
enum Part {
    /// The question who it is; whether a code is asked for, too.
    Ask { code: bool },
    /// The secret in words and as a picture, base 64.
    Secret { secret: String, picture: String },
    /// The recovery codes, once.
    Codes(Vec<String>),
}

#[derive(Template)]
#[template(path = "me/two_step.html")]
struct TwoStepPage {
    frame: Frame,
    part: Part,
    problem: Option<String>,
}

async fn show(state: &AppState, user: &User, part: Part, problem: Option<String>) -> Result<Response, Error> {
    let status = if problem.is_some() { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
    let page = TwoStepPage { frame: Frame::of(state, user, Room::None).await?, part, problem };
    Ok((status, Html(page.render()?)).into_response())
}

async fn ask(state: &AppState, user: &User, problem: Option<String>) -> Result<Response, Error> {
    let code = steps::of(state.keeper.db(), &state.options.seal, user.account.id).await?.is_some();
    show(state, user, Part::Ask { code }, problem).await
}

async fn secret(user: &User, state: &AppState, secret: String, problem: Option<String>) -> Result<Response, Error> {
    let picture = two_step::picture(&secret, &user.account.email)?;
    show(state, user, Part::Secret { secret, picture }, problem).await
}

/// Asks who it is.
pub async fn page(Here(state): Here, user: User) -> Result<Response, Error> {
    ask(&state, &user, None).await
}

/// Who it is: the password, and a code of the second step that there is.
#[derive(Deserialize)]
pub struct Proof {
    password: String,
    #[serde(default)]
    code: String,
}

impl Proof {
    /// What is wrong with it.
    async fn problem(self, state: &AppState, user: &User, peer: &Peer) -> Result<Option<String>, Error> {
        if let Some(reason) = not_theirs(state, user, peer, self.password).await? {
            return Ok(Some(reason));
        }
        match steps::of(state.keeper.db(), &state.options.seal, user.account.id).await? {
            Some(step) => two_step::problem(state, &user.account, &step, peer, &self.code).await,
            None => Ok(None),
        }
    }
}

/// The key under which a secret waits in the session until a code proves that an authenticator has it, and since when.
const FRESH: &str = "fresh_secret";
/// Seconds for which it waits.
const PATIENCE: i64 = 900;

/// Shows a new secret to whoever proved who they are.
pub async fn begin(Here(state): Here, user: User, peer: Peer, Form(proof): Form<Proof>) -> Result<Response, Error> {
    if let Some(problem) = proof.problem(&state, &user, &peer).await? {
        return ask(&state, &user, Some(problem)).await;
    }
    let fresh = two_step::new_secret();
    user.session.insert(FRESH, (&fresh, chrono::Utc::now().timestamp())).await?;
    secret(&user, &state, fresh, None).await
}

/// A code that proves that the authenticator has the secret.
#[derive(Deserialize)]
pub struct Code {
    code: String,
}

/// Turns it on, and shows the recovery codes.
pub async fn set_up(Here(state): Here, user: User, peer: Peer, Form(form): Form<Code>) -> Result<Response, Error> {
    let waiting = user.session.get::<(String, i64)>(FRESH).await?;
    let Some((fresh, _)) = waiting.filter(|(_, at)| chrono::Utc::now().timestamp() - at < PATIENCE) else {
        return Ok(Redirect::to("/me/two-step").into_response());
    };
    let Some(step) = two_step::step_of(&fresh, &user.account.email, &form.code)? else {
        let problem = "This code does not fit. Look at your authenticator again; codes change every half minute.";
        return secret(&user, &state, fresh, Some(problem.to_owned())).await;
    };
    let codes = steps::set_up(state.keeper.db(), &state.options.seal, user.account.id, &fresh, step).await?;
    user.session.remove::<(String, i64)>(FRESH).await?;
    doors::note(&state, Deed::TwoStepOn, &user.account, &peer, "").await?;
    show(&state, &user, Part::Codes(codes), None).await
}

/// Takes it away.
pub async fn take_away(Here(state): Here, user: User, peer: Peer, Form(proof): Form<Proof>) -> Result<Response, Error> {
    if let Some(problem) = proof.problem(&state, &user, &peer).await? {
        let page = view(&state, &user, None, Some(("two_step", problem))).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    steps::take_away(state.keeper.db(), user.account.id).await?;
    doors::note(&state, Deed::TwoStepOff, &user.account, &peer, "").await?;
    Flash::plain("Two-step sign-in is off").leave(&user.session).await?;
    Ok(Redirect::to("/me").into_response())
}
