//! What tasks come to together: of a project, and of a task that others are inside (`rules/network.md`, Roll-up).

use super::{ground::Dates, order::leaves};
use crate::{
    Plan, ProjectId, TaskId,
    demand::{is_parent, left_of, planned_of},
    kinds::Task,
};
use rust_decimal::prelude::ToPrimitive as _;
use std::collections::HashMap;

/// What tasks come to.
#[derive(Clone, Copy, Debug, Default)]
pub struct Whole {
    /// From the first start of a leaf to the last finish.
    pub dates: Option<Dates>,
    /// Minutes that are left: of leaves, and what nothing inside a parent covers.
    pub left: i64,
}

/// What each project comes to, with the projects inside it.
#[must_use]
pub fn wholes(plan: &Plan) -> HashMap<ProjectId, Whole> {
    let mut found: HashMap<ProjectId, Whole> = HashMap::new();
    for task in plan.tasks.values() {
        let dates = task.start.zip(task.finish).filter(|_| !is_parent(plan, task.id));
        let left = left_of(plan, task).unwrap_or(0);
        for project in plan.project_line(task.project) {
            let whole = found.entry(project.id).or_default();
            whole.dates = span(whole.dates.into_iter().chain(dates));
            whole.left += left;
        }
    }
    found
}

/// A task, then everything inside it.
pub fn with_inner(plan: &Plan, task: TaskId) -> impl Iterator<Item = &Task> {
    let mut left = vec![task];
    std::iter::from_fn(move || {
        let id = left.pop()?;
        left.extend(plan.children_of(id));
        plan.tasks.get(&id).map(|task| &**task)
    })
}

/// Minutes that are left of a task with all that is inside it.
#[must_use]
pub fn left_in(plan: &Plan, task: TaskId) -> i64 {
    with_inner(plan, task).filter_map(|task| left_of(plan, task)).sum()
}

/// Where a task stands, with all that is inside it.
#[must_use]
pub fn dates_of(plan: &Plan, task: TaskId) -> Option<Dates> {
    span(leaves(plan, task).iter().filter_map(|id| plan.tasks.get(id)).filter_map(|leaf| leaf.start.zip(leaf.finish)))
}

/// From the first start to the last finish.
#[must_use]
pub fn span(dates: impl Iterator<Item = Dates>) -> Option<Dates> {
    dates.reduce(|(start, finish), (from, to)| (start.min(from), finish.max(to)))
}

/// How much of a task is done, in hundredths of a percent: all of one that is done; else as typed; else by what is logged and left.
/// Of one that others are inside it is theirs, weighted by their effort; where none of them says any, all weigh the same.
#[must_use]
pub fn progress(plan: &Plan, task: &Task) -> i32 {
    if task.is_done() {
        return WHOLE;
    }
    if !is_parent(plan, task.id) {
        return of_leaf(plan, task);
    }
    let leaves = leaves(plan, task.id);
    let leaves: Vec<&Task> = leaves.iter().filter_map(|id| plan.tasks.get(id)).map(|leaf| &**leaf).collect();
    let efforts: Vec<i128> = leaves.iter().map(|leaf| planned_of(plan, leaf).unwrap_or(0).into()).collect();
    let nothing = efforts.iter().all(|effort| *effort == 0);
    let weights = efforts.iter().map(|effort| if nothing { 1 } else { *effort });
    let (mut done, mut all) = (0_i128, 0_i128);
    for (leaf, weight) in leaves.iter().zip(weights) {
        done += i128::from(of_leaf(plan, leaf)) * weight;
        all += weight;
    }
    i32::try_from((2 * done + all) / (2 * all.max(1))).unwrap_or(WHOLE)
}

/// All of a task, in hundredths of a percent.
const WHOLE: i32 = 10_000;

fn of_leaf(plan: &Plan, leaf: &Task) -> i32 {
    if leaf.is_done() {
        return WHOLE;
    }
    if let Some(typed) = leaf.progress {
        return (typed * rust_decimal::Decimal::ONE_HUNDRED).round().to_i32().unwrap_or(0).clamp(0, WHOLE);
    }
    let figures = crate::hours::of_task(plan, leaf);
    let (worked, in_all) = (i128::from(figures.actual()), i128::from(figures.projected().max(1)));
    i32::try_from((2 * worked * i128::from(WHOLE) + in_all) / (2 * in_all)).unwrap_or(WHOLE).clamp(0, WHOLE)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        Day,
        change::{Change, Edit},
        kinds::{Project, Record as _},
    };

    /// A parent with an estimate of its own of 10 h; inside it 4 h, half of it done, and 2 h that are done.
    fn plan() -> Plan {
        let project = Project { id: ProjectId(9), code: "p".into(), name: "P".into(), ..Project::blank() };
        let task = |id: i32, parent: Option<i32>, hours: i64, days: (i32, i32)| {
            let day = |number: i32| Some(Day::from_ymd(2026, 3, 2).unwrap() + number);
            let (id, parent, estimate) = (TaskId(id), parent.map(TaskId), Some(hours * 60));
            let (start, finish) = (day(days.0), day(days.1));
            Task { id, parent, project: project.id, title: "t".into(), estimate, start, finish, ..Task::blank() }
        };
        let half = Task { progress: Some(50.into()), ..task(2, Some(1), 4, (3, 4)) };
        let done = Task { stage: "done".into(), ..task(3, Some(1), 2, (0, 1)) };
        let tasks = [task(1, None, 10, (0, 0)), half, done].map(|task| Change::Task(Edit::new(task)));
        Plan::empty().with(&[Change::Project(Edit::new(project.clone()))]).with(&tasks)
    }

    #[test]
    fn what_nothing_inside_a_parent_covers_is_left_of_it_and_of_its_project() {
        let plan = plan();
        // 4 h of the first; of the 10 h of the parent 4 h are in neither of the two.
        assert_eq!(left_in(&plan, TaskId(1)), (4 + 4) * 60);
        assert_eq!(wholes(&plan)[&ProjectId(9)].left, (4 + 4) * 60);
    }

    #[test]
    fn a_whole_goes_from_its_first_start_to_its_last_finish_and_is_done_by_effort() {
        let plan = plan();
        let first = Day::from_ymd(2026, 3, 2).unwrap();
        assert_eq!(dates_of(&plan, TaskId(1)), Some((first, first + 4)));
        // (4 h × 50 % + 2 h × 100 %) / 6 h
        assert_eq!(progress(&plan, &plan.tasks[&TaskId(1)]), 6_667);
    }
}
