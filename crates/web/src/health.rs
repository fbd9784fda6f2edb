//! Whether the server lives and can answer, for whoever watches over it.

use crate::{AppState, Error};
use axum::{Router, extract::State, routing::get};
use snug_store::accounts;

pub fn routes() -> Router<AppState> {
    Router::new().route("/health/live", get(async || "ok\n")).route("/health/ready", get(ready))
}

/// Ready means that the plan is in memory and the database answers.
async fn ready(State(state): State<AppState>) -> Result<&'static str, Error> {
    accounts::any(state.keeper.db()).await?;
    Ok("ready\n")
}
