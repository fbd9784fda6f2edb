//! The two passes: what could be from today, what the plan that stands allows, and what lies between.

use super::{
    ground::{Bound, Dates, Ends, Ground, Leaf, Stays},
    order::{self, Node, after, before},
};
use crate::{
    Day, LinkId, Plan, ProjectId, TaskId,
    kinds::{Link, LinkKind},
};
use std::{collections::HashMap, rc::Rc};

/// What the network says of a leaf.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Figures {
    /// The leaf.
    pub task: TaskId,
    /// Where it stands, if it has both days.
    pub dates: Option<Dates>,
    /// How many working days it takes.
    pub length: i32,
    /// Where it could stand at the earliest, from today on; `None` of what is done.
    pub earliest: Option<Dates>,
    /// Where it may stand at the latest for the plan to hold; `None` of what is done or has no dates.
    pub latest: Option<Dates>,
    /// Working days by which it may slip; `None` of what has no latest dates or is fixed.
    pub total_float: Option<i32>,
    /// Working days by which it may slip without moving anything else.
    pub free_float: Option<i32>,
    /// How many links into it its dates do not keep.
    pub broken: usize,
}

impl Figures {
    /// Whether nothing may slip.
    #[must_use]
    pub fn is_critical(&self) -> bool {
        self.total_float.is_some_and(|days| days <= 0)
    }
}

/// The figures of every leaf, in no order.
#[must_use]
pub fn figures(plan: &Plan, today: Day) -> Vec<Figures> {
    let leaves = plan.tasks.keys().filter(|id| plan.children_of(**id).is_empty());
    figures_of(&Ground::new(plan, today), &leaves.copied().collect::<Vec<_>>(), &last_finishes(plan))
}

/// The figures of some leaves: what comes before and after them by links is worked out, and nothing else.
#[must_use]
pub fn figures_of(ground: &Ground<'_>, wanted: &[TaskId], last: &LastFinishes) -> Vec<Figures> {
    let plan = ground.plan;
    let leaf = |node: Node| match node {
        Node::Begin(task) if plan.children_of(task).is_empty() => ground.leaf(task),
        _ => None,
    };
    let before: Vec<Rc<Leaf<'_>>> = before(plan, wanted.iter().copied()).into_iter().filter_map(leaf).collect();
    let from = wanted.iter().map(|task| Node::Begin(*task));
    let after: Vec<Rc<Leaf<'_>>> = after(plan, from).into_iter().filter_map(leaf).collect();
    let earliest = earliest(ground, &before);
    let latest = latest(ground, &after, last);
    let mut standing = Ends::default();
    let mut allowed = Allowed::new(ground, Where::Stands, |leaf| leaf.dates);
    let mut found = Vec::with_capacity(wanted.len());
    for leaf in wanted.iter().filter_map(|task| ground.leaf(*task)) {
        let id = leaf.task.id;
        let latest = latest.get(&id).copied();
        let floats = latest.zip(leaf.dates).filter(|_| !leaf.holds.fixed).map(|(latest, dates)| {
            let total = leaf.days.number(latest.1 + 1) - leaf.days.number(dates.1 + 1);
            (total, free_float(&mut allowed, &leaf, dates, total, cap(&leaf, last)))
        });
        found.push(Figures {
            task: id,
            dates: leaf.dates,
            length: leaf.length,
            earliest: if leaf.done { None } else { earliest.get(&id).copied() },
            latest,
            total_float: floats.map(|(total, _)| total),
            free_float: floats.map(|(_, free)| free),
            broken: broken(ground, &mut standing, &leaf).count(),
        });
    }
    found
}

/// The links into a leaf that its dates do not keep; none of one that is done or has no dates.
pub fn broken<'g, 'p: 'g>(
    ground: &'g Ground<'p>,
    ends: &'g mut Ends,
    leaf: &'g Leaf<'p>,
) -> impl Iterator<Item = &'p Link> + 'g {
    let start = leaf.dates.filter(|_| !leaf.done).map(|(start, _)| leaf.days.number(start));
    ground.links_into(leaf.task.id).filter_map(move |link| {
        let end = ends.of(ground, link, &|from| from.standing(ground.today))?;
        (start? < Bound::of(link, end, &leaf.days).on_start(leaf.length)).then_some(&**link)
    })
}

