//! The first start: the workspace and its administrator, made by whoever holds the key that the start printed.

use crate::{
    Error,
    accounts::{self, Account, new_secret, secret_hash},
    entity::{account, founding_key, json::Settings as StoredSettings, workspace},
    ledger, passwords,
};
use sea_orm::{
    ActiveValue::Set, DatabaseConnection, DbBackend, Statement, TransactionTrait as _, entity::prelude::*,
    sea_query::OnConflict,
};
use snug_core::{Role, settings::Settings};

/// Who becomes the administrator.
#[derive(Clone, Debug)]
pub struct Founder {
    /// E-mail address.
    pub email: String,
    /// Name shown.
    pub name: String,
    /// Password.
    pub password: String,
}

/// A key for the first start, good until somebody has used one; `None` where somebody can sign in already.
///
/// # Errors
/// The database does not answer.
pub async fn new_key(db: &DatabaseConnection) -> Result<Option<String>, Error> {
    if accounts::any(db).await? {
        return Ok(None);
    }
    let key = new_secret();
    let row = founding_key::ActiveModel { hash: Set(secret_hash(&key)), ..Default::default() };
    founding_key::Entity::insert(row).exec_without_returning(db).await?;
    Ok(Some(key))
}

/// Whether a key opens the first start.
///
/// # Errors
/// The database does not answer.
pub async fn opens(db: &DatabaseConnection, key: &str) -> Result<bool, Error> {
    Ok(founding_key::Entity::find_by_id(secret_hash(key.trim())).one(db).await?.is_some())
}

/// Makes the administrator, and the workspace unless it stands, all or nothing. Every key is used up. `None` where the key opens
/// nothing, as when somebody else was first.
pub(crate) async fn found(
    db: &DatabaseConnection,
    key: &str,
    settings: Settings,
    founder: Founder,
) -> Result<Option<Account>, Error> {
    let hash = passwords::hashed(founder.password).await?;
    let txn = db.begin().await?;
    // Two at once: the second waits here, and finds no key. The lock comes first, so that neither waits for the other.
    let lock = Statement::from_string(DbBackend::Postgres, "LOCK TABLE account IN SHARE ROW EXCLUSIVE MODE");
    txn.execute_raw(lock).await?;
    let key = founding_key::Entity::delete_by_id(secret_hash(key.trim())).exec(&txn).await?;
    if key.rows_affected == 0 || account::Entity::find().one(&txn).await?.is_some() {
        return Ok(None);
    }
    founding_key::Entity::delete_many().exec(&txn).await?;
    put_workspace(&txn, settings).await?;
    let made = accounts::insert(&txn, &founder.email, &founder.name, Role::Administrator, hash).await?;
    ledger::tell(&txn, 0, 0).await?;
    txn.commit().await?;
    Ok(Some(made))
}

/// Makes the workspace, unless it stands; says whether it did.
pub(crate) async fn put_workspace(db: &impl ConnectionTrait, settings: Settings) -> Result<bool, Error> {
    let row = workspace::ActiveModel {
        id: Set(1),
        settings: Set(StoredSettings(settings)),
        revision: Set(0),
        next_id: Set(1),
    };
    let once = OnConflict::column(workspace::Column::Id).do_nothing().to_owned();
    Ok(workspace::Entity::insert(row).on_conflict(once).exec_without_returning(db).await? == 1)
}
