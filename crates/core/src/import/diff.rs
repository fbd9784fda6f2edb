//! Holding rows against what stands in the plan.

use super::Tally;
use crate::{
    AbsenceId, BookingId, HolidayId, LinkId, MilestoneId, TaskId, TimeEntryId,
    change::{Change, Edit},
    people::{Absence, Holiday},
    work::{Booking, Link, Milestone, Task, TimeEntry},
};
use std::{collections::HashMap, hash::Hash};

/// A record that a file row stands for.
pub(super) trait Filed: Clone + Eq + Hash {
    /// The key it is known by; empty for none.
    fn key(&self) -> String;
    /// Its identity in the plan.
    fn number(&self) -> i32;
    /// The same record with another identity.
    fn numbered(self, id: i32) -> Self;
    /// Wraps an edit of it.
    fn change(edit: Edit<Self>) -> Change;
}

macro_rules! filed {
    ($record:ident, $id:ident, |$it:ident| $key:expr) => {
        impl Filed for $record {
            fn key(&self) -> String {
                let $it = self;
                $key
            }
            fn number(&self) -> i32 {
                self.id.0
            }
            fn numbered(mut self, id: i32) -> Self {
                self.id = $id(id);
                self
            }
            fn change(edit: Edit<Self>) -> Change {
                Change::$record(edit)
            }
        }
    };
}

filed!(Holiday, HolidayId, |it| format!("{}\n{}\n{}", it.calendar, it.date, it.name));
filed!(Absence, AbsenceId, |it| it.reference.clone());
filed!(Task, TaskId, |it| it.reference.clone());
filed!(Link, LinkId, |it| format!("{}\n{}\n{}", it.from, it.to, it.kind));
filed!(Booking, BookingId, |it| it.reference.clone());
filed!(TimeEntry, TimeEntryId, |it| it.reference.clone());
filed!(Milestone, MilestoneId, |it| it.reference.clone());

/// Compares rows with the records that stand. Whole rows that are equal are the same, however often each occurs; of the rest, a
/// row whose key stands alters that record, and any other is new. `take_id` hands out identities for new records that have none.
pub(super) fn diff<T: Filed>(
    standing: impl Iterator<Item = T>,
    rows: Vec<T>,
    tally: &mut Tally,
    changes: &mut Vec<Change>,
    mut take_id: impl FnMut() -> i32,
) {
    let mut whole: HashMap<T, Vec<T>> = HashMap::new();
    for record in standing {
        whole.entry(record.clone().numbered(0)).or_default().push(record);
    }
    let mut rest = Vec::new();
    for row in rows {
        match whole.get_mut(&row.clone().numbered(0)).and_then(Vec::pop) {
            Some(_) => tally.same += 1,
            None => rest.push(row),
        }
    }
    let mut by_key: HashMap<String, Vec<T>> = HashMap::new();
    for record in whole.into_values().flatten().filter(|record| !record.key().is_empty()) {
        by_key.entry(record.key()).or_default().push(record);
    }
    for row in rest {
        if let Some(before) = by_key.get_mut(&row.key()).and_then(Vec::pop) {
            tally.changed += 1;
            let after = row.numbered(before.number());
            changes.push(T::change(Edit::alter(before, after)));
        } else {
            tally.new += 1;
            let id = if row.number() == 0 { take_id() } else { row.number() };
            changes.push(T::change(Edit::new(row.numbered(id))));
        }
    }
}
