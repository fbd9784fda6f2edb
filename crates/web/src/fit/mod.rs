//! The Fit room: who has room, and who is over their limit.

mod alerts;
mod angle;
mod colour;
mod export;
mod figures;
mod group_sheet;
mod head;
mod horizon;
mod kept;
mod lines;
mod looks;
mod options;
mod page;
mod parts;
mod pocket;
mod query;
mod row;
mod shapes;
mod sheet;
mod table;
#[cfg(test)]
mod tests;
mod tray;
mod view;
mod zoom;

pub use kept::Kept;
pub use parts::row_part;
pub use query::{FitParams, FitQuery};
pub use shapes::hue;

use crate::AppState;
use axum::{
    Router,
    routing::{get, post},
};

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/fit", get(page::page))
        .route("/fit/rows", get(parts::rows))
        .route("/fit/rows/{person}", get(parts::one_row))
        .route("/fit/head", get(parts::one_head))
        .route("/fit/horizon", get(parts::strip))
        .route("/fit/alerts", get(parts::alert_strip))
        .route("/fit/tray", get(parts::tray_strip))
        .route("/fit/sheet", get(parts::side_sheet))
        .route("/fit/takers", get(parts::taker_list))
        .route("/fit/pocket", get(pocket::page))
        .route("/fit/presence", post(parts::presence))
        .route("/fit/table", get(table::page))
        .route("/fit/export/{format}", get(export::file))
        .route("/fit/looks", get(looks::list).post(looks::keep))
        .route("/fit/looks/forget", post(looks::forget))
}
