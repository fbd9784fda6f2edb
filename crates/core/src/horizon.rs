//! Demand under supply, week by week, over many people.

use crate::{
    Day, Plan,
    cells::{Cell, Grain},
    demand::Window,
    load::PersonCells,
    plan::Entry,
};

/// One week of many people, in minutes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Week {
    /// Its first day.
    pub from: Day,
    /// Everybody's limit.
    pub limit: i64,
    /// Everybody's load.
    pub load: i64,
    /// What is over somebody's limit, person by person, however much room others have.
    pub spill: i64,
}

impl Week {
    /// What is planned inside the limits.
    #[must_use]
    pub fn inside(&self) -> i64 {
        (self.load - self.spill).max(0)
    }

    /// What is left under the limits.
    #[must_use]
    pub fn room(&self) -> i64 {
        (self.limit - self.inside()).max(0)
    }
}

/// The weeks of a window for these people.
#[must_use]
pub fn weeks<'a>(plan: &Plan, people: impl Iterator<Item = &'a Entry>, window: &Window) -> Vec<Week> {
    let buckets = Grain::Week.buckets(window.from, window.to, &plan.settings);
    let mut weeks: Vec<Week> =
        buckets.iter().map(|bucket| Week { from: bucket.from, limit: 0, load: 0, spill: 0 }).collect();
    for entry in people {
        let cells = PersonCells::of(plan, entry, window, Grain::Week, false);
        for (week, bucket) in weeks.iter_mut().zip(&buckets) {
            let Cell { limit, load, spill, peak, .. } = cells.cell(*bucket);
            week.limit += limit.unwrap_or(0);
            week.load += load;
            week.spill += spill.max(peak);
        }
    }
    weeks
}
