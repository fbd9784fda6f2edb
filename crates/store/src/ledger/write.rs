//! Writing entries, and telling of them.

use super::CHANNEL;
use crate::{
    Error, Watch,
    entity::{self, ledger},
    idempotency::{self, Once},
    tables,
};
use sea_orm::{
    ActiveValue::Set, DatabaseTransaction, DbBackend, QueryResult, QuerySelect as _, Statement, entity::prelude::*,
};
use snug_core::{Command, Day, Plan, change::Change};

/// Changes that are written at once.
const PART: usize = 2_000;

/// What a command came to.
pub(crate) struct Made<'a> {
    /// What was done, in words.
    pub title: &'a str,
    /// What was decided.
    pub changes: &'a [Change],
    /// What follows of it for the trails of tasks; no entry holds that.
    pub trails: &'a [Change],
    /// The civil day.
    pub day: Day,
    /// The request that is done by it, where it is to be done once.
    pub once: Option<&'a Once>,
    /// Who watches how far it is.
    pub watch: &'a Watch,
}

/// Keeps every other writer of the live plan, or of a draft, waiting until the transaction ends.
pub(crate) async fn hold(txn: &DatabaseTransaction, draft: i32) -> Result<(), Error> {
    if draft == 0 {
        entity::workspace::Entity::find_by_id(1).lock_exclusive().one(txn).await?;
    } else {
        entity::draft::Entity::find_by_id(draft).lock_exclusive().one(txn).await?;
    }
    Ok(())
}

/// Moves the revision on, if `plan` is still the newest and knows every identity that was given, in whatever plan; whether it is.
async fn move_on(txn: &DatabaseTransaction, (plan, line): (&Plan, &str), changes: &[Change]) -> Result<bool, Error> {
    use entity::{draft, workspace};
    let revision = plan.revision + 1;
    let used = changes.iter().map(|change| change.subject().1 + 1).max().unwrap_or(1);
    let is_last =
        || Expr::cust_with_values(format!("{MARK} = $3"), [plan.revision.into(), plan.draft.into(), Value::from(line)]);
    let mut workspace = workspace::Entity::update_many()
        .col_expr(workspace::Column::NextId, Expr::value(Ord::max(plan.next_id(), used)))
        .filter(workspace::Column::Id.eq(1))
        .filter(workspace::Column::NextId.lte(plan.next_id()));
    if plan.draft == 0 {
        workspace = workspace
            .col_expr(workspace::Column::Revision, Expr::value(revision))
            .filter(workspace::Column::Revision.eq(plan.revision))
            .filter(is_last());
    } else {
        let draft = draft::Entity::update_many()
            .col_expr(draft::Column::Revision, Expr::value(revision))
            .filter(draft::Column::Id.eq(plan.draft))
            .filter(draft::Column::Revision.eq(plan.revision))
            .filter(is_last());
        if draft.exec(txn).await?.rows_affected == 0 {
            return Ok(false);
        }
        if !changes.iter().any(Change::adds) {
            return Ok(true);
        }
    }
    Ok(workspace.exec(txn).await?.rows_affected > 0)
}

/// Writes an entry and its changes and ends the transaction, on the condition that `plan` is still the newest. What a draft changes
/// stands in the ledger alone.
///
/// `line` is the mark of its last entry. Returns the new entry's number and mark, or `None` when another writer was first: then
/// nothing was written.
pub(crate) async fn append(
    txn: DatabaseTransaction,
    (plan, line): (&Plan, &str),
    actor: &str,
    command: &Command,
    made: &Made<'_>,
) -> Result<Option<(i64, String)>, Error> {
    let changes = made.changes;
    let revision = plan.revision + 1;
    if !move_on(&txn, (plan, line), changes).await? {
        txn.rollback().await?;
        return Ok(None);
    }
    if let Some(once) = made.once
        && !idempotency::reserve(&txn, once, revision).await?
    {
        txn.rollback().await?;
        return Err(Error::DoneBefore);
    }
    made.watch.begin("Writing", changes.len() * 2);
    record(&txn, (plan.draft, revision), actor, command, made).await?;
    for part in changes.chunks(PART).filter(|_| plan.draft == 0) {
        tables::write(&txn, part).await?;
        made.watch.on(part.len());
    }
    tables::write(&txn, made.trails).await?;
    let line = tell(&txn, plan.draft, revision).await?;
    // From here on it is done, whoever wants to stop it.
    if !made.watch.close() {
        return Err(Error::Stopped);
    }
    txn.commit().await?;
    Ok(Some((revision, line)))
}

