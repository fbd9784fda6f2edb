//! Where the minutes of a booking land.

use crate::{
    Day,
    availability::Days,
    plan::{BookingRow, Entry, Plan},
    settings::Settings,
    spread::{largest_remainder, round_half_up},
    work::{Booking, Unit, Who},
};
use std::ops::Range;

/// What became of a booking's minutes besides those that landed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Landing {
    /// No day to land on: the whole booking, or for hours a week at least one week of it.
    pub stranded: bool,
    /// Minutes lost on days that are partly off (hours a day only).
    pub lost: i64,
}

/// Lands one booking on `days` and reports each day's minutes by index.
///
/// `days` must cover the booking's whole range when its unit is total hours, and whole ISO weeks when it is hours a week; for the
/// other units any part of the range will do. What is reported is the minutes of that one booking, before tasks fill it.
pub fn land(row: &BookingRow, days: &Days, settings: &Settings, mut put: impl FnMut(usize, i32)) -> Landing {
    let range = days.indexes(row.start, row.end);
    let length = DayLength { days, marked: row.days_off, day_minutes: settings.day_minutes };
    let mut landing = Landing::default();
    match row.amount.unit {
        Unit::PerDay => {
            let mut landed = false;
            for index in range.clone() {
                let minutes = per_day(row.amount.value, days.available[index], days.pattern[index]);
                let minutes = if days.available[index] == 0 && row.days_off { row.amount.value } else { minutes };
                landed |= days.available[index] > 0 || row.days_off;
                if days.available[index] > 0 {
                    landing.lost += i64::from(row.amount.value - minutes);
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
                let limit = if days.available[index] > 0 { days.limit[index] } else { length.of(index) };
                landed |= limit > 0;
                let minutes = i64::from(limit) * i64::from(row.amount.value) / 10_000;
                if minutes > 0 {
                    put(index, i32::try_from(minutes).unwrap_or(i32::MAX));
                }
            }
            landing.stranded = !landed;
        }
        Unit::Total => landing.stranded = !length.spread(i64::from(row.amount.value), range, &mut put),
        Unit::PerWeek => {
            let mut monday = days.day(range.start).monday();
            let mut landed = false;
            while monday <= row.end && days.index(monday).is_some_and(|at| at < range.end) {
                let week = days.indexes(monday, monday + 6);
                let covered = week.start.max(range.start)..week.end.min(range.end);
                let amount = length.weekly(i64::from(row.amount.value), &week, &covered);
                let found = amount > 0 && length.spread(amount, covered, &mut put);
                landed |= found;
                landing.stranded |= amount > 0 && !found;
                monday = monday + 7;
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

/// How much a day weighs for one booking: its available minutes, and on a day off, where the booking is marked to work on
/// those, what the pattern says or (on a weekend) the workspace's working day.
struct DayLength<'a> {
    days: &'a Days,
    marked: bool,
    day_minutes: i32,
}

impl DayLength<'_> {
    fn of(&self, index: usize) -> i32 {
        match (self.days.available[index], self.days.pattern[index]) {
            (0, _) if !self.marked => 0,
            (0, 0) => self.day_minutes,
            (0, pattern) => pattern,
            (available, _) => available,
        }
    }

    /// The amount of one week: all of it where the range covers the week, else the share of the pattern that it covers.
    fn weekly(&self, amount: i64, week: &Range<usize>, covered: &Range<usize>) -> i64 {
        if week == covered {
            return amount;
        }
        let weight = |index: usize| i64::from(if self.marked { self.of(index) } else { self.days.pattern[index] });
        let whole: i64 = week.clone().map(weight).sum();
        let part: i64 = covered.clone().map(weight).sum();
        if whole == 0 { 0 } else { round_half_up(amount * part, whole) }
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

/// Where one booking of a person lands on `days`, which must be whole ISO weeks; minutes by index.
#[must_use]
pub fn booking_minutes(plan: &Plan, entry: &Entry, days: &Days, row: &BookingRow) -> (Vec<i32>, Landing) {
    let mut minutes = vec![0; days.len()];
    let last = days.day(days.len() - 1);
    let landing = match needed(row, (days.first, last)) {
        None => land(row, days, &plan.settings, |index, landed| minutes[index] += landed),
        Some((first, last)) => {
            let own = Days::of_person(&entry.person, plan.holidays_of(&entry.person), &entry.absences, first, last);
            land(row, &own, &plan.settings, |index, landed| {
                if let Some(at) = days.index(own.day(index)) {
                    minutes[at] += landed;
                }
            })
        }
    };
    (minutes, landing)
}

/// Where a whole booking lands: the days of the weeks that it touches, the minutes by index, and what became of the rest. A booking
/// of nobody by name lands on the workspace's pattern.
#[must_use]
pub fn landed(plan: &Plan, booking: &Booking) -> (Days, Vec<i32>, Landing) {
    let (first, last) = (booking.start.monday(), booking.end.monday() + 6);
    let entry = match booking.who {
        Who::Person(id) => plan.people.get(&id),
        _ => None,
    };
    let days = match entry {
        Some(entry) => Days::of_person(&entry.person, plan.holidays_of(&entry.person), &entry.absences, first, last),
        None => Days::of_workspace(&plan.settings, first, last),
    };
    let mut minutes = vec![0; days.len()];
    let landing = land(&BookingRow::of(booking), &days, &plan.settings, |index, landed| minutes[index] += landed);
    (days, minutes, landing)
}

/// The days a booking needs to be landed truly: its own range for total hours, else nothing beyond the span.
pub(super) fn needed(row: &BookingRow, span: (Day, Day)) -> Option<(Day, Day)> {
    let outside = row.start < span.0 || row.end > span.1;
    (row.amount.unit == Unit::Total && outside).then_some((row.start, row.end))
}
