//! A plan as it is shown beside another one.

use crate::{
    Day, MilestoneId, PersonId, Plan, ProjectId, TaskId,
    cells::{Bucket, Cell, Grain},
    change::Change,
    demand::{Window, is_parent, left_of},
    health::dependants,
    kinds::ProjectStatus,
    load::PersonCells,
    network::{Ground, wholes},
    parts::in_parts,
    plan::Entry,
};
use std::collections::BTreeMap;

/// How many weeks are looked at, from this one on.
pub const COMPARED_WEEKS: i32 = 26;

/// What a plan comes to.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Side {
    /// Minutes over their limits of everybody who is over in some week, from today's week on.
    pub over: BTreeMap<PersonId, i64>,
    /// Working days after its due day of each open task that ends after it.
    pub late: BTreeMap<TaskId, i64>,
    /// The last day of the tasks of each project that is not closed, with those inside it; `None` where none has dates.
    pub projects: BTreeMap<ProjectId, Option<Day>>,
    /// The last day of the work that each milestone hangs on; `None` where nothing of it is open and has dates.
    pub milestones: BTreeMap<MilestoneId, Option<Day>>,
}

impl Side {
    /// What a plan comes to, seen from a day.
    #[must_use]
    pub fn of(plan: &Plan, today: Day) -> Self {
        let wholes = wholes(plan);
        let is_open = |id: &ProjectId| {
            plan.records.projects.get(id).is_some_and(|project| project.status != ProjectStatus::Closed)
        };
        let projects = plan.records.projects.keys().copied().filter(is_open);
        let finish = |id: ProjectId| (id, wholes.get(&id).and_then(|whole| whole.dates).map(|(_, finish)| finish));
        Self {
            over: over(plan, today),
            late: late(plan, today),
            projects: projects.map(finish).collect(),
            milestones: dependants(plan).into_iter().map(|(id, on)| (id, on.last)).collect(),
        }
    }

    /// Minutes over limits of everybody.
    #[must_use]
    pub fn spilled(&self) -> i64 {
        self.over.values().sum()
    }
}

fn over(plan: &Plan, today: Day) -> BTreeMap<PersonId, i64> {
    let window = Window::new(today.monday(), today.monday() + 7 * COMPARED_WEEKS - 1, today);
    let buckets = Grain::Week.buckets(window.from, window.to, &plan.settings);
    let spill = |cells: &PersonCells<'_>, bucket: &Bucket| {
        let Cell { spill, peak, .. } = cells.cell(*bucket);
        spill.max(peak)
    };
    let of_people = |people: &[&Entry]| -> Vec<(PersonId, i64)> {
        let of_one = |entry: &&Entry| {
            let cells = PersonCells::of(plan, entry, &window, Grain::Week, false);
            (entry.person.id, buckets.iter().map(|bucket| spill(&cells, bucket)).sum())
        };
        people.iter().map(of_one).filter(|(_, minutes)| *minutes > 0).collect()
    };
    in_parts(&plan.everybody(), of_people).into_iter().flatten().collect()
}

fn late(plan: &Plan, today: Day) -> BTreeMap<TaskId, i64> {
    let ground = Ground::new(plan, today);
    let leaves = plan.tasks.values().filter(|task| !task.is_done() && !is_parent(plan, task.id));
    let open = leaves.filter(|task| task.finish.is_some() && left_of(plan, task).is_some_and(|left| left > 0));
    let late = open.filter_map(|task| {
        let leaf = ground.leaf(task.id)?;
        Some((task.id, leaf.late_days(leaf.dates?.1)))
    });
    late.filter(|(_, days)| *days > 0).collect()
}

/// Of the records that some changes are about, those that are not alike in two plans: each as a change from the one to the other. Texts,
/// which no plan holds, are shown as they were changed.
#[must_use]
pub fn differing(one: &Plan, other: &Plan, about: &[Change]) -> Vec<Change> {
    let differs = |change: &Change| match change {
        Change::Text(_) => Some(change.clone()),
        _ => Change::between(&one.standing(change), &other.standing(change)),
    };
    about.iter().filter_map(differs).filter(|change| !change.is_idle()).collect()
}