/// The mark of the entry `$1` of the draft `$2`, by which it is known from another one with its number; empty where there is none. A
/// database that was set up anew from an older copy may have lost entries, and given their numbers to others since.
const MARK: &str = "coalesce((SELECT md5(concat_ws('|', l.revision, extract(epoch FROM l.at), l.actor, l.title, l.changes)) \
     FROM ledger l WHERE l.revision = $1 AND l.draft = $2), '')";

/// Tells every server that there is something new, once the transaction stands, and returns the mark of the entry.
pub(crate) async fn tell(txn: &DatabaseTransaction, draft: i32, revision: i64) -> Result<String, Error> {
    let sql = format!("SELECT {MARK} AS line, pg_notify($3, $1::text)::text AS told");
    let values = [revision.into(), draft.into(), CHANNEL.into()];
    let row = txn.query_one_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
    Ok(row.map(|row| row.try_get("", "line")).transpose()?.unwrap_or_default())
}

/// Where the database stands.
pub(crate) struct Standing {
    /// The number of the plan's last entry.
    pub revision: i64,
    /// The mark of the entry that was asked about.
    pub line: String,
    /// The first identity that was given in no plan.
    pub next_id: i32,
}

/// Where the live plan, or a draft, stands in the database, and the mark of its entry with a number; `None` without a workspace, or
/// where the draft is gone.
///
/// # Errors
/// The database does not answer.
pub(crate) async fn standing(db: &impl ConnectionTrait, draft: i32, revision: i64) -> Result<Option<Standing>, Error> {
    let sql = format!(
        "SELECT CASE WHEN $2 = 0 THEN w.revision ELSE d.revision END AS revision, w.next_id, {MARK} AS line \
         FROM workspace w LEFT JOIN draft d ON d.id = $2 WHERE $2 = 0 OR d.id IS NOT NULL"
    );
    let values = [revision.into(), draft.into()];
    let row = db.query_one_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
    let standing = |row: QueryResult| {
        Ok(Standing {
            revision: row.try_get("", "revision")?,
            line: row.try_get("", "line")?,
            next_id: row.try_get("", "next_id")?,
        })
    };
    row.map(standing).transpose()
}

async fn record(
    txn: &DatabaseTransaction,
    (draft, revision): (i32, i64),
    actor: &str,
    command: &Command,
    made: &Made<'_>,
) -> Result<(), Error> {
    let changes = made.changes;
    let undoes = match command {
        Command::Undo { revision, .. } => Some(*revision),
        _ => None,
    };
    let entry = ledger::ActiveModel {
        draft: Set(draft),
        revision: Set(revision),
        actor: Set(actor.to_owned()),
        day: Set(made.day.date()),
        title: Set(made.title.to_owned()),
        command: Set(serde_json::to_value(command).map_err(|error| Error::Damaged(error.to_string()))?),
        undoes: Set(undoes),
        changes: Set(i32::try_from(changes.len()).unwrap_or(i32::MAX)),
        ..Default::default()
    };
    ledger::Entity::insert(entry).exec_without_returning(txn).await?;
    // By columns: a statement of many rows would have a parameter for each of their cells, which takes three times as long.
    let sql = "INSERT INTO ledger_change (draft, revision, position, kind, subject, change) \
         SELECT $6, $1, new.position, new.kind, new.subject, new.change::jsonb \
         FROM unnest($2::integer[], $3::text[], $4::integer[], $5::text[]) AS new (position, kind, subject, change)";
    for (part, changes) in changes.chunks(PART).enumerate() {
        let place = |at: usize| i32::try_from(part * PART + at).unwrap_or(i32::MAX);
        let places: Vec<i32> = (0..changes.len()).map(place).collect();
        let (kinds, subjects): (Vec<String>, Vec<i32>) =
            changes.iter().map(Change::subject).map(|(kind, id)| (kind.to_string(), id)).unzip();
        let texts = changes.iter().map(serde_json::to_string);
        let texts = texts.collect::<Result<Vec<String>, _>>().map_err(|error| Error::Damaged(error.to_string()))?;
        let values = [revision.into(), places.into(), kinds.into(), subjects.into(), texts.into(), draft.into()];
        ConnectionTrait::execute_raw(txn, Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
        made.watch.on(changes.len());
    }
    Ok(())
}
