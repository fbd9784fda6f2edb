//! The ledger: every change, who made it, and what it takes to undo it; of the live plan, and of each draft.

mod write;

pub(crate) use write::{Made, append, hold, standing, tell};

use crate::{
    Error,
    entity::{ledger, ledger_change},
};
use sea_orm::{
    Condition, QueryOrder, QuerySelect, QueryTrait as _,
    entity::prelude::*,
    sea_query::{self, IntoCondition as _, extension::postgres::PgBinOper},
};
use serde_json::json;
use snug_core::{change::Change, kinds::Kind};

/// One entry, without its changes.
pub type Entry = ledger::Model;

/// The channel on which servers tell each other that there is something new.
pub(crate) const CHANNEL: &str = "ledger";

/// The entries of the live plan, or of a draft.
#[derive(Clone, Copy, Debug)]
pub struct Ledger<'a> {
    db: &'a DatabaseConnection,
    /// The draft; 0 for the live plan.
    draft: i32,
}

impl<'a> Ledger<'a> {
    /// Of a draft, or of the live plan, which is 0.
    #[must_use]
    pub const fn of(db: &'a DatabaseConnection, draft: i32) -> Self {
        Self { db, draft }
    }

    fn all(&self) -> Select<ledger::Entity> {
        ledger::Entity::find().filter(ledger::Column::Draft.eq(self.draft))
    }

    fn all_changes(&self) -> Select<ledger_change::Entity> {
        ledger_change::Entity::find().filter(ledger_change::Column::Draft.eq(self.draft))
    }

    /// What an entry changed, in order.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn changes_of(&self, revision: i64) -> Result<Vec<Change>, Error> {
        let rows = self
            .all_changes()
            .filter(ledger_change::Column::Revision.eq(revision))
            .order_by_asc(ledger_change::Column::Position)
            .all(self.db)
            .await?;
        Ok(rows.into_iter().map(|row| row.change.0).collect())
    }

    /// What entries changed in which `revision > after && revision <= until`, in order.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn changes_between(&self, after: i64, until: i64) -> Result<Vec<Change>, Error> {
        let rows = self.all_changes().filter(ledger_change::Column::Revision.gt(after));
        let rows = rows.filter(ledger_change::Column::Revision.lte(until));
        let rows = rows.order_by_asc(ledger_change::Column::Revision).order_by_asc(ledger_change::Column::Position);
        Ok(rows.all(self.db).await?.into_iter().map(|row| row.change.0).collect())
    }

    /// All changes of a kind of record, in order.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn changes_of_kind(&self, kind: Kind) -> Result<Vec<Change>, Error> {
        let rows = self.all_changes().filter(ledger_change::Column::Kind.eq(kind.as_str()));
        let rows = rows.order_by_asc(ledger_change::Column::Revision).order_by_asc(ledger_change::Column::Position);
        Ok(rows.all(self.db).await?.into_iter().map(|row| row.change.0).collect())
    }

    /// The entries after a revision, in order.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn since(&self, revision: i64) -> Result<Vec<Entry>, Error> {
        let entries = self.all().filter(ledger::Column::Revision.gt(revision));
        Ok(entries.order_by_asc(ledger::Column::Revision).all(self.db).await?)
    }

    /// Entries, the newest first.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn entries(&self, filter: &Filter) -> Result<Vec<Entry>, Error> {
        let mut query = self.all();
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
            let touched = self.all_changes().select_only().column(ledger_change::Column::Revision).filter(match id {
                Some(id) => touches(*kind, *id),
                None => ledger_change::Column::Kind.eq(kind.as_str()).into_condition(),
            });
            query = query.filter(ledger::Column::Revision.in_subquery(touched.into_query()));
        }
        Ok(query.order_by_desc(ledger::Column::Revision).limit(filter.limit).all(self.db).await?)
    }

    /// Which of these entries have been taken back, each with the entry that did so.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn taken_back(&self, revisions: &[i64]) -> Result<Vec<(i64, i64)>, Error> {
        let undos = self.all().filter(ledger::Column::Undoes.is_in(revisions.iter().copied()));
        Ok(undos.all(self.db).await?.into_iter().filter_map(|entry| Some((entry.undoes?, entry.revision))).collect())
    }

    /// Everyone who has made an entry.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn actors(&self) -> Result<Vec<String>, Error> {
        let query = self.all().select_only().column(ledger::Column::Actor).distinct();
        Ok(query.order_by_asc(ledger::Column::Actor).into_tuple().all(self.db).await?)
    }

    /// One entry by its number.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn entry(&self, revision: i64) -> Result<Option<Entry>, Error> {
        Ok(ledger::Entity::find_by_id((self.draft, revision)).one(self.db).await?)
    }

    /// What this author could take back and bring back next.
    ///
    /// Undo walks back through the author's own entries, skipping those taken back already; redo is there only as long as the
    /// author has done nothing else since.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn undo_and_redo(&self, actor: &str) -> Result<(Option<Entry>, Option<Entry>), Error> {
        /// Entries looked at; nobody takes back more than this in a row.
        const REACH: u64 = 500;
        let recent = self
            .all()
            .filter(ledger::Column::Actor.eq(actor))
            .order_by_desc(ledger::Column::Revision)
            .limit(REACH)
            .all(self.db)
            .await?;
        Ok(next_steps(&recent))
    }
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
            draft: 0,
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
