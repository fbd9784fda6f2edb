//! The ledger: every change, who made it, and what it takes to undo it.

use crate::{
    Error, Watch,
    entity::{self, ledger, ledger_change},
    idempotency::{self, Once},
    tables,
};
use sea_orm::{
    ActiveValue::Set,
    Condition, DatabaseTransaction, DbBackend, QueryOrder, QuerySelect, QueryTrait as _, Statement,
    entity::prelude::*,
    sea_query::{self, IntoCondition as _, extension::postgres::PgBinOper},
};
use serde_json::json;
use snug_core::{Command, Day, Plan, change::Change, kinds::Kind};

/// One entry, without its changes.
pub type Entry = ledger::Model;

/// The channel on which servers tell each other that there is something new.
pub(crate) const CHANNEL: &str = "ledger";

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

/// Keeps every other writer waiting until the transaction ends.
pub(crate) async fn hold(txn: &DatabaseTransaction) -> Result<(), Error> {
    entity::workspace::Entity::find_by_id(1).lock_exclusive().one(txn).await?;
    Ok(())
}

/// Writes an entry and its changes and ends the transaction, on the condition that `plan` is still the newest.
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
    let used = changes.iter().map(|change| change.subject().1 + 1).max().unwrap_or(1);
    let moved = entity::workspace::Entity::update_many()
        .col_expr(entity::workspace::Column::Revision, Expr::value(revision))
        .col_expr(entity::workspace::Column::NextId, Expr::value(plan.next_id().max(used)))
        .filter(entity::workspace::Column::Id.eq(1))
        .filter(entity::workspace::Column::Revision.eq(plan.revision))
        .filter(Expr::cust_with_values(format!("{MARK} = $2"), [Value::from(plan.revision), line.into()]))
        .exec(&txn)
        .await?;
    if moved.rows_affected == 0 {
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
    record(&txn, revision, actor, command, made).await?;
    for part in changes.chunks(PART) {
        tables::write(&txn, part).await?;
        made.watch.on(part.len());
    }
    tables::write(&txn, made.trails).await?;
    let line = tell(&txn, revision).await?;
    // From here on it is done, whoever wants to stop it.
    if !made.watch.close() {
        return Err(Error::Stopped);
    }
    txn.commit().await?;
    Ok(Some((revision, line)))
}

/// The mark of the entry `$1`, by which it is known from another one with its number; empty where there is none. A database that was
/// set up anew from an older copy may have lost entries, and given their numbers to others since.
const MARK: &str = "coalesce((SELECT md5(concat_ws('|', l.revision, extract(epoch FROM l.at), l.actor, l.title, l.changes)) \
     FROM ledger l WHERE l.revision = $1), '')";

/// Tells every server that there is something new, once the transaction stands, and returns the mark of the entry.
pub(crate) async fn tell(txn: &DatabaseTransaction, revision: i64) -> Result<String, Error> {
    let sql = format!("SELECT {MARK} AS line, pg_notify($2, $1::text)::text AS told");
    let values = [revision.into(), CHANNEL.into()];
    let row = txn.query_one_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
    Ok(row.map(|row| row.try_get("", "line")).transpose()?.unwrap_or_default())
}

/// Where the database stands: its revision, and the mark of the entry with a number; `None` without a workspace.
///
/// # Errors
/// The database does not answer.
pub(crate) async fn standing(db: &impl ConnectionTrait, revision: i64) -> Result<Option<(i64, String)>, Error> {
    let sql = format!("SELECT w.revision, {MARK} AS line FROM workspace w");
    let row = db.query_one_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, [revision.into()])).await?;
    row.map(|row| Ok((row.try_get("", "revision")?, row.try_get("", "line")?))).transpose()
}

