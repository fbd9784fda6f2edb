//! Holding rows against what stands in the plan.

use super::Tally;
use crate::{change::Edit, kinds::Record};
use std::collections::HashMap;

/// A record and the line of the file that it comes from.
pub(super) type Placed<R> = (R, u64);

/// Compares rows with the records that stand. Whole rows that are equal are the same, however often each occurs; of the rest, a
/// row whose key stands alters that record, and any other is new. `take_id` hands out identities for new records that have none.
pub(super) fn diff<'a, R: Record>(
    standing: impl Iterator<Item = std::borrow::Cow<'a, R>>,
    rows: Vec<Placed<R>>,
    tally: &mut Tally,
    mut take_id: impl FnMut() -> i32,
) -> Vec<Placed<Edit<R>>> {
    let (keyed, plain): (Vec<_>, Vec<_>) = rows.into_iter().partition(|(row, _)| !row.key().is_empty());
    let mut edits = Vec::new();
    let mut whole: HashMap<R, Vec<R>> = HashMap::new();
    for record in standing {
        whole.entry(numbered(&*record, 0)).or_default().push(record.into_owned());
    }
    let mut rest = Vec::new();
    for (row, line) in keyed {
        match whole.get_mut(&numbered(&row, 0)).and_then(Vec::pop) {
            Some(_) => tally.same += 1,
            None => rest.push((row, line)),
        }
    }
    let mut by_key: HashMap<String, R> = HashMap::new();
    let mut unkeyed: HashMap<R, Vec<R>> = HashMap::new();
    for record in whole.into_values().flatten() {
        let key = record.key();
        let mut blank = record.clone();
        blank.unkeyed();
        if blank.key().is_empty() {
            unkeyed.entry(numbered(&blank, 0)).or_default().push(record.clone());
        }
        if !key.is_empty() {
            by_key.insert(key, record);
        }
    }
    for (row, line) in rest {
        if let Some(before) = by_key.remove(&row.key()) {
            tally.changed += 1;
            let after = numbered(&row, before.number());
            edits.push((Edit::alter(before, after), line));
        } else {
            tally.new += 1;
            let id = if row.number() == 0 { take_id() } else { row.number() };
            edits.push((Edit::new(numbered(&row, id)), line));
        }
    }
    for (row, line) in plain {
        if unkeyed.get_mut(&numbered(&row, 0)).and_then(Vec::pop).is_some() {
            tally.same += 1;
        } else {
            tally.new += 1;
            let mut row = numbered(&row, take_id());
            row.keyed();
            edits.push((Edit::new(row), line));
        }
    }
    edits
}

/// The same record with another identity.
fn numbered<R: Record>(record: &R, id: i32) -> R {
    let mut record = record.clone();
    record.set_number(id);
    record
}
