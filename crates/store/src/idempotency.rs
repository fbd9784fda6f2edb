//! Requests known by the key that a program sends along, so that what is asked twice is done once: also where both are under way at
//! once, and where the server is gone before it could answer.

use crate::{Error, accounts::secret_hash, entity::kept_answer};
use chrono::{Duration, Utc};
use sea_orm::{DatabaseConnection, DbBackend, Statement, entity::prelude::*};

/// A request that is to be done once.
#[derive(Clone, Debug)]
pub struct Once {
    /// For whom.
    account: i32,
    /// The key that came along.
    key: String,
    /// The hash of the method, path and body.
    request: String,
}

impl Once {
    /// `request` is the method, path and body.
    #[must_use]
    pub fn new(account: i32, key: &str, request: &str) -> Self {
        Self { account, key: key.to_owned(), request: secret_hash(request) }
    }
}

/// What became of a request with this key.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Known {
    /// Nothing: it is new, or older than a day.
    New,
    /// It was done, by this entry of the ledger.
    Done(i64),
    /// Another request used this key.
    Other,
}

/// For how long a key is known, in days.
const KEPT_DAYS: i32 = 1;

/// Looks a key up.
///
/// # Errors
/// The database does not answer.
pub async fn look(db: &DatabaseConnection, once: &Once) -> Result<Known, Error> {
    let found = kept_answer::Entity::find_by_id((once.account, once.key.clone())).one(db).await?;
    Ok(match found.filter(|row| row.at > Utc::now() - Duration::days(KEPT_DAYS.into())) {
        None => Known::New,
        Some(row) if row.request == once.request => Known::Done(row.revision),
        Some(_) => Known::Other,
    })
}

/// Notes in the transaction of an entry that it does this request; `false` where another one has done it: one that is under way is
/// waited for.
pub(crate) async fn reserve(txn: &impl ConnectionTrait, once: &Once, revision: i64) -> Result<bool, Error> {
    let sql = "INSERT INTO kept_answer (account_id, key, request, revision) VALUES ($1, $2, $3, $4) \
         ON CONFLICT (account_id, key) DO UPDATE SET request = $3, revision = $4, at = now() \
         WHERE kept_answer.at < now() - make_interval(days => $5)";
    let values =
        [once.account.into(), once.key.clone().into(), once.request.clone().into(), revision.into(), KEPT_DAYS.into()];
    let put = txn.execute_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
    Ok(put.rows_affected() == 1)
}

/// Forgets keys that are too old.
///
/// # Errors
/// The database does not answer.
pub async fn sweep(db: &DatabaseConnection) -> Result<(), Error> {
    let old = kept_answer::Column::At.lt(Utc::now() - Duration::days(KEPT_DAYS.into()));
    kept_answer::Entity::delete_many().filter(old).exec(db).await?;
    Ok(())
}
