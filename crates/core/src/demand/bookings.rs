//! Where the minutes of a booking land.

use crate::{
    Day,
    availability::Days,
    by_day::ByDay,
    kinds::{Booking, Unit, Who},
    plan::{BookingRow, Brick, Entry, Marks, Plan},
    settings::Settings,
    spread::{largest_remainder, round_half_up},
};
use std::ops::Range;

/// What became of a booking's minutes besides those that landed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Landing {
    /// No day to land on: the whole booking, or for hours a week at least one week of it.
    pub stranded: bool,
    /// Minutes lost to time off, on days that are off in part or as a whole (hours a day only).
    pub lost: i64,
}

/// Lands one booking on `days` and reports each day's minutes by index.
///
/// `days` must cover the booking's whole range when its unit is total hours; for the other units any whole weeks of the range will
/// do, and then what is returned holds for those. What is reported is the minutes of that one booking, before tasks fill it.
///
/// A booking marked to work on days off counts on days with nothing available too: hours a day at the full amount, the others by the
/// pattern's minutes or, where those are 0, by the workspace's working day.
pub fn land(brick: &Brick, days: &Days, settings: &Settings, mut put: impl FnMut(usize, i32)) -> Landing {
    let range = days.indexes(brick.start, brick.end);
    let works_on_days_off = brick.marks.contains(Marks::DAYS_OFF);
    let weights = Weights { days, marked: works_on_days_off, day_minutes: settings.day_minutes };
    let mut landing = Landing::default();
    match brick.unit {
        Unit::PerDay => {
            let mut landed = false;
            for index in range {
                let (available, pattern) = (days.available[index], days.pattern[index]);
                let is_off = available == 0;
                let minutes =
                    if is_off && works_on_days_off { brick.value } else { per_day(brick.value, available, pattern) };
                landed |= !is_off || works_on_days_off;
                if pattern > 0 {
                    landing.lost += i64::from(brick.value - minutes).max(0);
                }
                if minutes > 0 {
                    put(index, minutes);
                }
            }
            landing.stranded = !landed;
        }
        Unit::Percent => {
            let mut landed = false;
            for index in range {
                let limit = if days.available[index] > 0 { days.rim()[index] } else { weights.of(index) };
                landed |= limit > 0;
                let minutes = i64::from(limit) * i64::from(brick.value) / 10_000;
                if minutes > 0 {
                    put(index, i32::try_from(minutes).unwrap_or(i32::MAX));
                }
            }
            landing.stranded = !landed;
        }
        Unit::Total => landing.stranded = !weights.spread(i64::from(brick.value), range, &mut put),
        Unit::PerWeek => {
            let mut landed = false;
            let mut start = range.start;
            while start < range.end {
                let week = start - start % 7..start - start % 7 + 7;
                let covered = start..week.end.min(range.end);
                start = week.end;
                let amount = weekly(i64::from(brick.value), days, &week, &covered);
                let found = amount.is_some_and(|amount| amount > 0 && weights.spread(amount, covered, &mut put));
                landed |= found;
                landing.stranded |= amount != Some(0) && !found;
            }
            // A range without a single working day has no share of any week: it is stranded as a whole, never silently zero.
            landing.stranded |= !landed;
        }
    }
    landing
}

/// Minutes of an hours-a-day amount on one day: a half day takes half, half up.
pub(super) fn per_day(amount: i32, available: i32, pattern: i32) -> i32 {
    if available == 0 || pattern == 0 {
        0
    } else if available == pattern {
        amount
    } else {
        let minutes = round_half_up(i64::from(amount) * i64::from(available), i64::from(pattern));
        i32::try_from(minutes).unwrap_or(i32::MAX)
    }
}

/// The amount of one week: all of it where the range covers the week, else the share of the pattern that it covers, half up. `None`
/// where the pattern has no hours that week, of which nothing is a share.
fn weekly(amount: i64, days: &Days, week: &Range<usize>, covered: &Range<usize>) -> Option<i64> {
    let whole = days.pattern.sum(week.clone());
    if whole == 0 {
        None
    } else if week == covered {
        Some(amount)
    } else {
        Some(round_half_up(amount * days.pattern.sum(covered.clone()), whole))
    }
}

