//! What a change of bookings, tasks or the log does to the people it touches, said before it is done.

use crate::{
    Day, PersonId, Plan, TaskId,
    cells::{Bucket, Cell, Grain},
    change::Change,
    demand::{Window, end_of_queue, end_of_teams_queue, landed},
    kinds::{Booking, Task, Unit, Who},
    load::PersonCells,
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
    /// Minutes lost to time off, on whole days and on parts of them.
    Lost(PersonId, i64),
    /// Days off on which the booking counts.
    DaysOff(PersonId, usize),
}

/// The people whose bookings or tasks these changes touch. What is left of a task's parents hangs on it, so theirs are touched too.
#[must_use]
pub fn people_touched(before: &Plan, after: &Plan, changes: &[Change]) -> BTreeSet<PersonId> {
    let mut found = people_booked(changes);
    for plan in [before, after] {
        found.extend(tasks_touched(plan, changes).iter().flat_map(|task| task.assignees.people()));
    }
    found
}

/// The people whose bookings change.
fn people_booked(changes: &[Change]) -> BTreeSet<PersonId> {
    let bookings = changes.iter().flat_map(|change| match change {
        Change::Booking(edit) => edit.before.iter().chain(&edit.after).collect(),
        _ => Vec::new(),
    });
    let person = |booking: &Booking| match booking.who {
        Who::Person(id) => Some(id),
        _ => None,
    };
    bookings.filter_map(person).collect()
}

/// The tasks of a plan whose load these changes touch: those that change or are logged on, and all that they are in.
fn tasks_touched<'a>(plan: &'a Plan, changes: &[Change]) -> Vec<&'a Task> {
    let mut seen = BTreeSet::new();
    let mut next: Vec<TaskId> = Vec::new();
    for change in changes {
        match change {
            Change::Task(edit) => next.extend(edit.before.iter().chain(&edit.after).map(|task| task.id)),
            Change::TimeEntry(edit) => {
                next.extend(edit.before.iter().chain(&edit.after).filter_map(|entry| entry.task));
            }
            _ => {}
        }
    }
    let mut found = Vec::new();
    while let Some(id) = next.pop() {
        if let Some(task) = plan.tasks.get(&id).filter(|_| seen.insert(id)) {
            next.extend(task.parent);
            found.push(&**task);
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
    changes.iter().all(of_people).then(|| people_booked(changes))
}

/// The days on which these changes may alter load, as far as one of the two plans knows them.
pub(crate) fn days_touched(plan: &Plan, changes: &[Change], today: Day) -> Vec<Day> {
    let mut days: Vec<Day> = Vec::new();
    for change in changes {
        if let Change::Booking(edit) = change {
            days.extend(edit.before.iter().chain(&edit.after).flat_map(|booking| [booking.start, booking.end]));
        }
    }
    for task in tasks_touched(plan, changes) {
        days.extend([task.start, task.finish].into_iter().flatten());
        if task.is_late(today) {
            // Late work lies in a queue from today on, and what waits behind it moves with it.
            let ends = task.assignees.people().map(|person| end_of_queue(plan, person, today));
            let of_team = task.team.filter(|_| task.assignees.is_empty());
            let ends = ends.chain(of_team.map(|team| end_of_teams_queue(plan, team, today)));
            days.extend(ends.chain([today]));
        }
    }
    days
}

/// Compares the weeks of everyone touched by changes of bookings, tasks and logged time, over all the days that they touch, and lists
/// those that differ.
#[must_use]
pub fn week_effects(before: &Plan, after: &Plan, changes: &[Change], today: Day) -> Vec<WeekEffect> {
    let days: Vec<Day> = [before, after].iter().flat_map(|plan| days_touched(plan, changes, today)).collect();
    let Some((from, to)) = days.iter().min().zip(days.iter().max()) else { return Vec::new() };
    let window = Window::new(from.monday(), to.monday() + 6, today);
    let mut effects = Vec::new();
    for person in people_touched(before, after, changes) {
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
    let off = minutes.iter().zip(days.available.iter()).filter(|(minutes, free)| *minutes > 0 && *free == 0).count();
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
