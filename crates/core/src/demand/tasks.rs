//! Where the effort of a placed task lies.

use super::{Window, effort::effort_of, lanes::Ground};
use crate::{
    Day, PersonId, ProjectId, TaskId, TeamId,
    availability::Days,
    by_day::ByDay,
    kinds::Task,
    plan::Plan,
    spread::{contour_weights, largest_remainder},
};

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
    pub minutes: ByDay,
    /// It should have been finished before today: its days are marked late.
    pub late: bool,
    /// None of its days is a working day.
    pub stranded: bool,
}

/// A task that has dates, with the minutes of it that are to be laid.
struct Placed<'a> {
    task: &'a Task,
    start: Day,
    finish: Day,
    minutes: i64,
}

/// The parts of all tasks of one person.
pub(super) fn of_person(
    plan: &Plan,
    person: PersonId,
    tasks: &[TaskId],
    window: &Window,
    ground: &Ground<'_>,
) -> Vec<TaskPart> {
    let own = |task: &Task| {
        let parts = effort_of(plan, task)?.parts;
        parts.iter().find(|(who, _)| *who == person).map(|(_, minutes)| *minutes)
    };
    lay_all(plan, tasks, window, ground, own)
}

/// The parts of tasks that name a team and nobody.
pub(super) fn of_team(plan: &Plan, tasks: &[TaskId], window: &Window, ground: &Ground<'_>) -> Vec<TaskPart> {
    lay_all(plan, tasks, window, ground, |task| effort_of(plan, task).map(|effort| effort.minutes))
}

/// Lays tasks on the days of whoever does them. A late task waits in a queue: together they fill the days from today on up to the
/// day's limit, by finish, then by reference. Any other is spread from its start, or today if that is later, to its finish.
fn lay_all(
    plan: &Plan,
    tasks: &[TaskId],
    window: &Window,
    ground: &Ground<'_>,
    minutes: impl Fn(&Task) -> Option<i64>,
) -> Vec<TaskPart> {
    let span = window.span();
    let mut found = Vec::new();
    let mut late = Vec::new();
    for task in tasks.iter().filter_map(|id| plan.tasks.get(id)) {
        let (Some(start), Some(finish)) = (task.start, task.finish) else { continue };
        let is_late = task.is_late(window.today);
        let is_seen =
            if is_late { window.today <= span.1 } else { start.max(window.today) <= span.1 && finish >= span.0 };
        if !is_seen {
            continue;
        }
        let Some(minutes) = minutes(task).filter(|minutes| *minutes > 0) else { continue };
        let placed = Placed { task, start, finish, minutes };
        if is_late { late.push(placed) } else { found.push(placed.spread(window, ground)) }
    }
    if !late.is_empty() {
        late.sort_by(|a, b| (a.finish, &a.task.reference, a.task.id).cmp(&(b.finish, &b.task.reference, b.task.id)));
        found.extend(queued(&late, window, ground));
    }
    found
}

/// Late tasks one after the other, from today on.
fn queued(late: &[Placed<'_>], window: &Window, ground: &Ground<'_>) -> Vec<TaskPart> {
    // What lies before the window is filled too, so that the window sees what is left for it.
    let earlier = (window.today < ground.days.first).then(|| (ground.days_over)(window.today, ground.days.last()));
    let days = earlier.as_ref().unwrap_or(ground.days);
    let mut queue = late.iter().map(|placed| (placed.part(ground), placed.minutes)).collect::<Vec<_>>();
    let mut next = 0;
    for index in days.indexes(window.today, days.last()) {
        let mut room = i64::from(days.limit()[index]);
        while room > 0 && next < queue.len() {
            let (part, left) = &mut queue[next];
            let now = room.min(*left);
            (room, *left) = (room - now, *left - now);
            if let Some(at) = ground.days.index(days.day(index)) {
                part.minutes[at] = i32::try_from(now).unwrap_or(i32::MAX);
            }
            next += usize::from(*left == 0);
        }
    }
    queue.into_iter().map(|(part, _)| TaskPart { late: true, ..part }).collect()
}

impl Placed<'_> {
    /// Nothing laid yet.
    fn part(&self, ground: &Ground<'_>) -> TaskPart {
        TaskPart {
            task: self.task.id,
            project: self.task.project,
            team: self.task.team,
            minutes: ByDay::zeros(ground.days.pattern.weeks()),
            late: false,
            stranded: false,
        }
    }

    /// Spread over its days by its contour, exact by largest remainder.
    fn spread(&self, window: &Window, ground: &Ground<'_>) -> TaskPart {
        let mut part = self.part(ground);
        let first = self.start.max(window.today);
        let is_inside = first >= ground.days.first && self.finish <= ground.days.last();
        let own: Option<Days> = (!is_inside).then(|| (ground.days_over)(first, self.finish));
        let days = own.as_ref().unwrap_or(ground.days);
        let range = days.indexes(first, self.finish);
        let available: Vec<i64> = days.available.days(range.clone()).map(i64::from).collect();
        let Some(laid) = largest_remainder(self.minutes, &contour_weights(&available, self.task.contour)) else {
            part.stranded = true;
            return part;
        };
        for (index, minutes) in range.zip(laid) {
            if let Some(at) = ground.days.index(days.day(index)) {
                part.minutes[at] = i32::try_from(minutes).unwrap_or(i32::MAX);
            }
        }
        part
    }
}
