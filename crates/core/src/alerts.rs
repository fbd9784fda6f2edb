//! Warnings that find one: what in a window needs somebody to look at it.

use crate::{
    BookingId, Day, Plan, ProjectId,
    cells::{Band, Bucket, Grain},
    demand::{Window, is_stranded, left_of},
    kinds::{ProjectStatus, Who},
    load::PersonCells,
    plan::{BookingRow, Entry, Marks},
    words::words,
};
use std::collections::BTreeSet;

/// What is wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Alert {
    /// Somebody is over their limit in a bucket.
    Over,
    /// A booking has no day to land on.
    Stranded,
    /// A booking is marked to work on a day off.
    DaysOff,
    /// Somebody is on more projects at a time than their limit says.
    Crowded,
    /// A booking in whose project the person has no task. Sketch projects have none.
    Taskless,
    /// A project with work left in its tasks and nobody booked on it, or on one above it, from today on.
    Unbooked,
}

words!(Alert {
    Over = "over",
    Stranded = "stranded",
    DaysOff = "days-off",
    Crowded = "crowded",
    Taskless = "taskless",
    Unbooked = "unbooked",
});

/// What is wrong with one person's row in a window.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct PersonAlerts {
    /// Over in some bucket.
    pub over: bool,
    /// On too many projects on some day.
    pub crowded: bool,
    /// Bookings with no day to land on.
    pub stranded: Vec<BookingId>,
    /// Bookings that count on days off.
    pub days_off: Vec<BookingId>,
    /// Bookings without a task.
    pub taskless: Vec<BookingId>,
}

impl PersonAlerts {
    /// How often something is wrong: people are counted once, bookings each.
    #[must_use]
    pub fn count(&self, alert: Alert) -> usize {
        match alert {
            Alert::Over => usize::from(self.over),
            Alert::Crowded => usize::from(self.crowded),
            Alert::Stranded => self.stranded.len(),
            Alert::DaysOff => self.days_off.len(),
            Alert::Taskless => self.taskless.len(),
            Alert::Unbooked => 0,
        }
    }
}

/// Looks one person's row over. What is over before today cannot be helped and is left out.
#[must_use]
pub fn of_person(plan: &Plan, entry: &Entry, window: &Window, grain: Grain, buckets: &[Bucket]) -> PersonAlerts {
    let most = entry.person.max_projects.map(i64::from);
    let cells = PersonCells::of(plan, entry, window, grain, most.is_some());
    let load = &cells.load;
    let mark = plan.settings.snug_mark;
    let to_come = |bucket: &&Bucket| bucket.to >= window.today;
    let over = buckets.iter().filter(to_come).any(|bucket| cells.cell(*bucket).band(mark) == Some(Band::Over));
    let shown = load.days.indexes(window.from.max(window.today), window.to);
    let crowded = most.is_some_and(|most| shown.clone().any(|at| load.projects_on(at) > most));
    let here = |row: &BookingRow<'_>| row.brick.touches(window.from, window.to);
    let mut found = PersonAlerts { over, crowded, ..PersonAlerts::default() };
    for row in entry.bookings().filter(here) {
        let brick = &row.brick;
        if is_stranded(plan, entry, &load.days, &row) {
            found.stranded.push(row.id);
        }
        if brick.marks.contains(Marks::DAYS_OFF)
            && load.days.indexes(brick.start, brick.end).any(|at| load.days.available[at] == 0)
        {
            found.days_off.push(row.id);
        }
        if brick.end >= window.today && row.project.is_some_and(|id| !has_task(plan, entry, id)) {
            found.taskless.push(row.id);
        }
    }
    found
}

fn has_task(plan: &Plan, entry: &Entry, project: ProjectId) -> bool {
    let sketch = plan.records.projects.get(&project).is_some_and(|project| project.status == ProjectStatus::Sketch);
    let inside = |id: &crate::TaskId| {
        let task = plan.tasks.get(id);
        task.is_some_and(|task| plan.project_line(task.project).any(|above| above.id == project))
    };
    sketch || entry.tasks.iter().any(inside)
}

/// The projects with work left in their tasks and nobody booked from today on, neither on them nor on one above.
#[must_use]
pub fn unbooked(plan: &Plan, today: Day) -> BTreeSet<ProjectId> {
    let of_people = plan.people.values().flat_map(Entry::bookings);
    let named = of_people.filter(|row| row.brick.end >= today).filter_map(|row| row.project);
    let seats = plan.seats.values().filter(|seat| seat.end >= today && !matches!(seat.who, Who::Person(_)));
    let booked: BTreeSet<ProjectId> = named.chain(seats.filter_map(|seat| seat.project)).collect();
    let mut left: BTreeSet<ProjectId> = BTreeSet::new();
    for task in plan.tasks.values().filter(|task| !task.is_done()) {
        if left.contains(&task.project) {
            continue;
        }
        let open =
            plan.records.projects.get(&task.project).is_some_and(|project| project.status != ProjectStatus::Closed);
        let covered = plan.project_line(task.project).any(|above| booked.contains(&above.id));
        if open && !covered && left_of(plan, task).is_some_and(|minutes| minutes > 0) {
            left.insert(task.project);
        }
    }
    left
}
