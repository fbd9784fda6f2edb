//! Other work of those who are given some: where less than all is placed, they work elsewhere, too, and that counts.

use super::{
    ask::{Ask, taking},
    proposal::Proposal,
};
use crate::{PersonId, Plan, TaskId, demand::effort_of, network::Ground};
use std::collections::{BTreeMap, BTreeSet};

/// Minutes that are left of other open tasks, up to the last day, of everyone who would be given work: what stands and counts while a
/// narrower scope is placed. Nothing where everything is.
#[must_use]
pub fn elsewhere(plan: &Plan, ask: &Ask, proposal: &Proposal) -> BTreeMap<PersonId, i64> {
    if ask.scope.is_all() {
        return BTreeMap::new();
    }
    let placed: BTreeSet<TaskId> = taking(plan, &Ground::new(plan, ask.today), ask).part.into_iter().collect();
    let people: BTreeSet<PersonId> =
        proposal.rows.iter().filter(|row| row.dates.is_some()).flat_map(|row| row.assignees.people()).collect();
    let left = |id: &PersonId| {
        let tasks = plan.people.get(id)?.tasks.iter().filter(|task| !placed.contains(task));
        let dated = tasks.filter_map(|task| plan.tasks.get(task)).filter(|task| {
            !task.is_done() && task.start.is_some_and(|start| start <= ask.until) && task.finish.is_some()
        });
        let own = dated.filter_map(|task| effort_of(plan, task)).flat_map(|effort| effort.parts);
        let minutes: i64 = own.filter(|(person, _)| person == id).map(|(_, minutes)| minutes).sum();
        (minutes > 0).then_some((*id, minutes))
    };
    people.iter().filter_map(left).collect()
}
