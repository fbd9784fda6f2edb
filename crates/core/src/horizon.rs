//! Demand under supply over many people, day by day or week by week.

use crate::{
    Day, Plan,
    cells::{Cell, Grain},
    demand::Window,
    load::PersonCells,
    plan::Entry,
};

/// A week or a day of many people, in minutes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Stretch {
    /// Its first day.
    pub from: Day,
    /// Everybody's limit.
    pub limit: i64,
    /// Everybody's load.
    pub load: i64,
    /// What is over somebody's limit, person by person, however much room others have.
    pub spill: i64,
}

impl Stretch {
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
pub fn weeks<'a>(plan: &Plan, people: impl Iterator<Item = &'a Entry>, window: &Window) -> Vec<Stretch> {
    stretches(plan, people, window, Grain::Week)
}

/// The days of a window for these people.
#[must_use]
pub fn days<'a>(plan: &Plan, people: impl Iterator<Item = &'a Entry>, window: &Window) -> Vec<Stretch> {
    stretches(plan, people, window, Grain::Day)
}

fn stretches<'a>(plan: &Plan, people: impl Iterator<Item = &'a Entry>, window: &Window, grain: Grain) -> Vec<Stretch> {
    let buckets = grain.buckets(window.from, window.to, &plan.settings);
    let mut sums: Vec<Stretch> =
        buckets.iter().map(|bucket| Stretch { from: bucket.from, limit: 0, load: 0, spill: 0 }).collect();
    for entry in people {
        let cells = PersonCells::of(plan, entry, window, grain, false);
        for (sum, bucket) in sums.iter_mut().zip(&buckets) {
            let Cell { limit, load, spill, peak, .. } = cells.cell(*bucket);
            sum.limit += limit.unwrap_or(0);
            sum.load += load;
            sum.spill += spill.max(peak);
        }
    }
    sums
}
