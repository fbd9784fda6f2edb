//! Logging time by typing a duration.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    frame::Flash,
};
use axum::{
    Form,
    extract::State,
    response::{IntoResponse as _, Redirect, Response},
};
use snug_core::{
    Command, Day, PersonId, Plan, ProjectId, Refusal, TaskId, TimeEntryId,
    change::{Change, Edit},
    duration::{Bare, parse},
    kinds::{Kind, TimeEntry},
};

/// The entry that a form describes: person, date, what it was for, how long, billable, note.
pub fn time_entry_of(plan: &Plan, pairs: &Pairs) -> Result<TimeEntry, Refusal> {
    let of = |name: &str| sent(pairs, name).trim();
    let person: i32 = of("person").parse().map_err(|_| Refusal::value("person", "Say whose time this is."))?;
    let date: Day = of("date").parse().map_err(|error: snug_core::NoDay| Refusal::value("date", error.to_string()))?;
    let (project, task) = subject(plan, of("on"))?;
    let minutes = parse(of("duration"), plan.settings.day_minutes, Bare::Refused)
        .map_err(|reason| Refusal::value("duration", reason))?;
    Ok(TimeEntry {
        id: TimeEntryId(0),
        reference: String::new(),
        person: PersonId(person),
        date,
        project,
        task,
        minutes: i32::try_from(minutes).unwrap_or(i32::MAX),
        billable: of("billable") == "yes",
        note: of("note").to_owned(),
        reason: of("reason").to_owned(),
    })
}

/// What time was for: `task T12`, `project moon`, or nothing; a bare word is a task's reference or a project's code.
fn subject(plan: &Plan, text: &str) -> Result<(Option<ProjectId>, Option<TaskId>), Refusal> {
    if text.is_empty() {
        return Ok((None, None));
    }
    if let Some(id) = plan.find(Kind::Task, text).map(TaskId) {
        return Ok((plan.tasks.get(&id).map(|task| task.project), Some(id)));
    }
    let project = plan.find(Kind::Project, text).map(ProjectId);
    project.map(|id| (Some(id), None)).ok_or_else(|| {
        Refusal::value("on", format!("There is no task and no project “{text}”; choose one that is offered."))
    })
}

/// Logs time.
pub async fn log(State(state): State<AppState>, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    let back = answer::safe_back(sent(&pairs, "back").trim()).to_owned();
    let logged = async {
        let entry = time_entry_of(&state.keeper.plan(), &pairs)?;
        let command = Command::Edit { changes: vec![Change::TimeEntry(Edit::new(entry))] };
        answer::carry_out(&state, &user, command).await
    };
    match logged.await {
        Ok(outcome) => answer::back_to(&user, &back, "Time logged".to_owned(), &outcome).await,
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            // The form comes again with what was typed.
            user.session.insert("log", &pairs).await?;
            Flash { problem: true, ..Flash::plain(crate::words::capital(&refusal.message)) }
                .leave(&user.session)
                .await?;
            Ok(Redirect::to(&back).into_response())
        }
        Err(error) => Err(error),
    }
}
