//! How much of a task is left, and for whom.
//!
//! For a task: E estimate, A all that is logged on it by anybody, R remaining, P the planned total. P = A + R from the moment R is
//! typed, else E; R = max(0, P − A). Logging, and taking out of the log, moves R and leaves P. Where each has the full effort, E, P
//! and R are typed × people.

use crate::{
    PersonId, TaskId,
    kinds::{Assignees, ProjectStatus, Task},
    plan::{Inside, Plan},
    spread::{largest_remainder, round_half_up},
};
use std::collections::HashMap;

/// What is left to do of a task.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Effort {
    /// Minutes in all; of everyone, where each has the full effort.
    pub minutes: i64,
    /// Minutes of each assignee, in the order written; empty when nobody is named.
    pub parts: Vec<(PersonId, i64)>,
}

/// The effort that a task itself puts on days: a leaf's remaining, a parent's unbroken remainder.
///
/// `None` when nothing says how much it is, or the task is done. A task of a closed project has nothing left.
///
/// P is cut between the assignees, by shares with the largest remainder, ties in the order written; each one's rest is their part less
/// what they logged themselves, and R is cut over the rests, or over the parts where no rest is left.
#[must_use]
pub fn effort_of(plan: &Plan, task: &Task) -> Option<Effort> {
    let (planned, left) = planned_and_left(plan, task)?;
    if task.assignees.is_empty() {
        return Some(Effort { minutes: left, parts: Vec::new() });
    }
    let parts = parts_of(&task.assignees, planned);
    let log = plan.logged.get(&task.id);
    let logged_by = |person: PersonId| {
        log.and_then(|log| log.iter().find(|it| it.person == person)).map_or(0, |logged| logged.minutes)
    };
    let rests: Vec<i64> =
        task.assignees.people().zip(&parts).map(|(who, part)| (part - logged_by(who)).max(0)).collect();
    let cut = largest_remainder(left, &rests).or_else(|| largest_remainder(left, &parts));
    let cut = cut.unwrap_or_else(|| vec![0; parts.len()]);
    Some(Effort { minutes: left, parts: task.assignees.people().zip(cut).collect() })
}

/// The minutes of [`effort_of`], where nobody asks whose they are.
#[must_use]
pub fn left_of(plan: &Plan, task: &Task) -> Option<i64> {
    planned_and_left(plan, task).map(|(_, left)| left)
}

/// P and R of what a task itself puts on days.
fn planned_and_left(plan: &Plan, task: &Task) -> Option<(i64, i64)> {
    if task.is_done() {
        return None;
    }
    let planned = match inside(plan, task.id) {
        None => whole(task, logged_on(plan, task.id))?,
        Some(inside) => (whole(task, logged_on(plan, task.id) + inside.logged)? - inside.planned).max(0),
    };
    let is_closed = || plan.records.projects.get(&task.project).is_some_and(|it| it.status == ProjectStatus::Closed);
    let left = (planned - logged_on(plan, task.id)).max(0);
    Some((planned, if left > 0 && is_closed() { 0 } else { left }))
}

/// P of a task by its own figures, in minutes, of everyone where each has the full effort; `None` where it says neither estimate nor
/// remaining.
#[must_use]
pub fn planned_of(plan: &Plan, task: &Task) -> Option<i64> {
    let logged = if task.remaining.is_some() { logged_in(plan, task.id) } else { 0 };
    whole(task, logged)
}

/// P by a task's own figures. Files hold what remains beside the log, so a typed P is never below what is `logged` on the task and
/// inside it.
fn whole(task: &Task, logged: i64) -> Option<i64> {
    match task.remaining {
        Some(remaining) => Some((task.logged_then + remaining * task.assignees.heads()).max(logged)),
        None => task.estimate.map(|estimate| estimate * task.assignees.heads()),
    }
}

/// What remains of a task as files, lists and forms say it: max(0, P − A) where it was typed, of each one where each has the full
/// effort, half up; `None` where it was not typed. Of done tasks too; a parent's with everything inside it.
#[must_use]
pub fn remaining_of(plan: &Plan, task: &Task) -> Option<i64> {
    remaining_beside(task, logged_in(plan, task.id))
}

