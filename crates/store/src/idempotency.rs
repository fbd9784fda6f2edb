//! Answers kept by the key that a program sends along, so that what is asked twice is done once.

use crate::{Error, accounts::secret_hash, entity::kept_answer};
use chrono::{Duration, Utc};
use sea_orm::{ActiveValue::Set, DatabaseConnection, entity::prelude::*, sea_query::OnConflict};

/// What was answered to a key before.
#[derive(Clone, Debug)]
pub enum Answered {
    /// Nothing: it is new, or older than a day.
    Nothing,
    /// The same request was answered so.
    Same(u16, serde_json::Value),
    /// Another request used this key.
    Other,
}

/// Looks a key up. `request` is the method, path and body.
///
/// # Errors
/// The database does not answer.
pub async fn look(db: &DatabaseConnection, account: i32, key: &str, request: &str) -> Result<Answered, Error> {
    let found = kept_answer::Entity::find_by_id((account, key.to_owned())).one(db).await?;
    Ok(match found.filter(|row| row.at > Utc::now() - Duration::days(1)) {
        None => Answered::Nothing,
        Some(row) if row.request == secret_hash(request) => {
            Answered::Same(u16::try_from(row.status).unwrap_or(200), row.body)
        }
        Some(_) => Answered::Other,
    })
}

/// Keeps an answer for a day.
///
/// # Errors
/// The database does not answer.
pub async fn keep(
    db: &DatabaseConnection,
    account: i32,
    key: &str,
    request: &str,
    status: u16,
    body: &serde_json::Value,
) -> Result<(), Error> {
    let row = kept_answer::ActiveModel {
        account_id: Set(account),
        key: Set(key.to_owned()),
        request: Set(secret_hash(request)),
        status: Set(status.into()),
        body: Set(body.clone()),
        at: Set(Utc::now()),
    };
    let columns = [kept_answer::Column::AccountId, kept_answer::Column::Key];
    let renewed =
        [kept_answer::Column::Request, kept_answer::Column::Status, kept_answer::Column::Body, kept_answer::Column::At];
    let conflict = OnConflict::columns(columns).update_columns(renewed).to_owned();
    kept_answer::Entity::insert(row).on_conflict(conflict).exec_without_returning(db).await?;
    let old = kept_answer::Column::At.lt(Utc::now() - Duration::days(1));
    kept_answer::Entity::delete_many().filter(old).exec(db).await?;
    Ok(())
}
