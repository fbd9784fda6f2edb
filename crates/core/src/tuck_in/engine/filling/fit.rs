//! Whether work fits on days as they are filled now.

use super::{Ground, Part, Resource};
use crate::{
    kinds::Contour,
    spread::{contour_weights, largest_remainder},
};
use std::ops::RangeInclusive;

/// The minutes of a part on the days on which it has any.
pub(super) type Laid = Vec<(usize, i32)>;

/// Spreads a part over days; `None` where its resource gives nothing on any of them.
pub(super) fn spread(resource: &Resource, part: &Part, contour: Contour, days: RangeInclusive<usize>) -> Option<Laid> {
    if part.minutes == 0 {
        return Some(Vec::new());
    }
    let given: Vec<i64> = resource.given[days.clone()].iter().copied().map(i64::from).collect();
    let minutes = largest_remainder(part.minutes, &contour_weights(&given, contour))?;
    let laid = days.zip(minutes).filter(|(_, minutes)| *minutes > 0);
    Some(laid.map(|(day, minutes)| (day, i32::try_from(minutes).unwrap_or(i32::MAX))).collect())
}

impl Ground<'_> {
    /// The lane by which a part goes on a day.
    pub(super) fn lane_of(&self, part: &Part, day: usize) -> Option<usize> {
        self.problem.routes[part.route?][day]
    }

    /// Minutes that a part can use on a day without adding to the load.
    pub(super) fn open(&self, part: &Part, day: usize) -> i32 {
        match self.lane_of(part, day) {
            Some(lane) if self.problem.fills => {
                let lane = &self.resources[part.resource].lanes[lane];
                (lane.reserved[day] - lane.used[day]).max(0)
            }
            _ => 0,
        }
    }

    /// The most minutes of a part that fit on a day, its week as far as that can be told by the day.
    pub(super) fn room(&self, part: &Part, day: usize) -> i32 {
        let resource = &self.resources[part.resource];
        if resource.more_activities.as_ref().is_some_and(|more| more[day] <= 0) {
            return 0;
        }
        if let (Some(more), Some(lane)) = (&resource.more_lanes, self.lane_of(part, day))
            && more[day] <= 0
            && !resource.lanes[lane].is_in_use(day)
        {
            return 0;
        }
        resource.free[day].min(resource.free_in_week[day / 7]).max(0) + self.open(part, day)
    }

    /// Whether all of a part fits where it is laid.
    pub(super) fn takes(&self, part: &Part, laid: &Laid) -> bool {
        let resource = &self.resources[part.resource];
        let (mut week, mut added) = (usize::MAX, 0);
        for (day, minutes) in laid {
            if *minutes > self.room(part, *day) {
                return false;
            }
            if day / 7 != week {
                (week, added) = (day / 7, 0);
            }
            added += (minutes - self.open(part, *day)).max(0);
            if added > 0 && added > resource.free_in_week[week] {
                return false;
            }
        }
        true
    }

    /// Adds what is laid to the days, or takes it from them.
    pub(super) fn lay(&mut self, part: &Part, laid: &Laid, takes_off: bool) {
        let sign = if takes_off { -1 } else { 1 };
        for (day, minutes) in laid {
            let lane = self.lane_of(part, *day);
            let resource = &mut self.resources[part.resource];
            let mut added = *minutes;
            if let Some(lane) = lane {
                let lane = &mut resource.lanes[lane];
                let was_in_use = lane.is_in_use(*day);
                if takes_off {
                    lane.used[*day] -= minutes;
                }
                if self.problem.fills {
                    added = (minutes - (lane.reserved[*day] - lane.used[*day]).max(0)).max(0);
                }
                if !takes_off {
                    lane.used[*day] += minutes;
                }
                let is_in_use = lane.is_in_use(*day);
                if let Some(more) = &mut resource.more_lanes {
                    more[*day] += i32::from(was_in_use) - i32::from(is_in_use);
                }
            }
            resource.free[*day] -= sign * added;
            resource.free_in_week[day / 7] -= sign * added;
            if let Some(more) = &mut resource.more_activities {
                more[*day] -= sign;
            }
        }
        let open_from = &mut self.open_from[part.resource];
        match laid.first() {
            Some((day, _)) if takes_off => *open_from = (*open_from).min(*day),
            _ => {
                let resource = &self.resources[part.resource];
                while resource.given.get(*open_from).is_some_and(|_| resource.is_full(*open_from)) {
                    *open_from += 1;
                }
            }
        }
    }
}

impl Resource {
    /// Whether a day has no room for anything.
    fn is_full(&self, day: usize) -> bool {
        let is_open = |lane: &super::Lane| lane.reserved[day] > lane.used[day];
        self.given[day] == 0 || self.free[day] <= 0 && !self.lanes.iter().any(is_open)
    }
}

impl super::Lane {
    /// Whether something is reserved or used on a day.
    pub(super) fn is_in_use(&self, day: usize) -> bool {
        self.reserved[day] > 0 || self.used[day] > 0
    }
}
