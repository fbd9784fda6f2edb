//! What a move means for others: how many move with it, and which milestones would be missed.

use super::order::line;
use crate::{
    Day, MilestoneId, Plan, TaskId,
    change::{Change, Edit},
    kinds::Task,
};
use std::collections::{BTreeMap, BTreeSet};

/// What changes of dates come to, beside what somebody moved by hand.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Consequences {
    /// How many other leaves move.
    pub others: usize,
    /// By how many days the one of them that moves farthest does; later is above zero.
    pub farthest: i32,
    /// Milestones that are missed by more days than before, each with by how many.
    pub missed: Vec<(MilestoneId, i32)>,
}

/// The last finish among the tasks that are for each of some milestones, themselves or by what they are in.
fn finishes(plan: &Plan, milestones: &BTreeSet<MilestoneId>) -> BTreeMap<MilestoneId, Day> {
    let mut found: BTreeMap<MilestoneId, Day> = BTreeMap::new();
    for task in plan.tasks.values().filter(|task| !task.is_done()) {
        let Some(finish) = task.finish else { continue };
        for id in of(plan, task).filter(|id| milestones.contains(id)) {
            let last = found.entry(id).or_insert(finish);
            *last = (*last).max(finish);
        }
    }
    found
}

/// The milestones that a task is for.
fn of(plan: &Plan, task: &Task) -> impl Iterator<Item = MilestoneId> {
    line(plan, task.id).filter_map(|id| plan.tasks.get(&id)).flat_map(|task| task.milestones.iter().copied())
}

/// What these changes come to beside the leaves that a hand has moved.
#[must_use]
pub fn consequences(before: &Plan, after: &Plan, changes: &[Change], by_hand: &[TaskId]) -> Consequences {
    let mut found = Consequences::default();
    let mut milestones = BTreeSet::new();
    for change in changes {
        let Change::Task(Edit { before: Some(was), after: Some(is) }) = change else { continue };
        let (Some(from), Some(to)) = (was.start.zip(was.finish), is.start.zip(is.finish)) else { continue };
        if from == to {
            continue;
        }
        milestones.extend(of(after, is));
        // What is inside something that a hand has moved was moved by it.
        if line(after, is.id).any(|id| by_hand.contains(&id)) {
            continue;
        }
        found.others += 1;
        let by = to.1.since(from.1);
        if by.abs() > found.farthest.abs() {
            found.farthest = by;
        }
    }
    if milestones.is_empty() {
        return found;
    }
    let (was, is) = (finishes(before, &milestones), finishes(after, &milestones));
    for milestone in milestones.iter().filter_map(|id| after.records.milestones.get(id)) {
        let late = |finishes: &BTreeMap<MilestoneId, Day>| {
            finishes.get(&milestone.id).map_or(0, |finish| finish.since(milestone.date).max(0))
        };
        if late(&is) > late(&was) {
            found.missed.push((milestone.id, late(&is)));
        }
    }
    found
}
