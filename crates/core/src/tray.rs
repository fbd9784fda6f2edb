//! The tray: work that stands nowhere yet, and where it comes to stand when it is dropped on somebody.

use crate::{
    BookingId, Day, PersonId, Plan, TaskId,
    availability::{Days, works_between},
    demand::{Window, effort_of, is_parent, left_of, person_load, planned_of},
    kinds::{Assignees, Priority, ProjectStatus, Task, Who},
};

/// Something that waits.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Waiting {
    /// A task without dates, or with nobody to do it.
    Task {
        /// The task.
        id: TaskId,
        /// What is left of it; `None` where nothing says how much it is.
        minutes: Option<i64>,
        /// Why it waits.
        lacks: Lacks,
    },
    /// An open seat that is not over yet.
    Seat(BookingId),
}

/// What a task lacks to carry load.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[allow(clippy::struct_excessive_bools)] // each stands for itself
pub struct Lacks {
    /// It has no start, or no finish.
    pub dates: bool,
    /// It names neither people nor a team.
    pub people: bool,
    /// Nothing says how much it is.
    pub size: bool,
    /// It lies on days off alone: of somebody who has a part of it, or of the workspace where it names nobody.
    pub working_day: bool,
}

/// What waits: open seats by their first day, then tasks, urgent ones first, then by due date.
///
/// A leaf that is not done waits while it has no start, no finish, neither people nor a team, no size, or not one working day to lie
/// on. Tasks of closed projects do not, nor those of which nothing is left.
#[must_use]
pub fn waiting(plan: &Plan, today: Day) -> Vec<Waiting> {
    let mut seats: Vec<_> = plan
        .seats
        .values()
        .filter(|seat| matches!(seat.who, Who::Role(_)) && seat.end >= today)
        .map(|seat| (seat.start, seat.id))
        .collect();
    seats.sort_unstable();
    let mut tasks: Vec<_> = plan.tasks.values().filter_map(|task| Some((task, waits(plan, task, today)?))).collect();
    tasks.sort_by_key(|(task, _)| (std::cmp::Reverse(task.priority), task.due.unwrap_or(Day::MAX), task.id));
    seats.into_iter().map(|(_, id)| Waiting::Seat(id)).chain(tasks.into_iter().map(|(_, waits)| waits)).collect()
}

/// How a task waits; `None` where it is placed, done, or a parent.
fn waits(plan: &Plan, task: &Task, today: Day) -> Option<Waiting> {
    let closed = plan.records.projects.get(&task.project).is_some_and(|p| p.status == ProjectStatus::Closed);
    if task.is_done() || closed || is_parent(plan, task.id) {
        return None;
    }
    let mut lacks = Lacks {
        dates: task.start.is_none() || task.finish.is_none(),
        people: task.assignees.is_empty() && task.team.is_none(),
        size: planned_of(plan, task).is_none(),
        working_day: false,
    };
    lacks.working_day = lacks == Lacks::default() && lies_on_days_off(plan, task, today);
    if lacks == Lacks::default() {
        return None;
    }
    let minutes = left_of(plan, task);
    (minutes != Some(0)).then_some(Waiting::Task { id: task.id, minutes, lacks })
}

/// Whether somebody who has a part of a placed task has not one working day for it. Late work lies on the days from today on.
fn lies_on_days_off(plan: &Plan, task: &Task, today: Day) -> bool {
    let (Some(start), Some(finish)) = (task.start, task.finish) else { return false };
    if finish < today {
        return false;
    }
    let first = start.max(today);
    if task.assignees.is_empty() {
        let days = Days::of_workspace(&plan.settings, first, finish);
        return days.available.days(days.indexes(first, finish)).all(|minutes| minutes == 0);
    }
    let people = task.assignees.people().filter_map(|id| plan.people.get(&id));
    let mut without = people.filter(|entry| !works_between(plan, entry, first, finish)).peekable();
    without.peek().is_some()
        && effort_of(plan, task).is_some_and(|effort| {
            without.any(|entry| effort.parts.iter().any(|(id, part)| *id == entry.person.id && *part > 0))
        })
}

/// How far a finish is looked for.
const FARTHEST: i32 = 365;
/// The length of a task whose size nothing says, in days.
const UNKNOWN_DAYS: i32 = 5;

/// The task as it stands when it is dropped on somebody's day: theirs if it is nobody's, from that day (or today) on.
///
/// It finishes on the first day by which the person's room from the start on (limit less load, of every day) holds what is left of
/// it; where a year's room does not, by their limits alone. A task of unknown size takes a week.
#[must_use]
pub fn dropped(plan: &Plan, task: &Task, person: PersonId, day: Day, today: Day) -> Task {
    let mut placed = task.clone();
    if placed.assignees.is_empty() {
        placed.assignees = Assignees::Even(vec![person]);
    }
    let start = day.max(today);
    placed.start = Some(start);
    placed.finish = Some(finish(plan, &placed, person, start, today));
    placed
}

fn finish(plan: &Plan, task: &Task, person: PersonId, start: Day, today: Day) -> Day {
    let part = effort_of(plan, task).and_then(|effort| {
        let own = effort.parts.iter().find(|(id, _)| *id == person).map(|(_, minutes)| *minutes);
        own.or(Some(effort.minutes))
    });
    let (Some(entry), Some(minutes)) = (plan.people.get(&person), part.filter(|minutes| *minutes > 0)) else {
        return start + (UNKNOWN_DAYS - 1);
    };
    let window = Window::new(start, start + FARTHEST, today);
    let load = person_load(plan, entry, &window, false);
    let range = load.days.indexes(window.from, window.to);
    let reached = |room: &dyn Fn(usize) -> i32| {
        let mut left = minutes;
        let day = range.clone().find(|at| {
            left -= i64::from(room(*at).max(0));
            left <= 0
        });
        day.map(|at| load.days.day(at))
    };
    let by_room = reached(&|at| load.days.limit()[at] - load.load[at]);
    by_room.or_else(|| reached(&|at| load.days.limit()[at])).unwrap_or(start + (UNKNOWN_DAYS - 1))
}

/// Whether a task presses, for who looks at the tray.
#[must_use]
pub fn presses(task: &Task, today: Day) -> bool {
    task.priority == Priority::Urgent || task.due.is_some_and(|due| due < today)
}
