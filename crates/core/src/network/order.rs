//! In which order the network is worked through, and whether it can be: what is bound comes after what binds it.

use crate::{
    Plan, TaskId,
    kinds::{Link, LinkKind},
};
use std::{
    collections::{HashMap, HashSet},
    sync::Arc,
};

/// An end of a task. A link leaves by the end of its task and comes in at the beginning of the other one. A parent begins before
/// everything inside it and ends after it, so that it stands for all its leaves without a link for each pair of them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Node {
    /// The task, and whatever is inside it, comes after this.
    Begin(TaskId),
    /// The task, and whatever is inside it, comes before this.
    End(TaskId),
}

/// The links of a kind that stands between tasks and sets dates.
pub fn sets_dates(kind: LinkKind) -> bool {
    !matches!(kind, LinkKind::HoldsUp | LinkKind::Relates)
}

/// The links out of a task itself.
pub fn links_from(plan: &Plan, task: TaskId) -> impl Iterator<Item = &Arc<Link>> {
    let links = plan.links_from.get(&task).into_iter().flat_map(|links| links.iter());
    links.filter_map(|id| plan.records.links.get(id))
}

/// The links into a task itself.
pub fn links_to(plan: &Plan, task: TaskId) -> impl Iterator<Item = &Arc<Link>> {
    let links = plan.links_to.get(&task).into_iter().flat_map(|links| links.iter());
    links.filter_map(|id| plan.records.links.get(id))
}

/// `held by 2 · holds 3`: the links of a task itself that hold it or others, with dates or without; empty for none.
#[must_use]
pub fn links_in_words(plan: &Plan, task: TaskId) -> String {
    let holding = |link: &&Arc<Link>| link.kind != LinkKind::Relates;
    match (links_to(plan, task).filter(holding).count(), links_from(plan, task).filter(holding).count()) {
        (0, 0) => String::new(),
        (held, 0) => format!("held by {held}"),
        (0, holds) => format!("holds {holds}"),
        (held, holds) => format!("held by {held} · holds {holds}"),
    }
}

/// The task, then the one it is in, up to the top.
pub fn line(plan: &Plan, task: TaskId) -> impl Iterator<Item = TaskId> {
    std::iter::successors(Some(task), |id| plan.tasks.get(id)?.parent)
}

/// The leaves inside a task, or the task itself where nothing is inside it.
pub fn leaves(plan: &Plan, task: TaskId) -> Vec<TaskId> {
    let (mut found, mut left) = (Vec::new(), vec![task]);
    while let Some(id) = left.pop() {
        match plan.children_of(id) {
            [] => found.push(id),
            inner => left.extend(inner.iter().rev()),
        }
    }
    found
}

/// What comes directly after an end, by links of the kinds that count.
pub fn next(plan: &Plan, node: Node, counts: fn(LinkKind) -> bool) -> Vec<Node> {
    match node {
        Node::Begin(task) => match plan.children_of(task) {
            [] => vec![Node::End(task)],
            inner => inner.iter().map(|id| Node::Begin(*id)).collect(),
        },
        Node::End(task) => {
            let links = links_from(plan, task).filter(|link| counts(link.kind)).map(|link| Node::Begin(link.to));
            links.chain(plan.tasks.get(&task).and_then(|task| task.parent).map(Node::End)).collect()
        }
    }
}

/// What was found of an end on the way.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Seen {
    /// What comes after it is being looked at.
    OnTheWay,
    Done,
}

/// Walks through everything that comes after some ends, one after the other as `next` says. Returns what it passed, the farthest first,
/// and a circle if there is one.
fn walk(from: impl IntoIterator<Item = Node>, next: impl Fn(Node) -> Vec<Node>) -> (Vec<Node>, Vec<Node>) {
    let mut seen: HashMap<Node, Seen> = HashMap::new();
    let (mut passed, mut circle) = (Vec::new(), Vec::new());
    for start in from {
        if seen.contains_key(&start) {
            continue;
        }
        seen.insert(start, Seen::OnTheWay);
        // The path so far, each end with what is still to be followed from it.
        let mut path = vec![(start, next(start))];
        while let Some((node, rest)) = path.last_mut() {
            let Some(to) = rest.pop() else {
                seen.insert(*node, Seen::Done);
                passed.push(*node);
                path.pop();
                continue;
            };
            match seen.get(&to) {
                Some(Seen::Done) => {}
                Some(Seen::OnTheWay) => {
                    if circle.is_empty() {
                        let at = path.iter().position(|(node, _)| *node == to).unwrap_or_default();
                        circle.extend(path[at..].iter().map(|(node, _)| *node));
                    }
                }
                None => {
                    seen.insert(to, Seen::OnTheWay);
                    path.push((to, next(to)));
                }
            }
        }
    }
    (passed, circle)
}

/// The leaves that come after some ends by links that set dates, and the ends on the way: whatever binds comes before what it binds.
pub fn after(plan: &Plan, from: impl IntoIterator<Item = Node>) -> Vec<Node> {
    let (mut passed, _) = walk(from, |node| next(plan, node, sets_dates));
    passed.reverse();
    passed
}

/// What comes directly before an end, by links that set dates.
fn previous(plan: &Plan, node: Node) -> Vec<Node> {
    match node {
        Node::Begin(task) => {
            let links = links_to(plan, task).filter(|link| sets_dates(link.kind)).map(|link| Node::End(link.from));
            links.chain(plan.tasks.get(&task).and_then(|task| task.parent).map(Node::Begin)).collect()
        }
        Node::End(task) => match plan.children_of(task) {
            [] => vec![Node::Begin(task)],
            inner => inner.iter().map(|id| Node::End(*id)).collect(),
        },
    }
}

/// The leaves that come before some tasks by links that set dates, those tasks too, and the ends on the way, in the same order.
pub fn before(plan: &Plan, tasks: impl IntoIterator<Item = TaskId>) -> Vec<Node> {
    let (passed, _) = walk(tasks.into_iter().map(Node::Begin), |node| previous(plan, node));
    passed
}

/// The tasks on a circle that something after these tasks closes, in order; links that only relate close none.
pub fn circle(plan: &Plan, tasks: impl IntoIterator<Item = TaskId>) -> Option<Vec<TaskId>> {
    let counts: fn(LinkKind) -> bool = |kind| kind != LinkKind::Relates;
    let (_, mut circle) = walk(tasks.into_iter().map(Node::Begin), |node| next(plan, node, counts));
    // Wherever one came upon it, it is told from the same task on.
    let first = circle.iter().enumerate().min_by_key(|(_, node)| match node {
        Node::Begin(task) => (*task, false),
        Node::End(task) => (*task, true),
    });
    let first = first.map_or(0, |(at, _)| at);
    circle.rotate_left(first);
    // A task is named once, whether by its beginning, its end or both.
    let mut named = HashSet::new();
    let tasks = circle.into_iter().map(|(Node::Begin(task) | Node::End(task))| task);
    let found: Vec<TaskId> = tasks.filter(|task| named.insert(*task)).collect();
    (!found.is_empty()).then_some(found)
}
