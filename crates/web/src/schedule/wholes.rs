//! What leaves come to together: of a project, and of a task that others are inside.

use snug_core::{Plan, ProjectId, TaskId, demand::left_of, kinds::Task, network::Dates};
use std::{collections::HashMap, sync::Arc};

/// What the leaves of a project come to.
#[derive(Clone, Copy, Debug, Default)]
pub struct Whole {
    /// From the first start to the last finish.
    pub dates: Option<Dates>,
    /// Minutes that are left.
    pub left: i64,
}

/// What each project comes to, with the projects inside it.
pub fn wholes(plan: &Plan) -> HashMap<ProjectId, Whole> {
    let mut found: HashMap<ProjectId, Whole> = HashMap::new();
    let is_leaf = |task: &&Arc<Task>| plan.children.get(&task.id).is_none_or(|inner| inner.is_empty());
    for task in plan.tasks.values().filter(is_leaf) {
        let (dates, left) = (task.start.zip(task.finish), left_of(plan, task).unwrap_or(0));
        for project in plan.project_line(task.project) {
            let whole = found.entry(project.id).or_default();
            whole.dates = span(whole.dates.into_iter().chain(dates));
            whole.left += left;
        }
    }
    found
}

/// The leaves inside a task.
pub fn leaves_of(plan: &Plan, task: TaskId) -> Vec<&Task> {
    let (mut found, mut left) = (Vec::new(), vec![task]);
    while let Some(id) = left.pop() {
        let inner = plan.children.get(&id).map_or(&[][..], |inner| inner.as_slice());
        if inner.is_empty() {
            found.extend(plan.tasks.get(&id).map(|task| &**task));
        }
        left.extend(inner);
    }
    found
}

/// From the first start to the last finish.
pub fn span(dates: impl Iterator<Item = Dates>) -> Option<Dates> {
    dates.reduce(|(start, finish), (from, to)| (start.min(from), finish.max(to)))
}
