//! The second step of signing in: the shared secret of an authenticator, and codes that stand in for a lost one.

use crate::{
    Error, Seal,
    entity::{account, recovery_code},
    passwords::{hashed, which_of},
};
use chrono::{DateTime, Duration, Utc};
use rand::{Rng as _, distr::Uniform};
use sea_orm::{ActiveValue::Set, DatabaseConnection, QuerySelect as _, TransactionTrait as _, entity::prelude::*};

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
/// It is sealed with another key, or the database does not answer.
pub async fn of(db: &DatabaseConnection, seal: &Seal, account: i32) -> Result<Option<TwoStep>, Error> {
    let found = account::Entity::find_by_id(account).one(db).await?.and_then(|row| row.totp_secret);
    let Some(secret) = found else { return Ok(None) };
    let secret = seal.open(&secret, account)?;
    let codes = recovery_code::Entity::find().filter(recovery_code::Column::AccountId.eq(account));
    Ok(Some(TwoStep { secret, codes_left: codes.count(db).await? }))
}

/// Sets the second step up and returns its recovery codes, which are shown once. `step` is the time step of the code that proved
/// the authenticator; it is used up.
///
/// # Errors
/// The codes cannot be hashed, or the database does not answer.
pub async fn set_up(
    db: &DatabaseConnection,
    seal: &Seal,
    account: i32,
    secret: &str,
    step: i64,
) -> Result<Vec<String>, Error> {
    /// As many codes as one prints on a card.
    const CODES: usize = 10;
    let codes: Vec<String> = (0..CODES).map(|_| code()).collect();
    let mut hashes = Vec::with_capacity(CODES);
    for code in &codes {
        hashes.push(hashed(code.clone()).await?);
    }
    let txn = db.begin().await?;
    let row = account::ActiveModel {
        id: Set(account),
        totp_secret: Set(Some(seal.close(secret, account)?)),
        totp_step: Set(step),
        ..Default::default()
    };
    row.update(&txn).await?;
    clear(&txn, account).await?;
    let rows = hashes.into_iter().map(|hash| recovery_code::ActiveModel { account_id: Set(account), hash: Set(hash) });
    recovery_code::Entity::insert_many(rows).exec_without_returning(&txn).await?;
    txn.commit().await?;
    Ok(codes)
}

/// Seals secrets that were kept before there was a key.
///
/// # Errors
/// The database does not answer.
pub async fn seal_all(db: &DatabaseConnection, seal: &Seal) -> Result<(), Error> {
    for row in account::Entity::find().filter(account::Column::TotpSecret.is_not_null()).all(db).await? {
        let Some(kept) = row.totp_secret else { continue };
        // One that is sealed already, by whatever key, stays as it is.
        let sealed = if Seal::is_closed(&kept) { kept.clone() } else { seal.close(&kept, row.id)? };
        let same = account::Column::TotpSecret.eq(kept);
        let put = account::ActiveModel { totp_secret: Set(Some(sealed)), ..Default::default() };
        account::Entity::update_many().set(put).filter(account::Column::Id.eq(row.id)).filter(same).exec(db).await?;
    }
    Ok(())
}

/// Wrong codes after which the next attempt has to wait.
const FREE: i32 = 5;

/// An attempt at a code.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Attempt {
    /// It may be tried; so many were wrong before.
    Nth(i32),
    /// Not before then.
    Wait(DateTime<Utc>),
}

/// Counts an attempt at a code, before it is looked at, so that many at once are no more than one after the other. Five are free;
/// after each further one the wait is twice as long, up to a day. Only a right code ends it.
///
/// # Errors
/// The database does not answer.
pub async fn attempt(db: &DatabaseConnection, account: i32) -> Result<Attempt, Error> {
    let txn = db.begin().await?;
    let Some(row) = account::Entity::find_by_id(account).lock_exclusive().one(&txn).await? else {
        return Ok(Attempt::Nth(0));
    };
    if let Some(until) = row.codes_wait_until.filter(|until| *until > Utc::now()) {
        txn.rollback().await?;
        return Ok(Attempt::Wait(until));
    }
    let before = row.wrong_codes;
    let minutes = u32::try_from(before.saturating_add(1) - FREE).ok().map(|beyond| 1_i64 << beyond.min(11));
    let wait = minutes.map(|minutes| Utc::now() + Duration::minutes(minutes.min(24 * 60)));
    let counted = account::ActiveModel {
        id: Set(account),
        wrong_codes: Set(before.saturating_add(1)),
        codes_wait_until: Set(wait),
        ..Default::default()
    };
    counted.update(&txn).await?;
    txn.commit().await?;
    Ok(Attempt::Nth(before))
}

/// A code was right: nothing is counted any more.
///
/// # Errors
/// The database does not answer.
pub async fn was_right(db: &DatabaseConnection, account: i32) -> Result<(), Error> {
    let free = account::ActiveModel {
        id: Set(account),
        wrong_codes: Set(0),
        codes_wait_until: Set(None),
        ..Default::default()
    };
    free.update(db).await?;
    Ok(())
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
    let own = recovery_code::Entity::find().filter(recovery_code::Column::AccountId.eq(account)).all(db).await?;
    let hashes = own.into_iter().map(|row| row.hash).collect::<Vec<_>>();
    let Some(at) = which_of(code.trim().to_lowercase(), hashes.clone()).await? else { return Ok(false) };
    // Whoever deletes it uses it; a second one finds it gone.
    let used = recovery_code::Entity::delete_by_id((account, hashes[at].clone())).exec(db).await?;
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
