//! The calendar: work across days, by month, week and day, and how full each day is.

mod beside;
mod day;
mod notes;
mod page;
mod parts;
mod picture;
pub mod query;
mod sheet;

use super::would::{Rows, Would};
use crate::{AppState, Error};
use axum::{Router, routing::get};
use query::CalendarQuery;
use serde_json::Value;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route(query::PATH, get(page::page))
        .route("/schedule/calendar/export.ics", get(parts::export))
        .route("/schedule/calendar/rows", get(parts::rows))
        .route("/schedule/calendar/rows/{key}", get(parts::one_row))
        .route("/schedule/calendar/sheet", get(parts::side_sheet))
}

/// The rows as they would be.
pub fn would(would: &Would<'_>) -> Result<Rows, Error> {
    let query = CalendarQuery::read(would.params(), would.after, would.today).beside_live(would.live.clone());
    let rows = parts::rows_html(would.after, &query, true)?;
    Ok(rows.into_iter().map(|(key, html)| (key, Value::String(html))).collect())
}
