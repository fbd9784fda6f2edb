//! One person's row.

use super::Query;
use crate::{
    Plan,
    by_day::ByDay,
    cells::{Bucket, Cell, Figures, Grain, PersonCell, Sum, WHOLE, figures_of_days, peak_of_week, weeks_of},
    demand::{Bench, PersonLoad, Window, person_load},
    kinds::Person,
    plan::Entry,
};
use std::{cell::RefCell, ops::Range};

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
        self.own(bucket).into()
    }

    fn own(&self, bucket: Bucket) -> PersonCell {
        cell_of(&self.load, self.grain, self.range(bucket))
    }

    fn range(&self, bucket: Bucket) -> Range<usize> {
        self.load.days.indexes(bucket.from, bucket.to)
    }

    /// Adds the person to a row's sum of a bucket.
    pub fn add_to(&self, row: &mut Sum, bucket: Bucket) {
        row.add_person(self.scaled(bucket, WHOLE));
    }

    /// The person's own figures of a bucket, of which a share is asked for.
    fn scaled(&self, bucket: Bucket, share: i64) -> Figures {
        let PersonCell { limit, load, firm, peak } = self.own(bucket);
        let part = |minutes: i32| i64::from(minutes) * share;
        Figures { limit: part(limit), load: part(load), firm: part(firm), peak: part(peak) }
    }

    /// Adds what the person gives to a team: a share of the load that names no team, and `named`, the work that names that team,
    /// wholly. `other` is firm and all load without any work that names a team; `None` where none does.
    pub(super) fn add_share(&self, row: &mut Sum, bucket: Bucket, share: i64, work: Option<(&ByDay, &ByDay, &ByDay)>) {
        let figures = match work {
            None => self.scaled(bucket, share),
            Some((firm, all, named)) => {
                let part = |of: &ByDay, at: usize| share * i64::from(of[at]) + WHOLE * i64::from(named[at]);
                let days = &self.load.days;
                figures_of_days(days, self.grain, self.range(bucket), share, |at| part(firm, at), |at| part(all, at))
            }
        };
        row.add_person(figures);
    }
}

/// The cell of a range of somebody's days: whole weeks are summed already, pieces of weeks day by day.
fn cell_of(load: &PersonLoad, grain: Grain, range: Range<usize>) -> PersonCell {
    if range.len() == 7 && range.start.is_multiple_of(7) {
        return week_of(load, grain, range.start / 7);
    }
    let mut cell = PersonCell::default();
    for piece in weeks_of(range) {
        let part = if piece.len() == 7 {
            week_of(load, grain, piece.start / 7)
        } else {
            let day = |of: &ByDay, at: usize| i64::from(of[at]);
            let found =
                figures_of_days(&load.days, grain, piece, 1, |at| day(&load.firm, at), |at| day(&load.load, at));
            // What one row may hold is bounded, so that a person's minutes fit.
            let whole = |minutes: i64| i32::try_from(minutes).unwrap_or(i32::MAX);
            PersonCell {
                limit: whole(found.limit),
                load: whole(found.load),
                firm: whole(found.firm),
                peak: whole(found.peak),
            }
        };
        cell.limit += part.limit;
        cell.load += part.load;
        cell.firm += part.firm;
        cell.peak += part.peak;
    }
    cell
}

fn week_of(load: &PersonLoad, grain: Grain, week: usize) -> PersonCell {
    let weeks = &load.weeks;
    let (limit, all) = (weeks.limit[week], weeks.load[week]);
    PersonCell { limit, load: all, firm: weeks.firm[week], peak: peak_of_week(grain, limit, all, weeks.peak[week]) }
}

thread_local! {
    /// Rows of many people are computed one after the other in the same memory.
    static BENCH: RefCell<Bench> = RefCell::default();
}

/// One person's cells, the row of the table grouped by person.
#[must_use]
pub fn person_row(plan: &Plan, entry: &Entry, query: &Query, buckets: &[Bucket]) -> Vec<PersonCell> {
    let mut row = Vec::with_capacity(buckets.len());
    append_person_row(plan, entry, query, buckets, &mut row);
    row
}

/// The same, put behind the rows of others.
pub fn append_person_row(plan: &Plan, entry: &Entry, query: &Query, buckets: &[Bucket], rows: &mut Vec<PersonCell>) {
    BENCH.with_borrow_mut(|bench| {
        bench.compute(plan, entry, &query.window, false);
        let PersonLoad { days, weeks, .. } = &bench.load;
        // As many weeks as there are between the same days are the same weeks.
        let are_weeks = query.grain == Grain::Week
            && buckets.len() == days.pattern.weeks()
            && buckets.first().is_some_and(|bucket| bucket.from == days.first)
            && buckets.last().is_some_and(|bucket| bucket.to == days.last());
        if are_weeks {
            let sums = weeks.limit.iter().zip(&weeks.load).zip(&weeks.firm).zip(&weeks.peak);
            let cell = |(((limit, load), firm), peak): (((&i32, &i32), &i32), &i32)| PersonCell {
                limit: *limit,
                load: *load,
                firm: *firm,
                peak: *peak,
            };
            rows.extend(sums.map(cell).take(buckets.len()));
        } else {
            let cell = |bucket: &Bucket| cell_of(&bench.load, query.grain, days.indexes(bucket.from, bucket.to));
            rows.extend(buckets.iter().map(cell));
        }
    });
}