/// Where each leaf could stand, from today on: with the dates that show.
fn earliest<'p>(ground: &Ground<'p>, leaves: &[Rc<Leaf<'p>>]) -> HashMap<TaskId, Dates> {
    let today = ground.today;
    let mut found: HashMap<TaskId, Dates> = HashMap::new();
    let mut ends = Ends::default();
    for leaf in leaves {
        let dates = match (leaf.stays(), leaf.dates) {
            (Some(Stays::Done), None) => continue,
            (Some(_), Some(dates)) => leaf.binding_from_today(dates, today),
            (_, _) => {
                let from = today.max(leaf.holds.not_before.unwrap_or(today));
                let mut number = leaf.days.number(from);
                for link in ground.links_into(leaf.task.id) {
                    if let Some(end) = ends.of(ground, link, &|from| found.get(&from.task.id).copied()) {
                        number = number.max(Bound::of(link, end, &leaf.days).on_start(leaf.length));
                    }
                }
                leaf.from(number)
            }
        };
        found.insert(leaf.task.id, dates);
    }
    found
}

/// The last finish of each project: that of all projects which are inside the same one at the top.
pub type LastFinishes = HashMap<ProjectId, Day>;

/// The last finish among the dated leaves that are not done, for each project.
#[must_use]
pub fn last_finishes(plan: &Plan) -> LastFinishes {
    let mut roots: HashMap<ProjectId, ProjectId> = HashMap::new();
    let mut by_root: HashMap<ProjectId, Day> = HashMap::new();
    for task in plan.tasks.values() {
        let project = task.project;
        let root = *roots.entry(project).or_insert_with(|| plan.project_line(project).last().map_or(project, |p| p.id));
        if let Some((_, finish)) = task.start.zip(task.finish).filter(|_| !task.is_done())
            && plan.children_of(task.id).is_empty()
        {
            let last = by_root.entry(root).or_insert(finish);
            *last = (*last).max(finish);
        }
    }
    roots.into_iter().filter_map(|(project, root)| Some((project, *by_root.get(&root)?))).collect()
}

/// The day on which a leaf finishes at the latest, whatever its links say.
fn cap(leaf: &Leaf<'_>, last: &HashMap<ProjectId, Day>) -> Day {
    let end = last.get(&leaf.task.project).copied().unwrap_or(Day::MAX);
    end.min(leaf.holds.by.unwrap_or(end))
}

/// Until when the earlier end of a link may be for the link to be kept where its later end stands.
#[derive(Clone, Copy, Debug)]
enum Until {
    Start(Day),
    Finish(Day),
}

/// On which dates the later leaves of links are looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Where {
    Stands,
    Latest,
}

/// What links out of leaves allow, where later leaves stand on the dates that `at` says; worked out once a link.
struct Allowed<'g, 'p, F> {
    ground: &'g Ground<'p>,
    place: Where,
    at: F,
    known: HashMap<LinkId, Option<Until>>,
}

impl<'g, 'p, F: Fn(&Leaf<'p>) -> Option<Dates>> Allowed<'g, 'p, F> {
    fn new(ground: &'g Ground<'p>, place: Where, at: F) -> Self {
        Self { ground, place, at, known: HashMap::new() }
    }

    /// The strictest of what a link's later leaves allow, those that are dated and not done.
    fn of(&mut self, link: &Link) -> Option<Until> {
        let (ground, place, at) = (self.ground, self.place, &self.at);
        *self.known.entry(link.id).or_insert_with(|| {
            let leaves = order::leaves(ground.plan, link.to).into_iter().filter_map(|id| ground.leaf(id));
            let days = leaves.filter_map(|leaf| allowed_by(link, &leaf, place, at(&leaf).filter(|_| !leaf.done)?));
            let day = days.min()?;
            Some(if link.kind.binds_by_start() { Until::Start(day) } else { Until::Finish(day) })
        })
    }

    /// The last working days, by number, on which links out of a leaf let it start and finish.
    fn numbers(&mut self, leaf: &Leaf<'p>) -> (i32, i32) {
        let (mut start, mut finish) = (i32::MAX, i32::MAX);
        for link in self.ground.links_out_of(leaf.task.id) {
            match self.of(link) {
                // What has begun does not begin again.
                Some(Until::Start(day)) if !leaf.started => start = start.min(leaf.days.number_until(day)),
                Some(Until::Finish(day)) => finish = finish.min(leaf.days.number_until(day)),
                _ => {}
            }
        }
        (start, finish)
    }
}

