//! The Schedule room as a Gantt: work broken down and linked, in time, and what moves if this moves.

mod asked;
mod baselines;
mod columns;
mod deeds;
mod export;
mod links;
mod outline;
mod page;
mod parts;
mod people;
mod picture;
mod query;
mod says;
mod sheet;
mod sheet_deeds;
mod values;
mod write;

use crate::AppState;
use axum::{
    Router,
    routing::{get, post},
};

use query::PATH;
use write::PATH as OUTLINE;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route(OUTLINE, get(write::page))
        .route("/schedule/outline/rows", get(write::rows))
        .route(baselines::PATH, get(baselines::page).post(baselines::make))
        .route(PATH, get(page::page))
        .route("/schedule/gantt/export/svg", get(export::svg))
        .route("/schedule/gantt/rows", get(parts::rows))
        .route("/schedule/gantt/rows/{key}", get(parts::one_row))
        .route("/schedule/gantt/sheet", get(parts::side_sheet))
        .route("/schedule/gantt/people", get(parts::who_does_it))
        .route("/schedule/tasks/{deed}", post(deeds::act))
}
