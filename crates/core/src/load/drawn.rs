//! The days of a group, as its picture shows them: what the figures of its row add up, before it is added up.

use super::{RowKey, ground::Groups};
use crate::{
    ProjectId,
    cells::{Grain, WHOLE, half_up},
    demand::{Slot, person_load},
};
use num_bigint::BigInt;
use num_rational::BigRational;
use std::collections::BTreeMap;

/// Limit and load of a group on each day of the window, in ten-thousandths of a minute ([`WHOLE`]), as shares of people are parts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct GroupDays {
    /// The limit of each day; `None` for projects, which have none.
    pub limit: Option<Vec<i64>>,
    /// The load of each day by project, holds under none.
    pub projects: BTreeMap<Option<ProjectId>, Vec<i64>>,
}

impl Groups<'_> {
    /// The days of one group: everybody's part of the limit and of the load, but work that names the team wholly, and a typed capacity
    /// in place of the limits.
    #[must_use]
    pub fn days(&self, key: &RowKey) -> GroupDays {
        let window = &self.query.window;
        let count = usize::try_from(window.to.since(window.from) + 1).unwrap_or(0);
        let skip = usize::try_from(window.from.since(window.span().0)).unwrap_or(0);
        let shown = skip..skip + count;
        let inside = match key {
            RowKey::Team(Some(id)) => self.plan.team_and_inner(*id),
            _ => Vec::new(),
        };
        let is_shown = |slot: &&Slot| match key {
            RowKey::Project(id) => slot.project == *id,
            _ => true,
        };
        let mut limit = vec![0; count];
        let mut projects: BTreeMap<Option<ProjectId>, Vec<i64>> = BTreeMap::new();
        for entry in self.held(key) {
            let share = self.share_of(key, entry.person.id);
            let load = person_load(self.plan, entry, window, true);
            add(&mut limit, share, load.days.rim().days(shown.clone()));
            for slot in load.slots.iter().filter(is_shown) {
                let sums = projects.entry(slot.project).or_insert_with(|| vec![0; count]);
                add(sums, share, slot.load.days(shown.clone()));
                // A share of work that names a team is replaced by none of it, or by the whole.
                for (team, minutes) in slot.named.iter().filter(|_| matches!(key, RowKey::Team(_))) {
                    let rest = if inside.contains(team) { WHOLE - share } else { -share };
                    add(sums, rest, minutes.days(shown.clone()));
                }
            }
        }
        let of_project = matches!(key, RowKey::Project(_));
        let is_here = key.seats(self.plan);
        for seat in self.seats().iter().filter(|seat| of_project || is_here(&seat.who)) {
            for slot in seat.slots.iter().filter(is_shown) {
                let sums = projects.entry(slot.project).or_insert_with(|| vec![0; count]);
                add(sums, WHOLE, slot.load.days(shown.clone()));
            }
        }
        let limit = self.typed_limit(key).unwrap_or(limit);
        GroupDays { limit: (!of_project).then_some(limit), projects }
    }

    /// The limit of each day of a team whose capacity was typed.
    fn typed_limit(&self, key: &RowKey) -> Option<Vec<i64>> {
        let RowKey::Team(Some(id)) = key else { return None };
        let window = &self.query.window;
        let days = Grain::Day.buckets(window.from, window.to, &self.plan.settings);
        let limits = self.teams().typed_capacity(self.plan.records.teams.get(id)?, window, &days)?;
        let whole = BigRational::from(BigInt::from(WHOLE));
        Some(limits.into_iter().map(|limit| half_up(&(limit * &whole))).collect())
    }
}

/// Adds a part of the minutes of each day.
fn add(sums: &mut [i64], part: i64, minutes: impl Iterator<Item = i32>) {
    sums.iter_mut().zip(minutes).for_each(|(sum, minutes)| *sum += part * i64::from(minutes));
}