/// The same beside any log of the task and everything inside it, in minutes.
#[must_use]
pub fn remaining_beside(task: &Task, logged: i64) -> Option<i64> {
    let remaining = task.remaining?;
    let left = task.logged_then + remaining * task.assignees.heads() - logged;
    Some(round_half_up(left.max(0), task.assignees.heads()))
}

/// Cuts an effort of all between the assignees, by largest remainder, ties in the order written.
pub(crate) fn parts_of(assignees: &Assignees, minutes: i64) -> Vec<i64> {
    match assignees {
        Assignees::Full(people) => largest_remainder(minutes, &vec![1; people.len()]).unwrap_or_default(),
        cut => shares_of(cut, minutes),
    }
}

/// Cuts what was typed between the assignees: evenly or by shares with the largest remainder, or in full to each.
pub(crate) fn shares_of(assignees: &Assignees, minutes: i64) -> Vec<i64> {
    match assignees {
        Assignees::Even(people) => largest_remainder(minutes, &vec![1; people.len()]).unwrap_or_default(),
        Assignees::Shares(shares) => {
            let weights: Vec<i64> = shares.iter().map(|(_, share)| i64::from(*share)).collect();
            largest_remainder(minutes, &weights).unwrap_or_default()
        }
        Assignees::Full(people) => vec![minutes; people.len()],
    }
}

/// Whether other tasks are inside this one.
#[must_use]
pub fn is_parent(plan: &Plan, id: TaskId) -> bool {
    !plan.children_of(id).is_empty()
}

/// Minutes logged on a task itself, by anybody.
pub(crate) fn logged_on(plan: &Plan, id: TaskId) -> i64 {
    plan.logged.get(&id).map_or(0, |log| log.iter().map(|it| it.minutes).sum())
}

/// Minutes logged on a task and on everything inside it, by anybody.
#[must_use]
pub fn logged_in(plan: &Plan, id: TaskId) -> i64 {
    logged_on(plan, id) + inside(plan, id).map_or(0, |inside| inside.logged)
}

/// P of everything inside a task; `None` where nothing is.
#[must_use]
pub fn planned_inside(plan: &Plan, id: TaskId) -> Option<i64> {
    inside(plan, id).map(|inside| inside.planned)
}

/// What stands inside a task; `None` where nothing does. Added up once for a plan, which keeps it.
fn inside(plan: &Plan, id: TaskId) -> Option<Inside> {
    plan.inside.get_or_init(|| sums_inside(plan)).get(&id).copied()
}

/// The sums inside every task that others are in: from the leaves up, each task once, whatever the depth.
///
/// P of a task in such a sum is the larger of its own and what is inside it; one that says neither estimate nor remaining counts what
/// is logged on it, and what is inside it.
fn sums_inside(plan: &Plan) -> HashMap<TaskId, Inside> {
    let mut found: HashMap<TaskId, Inside> = HashMap::new();
    let is_top = |id: &&TaskId| {
        !plan.children_of(**id).is_empty() && plan.tasks.get(*id).is_none_or(|task| task.parent.is_none())
    };
    // Each with its children that are still to be looked at.
    let mut path: Vec<(TaskId, &[TaskId], Inside)> = Vec::new();
    for top in plan.children.keys().filter(is_top) {
        path.push((*top, plan.children_of(*top), Inside::default()));
        while let Some((id, rest, sum)) = path.last_mut() {
            let Some((child, more)) = rest.split_first() else {
                let (id, sum) = (*id, *sum);
                path.pop();
                found.insert(id, sum);
                if let Some((_, _, above)) = path.last_mut() {
                    above.add(plan, id, Some(sum));
                }
                continue;
            };
            *rest = more;
            match plan.children_of(*child) {
                [] => sum.add(plan, *child, None),
                inner => path.push((*child, inner, Inside::default())),
            }
        }
    }
    found
}

impl Inside {
    /// Takes a task in, with what is inside it.
    fn add(&mut self, plan: &Plan, id: TaskId, inside: Option<Self>) {
        let Some(task) = plan.tasks.get(&id) else { return };
        let inside = inside.unwrap_or_default();
        let (own, logged) = (logged_on(plan, id), logged_on(plan, id) + inside.logged);
        self.planned += whole(task, logged).map_or(own + inside.planned, |planned| planned.max(inside.planned));
        self.logged += logged;
    }
}
