//! Baselines of projects: a frozen copy of what is meant of each task, and what has become of that since.

use crate::{
    Day, Plan, ProjectId, Refusal, TaskId,
    change::{Change, Edit},
    demand::{left_of, logged_on, planned_of},
    kinds::{Baseline, BaselineId, BaselineItem, BaselineItemId, BaselineKind, Kind, Task},
};
use std::collections::{BTreeMap, BTreeSet};

/// Whether there is something to freeze of a task: a leaf, or a parent that holds effort which nothing inside it covers.
fn is_meant(plan: &Plan, task: &Task) -> bool {
    plan.children_of(task.id).is_empty() || effort(plan, task).is_some_and(|effort| effort > 0)
}

/// The effort that is frozen, A + R of everyone: all of a leaf's, of a parent what is not broken down; `None` where nothing says how
/// much.
fn effort(plan: &Plan, task: &Task) -> Option<i64> {
    let own = logged_on(plan, task.id);
    let is_said = own > 0 || planned_of(plan, task).is_some();
    is_said.then(|| own + left_of(plan, task).unwrap_or(0))
}

/// The tasks of a project and of the projects inside it.
fn scope(plan: &Plan, project: ProjectId) -> impl Iterator<Item = &Task> {
    let inside = move |task: &&Task| plan.project_line(task.project).any(|above| above.id == project);
    plan.tasks.values().map(|task| &**task).filter(inside)
}

impl Plan {
    /// The changes that freeze what is meant of a project's tasks today. They have the identities that a plan gives them which takes
    /// them in this order.
    ///
    /// # Errors
    /// The project has no task yet.
    pub(crate) fn frozen(&self, project: ProjectId, name: &str, today: Day) -> Result<Vec<Change>, Refusal> {
        let Some(of) = self.records.projects.get(&project) else {
            return Err(Refusal::value("project", "There is no such project in the plan."));
        };
        let free = (1..).map(|number| format!("B-{}-{number}", of.code));
        let code = free.into_iter().find(|code| self.find(Kind::Baseline, code).is_none()).unwrap_or_default();
        let id = BaselineId(self.next_id());
        let kind = BaselineKind::Project;
        let baseline = Baseline { id, code, name: name.trim().to_owned(), kind, of: of.code.clone(), date: today };
        let item = |task: &Task| {
            let effort = effort(self, task);
            let teams = task.team.map(|team| (team, None)).into_iter().collect();
            let (start, finish, points) = (task.start, task.finish, task.points);
            let (id, task) = (BaselineItemId(0), task.id);
            BaselineItem { id, baseline: baseline.id, task, start, finish, effort, points, teams }
        };
        let meant = scope(self, project).filter(|task| is_meant(self, task));
        let items: Vec<BaselineItem> = meant.map(item).collect();
        if items.is_empty() {
            return Err(Refusal::value("project", format!("{} has no task to freeze yet.", of.name)));
        }
        let items = items.into_iter().map(|item| Change::BaselineItem(Edit::new(item)));
        Ok(std::iter::once(Change::Baseline(Edit::new(baseline))).chain(items).collect())
    }
}

/// What has become of a task since a baseline.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Difference {
    /// The task.
    pub task: TaskId,
    /// It was not meant then.
    pub added: bool,
    /// It is no longer a part of the project.
    pub dropped: bool,
    /// Days by which it finishes later; earlier is below zero. `None` where it had, or has, no dates.
    pub slipped: Option<i32>,
    /// Minutes by which it has grown.
    pub grown: i64,
}

impl Difference {
    /// Whether anything is otherwise.
    #[must_use]
    pub fn is_any(&self) -> bool {
        self.added || self.dropped || self.slipped.is_some_and(|days| days != 0) || self.grown != 0
    }
}

/// What has become of a project since a baseline of it: what slipped, grew, was added, was dropped. What stands as it was is left out;
/// the rest is in the order of the tasks' references.
#[must_use]
pub fn differences(plan: &Plan, baseline: &Baseline) -> Vec<Difference> {
    let Some(project) = plan.find(Kind::Project, &baseline.of).map(ProjectId) else { return Vec::new() };
    let items = plan.records.baseline_items.values().filter(|item| item.baseline == baseline.id);
    let meant: BTreeMap<TaskId, &BaselineItem> = items.map(|item| (item.task, &**item)).collect();
    let mut found = Vec::new();
    for task in scope(plan, project).filter(|task| is_meant(plan, task)) {
        let effort = effort(plan, task);
        found.push(match meant.get(&task.id) {
            None => {
                Difference { task: task.id, added: true, dropped: false, slipped: None, grown: effort.unwrap_or(0) }
            }
            Some(item) => Difference {
                task: task.id,
                added: false,
                dropped: false,
                slipped: item.finish.zip(task.finish).map(|(was, is)| is.since(was)),
                grown: effort.unwrap_or(0) - item.effort.unwrap_or(0),
            },
        });
    }
    let here: BTreeSet<TaskId> = scope(plan, project).map(|task| task.id).collect();
    for (task, item) in meant.iter().filter(|(task, _)| !here.contains(task)) {
        let grown = -item.effort.unwrap_or(0);
        found.push(Difference { task: *task, added: false, dropped: true, slipped: None, grown });
    }
    found.retain(Difference::is_any);
    found.sort_by_key(|it| plan.tasks.get(&it.task).map(|task| (task.reference.clone(), task.id)));
    found
}
