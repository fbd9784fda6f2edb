//! One person's row.

use super::Query;
use crate::{
    Plan,
    cells::{Bucket, Cell, Grain, PersonLimit, Sum, WHOLE, person_limit},
    demand::{PersonLoad, Window, person_load},
    people::Person,
    plan::Entry,
};

/// One person's load and how it is cut into cells.
pub struct PersonCells<'a> {
    pub(super) person: &'a Person,
    grain: Grain,
    /// The load that the cells sum up.
    pub load: PersonLoad,
}

impl<'a> PersonCells<'a> {
    /// Computes the load of one person.
    #[must_use]
    pub fn of(plan: &Plan, entry: &'a Entry, window: &Window, grain: Grain, by_project: bool) -> Self {
        Self { person: &entry.person, grain, load: person_load(plan, entry, window, by_project) }
    }

    /// The person's own cell of a bucket.
    #[must_use]
    pub fn cell(&self, bucket: Bucket) -> Cell {
        let range = self.load.days.indexes(bucket.from, bucket.to);
        let day = |at: usize| i64::from(self.load.load[at]);
        let PersonLimit { limit, load, peak, cut } =
            person_limit(self.person, &self.load.days, 1, day, range.clone(), self.grain);
        if cut.is_some() {
            let mut sum = Sum::default();
            self.add_to(&mut sum, bucket);
            return sum.cell(None);
        }
        let firm = self.load.firm[range].iter().map(|minutes| i64::from(*minutes)).sum();
        let spill = (load - limit).max(0);
        let over = u32::from(spill > 0 || peak > 0);
        Cell { limit: Some(limit), load, firm, room: (limit - load).max(0), spill, peak, over }
    }

    /// Adds the person to a row's sum of a bucket.
    pub fn add_to(&self, row: &mut Sum, bucket: Bucket) {
        let range = self.load.days.indexes(bucket.from, bucket.to);
        let sum = |of: &[i32]| of[range.clone()].iter().map(|minutes| i64::from(*minutes)).sum::<i64>() * WHOLE;
        let day = |at: usize| i64::from(self.load.load[at]) * WHOLE;
        let limit = person_limit(self.person, &self.load.days, WHOLE, day, range.clone(), self.grain);
        row.add_person(&limit, sum(&self.load.firm));
    }

    /// Adds what the person gives to a team: a share of the load, and `named`, the work that names that team, wholly. `other` is
    /// firm and all load without any work that names a team.
    pub(super) fn add_share(&self, row: &mut Sum, bucket: Bucket, share: i64, other: (&[i32], &[i32]), named: &[i32]) {
        let range = self.load.days.indexes(bucket.from, bucket.to);
        let part = |of: &[i32], at: usize| share * i64::from(of[at]) + WHOLE * i64::from(named[at]);
        let sum = |of: &[i32]| range.clone().map(|at| part(of, at)).sum::<i64>();
        let limit =
            person_limit(self.person, &self.load.days, share, |at| part(other.1, at), range.clone(), self.grain);
        row.add_person(&limit, sum(other.0));
    }
}

/// One person's cells, the row of the table grouped by person.
#[must_use]
pub fn person_row(plan: &Plan, entry: &Entry, query: &Query, buckets: &[Bucket]) -> Vec<Cell> {
    let cells = PersonCells::of(plan, entry, &query.window, query.grain, false);
    buckets.iter().map(|bucket| cells.cell(*bucket)).collect()
}