/// How much a day weighs for one booking: its available minutes, and on a day off, where the booking is marked to work on
/// those, what the pattern says or (on a weekend) the workspace's working day.
struct Weights<'a> {
    days: &'a Days,
    marked: bool,
    day_minutes: i32,
}

impl Weights<'_> {
    fn of(&self, index: usize) -> i32 {
        match (self.days.available[index], self.days.pattern[index]) {
            (0, _) if !self.marked => 0,
            (0, 0) => self.day_minutes,
            (0, pattern) => pattern,
            (available, _) => available,
        }
    }

    /// Spreads an amount over a run of days in proportion to their weight; `false` when no day can take any.
    fn spread(&self, amount: i64, range: Range<usize>, put: &mut impl FnMut(usize, i32)) -> bool {
        let weights: Vec<i64> = range.clone().map(|index| i64::from(self.of(index))).collect();
        let Some(parts) = largest_remainder(amount, &weights) else { return false };
        for (index, minutes) in range.zip(parts) {
            if minutes > 0 {
                put(index, i32::try_from(minutes).unwrap_or(i32::MAX));
            }
        }
        true
    }
}

/// Where one booking of a person lands on `days`; minutes by day.
#[must_use]
pub fn booking_minutes(plan: &Plan, entry: &Entry, days: &Days, row: &BookingRow<'_>) -> ByDay {
    let mut minutes = ByDay::zeros(days.pattern.weeks());
    let own = days_needed(&row.brick, days).map(|(first, last)| Days::of(plan, entry, first, last));
    land_on(&row.brick, days, own.as_ref(), &plan.settings, |index, landed| minutes[index] += landed);
    minutes
}

/// Whether a person's booking has no day to land on in its own range, whatever window is looked at (by the week, whether a week of it
/// has none). `days` are any days of the person: where they tell, nothing else is worked out.
#[must_use]
pub fn is_stranded(plan: &Plan, entry: &Entry, days: &Days, row: &BookingRow<'_>) -> bool {
    let brick = &row.brick;
    let is_inside = brick.start >= days.first && brick.end <= days.last();
    let here = land(brick, days, &plan.settings, |_, _| {});
    // Hours in all that land on some days of their range have a day; a part of the weeks tells nothing of the others.
    if is_inside || !here.stranded && brick.unit != Unit::PerWeek {
        return here.stranded;
    }
    let own = Days::of(plan, entry, brick.start, brick.end);
    land(brick, &own, &plan.settings, |_, _| {}).stranded
}

/// Where a whole booking lands: the days of the weeks that it touches, the minutes by day, and what became of the rest. A booking
/// of nobody by name lands on the workspace's pattern.
#[must_use]
pub fn landed(plan: &Plan, booking: &Booking) -> (Days, ByDay, Landing) {
    let entry = match booking.who {
        Who::Person(id) => plan.people.get(&id),
        _ => None,
    };
    let days = match entry {
        Some(entry) => Days::of(plan, entry, booking.start, booking.end),
        None => Days::of_workspace(&plan.settings, booking.start, booking.end),
    };
    let mut minutes = ByDay::zeros(days.pattern.weeks());
    let landing = land(&Brick::of(booking), &days, &plan.settings, |index, landed| minutes[index] += landed);
    (days, minutes, landing)
}

/// The days that a booking needs besides `days` to be landed truly: its own range for total hours, else nothing.
pub(super) fn days_needed(brick: &Brick, days: &Days) -> Option<(Day, Day)> {
    let is_outside = brick.start < days.first || brick.end > days.last();
    (brick.unit == Unit::Total && is_outside).then_some((brick.start, brick.end))
}

/// Lands a booking on `days`, by way of its `own` ones where it needs them.
pub(super) fn land_on(
    brick: &Brick,
    days: &Days,
    own: Option<&Days>,
    settings: &Settings,
    mut put: impl FnMut(usize, i32),
) {
    match own {
        None => drop(land(brick, days, settings, put)),
        Some(own) => drop(land(brick, own, settings, |index, landed| {
            if let Some(at) = days.index(own.day(index)) {
                put(at, landed);
            }
        })),
    }
}