async fn record(
    txn: &DatabaseTransaction,
    revision: i64,
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
    let sql = "INSERT INTO ledger_change (revision, position, kind, subject, change) \
         SELECT $1, new.position, new.kind, new.subject, new.change::jsonb \
         FROM unnest($2::integer[], $3::text[], $4::integer[], $5::text[]) AS new (position, kind, subject, change)";
    for (part, changes) in changes.chunks(PART).enumerate() {
        let place = |at: usize| i32::try_from(part * PART + at).unwrap_or(i32::MAX);
        let places: Vec<i32> = (0..changes.len()).map(place).collect();
        let (kinds, subjects): (Vec<String>, Vec<i32>) =
            changes.iter().map(Change::subject).map(|(kind, id)| (kind.to_string(), id)).unzip();
        let texts = changes.iter().map(serde_json::to_string);
        let texts = texts.collect::<Result<Vec<String>, _>>().map_err(|error| Error::Damaged(error.to_string()))?;
        let values = [revision.into(), places.into(), kinds.into(), subjects.into(), texts.into()];
        ConnectionTrait::execute_raw(txn, Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
        made.watch.on(changes.len());
    }
    Ok(())
}

/// What an entry changed, in order.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn changes_of(db: &impl ConnectionTrait, revision: i64) -> Result<Vec<Change>, Error> {
    let rows = ledger_change::Entity::find()
        .filter(ledger_change::Column::Revision.eq(revision))
        .order_by_asc(ledger_change::Column::Position)
        .all(db)
        .await?;
    Ok(rows.into_iter().map(|row| row.change.0).collect())
}

/// The entries after a revision, in order.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn since(db: &impl ConnectionTrait, revision: i64) -> Result<Vec<Entry>, Error> {
    let entries = ledger::Entity::find().filter(ledger::Column::Revision.gt(revision));
    Ok(entries.order_by_asc(ledger::Column::Revision).all(db).await?)
}

/// The pattern of texts that hold these words, whatever they are.
pub(crate) fn containing(words: &str) -> String {
    format!("%{}%", words.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_"))
}

/// Which entries are asked for.
#[derive(Clone, Debug, Default)]
pub struct Filter {
    /// Only by this author.
    pub actor: Option<String>,
    /// Only those that touch a record of this kind, and this one, or what belongs to it, where a number is given.
    pub subject: Option<(Kind, Option<i32>)>,
    /// Only those whose title holds these words.
    pub words: Option<String>,
    /// Only those before this entry.
    pub before: Option<i64>,
    /// At most so many.
    pub limit: u64,
}

/// What belongs to a record besides itself, by how it names that record: what is written on it, and of a task and a project their
/// checklist, links, references and files.
fn belongs(kind: Kind, id: i32) -> Vec<(Kind, serde_json::Value)> {
    let mut found = vec![(Kind::Text, json!({ "on": kind.as_str(), "subject": id }))];
    let more: &[(Kind, &str)] = match kind {
        Kind::Task => &[
            (Kind::Check, "task"),
            (Kind::Reference, "task"),
            (Kind::Attachment, "task"),
            (Kind::Link, "from"),
            (Kind::Link, "to"),
        ],
        Kind::Project => &[(Kind::Attachment, "project")],
        _ => &[],
    };
    found.extend(more.iter().map(|(kind, name)| (*kind, json!({ *name: id }))));
    found
}

/// Whether a change is one of this record, or of what belongs to it.
fn touches(kind: Kind, id: i32) -> Condition {
    let of =
        |kind: Kind, what: Condition| Condition::all().add(ledger_change::Column::Kind.eq(kind.as_str())).add(what);
    let holds = |side: &str, value: &serde_json::Value| {
        let change = Expr::col(ledger_change::Column::Change);
        sea_query::ExprTrait::binary(change, PgBinOper::Contains, Expr::val(json!({ side: value })))
    };
    let itself = of(kind, Condition::all().add(ledger_change::Column::Subject.eq(id)));
    belongs(kind, id).iter().fold(Condition::any().add(itself), |any, (kind, value)| {
        any.add(of(*kind, Condition::any().add(holds("after", value)).add(holds("before", value))))
    })
}

/// Entries, the newest first.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn entries(db: &DatabaseConnection, filter: &Filter) -> Result<Vec<Entry>, Error> {
    let mut query = ledger::Entity::find();
    if let Some(actor) = &filter.actor {
        query = query.filter(ledger::Column::Actor.eq(actor));
    }
    if let Some(words) = &filter.words {
        use sea_orm::sea_query::extension::postgres::PgExpr;
        query = query.filter(PgExpr::ilike(Expr::col(ledger::Column::Title), containing(words)));
    }
    if let Some(before) = filter.before {
        query = query.filter(ledger::Column::Revision.lt(before));
    }
    if let Some((kind, id)) = &filter.subject {
        let touched =
            ledger_change::Entity::find().select_only().column(ledger_change::Column::Revision).filter(match id {
                Some(id) => touches(*kind, *id),
                None => ledger_change::Column::Kind.eq(kind.as_str()).into_condition(),
            });
        query = query.filter(ledger::Column::Revision.in_subquery(touched.into_query()));
    }
    Ok(query.order_by_desc(ledger::Column::Revision).limit(filter.limit).all(db).await?)
}

