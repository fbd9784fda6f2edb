//! A walk-in in one line: what it was, who asked, how long it took.

use super::log::{minutes_of, person_and_day, refused_back, subject};
use crate::{
    Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
};
use axum::{Form, response::Response};
use snug_core::{
    Command, Plan, Refusal,
    kinds::{Assignees, FIRST_STAGE, Record as _, Task, TimeEntry},
};

/// The task and the entry that a form describes.
fn walk_in_of(plan: &Plan, pairs: &Pairs) -> Result<(Task, TimeEntry), Refusal> {
    let of = |name: &str| sent(pairs, name).trim();
    let (person, date) = person_and_day(pairs)?;
    if of("title").is_empty() {
        return Err(Refusal::value("title", "Say what it was."));
    }
    let (Some(project), None) = subject(plan, of("project"))? else {
        return Err(Refusal::value("project", "Say for which project it was."));
    };
    let minutes = minutes_of(plan, of("duration"))?;
    // It goes to the team that the project's work goes to when nobody picks.
    let task = Task {
        project,
        title: of("title").to_owned(),
        requester: of("requester").to_owned(),
        assignees: Assignees::Even(vec![person]),
        stage: if of("done") == "yes" { "done".to_owned() } else { FIRST_STAGE.to_owned() },
        start: Some(date),
        finish: Some(date),
        walk_in: true,
        ..Task::blank()
    };
    let billable = of("billable") == "yes";
    let entry = TimeEntry { person, date, project: Some(project), minutes, billable, ..TimeEntry::blank() };
    Ok((task, entry))
}

/// Makes a walk-in and logs it.
pub async fn log(Here(state): Here, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    let back = answer::safe_back(sent(&pairs, "back").trim()).to_owned();
    let logged = async {
        let (task, entry) = walk_in_of(&state.keeper.plan(), &pairs)?;
        answer::carry_out(&state, &user, Command::WalkIn { task: Box::new(task), entry }).await
    };
    match logged.await {
        Ok(outcome) => answer::back_to(&user, &back, "Walk-in logged".to_owned(), &outcome).await,
        Err(error) => {
            // The form comes again with what was typed.
            user.session.insert("walk-in", &pairs).await?;
            refused_back(&user, &back, error).await
        }
    }
}
