//! The timer of who is signed in: started, paused, and stopped, which logs what it came to.

use super::log::{entry_says, refused_back, subject};
use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    frame::Flash,
    words,
};
use axum::{
    Form,
    extract::State,
    response::{IntoResponse as _, Redirect, Response},
};
use chrono::Utc;
use snug_core::{
    Command, Plan, Refusal,
    change::{Change, Edit},
    hours::timer::minutes_by_day,
    kinds::{Record as _, TimeEntry},
    rules::LONGEST_NOTE,
};
use snug_store::timers::{self, Timer};

/// A timer as a page shows it.
pub struct TimerView {
    /// On what it runs.
    pub on: String,
    pub note: String,
    pub is_running: bool,
    /// How long it has run so far.
    pub so_far: String,
}

/// The timer of who is signed in, if there is one.
pub async fn view(state: &AppState, user: &User, plan: &Plan) -> Result<Option<TimerView>, Error> {
    let found = timers::of(state.keeper.db(), user.account.id).await?;
    Ok(found.map(|timer| {
        let runs = minutes_by_day(&timer.runs_until(Utc::now()), state.zone());
        let minutes: i64 = runs.iter().map(|(_, minutes)| i64::from(*minutes)).sum();
        TimerView {
            on: entry_says(plan, timer.project, timer.task),
            is_running: timer.since.is_some(),
            so_far: words::hours(minutes),
            note: timer.note,
        }
    }))
}

/// Starts, pauses, goes on, drops or stops the timer.
pub async fn turn(State(state): State<AppState>, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    user.at_least(snug_core::Role::Member)?;
    let of = |name: &str| sent(&pairs, name).trim();
    let back = answer::safe_back(of("back")).to_owned();
    let (db, account) = (state.keeper.db(), user.account.id);
    let said = match of("do") {
        "start" => {
            if let Err(error) = start(&state, &user, of("on"), of("note")).await {
                return refused_back(&user, &back, error).await;
            }
            "Timer started"
        }
        "pause" => {
            timers::turn(db, account, false, Utc::now()).await?;
            "Timer paused"
        }
        "go on" => {
            timers::turn(db, account, true, Utc::now()).await?;
            "Timer runs"
        }
        "drop" => {
            timers::remove(db, account).await?;
            "Timer dropped; nothing was logged"
        }
        _ => return stop(&state, &user, &back).await,
    };
    Flash::plain(said).leave(&user.session).await?;
    Ok(Redirect::to(&back).into_response())
}

async fn start(state: &AppState, user: &User, on: &str, note: &str) -> Result<(), Error> {
    let plan = state.keeper.plan();
    if super::sheet::oneself(&plan, user).is_none() {
        return Err(Refusal::value("on", "You are no person of the plan, so there is nobody to log time for.").into());
    }
    if note.chars().count() > LONGEST_NOTE {
        return Err(Refusal::value("note", format!("The note is longer than {LONGEST_NOTE} characters.")).into());
    }
    let (project, task) = subject(&plan, on)?;
    let timer = Timer { project, task, note: note.to_owned(), runs: Vec::new(), since: Some(Utc::now()) };
    if timers::start(state.keeper.db(), user.account.id, &timer).await? {
        Ok(())
    } else {
        Err(Refusal::value("on", "Your timer is on something already; stop it first.").into())
    }
}

/// Logs what the timer came to and takes it away. Where that is refused, it stays, paused.
async fn stop(state: &AppState, user: &User, back: &str) -> Result<Response, Error> {
    let (db, account) = (state.keeper.db(), user.account.id);
    let Some(timer) = timers::of(db, account).await? else {
        Flash::plain("There is no timer").leave(&user.session).await?;
        return Ok(Redirect::to(back).into_response());
    };
    let plan = state.keeper.plan();
    let person = super::sheet::oneself(&plan, user).ok_or(Error::NotFound)?;
    let now = Utc::now();
    let days = minutes_by_day(&timer.runs_until(now), state.zone());
    let entry = |(date, minutes): &(snug_core::Day, i32)| {
        let (project, task, note) = (timer.project, timer.task, timer.note.clone());
        let blank = TimeEntry::blank();
        TimeEntry { person, date: *date, project, task, minutes: *minutes, billable: true, note, ..blank }
    };
    if days.is_empty() {
        timers::remove(db, account).await?;
        Flash::plain("The timer ran for less than half a minute; nothing was logged").leave(&user.session).await?;
        return Ok(Redirect::to(back).into_response());
    }
    let minutes: i64 = days.iter().map(|(_, minutes)| i64::from(*minutes)).sum();
    let changes = days.iter().map(|day| Change::TimeEntry(Edit::new(entry(day)))).collect();
    match answer::carry_out(state, user, Command::Edit { changes }).await {
        Ok(outcome) => {
            timers::remove(db, account).await?;
            answer::back_to(user, back, format!("{} logged", words::hours(minutes)), &outcome).await
        }
        Err(error) => {
            timers::turn(db, account, false, now).await?;
            refused_back(user, back, error).await
        }
    }
}
