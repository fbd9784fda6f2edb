//! The Hours room: logging time, the week sheet, estimate against actual.

mod actuals;
mod log;
mod sheet;

use crate::AppState;
use axum::{
    Router,
    routing::{get, post},
};

pub use actuals::Vessel;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/hours", get(sheet::page).post(sheet::save))
        .route("/hours/sheet", get(sheet::part))
        .route("/hours/log", post(log::log))
        .route("/hours/actuals", get(actuals::page))
        .route("/hours/actuals.csv", get(actuals::csv))
}
