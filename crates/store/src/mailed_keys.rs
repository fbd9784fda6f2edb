//! Ways in besides a password: invitations and password resets, each by a key that is mailed and kept as a hash only.

use crate::{
    Error,
    accounts::{self, Account, new_secret, secret_hash},
    entity::door_key,
    passwords::hashed,
};
use chrono::{DateTime, Duration, Utc};
use sea_orm::{DatabaseConnection, QueryOrder as _, TransactionTrait as _, entity::prelude::*};
use snug_core::Role;

/// What a key opens.
#[derive(Clone, Debug)]
pub struct MailedKey {
    /// For whom.
    pub email: String,
    /// What they are called, where the invitation says it.
    pub name: String,
    /// What they will be allowed.
    pub role: Role,
    /// Until when.
    pub expires: DateTime<Utc>,
    /// By which it is known on pages; it opens nothing.
    pub hash: String,
    is_invitation: bool,
}

impl MailedKey {
    fn of(row: door_key::Model) -> Result<Self, Error> {
        Ok(Self {
            email: row.email,
            name: row.name,
            role: row.role.parse()?,
            expires: row.expires_at,
            hash: row.hash,
            is_invitation: row.kind == "invitation",
        })
    }

    /// Whether it makes an account, rather than a new password.
    #[must_use]
    pub fn is_invitation(&self) -> bool {
        self.is_invitation
    }
}

/// Makes an invitation, good for a week; an older one for the same address is worth nothing from then on.
///
/// # Errors
/// There is an account with this address, or the database does not answer.
pub async fn invite(db: &DatabaseConnection, email: &str, name: &str, role: Role) -> Result<String, Error> {
    let email = email.trim().to_lowercase();
    if accounts::by_email(db, &email).await?.is_some() {
        return Err(Error::AccountExists);
    }
    make(db, "invitation", &email, name, role, Duration::days(7)).await
}

/// Makes a key for a new password, good for an hour; `None` where there is no such account.
///
/// # Errors
/// The database does not answer.
pub async fn reset(db: &DatabaseConnection, email: &str) -> Result<Option<(Account, String)>, Error> {
    let Some(account) = accounts::by_email(db, email).await? else { return Ok(None) };
    let key = make(db, "reset", &account.email, &account.name, account.role, Duration::hours(1)).await?;
    Ok(Some((account, key)))
}

async fn make(
    db: &DatabaseConnection,
    kind: &str,
    email: &str,
    name: &str,
    role: Role,
    good_for: Duration,
) -> Result<String, Error> {
    let key = new_secret();
    let txn = db.begin().await?;
    let older = door_key::Entity::delete_many().filter(door_key::Column::Email.eq(email));
    older.filter(door_key::Column::Kind.eq(kind)).exec(&txn).await?;
    let now = Utc::now();
    let row = door_key::Model {
        hash: secret_hash(&key),
        kind: kind.to_owned(),
        email: email.to_owned(),
        name: name.trim().to_owned(),
        role: role.to_string(),
        made_at: now,
        expires_at: now + good_for,
    };
    door_key::Entity::insert(door_key::ActiveModel::from(row)).exec_without_returning(&txn).await?;
    txn.commit().await?;
    Ok(key)
}

/// What a key opens, if it is still good.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn behind(db: &DatabaseConnection, key: &str) -> Result<Option<MailedKey>, Error> {
    let row = door_key::Entity::find_by_id(secret_hash(key)).one(db).await?;
    row.filter(|row| row.expires_at > Utc::now()).map(MailedKey::of).transpose()
}

/// Goes through: makes the account of an invitation, or sets the new password and ends every session. The key is used up.
///
/// # Errors
/// There is an account with this address, the password cannot be hashed, or the database does not answer.
pub async fn pass(db: &DatabaseConnection, key: &str, name: &str, password: String) -> Result<Option<Account>, Error> {
    let Some(door) = behind(db, key).await? else { return Ok(None) };
    let hash = hashed(password).await?;
    let txn = db.begin().await?;
    // Whoever deletes the key goes through; a second one finds it gone.
    if door_key::Entity::delete_by_id(&door.hash).exec(&txn).await?.rows_affected == 0 {
        return Ok(None);
    }
    let account = if door.is_invitation {
        accounts::insert(&txn, &door.email, name, door.role, hash).await?
    } else {
        let Some(account) = accounts::by_email(&txn, &door.email).await? else { return Ok(None) };
        accounts::put_password(&txn, account.id, hash, None).await?;
        account
    };
    txn.commit().await?;
    Ok(Some(account))
}

/// Invitations that nobody has followed yet, the newest first.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn open_invitations(db: &DatabaseConnection) -> Result<Vec<MailedKey>, Error> {
    let open = door_key::Entity::find().filter(door_key::Column::Kind.eq("invitation"));
    open.order_by_desc(door_key::Column::MadeAt).all(db).await?.into_iter().map(MailedKey::of).collect()
}

/// Takes an invitation back.
///
/// # Errors
/// The database does not answer.
pub async fn withdraw(db: &DatabaseConnection, hash: &str) -> Result<(), Error> {
    door_key::Entity::delete_by_id(hash).exec(db).await?;
    Ok(())
}
