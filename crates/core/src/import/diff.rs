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
    /// The same record as a file without a key would hold it: where the key was made from the identity, it goes.
    fn unkeyed(self) -> Self {
        self
    }
    /// The same record with a key made from its identity, for records that others refer to.
    fn keyed(self) -> Self {
        self
    }
    /// Wraps an edit of it.
    fn change(edit: Edit<Self>) -> Change;
}

macro_rules! filed {
    ($record:ident, $id:ident, |$it:ident| $key:expr $(, $more:item)*) => {
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
            $($more)*
        }
    };
}

filed!(Holiday, HolidayId, |it| format!("{}\n{}\n{}", it.calendar, it.date, it.name));
filed!(Absence, AbsenceId, |it| it.reference.clone());
filed!(
    Task,
    TaskId,
    |it| it.reference.clone(),
    fn unkeyed(mut self) -> Self {
        if self.reference == format!("T{}", self.id) {
            self.reference.clear();
        }
        self
    },
    fn keyed(mut self) -> Self {
        if self.reference.is_empty() {
            self.reference = format!("T{}", self.id);
        }
        self
    }
);
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
    let (keyed, plain): (Vec<T>, Vec<T>) = rows.into_iter().partition(|row| !row.key().is_empty());
    let mut whole: HashMap<T, Vec<T>> = HashMap::new();
    for record in standing {
        whole.entry(record.clone().numbered(0)).or_default().push(record);
    }
    let mut rest = Vec::new();
    for row in keyed {
        match whole.get_mut(&row.clone().numbered(0)).and_then(Vec::pop) {
            Some(_) => tally.same += 1,
            None => rest.push(row),
        }
    }
    let mut by_key: HashMap<String, T> = HashMap::new();
    let mut unkeyed: HashMap<T, Vec<T>> = HashMap::new();
    for record in whole.into_values().flatten() {
        let key = record.key();
        let blank = record.clone().unkeyed();
        if blank.key().is_empty() {
            unkeyed.entry(blank.numbered(0)).or_default().push(record.clone());
        }
        if !key.is_empty() {
            by_key.insert(key, record);
        }
    }
    for row in rest {
        if let Some(before) = by_key.remove(&row.key()) {
            tally.changed += 1;
            let after = row.numbered(before.number());
            changes.push(T::change(Edit::alter(before, after)));
        } else {
            tally.new += 1;
            let id = if row.number() == 0 { take_id() } else { row.number() };
            changes.push(T::change(Edit::new(row.numbered(id))));
        }
    }
    for row in plain {
        if unkeyed.get_mut(&row.clone().numbered(0)).and_then(Vec::pop).is_some() {
            tally.same += 1;
        } else {
            tally.new += 1;
            changes.push(T::change(Edit::new(row.numbered(take_id()).keyed())));
        }
    }
}
