//! Drafts: whose they are, what they are called, and how their plans are put together again.

use crate::{Error, entity::draft, ledger::Ledger};
use sea_orm::{
    ActiveValue::Set, DatabaseConnection, DbBackend, ExprTrait as _, QueryOrder as _, Statement, TransactionTrait as _,
    entity::prelude::*, sea_query::Expr,
};
use snug_core::{
    Day, Plan,
    change::{Change, inverse_of},
};
use std::sync::Arc;

/// A draft is forgotten when nobody has looked at it for so many days.
pub const KEPT_DAYS: i32 = 90;

/// A draft, without its plan.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Draft {
    /// Its number.
    pub id: i32,
    /// The account whose it is.
    pub owner: i32,
    /// What it is called.
    pub name: String,
    /// Whether everybody may open it.
    pub shared: bool,
    /// The live plan's revision on which it stands.
    pub base: i64,
    /// Its last entry; `base` where nothing was changed in it.
    pub revision: i64,
    /// The day on which somebody last looked at it.
    pub looked_on: Day,
}

impl Draft {
    fn of(row: draft::Model) -> Self {
        Self {
            id: row.id,
            owner: row.account_id,
            name: row.name,
            shared: row.shared,
            base: row.base,
            revision: row.revision,
            looked_on: Day::from_date(row.looked_on),
        }
    }

    /// Whether an account may open it.
    #[must_use]
    pub fn is_for(&self, account: i32) -> bool {
        self.shared || self.owner == account
    }

    /// The last day on which it is kept if nobody looks at it any more.
    #[must_use]
    pub fn kept_until(&self) -> Day {
        self.looked_on + KEPT_DAYS
    }
}

/// Of what a draft is made.
#[derive(Clone, Copy, Debug)]
pub enum Origin<'a> {
    /// Of the live plan as it is at a revision.
    Live(i64),
    /// Of another draft: it stands where that one stands, and has its entries.
    Draft(&'a Draft),
}

/// Makes a draft, and returns its number.
///
/// # Errors
/// The database does not answer.
pub async fn make(
    db: &DatabaseConnection,
    owner: i32,
    (name, shared): (&str, bool),
    of: Origin<'_>,
    today: Day,
) -> Result<i32, Error> {
    /// Copies the entries of the draft `$2`, up to the revision `$3`, for the draft `$1`.
    const COPIES: [&str; 2] = [
        "INSERT INTO ledger (draft, revision, at, actor, title, command, undoes, changes, day) \
         SELECT $1, revision, at, actor, title, command, undoes, changes, day FROM ledger WHERE draft = $2 AND revision <= $3",
        "INSERT INTO ledger_change (draft, revision, position, kind, subject, change) \
         SELECT $1, revision, position, kind, subject, change FROM ledger_change WHERE draft = $2 AND revision <= $3",
    ];
    let (base, revision) = match of {
        Origin::Live(revision) => (revision, revision),
        Origin::Draft(draft) => (draft.base, draft.revision),
    };
    let row = draft::ActiveModel {
        account_id: Set(owner),
        name: Set(name.to_owned()),
        shared: Set(shared),
        base: Set(base),
        revision: Set(revision),
        looked_on: Set(today.date()),
        ..Default::default()
    };
    let txn = db.begin().await?;
    let id = draft::Entity::insert(row).exec(&txn).await?.last_insert_id;
    if let Origin::Draft(draft) = of {
        for copy in COPIES {
            let values = [id.into(), draft.id.into(), draft.revision.into()];
            txn.execute_raw(Statement::from_sql_and_values(DbBackend::Postgres, copy, values)).await?;
        }
    }
    txn.commit().await?;
    Ok(id)
}

/// The drafts that an account may open: its own, then what others share, each by name.
///
/// # Errors
/// The database does not answer.
pub async fn of_account(db: &DatabaseConnection, account: i32) -> Result<Vec<Draft>, Error> {
    use draft::Column;
    let rows = draft::Entity::find().filter(Column::AccountId.eq(account).or(Column::Shared.eq(true)));
    let rows = rows.order_by_asc(Column::Name).order_by_asc(Column::Id).all(db).await?;
    let mut drafts: Vec<Draft> = rows.into_iter().map(Draft::of).collect();
    drafts.sort_by_key(|draft| draft.owner != account);
    Ok(drafts)
}

/// A draft by its number.
///
/// # Errors
/// The database does not answer.
pub async fn one(db: &DatabaseConnection, id: i32) -> Result<Option<Draft>, Error> {
    Ok(draft::Entity::find_by_id(id).one(db).await?.map(Draft::of))
}

/// Gives a draft of one's own another name, and shares it or not; whether there was one.
///
/// # Errors
/// The database does not answer.
pub async fn rename(db: &DatabaseConnection, owner: i32, id: i32, (name, shared): (&str, bool)) -> Result<bool, Error> {
    let row = draft::Entity::update_many()
        .col_expr(draft::Column::Name, Expr::value(name))
        .col_expr(draft::Column::Shared, Expr::value(shared));
    let own = row.filter(draft::Column::Id.eq(id)).filter(draft::Column::AccountId.eq(owner));
    Ok(own.exec(db).await?.rows_affected > 0)
}

/// Forgets a draft of one's own and everything that was changed in it; whether there was one.
///
/// # Errors
/// The database does not answer.
pub async fn drop_own(db: &DatabaseConnection, owner: i32, id: i32) -> Result<bool, Error> {
    let own = draft::Entity::delete_many().filter(draft::Column::Id.eq(id)).filter(draft::Column::AccountId.eq(owner));
    Ok(own.exec(db).await?.rows_affected > 0)
}

/// Notes that somebody looks at a draft today.
///
/// # Errors
/// The database does not answer.
pub async fn looked(db: &DatabaseConnection, id: i32, today: Day) -> Result<(), Error> {
    let row = draft::Entity::update_many().col_expr(draft::Column::LookedOn, Expr::value(today.date()));
    let older = draft::Column::LookedOn.lt(today.date());
    row.filter(draft::Column::Id.eq(id)).filter(older).exec(db).await?;
    Ok(())
}

/// Forgets the drafts that nobody has looked at for too long.
///
/// # Errors
/// The database does not answer.
pub async fn sweep(db: &DatabaseConnection, today: Day) -> Result<(), Error> {
    let old = draft::Column::LookedOn.lt((today - KEPT_DAYS).date());
    draft::Entity::delete_many().filter(old).exec(db).await?;
    Ok(())
}

/// The plan of a draft: the live one as it was at the draft's base, with what was changed in the draft on top. It shares with the live
/// plan what is alike.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub(crate) async fn plan_of(db: &DatabaseConnection, live: Arc<Plan>, draft: &Draft) -> Result<Plan, Error> {
    let since = Ledger::of(db, 0).changes_between(draft.base, live.revision).await?;
    let own = changes_of(db, draft).await?;
    let (id, revision) = (draft.id, draft.revision);
    let put_together = move || {
        let mut plan = live.with(&inverse_of(&since)).with(&own);
        (plan.draft, plan.revision) = (id, revision);
        plan
    };
    tokio::task::spawn_blocking(put_together).await.map_err(|error| Error::Damaged(error.to_string()))
}

/// What was changed in a draft, in order.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn changes_of(db: &DatabaseConnection, draft: &Draft) -> Result<Vec<Change>, Error> {
    Ledger::of(db, draft.id).changes_between(draft.base, draft.revision).await
}
