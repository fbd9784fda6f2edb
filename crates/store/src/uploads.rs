//! Files that wait for the word to take them over: for an hour, for whoever brought them.

use crate::{
    Error,
    accounts::new_secret,
    entity::{upload, upload_file},
};
use chrono::{Duration, Utc};
use sea_orm::{
    ActiveValue::Set, DatabaseConnection, DbBackend, QueryOrder as _, QuerySelect as _, Statement,
    TransactionTrait as _, entity::prelude::*,
};

/// A file by name.
pub type File = (String, Vec<u8>);

/// What waits for one account: the newest, the others go.
const MOST_OF_ONE: u64 = 3;
/// The most bytes that wait in all.
const MOST_IN_ALL: i64 = 1 << 30;

/// Keeps files and returns the name under which they wait. What has waited for more than an hour goes.
///
/// # Errors
/// Too much waits already, or the database does not answer.
pub async fn keep(db: &DatabaseConnection, account: i32, files: &[File]) -> Result<String, Error> {
    let id = new_secret();
    let txn = db.begin().await?;
    let old = upload::Column::At.lt(Utc::now() - Duration::hours(1));
    upload::Entity::delete_many().filter(old).exec(&txn).await?;
    let own = upload::Entity::find().filter(upload::Column::AccountId.eq(account));
    let older = own.order_by_desc(upload::Column::At).offset(MOST_OF_ONE - 1).all(&txn).await?;
    let older = upload::Column::Id.is_in(older.into_iter().map(|row| row.id));
    upload::Entity::delete_many().filter(older).exec(&txn).await?;
    let sum = "SELECT coalesce(sum(octet_length(bytes)), 0)::bigint AS waits FROM upload_file";
    let waits = txn.query_one_raw(Statement::from_string(DbBackend::Postgres, sum)).await?;
    let waits: i64 = waits.map(|row| row.try_get("", "waits")).transpose()?.unwrap_or_default();
    let more: usize = files.iter().map(|(_, bytes)| bytes.len()).sum();
    if waits.saturating_add(i64::try_from(more).unwrap_or(i64::MAX)) > MOST_IN_ALL {
        return Err(Error::TooMuchWaits);
    }
    let row = upload::ActiveModel { id: Set(id.clone()), account_id: Set(account), ..Default::default() };
    upload::Entity::insert(row).exec_without_returning(&txn).await?;
    for (position, (name, bytes)) in files.iter().enumerate() {
        let row = upload_file::ActiveModel {
            upload_id: Set(id.clone()),
            position: Set(i32::try_from(position).unwrap_or(i32::MAX)),
            name: Set(name.replace('\0', "")),
            bytes: Set(bytes.clone()),
        };
        upload_file::Entity::insert(row).exec_without_returning(&txn).await?;
    }
    txn.commit().await?;
    Ok(id)
}

/// The files that wait under a name; `None` where there are none of this account's.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn waiting(db: &DatabaseConnection, account: i32, id: &str) -> Result<Option<Vec<File>>, Error> {
    let own = upload::Entity::find_by_id(id).filter(upload::Column::AccountId.eq(account)).one(db).await?;
    if own.is_none() {
        return Ok(None);
    }
    let rows = upload_file::Entity::find().filter(upload_file::Column::UploadId.eq(id));
    let rows = rows.order_by_asc(upload_file::Column::Position).all(db).await?;
    Ok(Some(rows.into_iter().map(|row| (row.name, row.bytes)).collect()))
}

/// Forgets files that were taken over.
///
/// # Errors
/// The database does not answer.
pub async fn forget(db: &DatabaseConnection, id: &str) -> Result<(), Error> {
    upload::Entity::delete_by_id(id).exec(db).await?;
    Ok(())
}
