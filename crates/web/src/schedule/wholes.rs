//! What tasks come to together: of a project, and of a task that others are inside.

use snug_core::{
    Plan, ProjectId, TaskId,
    demand::{is_parent, left_of},
    kinds::Task,
    network::{Dates, leaves},
};
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

/// The leaves inside a task, or the task itself where nothing is inside it.
pub fn leaves_of(plan: &Plan, task: TaskId) -> Vec<&Task> {
    leaves(plan, task).into_iter().filter_map(|id| plan.tasks.get(&id)).map(|task| &**task).collect()
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
pub fn left_in(plan: &Plan, task: TaskId) -> i64 {
    with_inner(plan, task).filter_map(|task| left_of(plan, task)).sum()
}

/// Where a task stands, with all that is inside it.
pub fn dates_of(plan: &Plan, task: TaskId) -> Option<Dates> {
    span(leaves_of(plan, task).into_iter().filter_map(|leaf| leaf.start.zip(leaf.finish)))
}

/// From the first start to the last finish.
pub fn span(dates: impl Iterator<Item = Dates>) -> Option<Dates> {
    dates.reduce(|(start, finish), (from, to)| (start.min(from), finish.max(to)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use snug_core::{import::preview, kinds::Kind};
    use std::{path::Path, sync::Arc};

    #[test]
    fn what_nothing_inside_a_parent_covers_is_left_of_it_and_of_its_project() {
        let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
        let data = snug_exchange::csv::read_folder(&folder).unwrap();
        let plan = Plan::empty().with(&preview(&Plan::empty(), &data).changes);
        let task = &plan.tasks[&plan.find(Kind::Task, "T01").map(TaskId).unwrap()];
        let own = left_of(&plan, task).unwrap();
        let leaves: i64 = leaves_of(&plan, task.id).into_iter().filter_map(|leaf| left_of(&plan, leaf)).sum();
        assert!(own > 0, "the demo has a parent that is not all broken down");
        assert_eq!(left_in(&plan, task.id), leaves + own);
        let inside = |it: &&Arc<Task>| plan.project_line(it.project).any(|above| above.id == task.project);
        let of_project = plan.tasks.values().filter(inside);
        let all: i64 = of_project.filter_map(|it| left_of(&plan, it)).sum();
        assert_eq!(wholes(&plan)[&task.project].left, all);
    }
}
