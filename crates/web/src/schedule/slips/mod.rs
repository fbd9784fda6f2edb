//! Slips: people against days, what each one has to do on a day, and what waits for a place.

mod page;
mod parts;
mod people;
mod picture;
pub mod query;
mod sheet;
mod tray;

pub use query::PAGE;

use super::would::{Rows, Would};
use crate::{AppState, Error};
use axum::{Router, routing::get};
use picture::Drawing;
use query::SlipsQuery;
use serde_json::Value;
use snug_core::effect::people_touched;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route(query::PATH, get(page::page))
        .route("/schedule/slips/rows", get(parts::rows))
        .route("/schedule/slips/rows/{person}", get(parts::one_row))
        .route("/schedule/slips/sheet", get(parts::side_sheet))
        .route("/schedule/slips/waiting", get(parts::tray_strip))
}

/// The rows of everyone touched as they would be.
pub fn would(would: &Would<'_>) -> Result<Rows, Error> {
    /// As many rows are drawn as fit on a screen, and some.
    const ROWS: usize = 40;
    let query = SlipsQuery::read(would.params(), would.after, would.today).beside_live(would.live.clone());
    let drawing = Drawing::new(would.after, &query, true);
    let mut rows = Rows::new();
    for person in people_touched(would.before, would.after, would.changes).into_iter().take(ROWS) {
        if let Some(html) = parts::row_html(&drawing, person)? {
            rows.insert(person.to_string(), Value::String(html));
        }
    }
    Ok(rows)
}
