//! Accounts, their passwords, and tokens for programs.

use crate::{
    Error,
    entity::{account, api_token},
    passwords::{hashed, is_of},
};
use rand::{Rng as _, distr::Alphanumeric};
use sea_orm::{
    ActiveValue::Set, DatabaseConnection, DbBackend, QueryOrder as _, QuerySelect as _, SqlErr, Statement,
    TransactionTrait as _, entity::prelude::*,
};
use sha2::{Digest as _, Sha256};
use snug_core::{Actor, Role};

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
    /// As the rules of who may do and see what know them.
    #[must_use]
    pub fn actor(&self) -> Actor<'_> {
        Actor { role: self.role, email: &self.email }
    }

    fn of(row: account::Model) -> Result<Self, Error> {
        Ok(Self { id: row.id, email: row.email, name: row.name, role: row.role.parse()? })
    }
}

/// Makes an account. The password is hashed with argon2id.
///
/// # Errors
/// There is an account with this address, the password cannot be hashed, or the database does not answer.
pub async fn create(
    db: &DatabaseConnection,
    email: &str,
    name: &str,
    role: Role,
    password: String,
) -> Result<Account, Error> {
    let hash = hashed(password).await?;
    insert(db, email, name, role, hash).await
}

pub(crate) async fn insert(
    db: &impl ConnectionTrait,
    email: &str,
    name: &str,
    role: Role,
    password_hash: String,
) -> Result<Account, Error> {
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
///
/// # Errors
/// The stored hash cannot be used, or the database does not answer.
pub async fn sign_in(db: &DatabaseConnection, email: &str, password: String) -> Result<Option<Account>, Error> {
    /// A hash of no password anybody has, to spend the same time on.
    const NOBODY: &str =
        "$argon2id$v=19$m=19456,t=2,p=1$c251Z3Jvc3RlcnNhbHQ$6oZ0Zl9qYI0yYkq1s6Jm0o4m1n2b3v4c5x6z7a8s9d0";
    let found = account::Entity::find().filter(account::Column::Email.eq(email.trim().to_lowercase())).one(db).await?;
    let hash = found.as_ref().map_or_else(|| NOBODY.to_owned(), |row| row.password_hash.clone());
    let right = is_of(password, hash).await?;
    found.filter(|_| right).map(Account::of).transpose()
}

/// Whether this is the account's password.
///
/// # Errors
/// The stored hash cannot be used, or the database does not answer.
pub async fn is_password(db: &DatabaseConnection, account: &Account, password: String) -> Result<bool, Error> {
    Ok(sign_in(db, &account.email, password).await?.is_some())
}

/// Sets another password and ends every session but the one it is set in, and every token.
///
/// # Errors
/// The password cannot be hashed, or the database does not answer.
pub async fn set_password(
    db: &DatabaseConnection,
    account: i32,
    password: String,
    session: Option<&str>,
) -> Result<(), Error> {
    let hash = hashed(password).await?;
    let txn = db.begin().await?;
    put_password(&txn, account, hash, session).await?;
    Ok(txn.commit().await?)
}

pub(crate) async fn put_password(
    db: &impl ConnectionTrait,
    account: i32,
    hash: String,
    session: Option<&str>,
) -> Result<(), Error> {
    account::ActiveModel { id: Set(account), password_hash: Set(hash), ..Default::default() }.update(db).await?;
    // Whoever knew the old one may have made some.
    api_token::Entity::delete_many().filter(api_token::Column::AccountId.eq(account)).exec(db).await?;
    end_sessions(db, account, session).await
}

/// Ends an account's sessions, but for one.
///
/// # Errors
/// The database does not answer.
pub async fn end_sessions(db: &impl ConnectionTrait, account: i32, but: Option<&str>) -> Result<(), Error> {
    let sql = "DELETE FROM web_session WHERE data ->> 'account' = $1 AND id <> $2";
    let values = [account.to_string().into(), but.unwrap_or_default().into()];
    db.execute_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
    Ok(())
}

/// Everyone who can sign in, by name.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn all(db: &DatabaseConnection) -> Result<Vec<(Account, bool)>, Error> {
    let rows = account::Entity::find().order_by_asc(account::Column::Name).all(db).await?;
    let account = |row: account::Model| {
        let two_step = row.totp_secret.is_some();
        Account::of(row).map(|account| (account, two_step))
    };
    rows.into_iter().map(account).collect()
}

/// Gives an account another role. The last administrator stays one.
///
/// # Errors
/// It is the last administrator, or the database does not answer.
pub async fn set_role(db: &DatabaseConnection, account: i32, role: Role) -> Result<(), Error> {
    let txn = db.begin().await?;
    keep_an_administrator(&txn, account, role == Role::Administrator).await?;
    account::ActiveModel { id: Set(account), role: Set(role.to_string()), ..Default::default() }.update(&txn).await?;
    Ok(txn.commit().await?)
}

