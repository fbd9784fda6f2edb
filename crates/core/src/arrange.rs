//! Where a task is put: inside which other one, and before which of those beside it.

use crate::{
    Plan, ProjectId, Refusal, TaskId,
    change::{Change, Edit},
    kinds::Task,
};
use rust_decimal::Decimal;
use std::collections::BTreeMap;

/// Where a task is put.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Spot {
    /// The project.
    pub project: ProjectId,
    /// The task inside which it goes; `None` for the top of the project.
    pub parent: Option<TaskId>,
    /// The task there that comes after it; `None` to be the last.
    pub before: Option<TaskId>,
}

/// As many decimals as a place has before those beside it are numbered anew.
const MOST_DECIMALS: u32 = 9;

/// The changes that put a task, with everything inside it, on a spot. One move changes one place, as long as there is a number
/// between those beside it.
///
/// # Errors
/// The task, or the one before which it is to stand, is not there.
pub fn put(plan: &Plan, task: TaskId, spot: Spot) -> Result<Vec<Change>, Refusal> {
    let gone = || Refusal::value("parent", "Somebody has taken that away meanwhile; look again.");
    let moved = plan.tasks.get(&task).ok_or_else(gone)?;
    let mut beside = beside(plan, spot.project, spot.parent);
    beside.retain(|id| *id != task);
    let at = match spot.before {
        Some(before) => beside.iter().position(|id| *id == before).ok_or_else(gone)?,
        None => beside.len(),
    };
    let beside: Vec<&Task> = beside.iter().filter_map(|id| plan.tasks.get(id)).map(|task| &**task).collect();
    let (mut places, own) = places(&beside, at, moved);
    let mut after: BTreeMap<TaskId, Task> = BTreeMap::new();
    let top = Task { parent: spot.parent, project: spot.project, place: own, ..(**moved).clone() };
    after.insert(task, top);
    // What is inside it goes along to another project.
    let mut left: Vec<TaskId> = plan.children_of(task).to_vec();
    while let Some(id) = left.pop().filter(|_| moved.project != spot.project) {
        left.extend(plan.children_of(id));
        after.extend(plan.tasks.get(&id).map(|inner| (id, Task { project: spot.project, ..(**inner).clone() })));
    }
    for other in beside {
        let place = places.remove(&other.id).map(|place| Task { place: Some(place), ..other.clone() });
        after.extend(place.map(|other| (other.id, other)));
    }
    let change = |after: Task| Some(Change::Task(Edit::alter((**plan.tasks.get(&after.id)?).clone(), after)));
    Ok(after.into_values().filter_map(change).collect())
}

/// The tasks directly inside another one, or at the top of a project, in order.
#[must_use]
pub fn beside(plan: &Plan, project: ProjectId, parent: Option<TaskId>) -> Vec<TaskId> {
    if let Some(parent) = parent {
        return plan.children_of(parent).to_vec();
    }
    let mut tops: Vec<&Task> = plan
        .tasks
        .values()
        .map(|task| &**task)
        .filter(|task| task.parent.is_none() && task.project == project)
        .collect();
    tops.sort_by_key(|task| task.order());
    tops.iter().map(|task| task.id).collect()
}

