//! How projects stand: what they come to with everything inside them, how far that is, and what is wrong, in things one can point at.

use crate::{
    Day, MilestoneId, Plan, ProjectId, TaskId,
    demand::{is_parent, left_of, planned_of},
    hours,
    kinds::{Milestone, ProjectStatus, Task},
    network::{Dates, progress, span},
};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// What a project comes to, with the projects inside it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Standing {
    /// From the first start of a task to the last finish.
    pub dates: Option<Dates>,
    /// Tasks that nothing lies inside of, and those of them that are done.
    pub tasks: usize,
    /// Those that are done.
    pub done: usize,
    /// Minutes that are left.
    pub left: i64,
    /// Minutes that were worked.
    pub worked: i64,
    /// Σ of planned minutes, and of what is done of them, of tasks that say how much they are: progress is the one over the other.
    planned: i64,
    earned: i64,
    /// Tasks that should have been finished before today.
    pub late: usize,
    /// Tasks that do not go on.
    pub stuck: usize,
    /// Open tasks without dates.
    pub undated: usize,
}

impl Standing {
    /// How much is done, in percent, half up: of the planned minutes, or where nothing says how much it is of the tasks; `None` where there
    /// is no task.
    #[must_use]
    pub fn percent(&self) -> Option<i64> {
        let share = |part: i64, all: i64| (200 * part + all) / (2 * all);
        match (self.planned, self.tasks) {
            (_, 0) => None,
            (0, tasks) => {
                let count = |number: usize| i64::try_from(number).unwrap_or(i64::MAX / 400);
                Some(share(count(self.done), count(tasks)))
            }
            (planned, _) => Some(share(self.earned, planned)),
        }
    }

    fn add(&mut self, plan: &Plan, task: &Task, today: Day) {
        let dates = task.start.zip(task.finish);
        self.dates = span(self.dates.into_iter().chain(dates));
        self.tasks += 1;
        self.done += usize::from(task.is_done());
        self.late +=
            usize::from(!task.is_done() && task.is_late(today) && left_of(plan, task).is_some_and(|left| left > 0));
        self.stuck += usize::from(task.is_stuck());
        self.undated += usize::from(!task.is_done() && dates.is_none());
        let planned = planned_of(plan, task).unwrap_or_else(|| hours::of_task(plan, task).actual());
        self.planned += planned;
        self.earned += planned * i64::from(progress(plan, task)) / 10_000;
    }
}

/// What each project comes to, with those inside it. Projects without tasks have nothing, and are there all the same.
#[must_use]
pub fn standings(plan: &Plan, today: Day) -> HashMap<ProjectId, Standing> {
    let mut found: HashMap<ProjectId, Standing> =
        plan.records.projects.keys().map(|id| (*id, Standing::default())).collect();
    for task in plan.tasks.values() {
        let left = left_of(plan, task).unwrap_or(0);
        let is_leaf = !is_parent(plan, task.id);
        for project in plan.project_line(task.project) {
            let standing = found.entry(project.id).or_default();
            standing.left += left;
            if is_leaf {
                standing.add(plan, task, today);
            }
        }
    }
    for (project, worked) in crate::budget::worked(plan) {
        for above in plan.project_line(project) {
            found.entry(above.id).or_default().worked += worked;
        }
    }
    found
}

/// Something that is wrong with a project.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Concern {
    /// Tasks that should have been finished.
    Late(usize),
    /// Tasks that do not go on.
    Stuck(usize),
    /// It ends so many days after the day on which it should.
    EndsAfter(i32),
    /// Work for a milestone ends so many days after it.
    Misses(MilestoneId, i32),
    /// What is worked and left is more than its budget, by so many minutes.
    OverBudget(i64),
    /// Open tasks without dates, where others have some.
    Undated(usize),
    /// It should have begun, and has no task.
    NoTasks,
}

