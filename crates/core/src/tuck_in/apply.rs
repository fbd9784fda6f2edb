//! A proposal, or the ticked part of it, put into the plan.

use super::{
    ask::Ask,
    check::forbids,
    proposal::{Proposal, Row},
};
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

impl Proposal {
    /// Some leaves with those that they need: what is before them by links and has no dates yet.
    #[must_use]
    pub fn with_needs(&self, plan: &Plan, today: Day, ticked: &BTreeSet<TaskId>) -> BTreeSet<TaskId> {
        let ground = Ground::new(plan, today);
        let undated: BTreeSet<TaskId> =
            self.rows.iter().filter(|row| row.before.is_none() && row.dates.is_some()).map(|row| row.task).collect();
        let mut found = ticked.clone();
        let mut left: Vec<TaskId> = ticked.iter().copied().collect();
        while let Some(task) = left.pop() {
            for link in ground.links_into(task) {
                let needed = leaves(plan, link.from).into_iter().filter(|id| undated.contains(id));
                left.extend(needed.filter(|id| found.insert(*id)));
            }
        }
        found
    }
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
    let change = |it: &Tucked| {
        let (start, finish) = it.to;
        let after =
            Task { start: Some(start), finish: Some(finish), assignees: it.assignees.clone(), ..it.seen.clone() };
        Change::Task(Edit::alter(it.seen.clone(), after))
    };
    Ok(tucked.iter().map(change).filter(|change| !change.is_idle()).collect())
}