/// The places that others need, and the place of what is put at `at` among them.
fn places(beside: &[&Task], at: usize, moved: &Task) -> (BTreeMap<TaskId, Decimal>, Option<Decimal>) {
    let unplaced = Task { place: None, ..moved.clone() };
    if at == beside.len() && beside.last().is_none_or(|last| last.order() < unplaced.order()) {
        return (BTreeMap::new(), None);
    }
    let mut others = BTreeMap::new();
    let mut left = Decimal::ZERO;
    for other in &beside[..at] {
        left = other.place.unwrap_or_else(|| {
            others.insert(other.id, left + Decimal::ONE);
            left + Decimal::ONE
        });
    }
    let own = match beside.get(at).and_then(|next| next.place) {
        Some(right) => ((left + right) / Decimal::TWO).normalize(),
        None => left + Decimal::ONE,
    };
    let fits = beside.get(at).and_then(|next| next.place).is_none_or(|right| own < right);
    if fits && (own > left || at == 0 && own > Decimal::ZERO) && own.scale() <= MOST_DECIMALS {
        return (others, Some(own));
    }
    let numbered = beside.iter().enumerate().map(|(index, other)| {
        let place = if index < at { index + 1 } else { index + 2 };
        (other.id, Decimal::from(place))
    });
    (numbered.collect(), Some(Decimal::from(at + 1)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        Day,
        command::Command,
        kinds::{Kind, Project, Record as _},
    };
    use proptest::prelude::*;

    fn plan(tasks: &[(i32, Option<i32>)]) -> Plan {
        let mut changes = vec![];
        for id in [900, 901] {
            let (id, code) = (ProjectId(id), id.to_string());
            changes.push(Change::Project(Edit::new(Project { id, name: code.clone(), code, ..Project::blank() })));
        }
        for (id, parent) in tasks {
            let (title, parent) = (format!("Task {id}"), parent.map(TaskId));
            let task = Task {
                id: TaskId(*id),
                reference: title.clone(),
                title,
                parent,
                project: ProjectId(900),
                ..Task::blank()
            };
            changes.push(Change::Task(Edit::new(task)));
        }
        Plan::empty().with(&changes)
    }

    fn done(plan: &Plan, task: i32, parent: Option<i32>, before: Option<i32>) -> Plan {
        let spot = Spot { project: ProjectId(900), parent: parent.map(TaskId), before: before.map(TaskId) };
        let changes = put(plan, TaskId(task), spot).unwrap();
        let today = Day::from_ymd(2026, 3, 11).unwrap();
        plan.with(&plan.decide(&Command::Edit { changes }, today).unwrap())
    }

    fn inside(plan: &Plan, parent: Option<i32>) -> Vec<i32> {
        beside(plan, ProjectId(900), parent.map(TaskId)).iter().map(|id| id.0).collect()
    }

    #[test]
    fn one_move_changes_one_place_where_there_is_a_number_between() {
        let plan = plan(&[(1, None), (2, None), (3, None)]);
        let first = done(&plan, 3, None, Some(1));
        assert_eq!(inside(&first, None), [3, 1, 2]);
        let spot = Spot { project: ProjectId(900), parent: None, before: Some(TaskId(1)) };
        let changes = put(&first, TaskId(2), spot).unwrap();
        assert_eq!(changes.iter().map(Change::subject).collect::<Vec<_>>(), [(Kind::Task, 2)]);
        assert_eq!(inside(&first.with(&changes), None), [3, 2, 1]);
    }

    #[test]
    fn what_goes_into_another_project_takes_along_what_is_inside_it() {
        let plan = plan(&[(1, None), (2, Some(1)), (3, Some(2)), (4, None)]);
        let spot = Spot { project: ProjectId(901), parent: None, before: None };
        let after = plan.with(&put(&plan, TaskId(1), spot).unwrap());
        let of = |id| after.tasks[&TaskId(id)].project.0;
        assert_eq!([of(1), of(2), of(3), of(4)], [901, 901, 901, 900]);
        assert_eq!(after.tasks[&TaskId(3)].parent, Some(TaskId(2)));
    }

    proptest! {
        #[test]
        fn whatever_is_put_where_the_order_is_that_of_a_list(moves in prop::collection::vec((0usize..6, 0usize..7), 1..40)) {
            let mut plan = plan(&[(1, None), (2, None), (3, None), (4, None), (5, None), (6, None)]);
            let mut list: Vec<i32> = (1..=6).collect();
            for (from, to) in moves {
                let moved = list.remove(from);
                let to = to.min(list.len());
                let before = list.get(to).copied();
                list.insert(to, moved);
                plan = done(&plan, moved, None, before);
                prop_assert_eq!(inside(&plan, None), list.clone());
            }
        }
    }
}
