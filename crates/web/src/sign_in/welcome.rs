//! The first start: whoever holds the key that the start printed makes the workspace and becomes its administrator.

use super::let_in;
use crate::{
    AppState, Error,
    doors::{self, Deed, Peer},
};
use askama::Template;
use axum::{
    Form,
    extract::{Query, State},
    http::{HeaderMap, StatusCode},
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_core::settings::Settings;
use snug_store::{
    accounts,
    founding::{self, Founder},
    passwords,
};
use tower_sessions::Session;

#[derive(Template, Default)]
#[template(path = "sign_in/welcome.html")]
struct WelcomePage {
    given: String,
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

#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Key {
    key: String,
}

pub async fn show(State(state): State<AppState>, Query(Key { key }): Query<Key>) -> Result<Response, Error> {
    if accounts::any(state.keeper.db()).await? {
        return Ok(Redirect::to("/sign-in").into_response());
    }
    Ok(Html(WelcomePage { given: key, zone: "UTC".to_owned(), ..WelcomePage::default() }.render()?).into_response())
}

#[derive(Deserialize)]
pub struct Founding {
    #[serde(default)]
    key: String,
    workspace: String,
    name: String,
    email: String,
    password: String,
    zone: String,
}

pub async fn found(
    State(state): State<AppState>,
    session: Session,
    peer: Peer,
    headers: HeaderMap,
    Form(form): Form<Founding>,
) -> Result<Response, Error> {
    let db = state.keeper.db();
    if accounts::any(db).await? {
        return Ok(Redirect::to("/sign-in").into_response());
    }
    let Founding { key, workspace, name, email, password, zone } = form;
    let weak = passwords::problem(&password, &[&email, &name, &workspace]);
    let problem = if !state.limits.admit(&peer, "first start") {
        Some(("key", doors::WAIT.to_owned()))
    } else if !founding::opens(db, &key).await? {
        Some((
            "key",
            "This is not the key. The server prints it when it starts, as long as nobody can sign in.".to_owned(),
        ))
    } else if workspace.trim().is_empty() {
        Some(("workspace", "Give the workspace a name.".to_owned()))
    } else if name.trim().is_empty() {
        Some(("name", "Say how others should call you.".to_owned()))
    } else if email.parse::<lettre::Address>().is_err() {
        Some(("email", "Write an e-mail address, as mira@example.test.".to_owned()))
    } else if zone.parse::<chrono_tz::Tz>().is_err() {
        Some(("zone", format!("“{zone}” is no time zone; write one as Europe/Lisbon.")))
    } else {
        weak.map(|reason| ("password", reason))
    };
    if problem.is_some() {
        let page = WelcomePage { given: key, workspace, name, email, zone, problem };
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response());
    }
    let settings = Settings { name: workspace.trim().to_owned(), time_zone: zone, ..Settings::default() };
    let founder = Founder { email, name, password };
    let Some(account) = state.keeper.found_by(&key, settings, founder).await? else {
        // Somebody else was first.
        return Ok(Redirect::to("/sign-in").into_response());
    };
    doors::note(&state, Deed::Founding, &account, &peer, "").await?;
    let_in(&state, &session, &account, &peer, &headers).await?;
    Ok(Redirect::to("/start").into_response())
}
