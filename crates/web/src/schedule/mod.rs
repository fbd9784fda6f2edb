//! The Schedule room: work in time, as a Gantt, as people's days, and what moves if this moves.

mod address;
mod asked;
mod baselines;
mod calendar;
mod columns;
mod deeds;
mod export;
mod hands;
mod layers;
mod links;
pub mod long;
mod milestones;
mod outline;
mod page;
mod parts;
mod people;
mod picture;
mod projects;
mod query;
mod risks;
mod says;
mod sheet;
mod sheet_deeds;
pub mod slips;
#[cfg(test)]
mod tests;
mod tuck;
mod values;
mod views;
mod would;
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
        .route("/schedule/{view}/{deed}", post(deeds::act))
        .merge(calendar::routes())
        .merge(slips::routes())
        .merge(long::routes())
        .merge(projects::routes())
        .merge(tuck::routes())
        .route(milestones::PATH, get(milestones::page))
        .route(risks::PATH, get(risks::page))
        .route("/schedule/risks/{id}/response", post(risks::respond))
}
