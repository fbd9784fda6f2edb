//! What it really took against what was thought.
//!
//! For a task: E estimate, A actual, R remaining (typed, else what is left of the estimate); projected = A + R, variance =
//! projected − E. Sums for projects and people add tasks; what has no estimate is counted, not taken as zero.

use crate::{
    PersonId, Plan, ProjectId, TaskId,
    demand::{effort_of, left_of, shares_of},
    kinds::Task,
};
use std::collections::BTreeMap;

/// Estimate, actual and remaining of a task, project or person, in minutes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Actuals {
    /// What was thought; of everyone, where each has the full effort.
    pub estimate: i64,
    /// What was logged.
    pub actual: i64,
    /// What is still needed.
    pub remaining: i64,
    /// Tasks that say no estimate, whose log is in `actual` all the same.
    pub without_estimate: usize,
    /// Whether there is an estimate at all.
    pub estimated: bool,
}

impl Actuals {
    /// A + R: what it will have taken.
    #[must_use]
    pub fn projected(&self) -> i64 {
        self.actual + self.remaining
    }

    /// Projected − E, above zero when more is needed than was thought; `None` without an estimate.
    #[must_use]
    pub fn variance(&self) -> Option<i64> {
        self.estimated.then(|| self.projected() - self.estimate)
    }

    /// Takes other figures in.
    pub fn add(&mut self, other: &Self) {
        self.estimate += other.estimate;
        self.actual += other.actual;
        self.remaining += other.remaining;
        self.without_estimate += other.without_estimate;
        self.estimated |= other.estimated;
    }
}

/// The figures of a task with everything inside it.
///
/// A parent's own estimate stands for the whole of it while it is larger than the sum of what is inside; what is not broken down
/// yet is remaining.
#[must_use]
pub fn of_task(plan: &Plan, task: &Task) -> Actuals {
    let mut sum = Actuals::default();
    parts(plan, task, &mut |_, part| sum.add(part));
    sum
}

/// Shows what each task of a family adds to the figures of whatever it is in, besides the tasks inside it: a leaf all of it, a
/// parent what it has beyond them. Each task is looked at once, the inner ones first; returns the estimate of the whole.
fn parts(plan: &Plan, task: &Task, see: &mut impl FnMut(&Task, &Actuals)) -> i64 {
    let (mut inner, mut is_leaf) = (0, true);
    for child in inside(plan, task.id) {
        inner += parts(plan, child, see);
        is_leaf = false;
    }
    let part = Actuals {
        estimate: task.estimate.map_or(0, |minutes| (minutes * task.assignees.heads() - inner).max(0)),
        actual: plan.logged.get(&task.id).map_or(0, |log| log.iter().map(|(_, minutes)| minutes).sum()),
        remaining: left_of(plan, task).unwrap_or(0),
        without_estimate: usize::from(task.estimate.is_none() && is_leaf),
        estimated: task.estimate.is_some(),
    };
    see(task, &part);
    inner + part.estimate
}

fn inside(plan: &Plan, id: TaskId) -> impl Iterator<Item = &Task> {
    plan.children_of(id).iter().filter_map(|id| plan.tasks.get(id)).map(|task| &**task)
}

/// The figures of every project, each with the projects inside it; `None` holds what was logged on no project.
#[must_use]
pub fn of_projects(plan: &Plan) -> BTreeMap<Option<ProjectId>, Actuals> {
    let mut own: BTreeMap<Option<ProjectId>, Actuals> = BTreeMap::new();
    for task in plan.tasks.values().filter(|task| task.parent.is_none()) {
        parts(plan, task, &mut |task, part| own.entry(Some(task.project)).or_default().add(part));
    }
    for entry in plan.time_entries.values().filter(|entry| entry.task.is_none()) {
        own.entry(entry.project).or_default().actual += i64::from(entry.minutes);
    }
    let mut sums: BTreeMap<Option<ProjectId>, Actuals> = BTreeMap::new();
    for (project, figures) in &own {
        match project {
            None => sums.entry(None).or_default().add(figures),
            Some(id) => {
                plan.project_line(*id).for_each(|above| sums.entry(Some(above.id)).or_default().add(figures));
            }
        }
    }
    sums
}

/// The figures of one person: their shares of the tasks they are assigned to, and everything they logged.
#[must_use]
pub fn of_person(plan: &Plan, person: PersonId) -> Actuals {
    let mut sum = Actuals::default();
    let tasks = plan.people.get(&person).into_iter().flat_map(|entry| entry.tasks.iter());
    for task in tasks.filter_map(|id| plan.tasks.get(id)) {
        let inner = inside(plan, task.id).next().is_some();
        let at = task.assignees.people().position(|other| other == person);
        let share = |minutes: i64| at.and_then(|at| shares_of(&task.assignees, minutes).get(at).copied());
        if !inner {
            sum.estimate += task.estimate.and_then(share).unwrap_or(0);
            sum.estimated |= task.estimate.is_some();
            sum.without_estimate += usize::from(task.estimate.is_none());
        }
        let left = effort_of(plan, task).and_then(|effort| effort.parts.into_iter().find(|(who, _)| *who == person));
        sum.remaining += left.map_or(0, |(_, minutes)| minutes);
    }
    sum.actual = plan.logged_by(person).map(|entry| i64::from(entry.minutes)).sum();
    sum
}
