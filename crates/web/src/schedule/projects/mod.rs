//! Projects as a whole: the portfolio as a tree, a page for each with how it stands, templates to begin with, sketches that become real,
//! and pages of notes.

mod deeds;
mod lists;
mod notes;
mod one;
mod start;
mod tree;

pub use tree::Stand;

use crate::{AppState, words};
use axum::{
    Router,
    routing::{get, post},
};
use snug_core::{Plan, health::Concern, kinds::ProjectStatus};

/// Where the tree lies.
pub const PATH: &str = "/schedule/projects";

pub fn routes() -> Router<AppState> {
    Router::new()
        .route(PATH, get(tree::page))
        .route("/schedule/projects/start", get(start::page).post(start::start))
        .route("/schedule/projects/{id}", get(one::page))
        .route("/schedule/projects/{id}/template", post(deeds::save_template))
        .route("/schedule/projects/{id}/real", post(deeds::make_real))
        .route("/schedule/projects/{id}/notes", get(notes::fresh).post(notes::write))
        .route("/schedule/projects/{id}/notes/{note}", get(notes::page).post(notes::write_over))
}

/// What is wrong, in words: `2 tasks late`, `ends 5 days after its date`.
fn says(plan: &Plan, concern: Concern) -> String {
    match concern {
        Concern::Late(count) => words::count(count, "task is late", "tasks are late"),
        Concern::Stuck(count) => words::count(count, "task is stuck", "tasks are stuck"),
        Concern::EndsAfter(days) => format!("ends {} after its date", words::days(days)),
        Concern::Misses(milestone, days) => {
            let name = plan.records.milestones.get(&milestone).map_or("", |milestone| milestone.name.as_str());
            format!("misses “{name}” by {}", words::days(days))
        }
        Concern::OverBudget(minutes) => format!("{} over its budget", words::hours(minutes)),
        Concern::Undated(count) => words::count(count, "task has no dates", "tasks have no dates"),
        Concern::NoTasks => "under way without a task".to_owned(),
    }
}

/// How it stands where nothing is wrong.
fn calm(status: ProjectStatus, percent: Option<i64>) -> &'static str {
    match (status, percent) {
        (ProjectStatus::Closed, _) => "closed",
        (ProjectStatus::Paused, _) => "paused",
        (ProjectStatus::Sketch, _) => "a sketch",
        (ProjectStatus::Active, Some(100)) => "all of it is done",
        (ProjectStatus::Active, None) => "no task yet",
        (ProjectStatus::Active, Some(_)) => "as planned",
    }
}
