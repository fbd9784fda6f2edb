//! Accounts, their passwords, and tokens for programs.

use crate::{
    Error,
    entity::{account, api_token},
};
use argon2::{
    Argon2,
    password_hash::{PasswordHasher as _, PasswordVerifier as _, phc::PasswordHash},
};
use rand::{Rng as _, distr::Alphanumeric};
use sea_orm::{ActiveValue::Set, DatabaseConnection, SqlErr, entity::prelude::*};
use sha2::{Digest as _, Sha256};
use snug_core::Role;

/// Somebody who may sign in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Account {
    /// Identity.
    pub id: i32,
    /// E-mail address, lower case.
    pub email: String,
    /// Name shown.
    pub name: String,
    /// What they may do.
    pub role: Role,
}

impl Account {
    fn of(row: account::Model) -> Result<Self, Error> {
        Ok(Self { id: row.id, email: row.email, name: row.name, role: row.role.parse()? })
    }
}

/// The shortest password, in characters.
pub const SHORTEST_PASSWORD: usize = 10;

/// Makes an account. The password is hashed with argon2id.
pub async fn create(
    db: &DatabaseConnection,
    email: &str,
    name: &str,
    role: Role,
    password: String,
) -> Result<Account, Error> {
    let password_hash = blocking(move || {
        Argon2::default().hash_password(password.as_bytes()).map(|hash| hash.to_string()).map_err(|_| Error::Password)
    })
    .await?;
    let row = account::ActiveModel {
        email: Set(email.trim().to_lowercase()),
        name: Set(name.trim().to_owned()),
        role: Set(role.to_string()),
        password_hash: Set(password_hash),
        ..Default::default()
    };
    let made = row.insert(db).await.map_err(|error| match error.sql_err() {
        Some(SqlErr::UniqueConstraintViolation(_)) => Error::AccountExists,
        _ => Error::Db(error),
    })?;
    Account::of(made)
}

/// The account of an address and password, if they belong together. An unknown address takes as long as a wrong password.
pub async fn sign_in(db: &DatabaseConnection, email: &str, password: String) -> Result<Option<Account>, Error> {
    /// A hash of no password anybody has, to spend the same time on.
    const NOBODY: &str =
        "$argon2id$v=19$m=19456,t=2,p=1$c251Z3Jvc3RlcnNhbHQ$6oZ0Zl9qYI0yYkq1s6Jm0o4m1n2b3v4c5x6z7a8s9d0";
    let found = account::Entity::find().filter(account::Column::Email.eq(email.trim().to_lowercase())).one(db).await?;
    let hash = found.as_ref().map_or_else(|| NOBODY.to_owned(), |row| row.password_hash.clone());
    let right = blocking(move || {
        let hash = PasswordHash::new(&hash).map_err(|_| Error::Password)?;
        Ok(Argon2::default().verify_password(password.as_bytes(), &hash).is_ok())
    })
    .await?;
    found.filter(|_| right).map(Account::of).transpose()
}

async fn blocking<T: Send + 'static>(work: impl FnOnce() -> Result<T, Error> + Send + 'static) -> Result<T, Error> {
    tokio::task::spawn_blocking(work).await.map_err(|_| Error::Password)?
}

/// An account by its identity.
pub async fn by_id(db: &DatabaseConnection, id: i32) -> Result<Option<Account>, Error> {
    account::Entity::find_by_id(id).one(db).await?.map(Account::of).transpose()
}

/// Whether anybody can sign in yet.
pub async fn any(db: &DatabaseConnection) -> Result<bool, Error> {
    Ok(account::Entity::find().one(db).await?.is_some())
}

/// Makes a token for programs that act for an account. It is shown once; the database keeps its hash only.
pub async fn create_token(db: &DatabaseConnection, email: &str, name: &str) -> Result<Option<String>, Error> {
    let email = email.trim().to_lowercase();
    let Some(owner) = account::Entity::find().filter(account::Column::Email.eq(email)).one(db).await? else {
        return Ok(None);
    };
    let secret: String = rand::rng().sample_iter(Alphanumeric).take(40).map(char::from).collect();
    let token = format!("snug_{secret}");
    let row = api_token::ActiveModel {
        account_id: Set(owner.id),
        name: Set(name.to_owned()),
        hash: Set(hash(&token)),
        ..Default::default()
    };
    row.insert(db).await?;
    Ok(Some(token))
}

/// The account for which a token stands.
pub async fn by_token(db: &DatabaseConnection, token: &str) -> Result<Option<Account>, Error> {
    let Some(row) = api_token::Entity::find().filter(api_token::Column::Hash.eq(hash(token))).one(db).await? else {
        return Ok(None);
    };
    by_id(db, row.account_id).await
}

/// A token has 238 bits of chance, so a plain hash is enough to keep it.
fn hash(token: &str) -> String {
    use std::fmt::Write as _;
    Sha256::digest(token.as_bytes()).iter().fold(String::new(), |mut text, byte| {
        let _ = write!(text, "{byte:02x}");
        text
    })
}
