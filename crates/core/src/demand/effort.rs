//! How much of a task is left, and for whom.

use crate::{
    PersonId, TaskId,
    plan::Plan,
    spread::largest_remainder,
    work::{Assignees, Task},
};

/// What is left to do of a task.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Effort {
    /// Minutes in all; of everyone, where each has the full effort.
    pub minutes: i64,
    /// Minutes of each assignee, in the order written; empty when nobody is named.
    pub parts: Vec<(PersonId, i64)>,
}

/// The effort that a task itself puts on days: a leaf's remaining, a parent's unbroken remainder.
///
/// `None` when nothing says how much it is, or the task is done.
#[must_use]
pub fn effort_of(plan: &Plan, task: &Task) -> Option<Effort> {
    if task.is_done() {
        return None;
    }
    let people: Vec<PersonId> = task.assignees.people().collect();
    let log = plan.logged.get(&task.id);
    if is_parent(plan, task.id) {
        let minutes = (own_remaining(plan, task)? - inner_remaining(plan, task.id)).max(0);
        let shares = shares_of(&task.assignees, minutes);
        return Some(Effort { minutes, parts: people.into_iter().zip(shares).collect() });
    }
    let (estimate, remaining) = (task.estimate, task.remaining);
    if people.is_empty() {
        return Some(Effort { minutes: own_remaining(plan, task)?, parts: Vec::new() });
    }
    let shares = shares_of(&task.assignees, estimate.or(remaining)?);
    let logged_by =
        |person: PersonId| log.map_or(0, |log| log.iter().filter(|(who, _)| *who == person).map(|(_, m)| m).sum());
    let mut left: Vec<i64> = people.iter().zip(&shares).map(|(who, share)| (share - logged_by(*who)).max(0)).collect();
    if let Some(typed) = remaining {
        let total = if matches!(task.assignees, Assignees::Full(_)) {
            typed * i64::try_from(people.len()).unwrap_or(1)
        } else {
            typed
        };
        let by_shares = || shares_of(&task.assignees, typed);
        left = largest_remainder(total, &left).unwrap_or_else(by_shares);
    }
    Some(Effort { minutes: left.iter().sum(), parts: people.into_iter().zip(left).collect() })
}

/// Cuts an effort between the assignees: evenly or by shares with the largest remainder, or in full to each.
pub(crate) fn shares_of(assignees: &Assignees, minutes: i64) -> Vec<i64> {
    match assignees {
        Assignees::Even(people) => largest_remainder(minutes, &vec![1; people.len()]).unwrap_or_default(),
        Assignees::Shares(shares) => {
            let weights: Vec<i64> = shares.iter().map(|(_, share)| i64::from(*share)).collect();
            largest_remainder(minutes, &weights).unwrap_or_default()
        }
        Assignees::Full(people) => vec![minutes; people.len()],
    }
}

fn is_parent(plan: &Plan, id: TaskId) -> bool {
    plan.children.get(&id).is_some_and(|children| !children.is_empty())
}

/// What is left of a task by its own figures: the typed remaining, else the estimate less what was logged on it and, as its
/// estimate stands for the whole of it, on everything inside it.
fn own_remaining(plan: &Plan, task: &Task) -> Option<i64> {
    task.remaining.or_else(|| task.estimate.map(|estimate| (estimate - logged_in(plan, task.id)).max(0)))
}

/// Minutes logged on a task and on everything inside it.
fn logged_in(plan: &Plan, id: TaskId) -> i64 {
    let own = plan.logged.get(&id).map_or(0, |log| log.iter().map(|(_, minutes)| minutes).sum::<i64>());
    let inner = plan.children.get(&id).into_iter().flat_map(|children| children.iter());
    own + inner.map(|child| logged_in(plan, *child)).sum::<i64>()
}

/// What is left of everything directly inside a task; a task inside that is a parent counts the larger of its own and its
/// children's, a done one nothing.
fn inner_remaining(plan: &Plan, id: TaskId) -> i64 {
    let inner = plan
        .children
        .get(&id)
        .into_iter()
        .flat_map(|children| children.iter())
        .filter_map(|child| plan.tasks.get(child));
    inner
        .filter(|task| !task.is_done())
        .map(|task| {
            if is_parent(plan, task.id) {
                own_remaining(plan, task).unwrap_or(0).max(inner_remaining(plan, task.id))
            } else {
                effort_of(plan, task).map_or(0, |effort| effort.minutes)
            }
        })
        .sum()
}
