//! Which links may stand between tasks, and which dates they leave to them; what is refused, in sentences.

use super::{
    ground::{Bound, Dates, Ends, Ground, Leaf, Stays},
    moves::{Moved, Stopped, Why, pushed},
    order::{circle, leaves, line, links_from, links_to, sets_dates},
};
use crate::{
    Day, LinkId, Plan, Refusal, RefusalCode, TaskId,
    change::{Change, Edit},
    kinds::{Link, LinkKind, Task},
};
use std::collections::{BTreeSet, HashMap, HashSet};

fn title(plan: &Plan, task: TaskId) -> &str {
    plan.tasks.get(&task).map_or("", |task| task.title.as_str())
}

/// Whether a link may stand between its two tasks, whatever other links there are.
fn between(plan: &Plan, link: &Link) -> Result<(), Refusal> {
    let [from, to] = [link.from, link.to].map(|task| title(plan, task));
    let refuse = |message: String| Err(Refusal::value("type", message));
    for (inner, outer) in [(link.from, link.to), (link.to, link.from)] {
        if inner != outer && line(plan, inner).skip(1).any(|above| above == outer) {
            let (inner, outer) = (title(plan, inner), title(plan, outer));
            return refuse(format!("“{inner}” is inside “{outer}”, so the two cannot be linked."));
        }
    }
    let is_whole = |task: TaskId| !plan.children_of(task).is_empty();
    match link.kind {
        LinkKind::StartStart | LinkKind::StartFinish if is_whole(link.from) => {
            refuse(format!("“{from}” is a whole, and a whole cannot bind by its start; link one of the tasks inside."))
        }
        LinkKind::FinishFinish | LinkKind::StartFinish if is_whole(link.to) => refuse(format!(
            "“{to}” is a whole, and a whole cannot be bound by its finish; link one of the tasks inside."
        )),
        _ => Ok(()),
    }
}

/// A link or a place of a task that cannot be, and the link it is about.
pub type NoLink = (LinkId, Refusal);

/// Whether the links that changes make or alter may stand, and those of tasks that changes put somewhere else. `plan` has the changes
/// in it already.
///
/// # Errors
/// A link between a task and something inside it, one that a whole cannot have, or a circle, which is named by the titles of its tasks.
pub fn links_may_stand(plan: &Plan, changes: &[Change]) -> Result<(), NoLink> {
    let mut touched: BTreeSet<LinkId> = BTreeSet::new();
    for change in changes {
        match change {
            Change::Link(Edit { after: Some(link), .. }) => drop(touched.insert(link.id)),
            Change::Task(Edit { before, after: Some(task) })
                if before.as_ref().map_or(task.parent.is_some(), |before| before.parent != task.parent) =>
            {
                touched.extend(links_around(plan, task.id));
            }
            _ => {}
        }
    }
    let links: Vec<_> = touched.iter().filter_map(|id| plan.records.links.get(id)).collect();
    for link in &links {
        between(plan, link).map_err(|refusal| (link.id, refusal))?;
    }
    let Some(mut tasks) = circle(plan, links.iter().map(|link| link.to)) else { return Ok(()) };
    let about = links.iter().find(|link| tasks.contains(&link.to)).map_or(LinkId(0), |link| link.id);
    tasks.extend(tasks.first().copied());
    let names: Vec<&str> = tasks.iter().map(|task| title(plan, *task)).collect();
    Err((about, Refusal::value("to", format!("This would close a circle: {}.", names.join(" → ")))))
}

/// The links of a task, of everything inside it and of everything that it is in.
fn links_around(plan: &Plan, task: TaskId) -> BTreeSet<LinkId> {
    let mut around: Vec<TaskId> = line(plan, task).skip(1).collect();
    let mut left = vec![task];
    while let Some(task) = left.pop() {
        around.push(task);
        left.extend(plan.children_of(task));
    }
    let links = around.into_iter().flat_map(|task| links_from(plan, task).chain(links_to(plan, task)));
    links.map(|link| link.id).collect()
}

/// What a link or `not before` sets on a leaf as everything stands: what it is, on which end, and on which day.
struct Set<'p> {
    bound: Bound,
    link: Option<&'p Link>,
}

/// The strictest of what is set on a leaf, if its dates do not keep that.
fn not_kept<'p>(ground: &Ground<'p>, leaf: &Leaf<'p>) -> Option<Set<'p>> {
    let (start, _) = leaf.dates.filter(|_| !leaf.done)?;
    let mut ends = Ends::default();
    let links = ground.links_into(leaf.task.id).filter_map(|link| {
        let end = ends.of(ground, link, &|from| from.standing(ground.today))?;
        Some(Set { bound: Bound::of(link, end, &leaf.days), link: Some(&**link) })
    });
    let not_before = leaf.holds.not_before.map(|day| Set { bound: Bound::Start(leaf.days.number(day)), link: None });
    let strictest = links.chain(not_before).max_by_key(|set| set.bound.on_start(leaf.length))?;
    (leaf.days.number(start) < strictest.bound.on_start(leaf.length)).then_some(strictest)
}

/// `“Paint” can start on 2026-03-26 at the earliest, by its link from “Join”.`
fn too_early(plan: &Plan, leaf: &Leaf<'_>, set: &Set<'_>) -> Refusal {
    let name = &leaf.task.title;
    let why = match set.link {
        Some(link) => format!("by its link from “{}”", title(plan, link.from)),
        None => "as its constraint says".to_owned(),
    };
    let (field, what, day) = match set.bound {
        Bound::Start(number) => ("start", "start", leaf.days.day(number)),
        Bound::Finish(number) => ("finish", "finish", leaf.days.day(number)),
    };
    Refusal::value(field, format!("“{name}” can {what} on {day} at the earliest, {why}."))
}