impl Concern {
    /// Whether somebody has to do something now; what has no dates yet is only said.
    #[must_use]
    pub fn presses(self) -> bool {
        !matches!(self, Self::Undated(_))
    }
}

/// What is wrong with a project, what weighs most first.
#[must_use]
pub fn concerns(
    plan: &Plan,
    id: ProjectId,
    standing: &Standing,
    hangs: &BTreeMap<MilestoneId, Dependants>,
    today: Day,
) -> Vec<Concern> {
    let Some(project) = plan.records.projects.get(&id) else { return Vec::new() };
    if project.status == ProjectStatus::Closed {
        return Vec::new();
    }
    let mut found = Vec::new();
    if standing.late > 0 {
        found.push(Concern::Late(standing.late));
    }
    if standing.stuck > 0 {
        found.push(Concern::Stuck(standing.stuck));
    }
    if let Some((ends, due)) =
        standing.dates.map(|(_, finish)| finish).zip(project.finish).filter(|(ends, due)| ends > due)
    {
        found.push(Concern::EndsAfter(ends.since(due)));
    }
    let own = plan.records.milestones.values().filter(|milestone| milestone.projects.contains(&id));
    found.extend(own.filter_map(|milestone| {
        let late = hangs.get(&milestone.id)?.late(milestone)?;
        Some(Concern::Misses(milestone.id, late))
    }));
    if let Some(over) =
        project.budget_minutes.map(|budget| standing.worked + standing.left - budget).filter(|over| *over > 0)
    {
        found.push(Concern::OverBudget(over));
    }
    if standing.undated > 0 && standing.dates.is_some() {
        found.push(Concern::Undated(standing.undated));
    }
    let is_active = project.status == ProjectStatus::Active && project.start.is_none_or(|start| start <= today);
    if standing.tasks == 0 && is_active {
        found.push(Concern::NoTasks);
    }
    found
}

/// Who and what a milestone hangs on.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Dependants {
    /// The tasks that are to be done before it, and how many of them are.
    pub tasks: Vec<TaskId>,
    /// Those that are done.
    pub done: usize,
    /// The last day of an open one.
    pub last: Option<Day>,
    /// Whose tasks those are.
    pub people: BTreeSet<crate::PersonId>,
    /// The teams that they are given to.
    pub teams: BTreeSet<crate::TeamId>,
    /// The projects that they are of, and those that the milestone belongs to.
    pub projects: BTreeSet<ProjectId>,
}

impl Dependants {
    /// By how many days what it hangs on ends after it; `None` where nothing does.
    #[must_use]
    pub fn late(&self, milestone: &Milestone) -> Option<i32> {
        self.last.map(|last| last.since(milestone.date)).filter(|days| *days > 0)
    }
}

/// Who and what each milestone hangs on: the tasks that name it, with all that is inside them.
#[must_use]
pub fn dependants(plan: &Plan) -> BTreeMap<MilestoneId, Dependants> {
    let blank = |milestone: &std::sync::Arc<Milestone>| {
        let projects = milestone.projects.iter().copied().collect();
        (milestone.id, Dependants { projects, ..Dependants::default() })
    };
    let mut found: BTreeMap<MilestoneId, Dependants> = plan.records.milestones.values().map(blank).collect();
    for task in plan.tasks.values().filter(|task| !task.milestones.is_empty()) {
        let inner = crate::network::with_inner(plan, task.id);
        let leaves: Vec<&Task> = inner.filter(|task| !is_parent(plan, task.id)).collect();
        for one in &task.milestones {
            let Some(found) = found.get_mut(one) else { continue };
            found.tasks.push(task.id);
            found.projects.insert(task.project);
            found.done += usize::from(leaves.iter().all(|leaf| leaf.is_done()));
            for leaf in leaves.iter().filter(|leaf| !leaf.is_done()) {
                found.last = found.last.max(leaf.finish.filter(|_| leaf.start.is_some()));
                found.people.extend(leaf.assignees.people());
                found.teams.extend(leaf.team);
            }
        }
    }
    found
}
