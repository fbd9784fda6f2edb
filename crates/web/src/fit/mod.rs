//! The Fit room: who has room, and who is over their limit.

mod address;
mod even;
mod files;
mod list;
mod names;
mod page;
mod parts;
mod picture;
mod sheet;
mod strips;
#[cfg(test)]
mod tests;

pub use address::query::{FitParams, FitQuery};
pub use address::zoom::{named as zoom_named, stepped as zoom_stepped, title as zoom_title};
pub use files::export::HUES;
pub use picture::drawn::row_part;
pub use picture::palette::{hue, hues};

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
        .route("/fit/pocket", get(strips::pocket::page))
        .merge(even::routes())
        .route("/fit/presence", post(parts::presence))
        .route("/fit/table", get(files::table::page))
        .route("/fit/export/{format}", get(files::export::file))
}
