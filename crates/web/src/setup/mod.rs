//! The Setup room: what the workspace is made of, and how it is run.

mod activity;
mod import;
mod mailbox;
mod members;
mod security;
mod settings;

pub use import::{For, summary};

use crate::{
    AppState, Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
};
use askama::Template;
use axum::{
    Router,
    response::Html,
    routing::{get, post},
};
use snug_core::Role;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/setup", get(index))
        .route("/setup/settings", get(settings::page).post(settings::save))
        .merge(import::routes())
        .route("/setup/members", get(members::page))
        .route("/setup/members/invite", post(members::invite))
        .route("/setup/members/withdraw", post(members::withdraw))
        .route("/setup/members/{id}/role", post(members::role))
        .route("/setup/members/{id}/remove", post(members::remove))
        .route("/setup/members/{id}/end-sessions", post(members::end_sessions))
        .route("/setup/security", get(security::page))
        .route("/setup/activity", get(activity::page))
        .route("/setup/activity/{revision}", get(activity::entry))
        .route("/setup/activity/{revision}/undo", post(activity::undo))
        .route("/mailbox", get(mailbox::page))
}

/// A page of Setup with what it is for.
struct Door {
    href: &'static str,
    name: &'static str,
    says: &'static str,
    count: Option<usize>,
}

#[derive(Template)]
#[template(path = "setup/index.html")]
struct IndexPage {
    frame: Frame,
    doors: Vec<Door>,
}

async fn index(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let door = |href, name, says, count| Door { href, name, says, count };
    let absences = plan.people.values().map(|entry| entry.absences.len()).sum();
    let holidays = plan.calendars.values().map(|calendar| calendar.holidays.len()).sum();
    let mut doors = vec![
        door(
            "/people",
            "People",
            "Who there is, and what equipment: usual weeks, limits, skills, rates.",
            Some(plan.people.len()),
        ),
        door(
            "/teams",
            "Teams",
            "Who works together, and with which share of their time.",
            Some(plan.records.teams.len()),
        ),
        door("/time-off", "Time off", "When somebody is away.", Some(absences)),
        door("/holidays", "Holidays", "By region.", Some(holidays)),
        door(
            "/projects",
            "Projects",
            "What is worked on; one may stand inside another.",
            Some(plan.records.projects.len()),
        ),
        door(
            "/fields",
            "Fields",
            "Columns of your own for people, projects and tasks.",
            Some(plan.records.fields.len()),
        ),
        door(
            "/setup/calendars",
            "Calendars",
            "Holidays, time off and meetings from iCalendar; bookings to subscribe to.",
            None,
        ),
        door("/setup/import", "Import and export", "Bring CSV files in, all or nothing; take everything out.", None),
        door("/setup/members", "Members", "Who may sign in, and what they may do.", None),
        door("/setup/settings", "Settings", "The working day, the week, the snug mark, dates, currency.", None),
        door("/setup/activity", "Activity", "Who changed what, and how to take it back.", None),
    ];
    if user.account.role >= Role::Administrator {
        doors.push(door(
            "/setup/security",
            "Security",
            "Who came in, who was refused, and what was done about who may.",
            None,
        ));
    }
    Ok(Html(IndexPage { frame: Frame::of(&state, &user, Room::Setup).await?, doors }.render()?))
}
