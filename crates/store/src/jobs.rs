//! Imports under way, written down so that every server can say how far one is, and stop it.

use crate::{Error, entity::import_job};
use chrono::{Duration, Utc};
use sea_orm::{
    ActiveValue::Set,
    DatabaseConnection,
    entity::prelude::*,
    sea_query::{Expr, OnConflict},
};

/// An import: the name under which its files waited tells it from others.
pub type Job = import_job::Model;

/// Seconds without a sign of life after which the server that did it is taken for gone. What it wrote is gone with it.
const LIFELESS: i64 = 15;
/// How long it is remembered how an import ended, in days.
const KEPT_DAYS: i64 = 1;

/// How an import stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum State {
    /// It goes on.
    Running,
    /// All of it was taken over.
    Done,
    /// It was stopped; nothing was taken over.
    Stopped,
    /// It failed, or the server that did it is gone; nothing was taken over.
    Failed,
}

impl State {
    const fn word(self) -> &'static str {
        match self {
            Self::Running => "running",
            Self::Done => "done",
            Self::Stopped => "stopped",
            Self::Failed => "failed",
        }
    }
}

impl Job {
    /// How it stands, as of now.
    #[must_use]
    pub fn stands(&self) -> State {
        match self.state.as_str() {
            "running" if self.beat_at < Utc::now() - Duration::seconds(LIFELESS) => State::Failed,
            "running" => State::Running,
            "done" => State::Done,
            "stopped" => State::Stopped,
            _ => State::Failed,
        }
    }
}

/// Notes that an import begins; `false` where it did before.
///
/// # Errors
/// The database does not answer.
pub async fn begin(db: &DatabaseConnection, id: &str, account: i32, source: &str) -> Result<bool, Error> {
    let row = import_job::ActiveModel {
        id: Set(id.to_owned()),
        account_id: Set(account),
        source: Set(source.to_owned()),
        state: Set(State::Running.word().to_owned()),
        ..Default::default()
    };
    let once = OnConflict::column(import_job::Column::Id).do_nothing().to_owned();
    Ok(import_job::Entity::insert(row).on_conflict(once).exec_without_returning(db).await? == 1)
}

/// Gives a sign of life, and says how far it is; returns whether it is to stop.
///
/// # Errors
/// The database does not answer.
pub async fn beat(db: &DatabaseConnection, id: &str, (step, done, total): (&str, usize, usize)) -> Result<bool, Error> {
    let count = |count: usize| i32::try_from(count).unwrap_or(i32::MAX);
    let row = import_job::ActiveModel {
        id: Set(id.to_owned()),
        step: Set(step.to_owned()),
        done: Set(count(done)),
        total: Set(count(total)),
        beat_at: Set(Utc::now()),
        ..Default::default()
    };
    Ok(row.update(db).await?.stop)
}

/// Notes how it ended, and by which entry of the ledger, where it was done.
///
/// # Errors
/// The database does not answer.
pub async fn end(db: &DatabaseConnection, id: &str, state: State, revision: Option<i64>) -> Result<(), Error> {
    let row = import_job::ActiveModel {
        id: Set(id.to_owned()),
        state: Set(state.word().to_owned()),
        revision: Set(revision),
        beat_at: Set(Utc::now()),
        ..Default::default()
    };
    row.update(db).await?;
    let old = import_job::Column::BeatAt.lt(Utc::now() - Duration::days(KEPT_DAYS));
    import_job::Entity::delete_many().filter(old).exec(db).await?;
    Ok(())
}

/// Forgets an import, so that it can begin again.
///
/// # Errors
/// The database does not answer.
pub async fn forget(db: &DatabaseConnection, id: &str) -> Result<(), Error> {
    import_job::Entity::delete_by_id(id).exec(db).await?;
    Ok(())
}

/// Asks an account's import to stop.
///
/// # Errors
/// The database does not answer.
pub async fn stop(db: &DatabaseConnection, account: i32, id: &str) -> Result<(), Error> {
    let own = import_job::Entity::update_many().col_expr(import_job::Column::Stop, Expr::value(true));
    own.filter(import_job::Column::Id.eq(id)).filter(import_job::Column::AccountId.eq(account)).exec(db).await?;
    Ok(())
}

/// An account's import.
///
/// # Errors
/// The database does not answer.
pub async fn of(db: &DatabaseConnection, account: i32, id: &str) -> Result<Option<Job>, Error> {
    Ok(import_job::Entity::find_by_id(id).filter(import_job::Column::AccountId.eq(account)).one(db).await?)
}
