//! Weeks of people: what lies on them, and what is over.

use crate::{
    Day, PersonId, Plan,
    demand::{Window, person_load},
};
use std::collections::BTreeMap;

/// Minutes over the limit by person and Monday, of the weeks that are over.
pub type Spills = BTreeMap<(PersonId, Day), i64>;

/// What lies on a week of somebody, and what may.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Week {
    pub load: i64,
    pub limit: i64,
}

impl Week {
    pub fn spill(self) -> i64 {
        (self.load - self.limit).max(0)
    }
}

/// The weeks of somebody in a window that begins on a Monday and ends on a Sunday; nothing where there is no such person.
pub(super) fn weeks_of(plan: &Plan, person: PersonId, window: &Window) -> Vec<Week> {
    let Some(entry) = plan.people.get(&person) else { return Vec::new() };
    let load = person_load(plan, entry, window, false);
    let week = |(load, limit): (&i32, &i32)| Week { load: i64::from(*load), limit: i64::from(*limit) };
    load.weeks.load.iter().zip(&load.weeks.limit).map(week).collect()
}

/// What some people have over their limits in the weeks of a window, from Monday to Sunday.
#[must_use]
pub fn spills(plan: &Plan, people: impl IntoIterator<Item = PersonId>, window: &Window) -> Spills {
    let mut found = Spills::new();
    for person in people {
        let weeks = (0..).map(|at: i32| window.from + 7 * at).zip(weeks_of(plan, person, window));
        let over = weeks.filter(|(_, week)| week.spill() > 0);
        found.extend(over.map(|(monday, week)| ((person, monday), week.spill())));
    }
    found
}
