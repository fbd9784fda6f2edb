//! Where the effort of a placed task lies.

use crate::{
    Day, ProjectId, TaskId, TeamId,
    availability::Days,
    plan::Plan,
    spread::{contour_weights, largest_remainder},
    work::Task,
};

use super::{Window, effort::effort_of};

/// One task's minutes on one person's (or a team's) days.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TaskPart {
    /// The task.
    pub task: TaskId,
    /// Its own project.
    pub project: ProjectId,
    /// The team that the task names.
    pub team: Option<TeamId>,
    /// Minutes on each day of the span.
    pub minutes: Vec<i32>,
    /// It should have been finished before today: its days are marked late.
    pub late: bool,
    /// None of its days is a working day.
    pub stranded: bool,
}

/// Lays `effort` minutes of a task on days. `days_over` gives the working days of whoever does it, for any range.
///
/// A late task fills the days from today on with up to the day's limit; any other is spread from its start, or today if
/// that is later, to its finish, by its contour. `None` when the task has no dates or nothing falls into the span.
pub(super) fn lay(task: &Task, effort: i64, window: &Window, days_over: impl Fn(Day, Day) -> Days) -> Option<TaskPart> {
    let (start, finish) = (task.start?, task.finish?);
    if effort <= 0 {
        return None;
    }
    let span = window.span();
    let late = finish < window.today;
    let (first, last) = if late { (window.today, span.1) } else { (start.max(window.today), finish) };
    if first > span.1 || last < span.0 {
        return None;
    }
    let length = usize::try_from(span.1.since(span.0) + 1).ok()?;
    let mut part = TaskPart {
        task: task.id,
        project: task.project,
        team: task.team,
        minutes: vec![0; length],
        late,
        stranded: false,
    };
    let days = days_over(first, last);
    let available: Vec<i64> = days.available.iter().map(|minutes| i64::from(*minutes)).collect();
    let laid = if late {
        Some(fill(effort, &days.limit))
    } else {
        largest_remainder(effort, &contour_weights(&available, task.contour))
    };
    let Some(laid) = laid else {
        part.stranded = true;
        return Some(part);
    };
    for (index, minutes) in laid.into_iter().enumerate() {
        let at = usize::try_from(days.day(index).since(span.0)).ok();
        if let Some(slot) = at.and_then(|at| part.minutes.get_mut(at)) {
            *slot = i32::try_from(minutes).unwrap_or(i32::MAX);
        }
    }
    Some(part)
}

/// Fills days up to their limits until the effort is used up.
fn fill(effort: i64, limits: &[i32]) -> Vec<i64> {
    let mut left = effort;
    limits
        .iter()
        .map(|limit| {
            let now = left.min(i64::from(*limit));
            left -= now;
            now
        })
        .collect()
}

/// The parts of all tasks of one person.
pub(super) fn of_person(
    plan: &Plan,
    person: crate::PersonId,
    tasks: &[TaskId],
    window: &Window,
    days_over: impl Fn(Day, Day) -> Days,
) -> Vec<TaskPart> {
    let part = |id: &TaskId| {
        let task = plan.tasks.get(id)?;
        task.finish?; // waits in the tray
        let effort = effort_of(plan, task)?;
        let minutes = effort.parts.iter().find(|(who, _)| *who == person)?.1;
        lay(task, minutes, window, &days_over)
    };
    tasks.iter().filter_map(part).collect()
}
