//! Timers: one an account, which runs until it is stopped, whatever becomes of pages and servers. It is no part of the plan; what it
//! comes to is logged as any other time.

use crate::{Error, entity::timer};
use chrono::{DateTime, Utc};
use sea_orm::{
    ActiveModelTrait as _, ActiveValue, DatabaseConnection, EntityTrait as _, IntoActiveModel as _,
    sea_query::OnConflict,
};
use snug_core::{ProjectId, TaskId};

/// A run of a timer: from when to when.
pub type Run = (DateTime<Utc>, DateTime<Utc>);

/// The most times that a timer is paused.
const MOST_RUNS: usize = 500;

/// A timer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Timer {
    /// For which project.
    pub project: Option<ProjectId>,
    /// For which task.
    pub task: Option<TaskId>,
    /// A word on it.
    pub note: String,
    /// How often it ran and was paused.
    pub runs: Vec<Run>,
    /// Since when it runs; `None` while it is paused.
    pub since: Option<DateTime<Utc>>,
}

impl Timer {
    /// All runs, the one that goes on up to now.
    #[must_use]
    pub fn runs_until(&self, now: DateTime<Utc>) -> Vec<Run> {
        let running = self.since.map(|since| (since, now.max(since)));
        self.runs.iter().copied().chain(running).collect()
    }
}

fn of_row(row: timer::Model) -> Result<Timer, Error> {
    let runs = serde_json::from_value(row.spans).map_err(|error| Error::Damaged(error.to_string()))?;
    let (project, task) = (row.project_id.map(ProjectId), row.task_id.map(TaskId));
    Ok(Timer { project, task, note: row.note, runs, since: row.since })
}

/// The timer of an account, if there is one.
///
/// # Errors
/// The database does not answer.
pub async fn of(db: &DatabaseConnection, account: i32) -> Result<Option<Timer>, Error> {
    timer::Entity::find_by_id(account).one(db).await?.map(of_row).transpose()
}

/// Starts a timer; `false` where there is one already.
///
/// # Errors
/// The database does not answer.
pub async fn start(db: &DatabaseConnection, account: i32, timer: &Timer) -> Result<bool, Error> {
    let row = timer::Model {
        account_id: account,
        project_id: timer.project.map(|id| id.0),
        task_id: timer.task.map(|id| id.0),
        note: timer.note.clone(),
        spans: serde_json::json!(timer.runs),
        since: timer.since,
    };
    let there = OnConflict::column(timer::Column::AccountId).do_nothing().to_owned();
    let made = timer::Entity::insert(row.into_active_model()).on_conflict(there).exec_without_returning(db).await?;
    Ok(made > 0)
}

/// Pauses the timer of an account, or lets it go on.
///
/// # Errors
/// The database does not answer.
pub async fn turn(db: &DatabaseConnection, account: i32, runs: bool, now: DateTime<Utc>) -> Result<(), Error> {
    let Some(mut timer) = of(db, account).await? else { return Ok(()) };
    match timer.since {
        Some(since) if !runs && timer.runs.len() < MOST_RUNS => {
            timer.runs.push((since, now.max(since)));
            timer.since = None;
        }
        None if runs => timer.since = Some(now),
        _ => return Ok(()),
    }
    let row = timer::ActiveModel {
        account_id: ActiveValue::Unchanged(account),
        spans: ActiveValue::Set(serde_json::json!(timer.runs)),
        since: ActiveValue::Set(timer.since),
        ..Default::default()
    };
    row.update(db).await?;
    Ok(())
}

/// Takes the timer of an account away.
///
/// # Errors
/// The database does not answer.
pub async fn remove(db: &DatabaseConnection, account: i32) -> Result<(), Error> {
    timer::Entity::delete_by_id(account).exec(db).await?;
    Ok(())
}
