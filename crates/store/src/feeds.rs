//! Calendars that are subscribed to, and the secret addresses of people's own. What a calendar says goes into the plan through the
//! ledger; which calendars are read, and how that went, is no part of the plan.

use crate::{
    Error,
    accounts::{new_secret, secret_hash},
    entity::{calendar_key, feed},
};
use chrono::{DateTime, Utc};
use sea_orm::{
    ActiveValue::Set, DatabaseConnection, DbBackend, QueryOrder as _, Statement, entity::prelude::*,
    sea_query::OnConflict,
};
use snug_core::{PersonId, calendars::Purpose};

/// A calendar that is subscribed to.
#[derive(Clone, Debug)]
pub struct Feed {
    /// Identity.
    pub id: i32,
    /// The account that subscribed, for which it is read.
    pub account: i32,
    /// What it is called.
    pub name: String,
    /// Where it is.
    pub address: String,
    /// What it is of.
    pub purpose: Purpose,
    /// Why it could not be read last time; empty when it could.
    pub problem: String,
    /// What changed when it was read last.
    pub changes: i32,
    /// When it was tried last.
    pub tried: Option<DateTime<Utc>>,
    /// When it was read last.
    pub read: Option<DateTime<Utc>>,
}

impl Feed {
    fn of(row: feed::Model) -> Result<Self, Error> {
        let damaged = || Error::Damaged(format!("feed {} is of nothing", row.id));
        let person = || row.person_id.map(PersonId).ok_or_else(damaged);
        let purpose = match row.purpose.as_str() {
            "holidays" => Purpose::Holidays(row.calendar.clone()),
            "time off" => Purpose::TimeOff(person()?),
            _ => Purpose::Meetings(person()?),
        };
        Ok(Self {
            id: row.id,
            account: row.account_id,
            name: row.name,
            address: row.address,
            purpose,
            problem: row.problem,
            changes: row.changes,
            tried: row.tried_at,
            read: row.read_at,
        })
    }

    /// The name under which its records stand in the plan.
    #[must_use]
    pub fn source(&self) -> String {
        format!("feed-{}", self.id)
    }
}

/// Every calendar, by name.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn all(db: &DatabaseConnection) -> Result<Vec<Feed>, Error> {
    let rows = feed::Entity::find().order_by_asc(feed::Column::Name).order_by_asc(feed::Column::Id).all(db).await?;
    rows.into_iter().map(Feed::of).collect()
}

/// One calendar.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn by_id(db: &DatabaseConnection, id: i32) -> Result<Option<Feed>, Error> {
    feed::Entity::find_by_id(id).one(db).await?.map(Feed::of).transpose()
}

/// Subscribes to a calendar; it is read as soon as somebody looks for what is due.
///
/// # Errors
/// The database does not answer.
pub async fn subscribe(
    db: &DatabaseConnection,
    account: i32,
    name: &str,
    address: &str,
    purpose: &Purpose,
) -> Result<i32, Error> {
    let (word, calendar, person) = match purpose {
        Purpose::Holidays(calendar) => ("holidays", calendar.clone(), None),
        Purpose::TimeOff(person) => ("time off", String::new(), Some(person.0)),
        Purpose::Meetings(person) => ("meetings", String::new(), Some(person.0)),
    };
    let row = feed::ActiveModel {
        account_id: Set(account),
        name: Set(name.to_owned()),
        address: Set(address.to_owned()),
        purpose: Set(word.to_owned()),
        calendar: Set(calendar),
        person_id: Set(person),
        problem: Set(String::new()),
        changes: Set(0),
        ..Default::default()
    };
    Ok(feed::Entity::insert(row).exec(db).await?.last_insert_id)
}

/// Reads a calendar no longer. What it brought in stays.
///
/// # Errors
/// The database does not answer.
pub async fn leave(db: &DatabaseConnection, id: i32) -> Result<(), Error> {
    feed::Entity::delete_by_id(id).exec(db).await?;
    Ok(())
}

/// Calendars that were not tried for an hour, taken so that no other server takes them as well.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn take_due(db: &DatabaseConnection) -> Result<Vec<Feed>, Error> {
    let sql = "UPDATE feed SET tried_at = now() WHERE id IN (SELECT id FROM feed WHERE tried_at IS NULL \
               OR tried_at < now() - interval '1 hour' ORDER BY tried_at NULLS FIRST LIMIT 10 FOR UPDATE SKIP LOCKED) RETURNING *";
    let rows = feed::Entity::find().from_raw_sql(Statement::from_string(DbBackend::Postgres, sql)).all(db).await?;
    rows.into_iter().map(Feed::of).collect()
}

/// Notes how a reading went: how many records changed and what was left out, in words; or why it failed.
///
/// # Errors
/// The database does not answer.
pub async fn note(db: &DatabaseConnection, id: i32, went: Result<(usize, &str), &str>) -> Result<(), Error> {
    /// What is told of a reading at most, in characters.
    const LONGEST: usize = 500;
    let mut row = feed::ActiveModel { id: Set(id), tried_at: Set(Some(Utc::now())), ..Default::default() };
    match went {
        Ok((changes, left_out)) => {
            row.problem = Set(left_out.chars().take(LONGEST).collect());
            row.changes = Set(i32::try_from(changes).unwrap_or(i32::MAX));
            row.read_at = Set(Some(Utc::now()));
        }
        Err(problem) => row.problem = Set(problem.chars().take(LONGEST).collect()),
    }
    // Somebody may have left it meanwhile.
    feed::Entity::update_many().set(row).filter(feed::Column::Id.eq(id)).exec(db).await?;
    Ok(())
}

/// Makes the secret under which a person's calendar is read; an older one is worth nothing from then on.
///
/// # Errors
/// The database does not answer.
pub async fn new_key(db: &DatabaseConnection, person: PersonId) -> Result<String, Error> {
    let secret = new_secret();
    let row = calendar_key::ActiveModel { person_id: Set(person.0), hash: Set(secret_hash(&secret)) };
    let replace =
        OnConflict::column(calendar_key::Column::PersonId).update_column(calendar_key::Column::Hash).to_owned();
    calendar_key::Entity::insert(row).on_conflict(replace).exec_without_returning(db).await?;
    Ok(secret)
}

/// Ends the secret address of a person's calendar; says whether there was one.
///
/// # Errors
/// The database does not answer.
pub async fn end_key(db: &DatabaseConnection, person: PersonId) -> Result<bool, Error> {
    Ok(calendar_key::Entity::delete_by_id(person.0).exec(db).await?.rows_affected == 1)
}

/// Whose calendar a secret opens.
///
/// # Errors
/// The database does not answer.
pub async fn person_of(db: &DatabaseConnection, secret: &str) -> Result<Option<PersonId>, Error> {
    let found = calendar_key::Entity::find().filter(calendar_key::Column::Hash.eq(secret_hash(secret))).one(db).await?;
    Ok(found.map(|row| PersonId(row.person_id)))
}
