//! Saved looks: a room's address under a name. They belong to an account, as its password does, and are no part of the plan: no rule
//! reads them, and what somebody keeps for themselves is told to nobody through the ledger.

use crate::{Error, entity::saved_look};
use sea_orm::{
    ActiveValue::Set, DatabaseConnection, ExprTrait as _, QueryOrder as _, entity::prelude::*, sea_query::OnConflict,
};

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
    };
    let mut looks: Vec<Look> = rows.into_iter().map(look).collect();
    looks.sort_by_key(|look| !look.own);
    Ok(looks)
}

/// Keeps a look; one of the same name is replaced.
///
/// # Errors
/// The database does not answer.
pub async fn keep(
    db: &DatabaseConnection,
    account: i32,
    room: &str,
    (name, address, shared): (&str, &str, bool),
) -> Result<(), Error> {
    use saved_look::Column;
    let row = saved_look::ActiveModel {
        account_id: Set(account),
        room: Set(room.to_owned()),
        name: Set(name.to_owned()),
        address: Set(address.to_owned()),
        shared: Set(shared),
        ..Default::default()
    };
    let replace = OnConflict::columns([Column::AccountId, Column::Room, Column::Name])
        .update_columns([Column::Address, Column::Shared])
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
