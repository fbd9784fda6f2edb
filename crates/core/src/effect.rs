//! What a change of bookings does to the people it touches, said before it is done.

use crate::{
    Day, PersonId, Plan,
    cells::{Bucket, Cell, Grain},
    change::Change,
    demand::{Window, landed},
    load::PersonCells,
    work::{Booking, Unit, Who},
};
use std::collections::BTreeSet;

/// A week of somebody that gets fuller or emptier.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WeekEffect {
    /// Who.
    pub person: PersonId,
    /// The week.
    pub week: Bucket,
    /// The cell before.
    pub before: Cell,
    /// The cell after.
    pub after: Cell,
}

/// What would not be seen from the figures alone.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Warning {
    /// The booking has no day to land on.
    Stranded(PersonId),
    /// Minutes lost on days that are partly off.
    Lost(PersonId, i64),
    /// Days off on which the booking counts.
    DaysOff(PersonId, usize),
}

/// The most weeks that are compared; the effect of a long booking is told by its first ones.
const MOST_WEEKS: i32 = 26;

/// The people whose bookings or tasks these changes touch.
#[must_use]
pub fn people_touched(changes: &[Change]) -> BTreeSet<PersonId> {
    let mut found = BTreeSet::new();
    for change in changes {
        match change {
            Change::Booking(edit) => {
                let both = edit.before.iter().chain(&edit.after);
                found.extend(both.filter_map(|booking| match booking.who {
                    Who::Person(id) => Some(id),
                    _ => None,
                }));
            }
            Change::Task(edit) => {
                found.extend(edit.before.iter().chain(&edit.after).flat_map(|task| task.assignees.people()));
            }
            _ => {}
        }
    }
    found
}

/// The people whose rows alone look otherwise after these changes; `None` where more may: anything but bookings of people by name.
#[must_use]
pub fn only_rows_of(changes: &[Change]) -> Option<BTreeSet<PersonId>> {
    let of_people = |change: &Change| match change {
        Change::Booking(edit) => {
            edit.before.iter().chain(&edit.after).all(|booking| matches!(booking.who, Who::Person(_)))
        }
        _ => false,
    };
    changes.iter().all(of_people).then(|| people_touched(changes))
}

/// The days that changes of bookings and tasks speak of.
fn days_touched(changes: &[Change]) -> Option<(Day, Day)> {
    let days = changes.iter().flat_map(|change| match change {
        Change::Booking(edit) => {
            edit.before.iter().chain(&edit.after).flat_map(|booking| [booking.start, booking.end]).collect()
        }
        Change::Task(edit) => {
            edit.before.iter().chain(&edit.after).flat_map(|task| [task.start, task.finish]).flatten().collect()
        }
        _ => Vec::new(),
    });
    let days: Vec<Day> = days.collect();
    days.iter().min().copied().zip(days.iter().max().copied())
}

/// Compares the weeks of everyone touched by changes of bookings and tasks, and lists those that differ.
#[must_use]
pub fn week_effects(before: &Plan, after: &Plan, changes: &[Change], today: Day) -> Vec<WeekEffect> {
    let Some((from, to)) = days_touched(changes) else { return Vec::new() };
    let from = from.monday();
    let window = Window::new(from, (to.monday() + 6).min(from + (MOST_WEEKS * 7 - 1)), today);
    let mut effects = Vec::new();
    for person in people_touched(changes) {
        let (Some(old), Some(new)) = (before.people.get(&person), after.people.get(&person)) else { continue };
        let old = PersonCells::of(before, old, &window, Grain::Week, false);
        let new = PersonCells::of(after, new, &window, Grain::Week, false);
        let mut monday = window.from;
        while monday <= window.to {
            let week = Bucket { from: monday, to: monday + 6 };
            let (before, after) = (old.cell(week), new.cell(week));
            if before != after {
                effects.push(WeekEffect { person, week, before, after });
            }
            monday = monday + 7;
        }
    }
    effects
}

/// Says what the figures of a booking would not show.
#[must_use]
pub fn warnings(plan: &Plan, booking: &Booking) -> Vec<Warning> {
    let Who::Person(person) = booking.who else { return Vec::new() };
    if !plan.people.contains_key(&person) {
        return Vec::new();
    }
    let (days, minutes, landing) = landed(plan, booking);
    let off = minutes.iter().zip(&days.available).filter(|(minutes, free)| **minutes > 0 && **free == 0).count();
    let mut found = Vec::new();
    if landing.stranded {
        found.push(Warning::Stranded(person));
    }
    if landing.lost > 0 && booking.amount.unit == Unit::PerDay {
        found.push(Warning::Lost(person, landing.lost));
    }
    if off > 0 {
        found.push(Warning::DaysOff(person, off));
    }
    found
}
