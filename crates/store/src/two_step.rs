//! The second step of signing in: the shared secret of an authenticator, and codes that stand in for a lost one.

use crate::{
    Error,
    accounts::secret_hash,
    entity::{account, recovery_code},
};
use rand::{Rng as _, distr::Uniform};
use sea_orm::{ActiveValue::Set, DatabaseConnection, TransactionTrait as _, entity::prelude::*};

/// What somebody's second step is.
#[derive(Clone, Debug)]
pub struct TwoStep {
    /// The shared secret in base 32.
    pub secret: String,
    /// Recovery codes that were not used yet.
    pub codes_left: u64,
}

/// The second step of an account; `None` where it was not set up.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn of(db: &DatabaseConnection, account: i32) -> Result<Option<TwoStep>, Error> {
    let found = account::Entity::find_by_id(account).one(db).await?.and_then(|row| row.totp_secret);
    let Some(secret) = found else { return Ok(None) };
    let codes = recovery_code::Entity::find().filter(recovery_code::Column::AccountId.eq(account));
    Ok(Some(TwoStep { secret, codes_left: codes.count(db).await? }))
}

/// Sets the second step up and returns its recovery codes, which are shown once.
///
/// # Errors
/// The database does not answer.
pub async fn set_up(db: &DatabaseConnection, account: i32, secret: &str) -> Result<Vec<String>, Error> {
    /// As many codes as one prints on a card.
    const CODES: usize = 10;
    let codes: Vec<String> = (0..CODES).map(|_| code()).collect();
    let txn = db.begin().await?;
    let row =
        account::ActiveModel { id: Set(account), totp_secret: Set(Some(secret.to_owned())), ..Default::default() };
    row.update(&txn).await?;
    clear(&txn, account).await?;
    let hashed =
        codes.iter().map(|code| recovery_code::ActiveModel { account_id: Set(account), hash: Set(secret_hash(code)) });
    recovery_code::Entity::insert_many(hashed).exec_without_returning(&txn).await?;
    txn.commit().await?;
    Ok(codes)
}

/// Takes the second step away.
///
/// # Errors
/// The database does not answer.
pub async fn take_away(db: &DatabaseConnection, account: i32) -> Result<(), Error> {
    let txn = db.begin().await?;
    let row = account::ActiveModel { id: Set(account), totp_secret: Set(None), ..Default::default() };
    row.update(&txn).await?;
    clear(&txn, account).await?;
    Ok(txn.commit().await?)
}

async fn clear(db: &impl ConnectionTrait, account: i32) -> Result<(), Error> {
    recovery_code::Entity::delete_many().filter(recovery_code::Column::AccountId.eq(account)).exec(db).await?;
    Ok(())
}

/// Uses a recovery code up; `false` when there is no such code.
///
/// # Errors
/// The database does not answer.
pub async fn use_code(db: &DatabaseConnection, account: i32, code: &str) -> Result<bool, Error> {
    let hash = secret_hash(&code.trim().to_lowercase());
    let used = recovery_code::Entity::delete_many()
        .filter(recovery_code::Column::AccountId.eq(account))
        .filter(recovery_code::Column::Hash.eq(hash))
        .exec(db)
        .await?;
    Ok(used.rows_affected == 1)
}

/// Uses a time step up, so that a code that was looked at over a shoulder is worth nothing; `false` when it was used already.
///
/// # Errors
/// The database does not answer.
pub async fn use_step(db: &DatabaseConnection, account: i32, step: i64) -> Result<bool, Error> {
    let used = account::Entity::update_many()
        .col_expr(account::Column::TotpStep, Expr::value(step))
        .filter(account::Column::Id.eq(account))
        .filter(account::Column::TotpStep.lt(step))
        .exec(db)
        .await?;
    Ok(used.rows_affected == 1)
}

/// `k7m2-9xqp`: eight characters that are not mistaken for one another.
fn code() -> String {
    const LETTERS: &[u8] = b"23456789abcdefghjkmnpqrstuvwxyz";
    let Ok(range) = Uniform::new(0, LETTERS.len()) else { return String::new() };
    let text: String = rand::rng().sample_iter(range).take(12).map(|at| char::from(LETTERS[at])).collect();
    format!("{}-{}-{}", &text[..4], &text[4..8], &text[8..])
}