/// Takes an account away, with its sessions and tokens; what it did stays in the ledger.
///
/// # Errors
/// It is the last administrator, or the database does not answer.
pub async fn remove(db: &DatabaseConnection, account: i32) -> Result<(), Error> {
    let txn = db.begin().await?;
    keep_an_administrator(&txn, account, false).await?;
    end_sessions(&txn, account, None).await?;
    account::Entity::delete_by_id(account).exec(&txn).await?;
    Ok(txn.commit().await?)
}

async fn keep_an_administrator(db: &impl ConnectionTrait, account: i32, stays: bool) -> Result<(), Error> {
    let administrators = account::Entity::find().filter(account::Column::Role.eq(Role::Administrator.as_str()));
    let others = administrators.lock_exclusive().all(db).await?.into_iter().filter(|row| row.id != account).count();
    if stays || others > 0 { Ok(()) } else { Err(Error::LastAdministrator) }
}

/// An account by its address.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn by_email(db: &impl ConnectionTrait, email: &str) -> Result<Option<Account>, Error> {
    let found = account::Entity::find().filter(account::Column::Email.eq(email.trim().to_lowercase())).one(db).await?;
    found.map(Account::of).transpose()
}

/// An account by its identity.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn by_id(db: &impl ConnectionTrait, id: i32) -> Result<Option<Account>, Error> {
    account::Entity::find_by_id(id).one(db).await?.map(Account::of).transpose()
}

/// Whether anybody can sign in yet.
///
/// # Errors
/// The database does not answer.
pub async fn any(db: &DatabaseConnection) -> Result<bool, Error> {
    Ok(account::Entity::find().one(db).await?.is_some())
}

/// What a token is good for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Scope {
    /// Reading.
    Read,
    /// Reading and changing, within what the account may do.
    Write,
}

/// A token as its owner sees it; the secret itself is not kept.
#[derive(Clone, Debug)]
pub struct Token {
    /// Identity.
    pub id: i32,
    /// What it is for.
    pub name: String,
    /// What it is good for.
    pub scope: Scope,
    /// Since when.
    pub made: DateTimeUtc,
}

/// Makes a token for programs that act for an account. It is shown once; the database keeps its hash only.
///
/// # Errors
/// The database does not answer.
pub async fn create_token(
    db: &DatabaseConnection,
    email: &str,
    name: &str,
    scope: Scope,
) -> Result<Option<String>, Error> {
    let Some(owner) = by_email(db, email).await? else { return Ok(None) };
    let token = format!("snug_{}", new_secret());
    let row = api_token::ActiveModel {
        account_id: Set(owner.id),
        name: Set(name.to_owned()),
        hash: Set(secret_hash(&token)),
        scopes: Set(if scope == Scope::Write { "write" } else { "read" }.to_owned()),
        ..Default::default()
    };
    row.insert(db).await?;
    Ok(Some(token))
}

fn scope_of(row: &api_token::Model) -> Scope {
    if row.scopes == "write" { Scope::Write } else { Scope::Read }
}

/// The account for which a token stands, and what it is good for.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn by_token(db: &DatabaseConnection, token: &str) -> Result<Option<(Account, Scope)>, Error> {
    let found = api_token::Entity::find().filter(api_token::Column::Hash.eq(secret_hash(token))).one(db).await?;
    let Some(row) = found else { return Ok(None) };
    Ok(by_id(db, row.account_id).await?.map(|account| (account, scope_of(&row))))
}

/// An account's tokens, the newest first.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn tokens(db: &DatabaseConnection, account: i32) -> Result<Vec<Token>, Error> {
    let rows = api_token::Entity::find().filter(api_token::Column::AccountId.eq(account));
    let rows = rows.order_by_desc(api_token::Column::Id).all(db).await?;
    let token =
        |row: api_token::Model| Token { scope: scope_of(&row), id: row.id, name: row.name, made: row.created_at };
    Ok(rows.into_iter().map(token).collect())
}

/// Ends a token of an account.
///
/// # Errors
/// The database does not answer.
pub async fn end_token(db: &DatabaseConnection, account: i32, token: i32) -> Result<(), Error> {
    let own = api_token::Entity::delete_many().filter(api_token::Column::AccountId.eq(account));
    own.filter(api_token::Column::Id.eq(token)).exec(db).await?;
    Ok(())
}

/// Forty letters and digits by chance: 238 bits.
pub(crate) fn new_secret() -> String {
    rand::rng().sample_iter(Alphanumeric).take(40).map(char::from).collect()
}

/// The hash under which a secret is kept. One made by chance cannot be guessed, so a plain hash is enough to keep it.
#[must_use]
pub fn secret_hash(secret: &str) -> String {
    hex(&Sha256::digest(secret.as_bytes()))
}

/// Bytes as hexadecimal digits.
#[must_use]
pub fn hex(bytes: &[u8]) -> String {
    use std::fmt::Write as _;
    bytes.iter().fold(String::new(), |mut text, byte| {
        let _ = write!(text, "{byte:02x}");
        text
    })
}
