//! Logging time by typing a duration.

use crate::{
    Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::Flash,
};
use axum::{
    Form,
    response::{IntoResponse as _, Redirect, Response},
};
use snug_core::{
    Command, Day, PersonId, Plan, ProjectId, Refusal, TaskId, TimeEntryId,
    change::{Change, Edit},
    duration::{Bare, parse},
    kinds::{Kind, TimeEntry},
};

/// Whose time a form is about, and of which day.
pub fn person_and_day(pairs: &Pairs) -> Result<(PersonId, Day), Refusal> {
    let of = |name: &str| sent(pairs, name).trim();
    let person: i32 = of("person").parse().map_err(|_| Refusal::value("person", "Say whose time this is."))?;
    let date: Day = of("date").parse().map_err(|error: snug_core::NoDay| Refusal::value("date", error.to_string()))?;
    Ok((PersonId(person), date))
}

/// A duration as it is typed, in minutes.
pub fn minutes_of(plan: &Plan, typed: &str) -> Result<i32, Refusal> {
    let minutes =
        parse(typed, plan.settings.day_minutes, Bare::Refused).map_err(|reason| Refusal::value("duration", reason))?;
    Ok(i32::try_from(minutes).unwrap_or(i32::MAX))
}

/// The entry that a form describes: person, date, what it was for, how long, billable, note.
pub fn time_entry_of(plan: &Plan, pairs: &Pairs) -> Result<TimeEntry, Refusal> {
    let of = |name: &str| sent(pairs, name).trim();
    let (person, date) = person_and_day(pairs)?;
    let (project, task) = subject(plan, of("on"))?;
    // A correction takes out what is typed behind a minus.
    let typed = of("duration");
    let minutes = match typed.strip_prefix(['-', '−']) {
        Some(taken) => -minutes_of(plan, taken.trim())?,
        None => minutes_of(plan, typed)?,
    };
    Ok(TimeEntry {
        id: TimeEntryId(0),
        reference: String::new(),
        person,
        date,
        project,
        task,
        minutes,
        billable: of("billable") == "yes",
        note: of("note").to_owned(),
        reason: of("reason").to_owned(),
    })
}

/// What time was for: a bare word is a task's reference or a project's code; nothing is no project.
pub fn subject(plan: &Plan, text: &str) -> Result<(Option<ProjectId>, Option<TaskId>), Refusal> {
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

/// What time was for, in words.
pub fn entry_says(plan: &Plan, project: Option<ProjectId>, task: Option<TaskId>) -> String {
    let task = task.and_then(|id| plan.tasks.get(&id));
    let project = task.map(|task| task.project).or(project).and_then(|id| plan.records.projects.get(&id));
    let words = [project.map(|it| it.name.as_str()), task.map(|it| it.title.as_str())];
    let words: Vec<&str> = words.into_iter().flatten().collect();
    if words.is_empty() { "no project".to_owned() } else { words.join(" · ") }
}

/// Leads a form back with the sentence of a refusal; any other error goes on.
pub async fn refused_back(user: &User, back: &str, error: Error) -> Result<Response, Error> {
    let Error::Store(snug_store::Error::Refused(refusal)) = error else { return Err(error) };
    Flash::problem(crate::words::capital(&refusal.message)).leave(&user.session).await?;
    Ok(Redirect::to(back).into_response())
}

/// Logs time.
pub async fn log(Here(state): Here, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    let back = answer::safe_back(sent(&pairs, "back").trim()).to_owned();
    let logged = async {
        let entry = time_entry_of(&state.keeper.plan(), &pairs)?;
        let command = Command::Edit { changes: vec![Change::TimeEntry(Edit::new(entry))] };
        answer::carry_out(&state, &user, command).await
    };
    match logged.await {
        Ok(outcome) => answer::back_to(&user, &back, "Time logged".to_owned(), &outcome).await,
        Err(error) => {
            // The form comes again with what was typed.
            user.session.insert("log", &pairs).await?;
            refused_back(&user, &back, error).await
        }
    }
}