/// The last day on which the earlier end of a link may be for a leaf to keep it where it stands; `None` where it binds that end by
/// nothing.
pub(crate) fn kept_until(link: &Link, leaf: &Leaf<'_>) -> Option<Day> {
    allowed_by(link, leaf, Where::Stands, leaf.dates.filter(|_| !leaf.done)?)
}

/// The last day on which the earlier end of a link may be for a leaf on these dates to keep it. The start of what has begun is bound by
/// nothing any more.
fn allowed_by(link: &Link, leaf: &Leaf<'_>, place: Where, (start, finish): Dates) -> Option<Day> {
    let days = &leaf.days;
    let start = days.number(start);
    // Where a leaf stands its start says whether a link is kept; of what has begun only the finish can slip.
    let slips = leaf.started && place == Where::Latest;
    let finish = if slips { days.number_until(finish) } else { start + leaf.length - 1 };
    match link.kind {
        LinkKind::FinishStart if !leaf.started => Some(days.day(start - link.lag_days) - 1),
        LinkKind::StartStart if !leaf.started => Some(days.day(start - link.lag_days)),
        LinkKind::FinishFinish => Some(days.day(finish - link.lag_days)),
        LinkKind::StartFinish => Some(days.day(finish - link.lag_days + 1)),
        _ => None,
    }
}

/// Where each dated leaf that is not done may stand at the latest.
fn latest<'p>(ground: &Ground<'p>, leaves: &[Rc<Leaf<'p>>], last: &HashMap<ProjectId, Day>) -> HashMap<TaskId, Dates> {
    let found: std::cell::RefCell<HashMap<TaskId, Dates>> = std::cell::RefCell::default();
    let mut allowed = Allowed::new(ground, Where::Latest, |leaf| found.borrow().get(&leaf.task.id).copied());
    for leaf in leaves.iter().rev() {
        let Some(dates) = leaf.dates.filter(|_| !leaf.done) else { continue };
        let (start, finish) = allowed.numbers(leaf);
        let finish = finish.min(leaf.days.number_until(cap(leaf, last)));
        let finish = finish.min(start.saturating_add(leaf.length - 1));
        let latest = if leaf.holds.fixed {
            dates
        } else if leaf.started {
            (dates.0, leaf.days.day(finish))
        } else {
            leaf.from(finish - (leaf.length - 1))
        };
        found.borrow_mut().insert(leaf.task.id, latest);
    }
    drop(allowed);
    found.into_inner()
}

/// By how many of its working days a leaf may slip, of the `total` that it may for the end of all, without breaking a link where its
/// later end stands.
fn free_float<'p>(
    allowed: &mut Allowed<'_, 'p, impl Fn(&Leaf<'p>) -> Option<Dates>>,
    leaf: &Leaf<'p>,
    dates: Dates,
    total: i32,
    cap: Day,
) -> i32 {
    let (start, finish) = allowed.numbers(leaf);
    let finish = finish.min(leaf.days.number_until(cap));
    let stands = (leaf.days.number(dates.0), leaf.days.number(dates.0) + leaf.length - 1);
    let stands = if leaf.started { (stands.0, leaf.days.number_until(dates.1)) } else { stands };
    let by_start = if leaf.started { i32::MAX } else { start.saturating_sub(stands.0) };
    by_start.min(finish.saturating_sub(stands.1)).min(total).max(0)
}
