//! Which plan a request is about: the live one, or the draft that its session works in.

use crate::{
    AppState, Error,
    answer::{is_script, refused},
    auth::ACCOUNT,
    frame::Flash,
};
use axum::{
    extract::{FromRequestParts, Query},
    http::request::Parts,
    response::{IntoResponse as _, Response},
};
use serde::Deserialize;
use snug_core::{Eyes, Refusal, RefusalCode};
use snug_store::Keeper;
use std::sync::Arc;
use tower_sessions::Session;

/// The key of the draft in the session.
const DRAFT: &str = "draft";
/// By which a script says of which plan its page was made, as the number of a draft, 0 for the live plan.
const HEADER: &str = "snug-plan";

/// The state of the server as it is in the plan that a session works in: a room that takes it shows and changes that plan.
///
/// A page that was made of another plan than its session works in by now is told so; nothing is read or written for it.
pub struct Here(pub AppState);

/// The same in the address of a form.
#[derive(Deserialize)]
struct Said {
    #[serde(rename = "in-plan")]
    in_plan: Option<i32>,
}

impl FromRequestParts<AppState> for Here {
    type Rejection = Response;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Response> {
        let session = Session::from_request_parts(parts, state).await.ok();
        let here = match &session {
            Some(session) => of_session(session, state).await.map_err(|error| told(error, parts))?,
            None => state.clone(),
        };
        let header = parts.headers.get(HEADER).and_then(|value| value.to_str().ok()?.parse::<i32>().ok());
        let in_address = || Query::<Said>::try_from_uri(&parts.uri).ok().and_then(|said| said.0.in_plan);
        if header.or_else(in_address).is_some_and(|said| said != here.keeper.plan().draft) {
            let now = here.keeper.draft().map_or_else(
                || "you are back in the live plan now".to_owned(),
                |draft| format!("you work in the draft “{}” now", draft.name),
            );
            let message = format!("This page shows another plan; {now}. Nothing was changed; load the page again.");
            return Err(told(Refusal::whole(RefusalCode::NotNow, message).into(), parts));
        }
        Ok(Self(here))
    }
}

/// An error as who asks can read it.
fn told(error: Error, parts: &Parts) -> Response {
    let nothing = snug_core::Plan::empty();
    if is_script(&parts.headers) { refused(error, &Eyes::of_all(&nothing)) } else { error.into_response() }
}

/// The state in the plan that a session works in. A draft that is gone, or not shared any more, is left.
async fn of_session(session: &Session, state: &AppState) -> Result<AppState, Error> {
    let Some(id) = session.get::<i32>(DRAFT).await? else { return Ok(state.clone()) };
    let account = session.get::<i32>(ACCOUNT).await?.unwrap_or_default();
    if let Some(keeper) = open(state, account, id).await? {
        return Ok(AppState { keeper, live: Some(Arc::clone(&state.keeper)), ..state.clone() });
    }
    leave(session).await?;
    let message = "The draft that you worked in is gone, or not shared any more; this is the live plan";
    Flash::problem(message).leave(session).await?;
    Ok(state.clone())
}

/// A draft that an account may open; that somebody looks at it is noted once a day.
pub(super) async fn open(state: &AppState, account: i32, id: i32) -> Result<Option<Arc<Keeper>>, Error> {
    let Some(keeper) = state.keeper.of_draft(id).await? else { return Ok(None) };
    if !keeper.draft().is_some_and(|draft| draft.is_for(account)) {
        return Ok(None);
    }
    keeper.looked_at(state.today()).await?;
    Ok(Some(keeper))
}

/// From now on the session works in a draft.
pub(super) async fn enter(session: &Session, id: i32) -> Result<(), Error> {
    Ok(session.insert(DRAFT, id).await?)
}

/// From now on the session works in the live plan.
pub(super) async fn leave(session: &Session) -> Result<(), Error> {
    session.remove::<i32>(DRAFT).await?;
    Ok(())
}

/// Leaves a draft, where the session works in that one.
pub(super) async fn leave_if(session: &Session, id: i32) -> Result<(), Error> {
    if session.get::<i32>(DRAFT).await? == Some(id) { leave(session).await } else { Ok(()) }
}
