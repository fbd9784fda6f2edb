//! The API for programs: JSON in and out, a token in the header.

use crate::{AppState, Error, auth::Program};
use axum::{
    Json, Router,
    extract::{Query, State},
    http::StatusCode,
    routing::get,
};
use serde::Deserialize;
use snug_core::{
    Day,
    cells::Grain,
    demand::Window,
    load::{Group, Measure, Query as LoadQuery, table},
};
use snug_exchange::table::{Figures, figures};
use std::str::FromStr;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/load", get(load))
        .fallback(async || Error::Api(StatusCode::NOT_FOUND, "There is no such address in the API.".to_owned()))
}

#[derive(Default, Deserialize)]
#[serde(default)]
struct LoadParams {
    from: String,
    to: String,
    by: Option<String>,
    group: Option<String>,
    measure: Option<String>,
}

/// The longest window that one request may ask for, in days.
const LONGEST: i32 = 3_660;

/// The load table, the same figures as `snug-roster load` and the Fit room.
async fn load(
    State(state): State<AppState>,
    _: Program,
    Query(params): Query<LoadParams>,
) -> Result<Json<Vec<Figures>>, Error> {
    let bad = |name: &str, reason: String| Error::Api(StatusCode::UNPROCESSABLE_ENTITY, format!("{name}: {reason}"));
    let day = |name: &str, text: &str| text.parse::<Day>().map_err(|error| bad(name, error.to_string()));
    let (from, to) = (day("from", &params.from)?, day("to", &params.to)?);
    if to < from || to.since(from) > LONGEST {
        return Err(bad("to", "lies before from, or more than ten years after it".to_owned()));
    }
    let query = LoadQuery {
        window: Window { from, to, today: state.today() },
        grain: word(params.by.as_ref(), Grain::Week).map_err(|reason| bad("by", reason))?,
        group: word(params.group.as_ref(), Group::Person).map_err(|reason| bad("group", reason))?,
        measure: word(params.measure.as_ref(), Measure::Minutes).map_err(|reason| bad("measure", reason))?,
    };
    let plan = state.keeper.plan();
    let cells = tokio::task::spawn_blocking(move || figures(&table(&plan, &query), &query, &plan.settings));
    let cells = cells.await.map_err(|error| snug_store::Error::Damaged(error.to_string()))?;
    Ok(Json(cells))
}

/// A word of a closed list; the usual one when nothing is said.
fn word<T: FromStr<Err = snug_core::NoSuchWord>>(text: Option<&String>, usual: T) -> Result<T, String> {
    text.map_or(Ok(usual), |text| text.parse().map_err(|error: snug_core::NoSuchWord| error.to_string()))
}
