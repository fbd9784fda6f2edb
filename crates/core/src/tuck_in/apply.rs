//! A proposal, or the ticked part of it, put into the plan.

use super::{ask::Ask, check::forbids, proposal::Row};
use crate::{
    Day, Plan, Refusal, RefusalCode, TaskId,
    change::{Change, Edit},
    kinds::{Assignees, Task},
    network::{Dates, Ground, leaves},
    rules::LONGEST_DAYS,
};
use std::collections::BTreeSet;

/// A leaf that is given days and people.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Tucked {
    /// The leaf as its author saw it.
    pub seen: Task,
    /// Its first and last day.
    pub to: Dates,
    /// Who does it.
    pub assignees: Assignees,
}

/// Ticked leaves with those that they need of what is `offered`: what is before them by links and has no dates yet.
#[must_use]
pub fn with_needs(plan: &Plan, today: Day, offered: &BTreeSet<TaskId>, ticked: &BTreeSet<TaskId>) -> BTreeSet<TaskId> {
    let ground = Ground::new(plan, today);
    let is_needed = |id: &TaskId| offered.contains(id) && ground.leaf(*id).is_some_and(|leaf| leaf.dates.is_none());
    let mut found = ticked.clone();
    let mut left: Vec<TaskId> = ticked.iter().copied().collect();
    while let Some(task) = left.pop() {
        for link in ground.links_into(task) {
            let needed = leaves(plan, link.from).into_iter().filter(is_needed);
            left.extend(needed.filter(|id| found.insert(*id)));
        }
    }
    found
}

/// The changes that give leaves days and people.
///
/// # Errors
/// Somebody was quicker, or the plan has changed so that it would break a rule now; a sentence says which.
pub(crate) fn tucked_in(plan: &Plan, today: Day, tucked: &[Tucked]) -> Result<Vec<Change>, Refusal> {
    let until = tucked.iter().map(|it| it.to.1).max().unwrap_or(today);
    if until.since(today) > LONGEST_DAYS {
        return Err(Refusal::value("row", "Work is placed within ten years from today.".to_owned()));
    }
    let ask = Ask { until, ..Ask::new(today) };
    let row = |it: &Tucked| Row::of(&it.seen, Some(it.to), it.assignees.clone());
    let rows: Vec<Row> = tucked.iter().map(row).collect();
    if let Some(breach) = forbids(plan, &ask, &rows) {
        let of = breach.task.and_then(|id| plan.tasks.get(&id)).map(|task| format!("“{}”: ", task.title));
        let message =
            format!("This no longer fits, so nothing was changed. {}{}.", of.unwrap_or_default(), breach.what);
        return Err(Refusal::whole(RefusalCode::NotNow, message));
    }
    let change = |(it, row): (&Tucked, &Row)| Change::Task(Edit::alter(it.seen.clone(), row.given(&it.seen)));
    Ok(tucked.iter().zip(&rows).map(change).filter(|change| !change.is_idle()).collect())
}