/// The dates of a task, before and after, where a change alters them.
fn dated(change: &Change) -> Option<(&Task, Option<Dates>)> {
    let Change::Task(Edit { before, after: Some(after) }) = change else { return None };
    let was = before.as_ref().and_then(|task| task.start.zip(task.finish));
    (was != after.start.zip(after.finish)).then_some((after, was))
}

/// What follows from dates and links that changes have altered: the leaves that must move on, which keep their length. `plan` has the
/// changes in it already.
///
/// # Errors
/// A leaf whose new dates its links do not allow, with the first day that they do; or what would have to move and does not.
pub fn followed(plan: &Plan, changes: &[Change], today: Day) -> Result<Vec<Moved>, Refusal> {
    let was: HashMap<TaskId, Option<Dates>> =
        changes.iter().filter_map(dated).map(|(task, was)| (task.id, was)).collect();
    let fresh: HashSet<LinkId> = changes.iter().filter_map(made_link).map(|link| link.id).collect();
    if was.is_empty() && fresh.is_empty() {
        return Ok(Vec::new());
    }
    let ground = Ground::new(plan, today);
    for id in was.keys().filter(|id| plan.children_of(**id).is_empty()) {
        let Some(leaf) = ground.leaf(*id) else { continue };
        if let Some(set) = not_kept(&ground, &leaf) {
            return Err(too_early(plan, &leaf, &set));
        }
    }
    pushed(&ground, was, fresh).map_err(|stopped| refused(plan, &stopped))
}

/// A link that sets dates and is new, or binds another way than before.
fn made_link(change: &Change) -> Option<&Link> {
    let Change::Link(Edit { before, after: Some(link) }) = change else { return None };
    let binds = |link: &Link| (link.from, link.to, link.kind, link.lag_days);
    (sets_dates(link.kind) && before.as_ref().map(binds) != Some(binds(link))).then_some(link)
}

/// What stops a move, in a sentence.
#[must_use]
pub fn refused(plan: &Plan, stopped: &Stopped) -> Refusal {
    let name = title(plan, stopped.task);
    let link = stopped.link.and_then(|id| plan.records.links.get(&id));
    let by = link.map(|link| format!(" by its link from “{}”", title(plan, link.from))).unwrap_or_default();
    let (start, finish) = stopped.to;
    let message = match stopped.why {
        Why::Stays(why) => {
            let how = match why {
                Stays::Done => "is done",
                Stays::Started => "is begun",
                Stays::Fixed => "has fixed dates",
            };
            format!("“{name}” {how} and would have to start on {start}{by}, so nothing was moved.")
        }
        Why::NotAfter(last) => {
            format!("“{name}” would finish on {finish}{by}, after {last}, its latest day, so nothing was moved.")
        }
    };
    Refusal { field: "start", ..Refusal::whole(RefusalCode::NotNow, message) }
}

/// The links that stood between tasks that stood, were kept, and that changes of dates break, each with the task whose change does so.
#[must_use]
pub fn broken_by(before: &Plan, after: &Plan, changes: &[Change], today: Day) -> Vec<(TaskId, Refusal)> {
    let (old, new) = (Ground::new(before, today), Ground::new(after, today));
    let mut found = Vec::new();
    let mut told: HashSet<TaskId> = HashSet::new();
    for (task, _) in changes.iter().filter_map(dated).filter(|(task, _)| before.tasks.contains_key(&task.id)) {
        let later = line(after, task.id).flat_map(|id| links_from(after, id)).filter(|link| sets_dates(link.kind));
        let later: Vec<TaskId> = later.flat_map(|link| leaves(after, link.to)).collect();
        for id in std::iter::once(task.id).chain(later).filter(|id| after.children_of(*id).is_empty()) {
            let (Some(was), Some(is)) = (before.tasks.get(&id).and_then(|_| old.leaf(id)), new.leaf(id)) else {
                continue;
            };
            let stood = |set: &Set<'_>| match set.link {
                Some(link) => {
                    let same = before.records.links.get(&link.id).is_some_and(|old| **old == *link);
                    same && leaves(after, link.from).iter().all(|from| before.tasks.contains_key(from))
                }
                None => false,
            };
            if let Some(set) = not_kept(&new, &is).filter(stood)
                && not_kept(&old, &was).is_none()
                && told.insert(id)
            {
                found.push((task.id, too_early(after, &is, &set)));
            }
        }
    }
    found
}

/// How many links that set dates are not kept in a plan and were not, or were not there, in the one before.
#[must_use]
pub fn newly_broken(before: &Plan, after: &Plan, today: Day) -> usize {
    let broken = |plan: &Plan| -> HashSet<(TaskId, LinkId)> {
        let ground = Ground::new(plan, today);
        let mut ends = Ends::default();
        let tasks = plan.tasks.keys().filter(|id| plan.children_of(**id).is_empty());
        let mut found = HashSet::new();
        for leaf in tasks.filter_map(|id| ground.leaf(*id)) {
            found.extend(super::passes::broken(&ground, &mut ends, &leaf).map(|link| (leaf.task.id, link.id)));
        }
        found
    };
    broken(after).difference(&broken(before)).count()
}
