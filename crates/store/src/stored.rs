//! How a kind of record is stored: its table, and the way between its records and rows, for every kind the same.

use crate::{Error, entity::json::FieldPairs};
use chrono::NaiveDate;
use sea_orm::{
    ActiveModelTrait, ColumnTrait, DatabaseTransaction, EntityTrait, Iterable, PrimaryKeyToColumn, QueryFilter,
    QueryOrder, sea_query::OnConflict,
};
use snug_core::{
    Day, NoSuchWord, Plan,
    change::{Change, Edit},
    fields::FieldValues,
    kinds::{Record, Subject},
};
use std::future::Future;

/// Rows a statement; `PostgreSQL` takes 65,535 parameters, and our widest table has 37 columns.
const BATCH: usize = 1_000;

/// A kind of record that has a table.
pub(crate) trait Stored: Record {
    /// The table.
    type Entity: EntityTrait;
    /// A row of it, to be written.
    type Row: ActiveModelTrait<Entity = Self::Entity> + Send;
    /// Whether the records stand in the plan.
    const IN_PLAN: bool = true;

    /// The row of a record.
    fn row(&self) -> Self::Row;
    /// The record of a row, without what lies in tables beside.
    fn record(row: <Self::Entity as EntityTrait>::Model) -> Result<Self, Error>;
    /// Writes anew what lies in tables beside, of the records with these identities.
    fn put_joined(_: &DatabaseTransaction, _: &[&Self], _: &[i32]) -> impl Future<Output = Result<(), Error>> + Send {
        async { Ok(()) }
    }
    /// Reads what lies in tables beside.
    fn load_joined(_: &DatabaseTransaction, _: &mut [Self]) -> impl Future<Output = Result<(), Error>> + Send {
        async { Ok(()) }
    }
}

/// The kinds that have a table: all of them, or this does not compile.
macro_rules! tables {
    ($($kind:ident),* $(,)?) => {
        /// Writes what is left of each record of a kind.
        pub(crate) async fn write_kind(
            txn: &sea_orm::DatabaseTransaction,
            kind: snug_core::kinds::Kind,
            changes: &[&snug_core::change::Change],
        ) -> Result<(), crate::Error> {
            match kind {
                snug_core::kinds::Kind::Settings => crate::entity::workspace::write_settings(txn, changes).await,
                $(snug_core::kinds::Kind::$kind => {
                    crate::stored::write_records::<snug_core::kinds::$kind>(txn, changes).await
                })*
            }
        }

        /// Reads every record of a kind into the plan.
        pub(crate) async fn load_kind(
            txn: &sea_orm::DatabaseTransaction,
            kind: snug_core::kinds::Kind,
            plan: &mut snug_core::Plan,
        ) -> Result<(), crate::Error> {
            match kind {
                // They are read with the workspace.
                snug_core::kinds::Kind::Settings => Ok(()),
                $(snug_core::kinds::Kind::$kind => {
                    crate::stored::load_records::<snug_core::kinds::$kind>(txn, plan).await
                })*
            }
        }
    };
}
pub(crate) use tables;

/// Writes what is left of each record of a kind.
pub(crate) async fn write_records<R: Stored>(txn: &DatabaseTransaction, changes: &[&Change]) -> Result<(), Error> {
    let edits: Vec<&Edit<R>> = changes.iter().filter_map(|change| R::in_change(change)).collect();
    let after: Vec<&R> = edits.iter().filter_map(|edit| edit.after.as_ref()).collect();
    let gone = edits.iter().filter(|edit| edit.after.is_none()).filter_map(|edit| edit.before.as_ref());
    let gone: Vec<i32> = gone.map(Subject::number).collect();
    let [id] = keys::<R::Entity>()[..] else { return Err(Error::Damaged("a table has no single key".to_owned())) };
    clear::<R::Entity>(txn, id, &gone).await?;
    put::<R::Entity, _>(txn, after.iter().map(|record| record.row()).collect()).await?;
    let altered: Vec<i32> = after.iter().map(|record| record.number()).collect();
    R::put_joined(txn, &after, &altered).await
}

/// Reads every record of a kind into the plan.
pub(crate) async fn load_records<R: Stored>(txn: &DatabaseTransaction, plan: &mut Plan) -> Result<(), Error> {
    if !R::IN_PLAN {
        return Ok(());
    }
    let [id] = keys::<R::Entity>()[..] else { return Err(Error::Damaged("a table has no single key".to_owned())) };
    let rows = R::Entity::find().order_by_asc(id).all(txn).await?;
    let mut records: Vec<R> = rows.into_iter().map(R::record).collect::<Result<_, Error>>()?;
    R::load_joined(txn, &mut records).await?;
    for record in records {
        plan.apply(&R::change(Edit::new(record)));
    }
    Ok(())
}

fn keys<E: EntityTrait>() -> Vec<E::Column> {
    E::PrimaryKey::iter().map(PrimaryKeyToColumn::into_column).collect()
}

/// Removes the rows whose column has one of these values.
pub(crate) async fn clear<E: EntityTrait>(txn: &DatabaseTransaction, key: E::Column, ids: &[i32]) -> Result<(), Error> {
    for batch in ids.chunks(BATCH) {
        E::delete_many().filter(key.is_in(batch.iter().copied())).exec(txn).await?;
    }
    Ok(())
}

/// Inserts rows, or overwrites those whose key is there.
pub(crate) async fn put<E, A>(txn: &DatabaseTransaction, rows: Vec<A>) -> Result<(), Error>
where
    E: EntityTrait,
    A: ActiveModelTrait<Entity = E> + Send,
{
    let keys = keys::<E>();
    let is_key = |column: &E::Column| keys.iter().any(|key| key.as_column_ref() == column.as_column_ref());
    let others: Vec<E::Column> = E::Column::iter().filter(|column| !is_key(column)).collect();
    let mut rows = rows.into_iter().peekable();
    while rows.peek().is_some() {
        let batch: Vec<A> = rows.by_ref().take(BATCH).collect();
        let conflict = OnConflict::columns(keys.clone()).update_columns(others.clone()).to_owned();
        E::insert_many(batch).on_conflict(conflict).exec_without_returning(txn).await?;
    }
    Ok(())
}

impl From<NoSuchWord> for Error {
    fn from(error: NoSuchWord) -> Self {
        Self::Damaged(error.to_string())
    }
}

/// A day of the plan.
pub(crate) fn day(date: NaiveDate) -> Day {
    Day::from_date(date)
}

/// The same where there may be none.
pub(crate) fn days(date: Option<NaiveDate>) -> Option<Day> {
    date.map(day)
}

/// A day of the plan as the database has it, where there may be none.
pub(crate) fn dates(day: Option<Day>) -> Option<NaiveDate> {
    day.map(Day::date)
}

/// Values of the workspace's own fields as the database has them.
pub(crate) fn pairs(values: &FieldValues) -> FieldPairs {
    FieldPairs(values.iter().map(|(id, value)| (*id, value.clone())).collect())
}

/// The way back.
pub(crate) fn values(pairs: FieldPairs) -> FieldValues {
    pairs.0.into_iter().collect()
}

/// A place in a list.
pub(crate) fn position(index: usize) -> i32 {
    i32::try_from(index).unwrap_or(i32::MAX)
}
