//! Whether the server lives and can answer, for whoever watches over it.

use crate::{AppState, Error};
use axum::{Router, extract::State, http::StatusCode, routing::get};
use std::time::Duration;
use tokio::time::timeout;

/// Entries that a server may be behind, and still answer.
const MOST_BEHIND: i64 = 1_000;
/// For how long a server may not have held its plan against the ledger.
const LONGEST_UNCHECKED: Duration = Duration::from_mins(1);
/// How long the database may take to answer.
const PATIENCE: Duration = Duration::from_secs(3);

pub fn routes() -> Router<AppState> {
    Router::new().route("/health/live", get(async || "ok\n")).route("/health/ready", get(ready))
}

/// Ready means that the database answers and that the plan in memory is the one that stands there, or nearly.
async fn ready(State(state): State<AppState>) -> Result<(StatusCode, String), Error> {
    let looked = timeout(PATIENCE, state.keeper.behind()).await;
    let (behind, unchecked) = looked.map_err(|_| snug_store::Error::Busy)??;
    let ready = behind <= MOST_BEHIND && unchecked <= LONGEST_UNCHECKED;
    let (status, word) = if ready { (StatusCode::OK, "ready") } else { (StatusCode::SERVICE_UNAVAILABLE, "behind") };
    Ok((status, format!("{word}\nentries behind: {behind}\nseconds since the last look: {}\n", unchecked.as_secs())))
}
