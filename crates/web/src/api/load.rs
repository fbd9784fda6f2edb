//! The load table.

use super::{extract::Asked, refusals::OfAsking};
use crate::{AppState, Error, auth::Program};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use snug_core::{
    Day,
    cells::Grain,
    demand::Window,
    load::{Group, Measure, Query as LoadQuery, table},
};
use snug_exchange::table::{Figures, figures};
use std::str::FromStr;
use utoipa::{IntoParams, ToSchema};

/// What is asked of the load table.
#[derive(Default, Deserialize, IntoParams)]
#[serde(default, deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct LoadParams {
    /// First day.
    #[param(required = true, example = "2026-03-09", pattern = r"^\d{4}-\d{2}-\d{2}$")]
    from: String,
    /// Last day, at most ten years later.
    #[param(required = true, example = "2026-04-19", pattern = r"^\d{4}-\d{2}-\d{2}$")]
    to: String,
    /// day, week, fortnight, month, quarter or fiscal-year; week when left out.
    #[param(pattern = "^(day|week|fortnight|month|quarter|fiscal-year)$")]
    by: Option<String>,
    /// person, team, role, skill or project; person when left out.
    #[param(pattern = "^(person|team|role|skill|project)$")]
    group: Option<String>,
    /// minutes, percent, projects, tasks, points, or `field NAME` for a numeric field of tasks; minutes when left out.
    #[param(pattern = "^(minutes|percent|projects|tasks|points|field .+)$")]
    measure: Option<String>,
}

/// One cell of the load table; the figures of minutes end in `_min`, those of other measures do not.
#[derive(Serialize, ToSchema)]
#[schema(as = LoadCell)]
pub struct LoadCell {
    /// E-mail address, role, team or project code, or a key in brackets.
    key: String,
    /// The bucket's first day inside the window.
    start: String,
    /// The limit; nothing for projects.
    limit_min: Option<i64>,
    /// All load.
    load_min: Option<i64>,
    /// The agreed part of it.
    firm_min: Option<i64>,
    /// The tentative part of it.
    pencilled_min: Option<i64>,
    /// What is left under the limit.
    room_min: Option<i64>,
    /// What stands above it.
    spill_min: Option<i64>,
    /// What stands above it on single days, or in single weeks of longer buckets.
    peak_min: Option<i64>,
    /// away, open, snug, brim or over.
    band: Option<String>,
}

/// The longest window that one request may ask for, in days.
const LONGEST: i32 = 3_660;
/// The most cells that one request may ask for: ten thousand people for two years by week.
const MOST_CELLS: usize = 1_200_000;

/// The load table, the same figures as `snug-roster load` and the Fit room.
#[utoipa::path(get, path = "/load", tag = "load", params(LoadParams), responses(
    (status = OK, body = Vec<LoadCell>, description = "The cells, sorted by key, then start"),
    OfAsking,
))]
pub async fn load(
    State(state): State<AppState>,
    _: Program,
    Asked(params): Asked<LoadParams>,
) -> Result<Json<Vec<Figures>>, Error> {
    let bad = |name: &str, reason: String| Error::Api(StatusCode::UNPROCESSABLE_ENTITY, format!("{name}: {reason}"));
    let day = |name: &str, text: &str| text.parse::<Day>().map_err(|error| bad(name, error.to_string()));
    let (from, to) = (day("from", &params.from)?, day("to", &params.to)?);
    if to < from || to.since(from) > LONGEST {
        return Err(bad("to", "lies before from, or more than ten years after it".to_owned()));
    }
    let plan = state.keeper.plan();
    let measure = params.measure.as_ref().map_or(Ok(Measure::Minutes), |text| Measure::read(text, &plan));
    let query = LoadQuery {
        window: Window::new(from, to, state.today()),
        grain: word(params.by.as_ref(), Grain::Week).map_err(|reason| bad("by", reason))?,
        group: word(params.group.as_ref(), Group::Person).map_err(|reason| bad("group", reason))?,
        measure: measure.map_err(|error| bad("measure", error.to_string()))?,
    };
    let buckets = query.grain.buckets(from, to, &plan.settings).len();
    if buckets.saturating_mul(query.group.most_rows(&plan)) > MOST_CELLS {
        return Err(bad("to", "asks for more cells than one answer holds; ask for a shorter window".to_owned()));
    }
    let cells = crate::worked_out(move || figures(&table(&plan, &query), &query, &plan.settings)).await;
    Ok(Json(cells.map_err(Error::for_program)?))
}

/// A word of a closed list; the usual one when nothing is said.
fn word<T: FromStr<Err = snug_core::NoSuchWord>>(text: Option<&String>, usual: T) -> Result<T, String> {
    text.map_or(Ok(usual), |text| text.parse().map_err(|error: snug_core::NoSuchWord| error.to_string()))
}
