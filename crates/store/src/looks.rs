//! Saved looks: a room's address under a name. They belong to an account, as its password does, and are no part of the plan: no rule
//! reads them, and what somebody keeps for themselves is told to nobody through the ledger.

use crate::{Error, entity::saved_look};
use sea_orm::{
    ActiveValue::Set, DatabaseConnection, DbBackend, ExprTrait as _, QueryOrder as _, QueryResult, Statement,
    entity::prelude::*, sea_query::OnConflict,
};
use snug_core::Day;

/// A saved look.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Look {
    /// Identity.
    pub id: i32,
    /// What it is called.
    pub name: String,
    /// The room's address.
    pub address: String,
    /// Whether everybody sees it.
    pub shared: bool,
    /// Whether it is of who asks.
    pub own: bool,
    /// The ISO weekday on which it is mailed to whoever keeps it, 1 for Monday.
    pub mail_weekday: Option<i16>,
}

/// What is kept of a look.
#[derive(Clone, Copy, Debug)]
pub struct Kept<'a> {
    /// What it is called.
    pub name: &'a str,
    /// The room's address.
    pub address: &'a str,
    /// Whether everybody sees it.
    pub shared: bool,
    /// The ISO weekday on which it is mailed.
    pub mail_weekday: Option<i16>,
}

/// The looks of a room that an account sees: its own, then what others share, each by name.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn of_room(db: &DatabaseConnection, account: i32, room: &str) -> Result<Vec<Look>, Error> {
    use saved_look::Column;
    let seen = Column::AccountId.eq(account).or(Column::Shared.eq(true));
    let rows = saved_look::Entity::find().filter(Column::Room.eq(room)).filter(seen);
    let rows = rows.order_by_asc(Column::Name).order_by_asc(Column::Id).all(db).await?;
    let look = |row: saved_look::Model| Look {
        id: row.id,
        own: row.account_id == account,
        name: row.name,
        address: row.address,
        shared: row.shared,
        mail_weekday: row.mail_weekday,
    };
    let mut looks: Vec<Look> = rows.into_iter().map(look).collect();
    looks.sort_by_key(|look| !look.own);
    Ok(looks)
}

/// Keeps a look; one of the same name is replaced.
///
/// # Errors
/// The database does not answer.
pub async fn keep(db: &DatabaseConnection, account: i32, room: &str, look: Kept<'_>) -> Result<(), Error> {
    use saved_look::Column;
    let row = saved_look::ActiveModel {
        account_id: Set(account),
        room: Set(room.to_owned()),
        name: Set(look.name.to_owned()),
        address: Set(look.address.to_owned()),
        shared: Set(look.shared),
        mail_weekday: Set(look.mail_weekday),
        ..Default::default()
    };
    let replace = OnConflict::columns([Column::AccountId, Column::Room, Column::Name])
        .update_columns([Column::Address, Column::Shared, Column::MailWeekday])
        .to_owned();
    saved_look::Entity::insert(row).on_conflict(replace).exec_without_returning(db).await?;
    Ok(())
}

/// Forgets a look of one's own; `anyones` forgets what others share, too. Whether there was one.
///
/// # Errors
/// The database does not answer.
pub async fn forget(db: &DatabaseConnection, account: i32, id: i32, anyones: bool) -> Result<bool, Error> {
    use saved_look::Column;
    let own = Column::AccountId.eq(account);
    let may = if anyones { own.or(Column::Shared.eq(true)) } else { own };
    let gone = saved_look::Entity::delete_many().filter(Column::Id.eq(id)).filter(may).exec(db).await?;
    Ok(gone.rows_affected > 0)
}

/// A look that is to be mailed now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Due {
    /// Identity.
    pub id: i32,
    /// Whose it is.
    pub account: i32,
    /// What it is called.
    pub name: String,
    /// The room's address.
    pub address: String,
}

/// Takes the looks of a room that are to be mailed on a day, each once whatever number of servers ask: those of its weekday that have
/// not been mailed on it.
///
/// # Errors
/// The database does not answer.
pub async fn take_due(db: &DatabaseConnection, room: &str, today: Day) -> Result<Vec<Due>, Error> {
    let sql = "UPDATE saved_look SET mailed_on = $2 WHERE room = $1 AND mail_weekday = extract(isodow FROM $2::date) \
         AND (mailed_on IS NULL OR mailed_on < $2) RETURNING id, account_id, name, address";
    let values = [room.into(), today.date().into()];
    let rows = db.query_all_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
    let due = |row: QueryResult| {
        Ok(Due {
            id: row.try_get("", "id")?,
            account: row.try_get("", "account_id")?,
            name: row.try_get("", "name")?,
            address: row.try_get("", "address")?,
        })
    };
    rows.into_iter().map(due).collect()
}

/// Gives a look back that could not be mailed, so that it is tried again.
///
/// # Errors
/// The database does not answer.
pub async fn give_back(db: &DatabaseConnection, id: i32) -> Result<(), Error> {
    let not_mailed = saved_look::Entity::update_many()
        .col_expr(saved_look::Column::MailedOn, Expr::value(Option::<Date>::None))
        .filter(saved_look::Column::Id.eq(id));
    not_mailed.exec(db).await?;
    Ok(())
}