/// Which of these entries have been taken back, each with the entry that did so.
///
/// # Errors
/// The database does not answer.
pub async fn taken_back(db: &DatabaseConnection, revisions: &[i64]) -> Result<Vec<(i64, i64)>, Error> {
    let undos = ledger::Entity::find().filter(ledger::Column::Undoes.is_in(revisions.iter().copied()));
    Ok(undos.all(db).await?.into_iter().filter_map(|entry| Some((entry.undoes?, entry.revision))).collect())
}

/// Everyone who has made an entry.
///
/// # Errors
/// The database does not answer.
pub async fn actors(db: &DatabaseConnection) -> Result<Vec<String>, Error> {
    let query = ledger::Entity::find().select_only().column(ledger::Column::Actor).distinct();
    Ok(query.order_by_asc(ledger::Column::Actor).into_tuple().all(db).await?)
}

/// One entry by its number.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn entry(db: &DatabaseConnection, revision: i64) -> Result<Option<Entry>, Error> {
    Ok(ledger::Entity::find_by_id(revision).one(db).await?)
}

/// What this author could take back and bring back next.
///
/// Undo walks back through the author's own entries, skipping those taken back already; redo is there only as long as the
/// author has done nothing else since.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn undo_and_redo(db: &DatabaseConnection, actor: &str) -> Result<(Option<Entry>, Option<Entry>), Error> {
    /// Entries looked at; nobody takes back more than this in a row.
    const REACH: u64 = 500;
    let recent = ledger::Entity::find()
        .filter(ledger::Column::Actor.eq(actor))
        .order_by_desc(ledger::Column::Revision)
        .limit(REACH)
        .all(db)
        .await?;
    Ok(next_steps(&recent))
}

/// From the author's entries, newest first, to the one that undo takes back and the one that redo takes back.
fn next_steps(recent: &[Entry]) -> (Option<Entry>, Option<Entry>) {
    let undone: Vec<i64> = recent.iter().filter_map(|entry| entry.undoes).collect();
    let find = |revision: i64| recent.iter().find(|entry| entry.revision == revision);
    // An entry is an undo when it takes back a plain entry (or a redo), and a redo when it takes back an undo.
    let is_undo = |entry: &Entry| {
        let mut undo = false;
        let mut at = Some(entry);
        while let Some(target) = at.and_then(|entry| entry.undoes) {
            undo = !undo;
            at = find(target);
        }
        undo
    };
    let standing = |entry: &&Entry| !undone.contains(&entry.revision);
    let undo = recent.iter().filter(standing).find(|entry| !is_undo(entry)).cloned();
    // Undos on top of the author's last deed are what redo walks back through.
    let fresh = recent.iter().take_while(|entry| entry.undoes.is_some());
    let redo = fresh.filter(standing).find(|entry| is_undo(entry)).cloned();
    (undo, redo)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Entries newest first, from what each takes back, oldest first.
    fn entries(undoes: &[Option<i64>]) -> Vec<Entry> {
        let entry = |(index, undoes): (usize, &Option<i64>)| Entry {
            revision: i64::try_from(index).unwrap() + 1,
            at: chrono::DateTime::UNIX_EPOCH,
            actor: "A".into(),
            day: chrono::NaiveDate::default(),
            title: String::new(),
            command: serde_json::Value::Null,
            undoes: *undoes,
            changes: 1,
        };
        let mut entries: Vec<Entry> = undoes.iter().enumerate().map(entry).collect();
        entries.reverse();
        entries
    }

    fn steps(undoes: &[Option<i64>]) -> (Option<i64>, Option<i64>) {
        let (undo, redo) = next_steps(&entries(undoes));
        (undo.map(|entry| entry.revision), redo.map(|entry| entry.revision))
    }

    #[test]
    fn undo_and_redo_walk_like_in_an_editor() {
        assert_eq!(steps(&[]), (None, None));
        assert_eq!(steps(&[None, None]), (Some(2), None));
        assert_eq!(steps(&[None, None, Some(2)]), (Some(1), Some(3)), "after one undo");
        assert_eq!(steps(&[None, None, Some(2), Some(1)]), (None, Some(4)), "after two undos");
        assert_eq!(steps(&[None, None, Some(2), Some(1), Some(4)]), (Some(5), Some(3)), "a redo brings back the first");
        assert_eq!(steps(&[None, Some(1), None]), (Some(3), None), "a new deed ends redo");
    }
}
