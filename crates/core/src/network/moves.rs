//! What moves when something is moved: hands, pushes, carries.

use super::{
    ground::{Bound, Dates, Ground, Leaf, Stays},
    order::{Node, after, leaves, next, sets_dates},
};
use crate::{Day, LinkId, Plan, TaskId, kinds::Link};
use std::{
    collections::{BTreeMap, HashMap, HashSet},
    rc::Rc,
};

/// How something is moved.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Mode {
    /// What no longer keeps its links moves as far as it must.
    Push,
    /// What follows moves along.
    Carry,
    /// The first day of one leaf moves alone.
    Start,
    /// The last day of one leaf moves alone.
    Finish,
}

crate::words::words!(Mode { Push = "push", Carry = "carry", Start = "start", Finish = "finish" });

/// A leaf that moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Moved {
    /// The leaf.
    pub task: TaskId,
    /// Where it is to stand.
    pub to: Dates,
}

/// Why a move cannot be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Why {
    /// The task does not move with others.
    Stays(Stays),
    /// The task would finish after its `not after`, this day.
    NotAfter(Day),
}

/// A move that cannot be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Stopped {
    /// The task that stays.
    pub task: TaskId,
    /// Why it does.
    pub why: Why,
    /// The link that would move it; none where a hand does.
    pub link: Option<LinkId>,
    /// Where it would have to stand.
    pub to: Dates,
}

/// What is wanted of a leaf.
#[derive(Clone, Copy, Debug)]
enum Wanted {
    /// It starts on a day.
    To(Day),
    /// It moves by as many of its working days.
    By(i32),
    /// It starts on a day and finishes where it does.
    Start(Day),
    /// It finishes on a day and starts where it does.
    Finish(Day),
}

/// The leaves that change when tasks go to the days wanted, by the reference of each.
///
/// # Errors
/// What stops the move; of several the first by its reference.
pub fn moved(ground: &Ground<'_>, tasks: &[(TaskId, Day)], mode: Mode) -> Result<Vec<Moved>, Stopped> {
    let mut wanted: BTreeMap<TaskId, Wanted> = BTreeMap::new();
    for (task, day) in tasks {
        if ground.plan.children_of(*task).is_empty() {
            let how = match mode {
                Mode::Push | Mode::Carry => Wanted::To(*day),
                Mode::Start => Wanted::Start(*day),
                Mode::Finish => Wanted::Finish(*day),
            };
            wanted.insert(*task, how);
        } else if matches!(mode, Mode::Push | Mode::Carry) {
            wanted.extend(inside_moved(ground, *task, *day));
        }
    }
    let seeds: Vec<Node> = wanted.keys().map(|id| Node::Begin(*id)).collect();
    Moving { wanted, ..Moving::new(ground, mode) }.run(seeds, Flow::default())
}

/// The leaves that must move on after others were given other dates, or links were made. `ground` has all that in it already: `was` says
/// where those leaves stood, `fresh` which links have not bound before.
///
/// # Errors
/// What stops the move; of several the first by its reference.
pub fn pushed(
    ground: &Ground<'_>,
    was: HashMap<TaskId, Option<Dates>>,
    fresh: HashSet<LinkId>,
) -> Result<Vec<Moved>, Stopped> {
    let links = fresh.iter().filter_map(|id| ground.plan.records.links.get(id));
    let bound: Vec<Node> = links.map(|link| Node::Begin(link.to)).collect();
    let mut flow = Flow::default();
    for node in &bound {
        flow.add(*node, Reached { touched: true, carried: None });
    }
    let seeds: Vec<Node> = was.keys().map(|id| Node::Begin(*id)).chain(bound).collect();
    Moving { was, fresh, ..Moving::new(ground, Mode::Push) }.run(seeds, flow)
}

/// The leaves of a parent that move with it, each by as many of its working days as the first of them moves to be on the day wanted.
fn inside_moved(ground: &Ground<'_>, parent: TaskId, day: Day) -> Vec<(TaskId, Wanted)> {
    let all = leaves(ground.plan, parent).into_iter().filter_map(|id| ground.leaf(id));
    let moving: Vec<Rc<Leaf<'_>>> = all.filter(|leaf| leaf.dates.is_some() && leaf.stays().is_none()).collect();
    let first = moving.iter().min_by_key(|leaf| (leaf.dates, &leaf.task.reference, leaf.task.id));
    let Some((first, (start, _))) = first.and_then(|leaf| Some((leaf, leaf.dates?))) else { return Vec::new() };
    // Its bound from leaves that stay.
    let is_moving = |id: TaskId| moving.iter().any(|leaf| leaf.task.id == id);
    let standing = |from: &Leaf<'_>| from.standing(ground.today).filter(|_| !is_moving(from.task.id));
    let mut number = first.days.number(day.max(first.holds.not_before.unwrap_or(day)));
    for link in ground.links_into(first.task.id) {
        if let Some(end) = ground.end_of(link, &standing) {
            number = number.max(Bound::of(link, end, &first.days).on_start(first.length));
        }
    }
    match number - first.days.number(start) {
        0 => Vec::new(),
        by => moving.iter().map(|leaf| (leaf.task.id, Wanted::By(by))).collect(),
    }
}

/// The earlier end of a link before and after the move.
#[derive(Clone, Copy, Debug)]
struct End {
    before: Option<Day>,
    now: Option<Day>,
}

/// A move while it is worked out.
struct Moving<'g, 'p> {
    ground: &'g Ground<'p>,
    mode: Mode,
    wanted: BTreeMap<TaskId, Wanted>,
    /// Where leaves stood that have other dates already.
    was: HashMap<TaskId, Option<Dates>>,
    /// Links that did not bind before.
    fresh: HashSet<LinkId>,
    now: HashMap<TaskId, Dates>,
    ends: HashMap<LinkId, End>,
    stopped: Vec<Stopped>,
}

impl<'g, 'p> Moving<'g, 'p> {
    fn new(ground: &'g Ground<'p>, mode: Mode) -> Self {
        Self {
            ground,
            mode,
            wanted: BTreeMap::new(),
            was: HashMap::new(),
            fresh: HashSet::new(),
            now: HashMap::new(),
            ends: HashMap::new(),
            stopped: Vec::new(),
        }
    }

    fn run(mut self, seeds: Vec<Node>, mut flow: Flow) -> Result<Vec<Moved>, Stopped> {
        let plan = self.ground.plan;
        let order = after(plan, seeds);
        for node in order {
            if let Node::Begin(task) = node
                && plan.children_of(task).is_empty()
            {
                self.leaf(task, &mut flow);
            } else {
                flow.pass(plan, node);
            }
        }
        let name = |task: &TaskId| plan.tasks.get(task).map(|task| (&task.reference, task.id));
        if let Some(first) = self.stopped.iter().min_by_key(|stopped| name(&stopped.task)) {
            return Err(*first);
        }
        let standing = |task: &TaskId| plan.tasks.get(task).and_then(|task| task.start.zip(task.finish));
        let moved = self.now.iter().map(|(task, to)| Moved { task: *task, to: *to });
        let mut moved: Vec<Moved> = moved.filter(|moved| standing(&moved.task) != Some(moved.to)).collect();
        moved.sort_by_key(|moved| name(&moved.task));
        Ok(moved)
    }

    /// Works out one leaf, after everything that binds it.
    fn leaf(&mut self, id: TaskId, flow: &mut Flow) {
        if self.was.contains_key(&id) {
            return flow.add(Node::End(id), Reached { touched: true, carried: None });
        }
        let reached = flow.reached(Node::Begin(id));
        let wanted = self.wanted.get(&id).copied();
        let Some(leaf) = self.ground.leaf(id) else { return };
        let carried = reached.carried.filter(|_| leaf.dates.is_some() && leaf.stays().is_none());
        let mut own = None;
        if let Some(wanted) = wanted {
            if let Some(to) = self.by_hand(&leaf, wanted) {
                self.place(&leaf, to, None);
            }
            // What is stopped stays, and carries nothing.
            let stands = self.now.get(&id).copied().or(leaf.dates);
            own = stands.zip(leaf.dates).map(|(to, from)| leaf.days.number(to.0) - leaf.days.number(from.0));
        } else if let (Some(by), Some((start, _))) = (carried.filter(|by| *by != 0), leaf.dates) {
            let number = (leaf.days.number(start) + by).max(self.least(&leaf));
            self.place(&leaf, leaf.from(number), None);
        } else if reached.touched {
            self.push(&leaf);
        }
        let carries = if self.mode == Mode::Carry { further(own, carried) } else { None };
        flow.add(Node::End(id), Reached { touched: self.now.contains_key(&id), carried: carries });
    }

    /// Where a hand puts a leaf; nothing where it has no dates to stretch.
    fn by_hand(&mut self, leaf: &Leaf<'_>, wanted: Wanted) -> Option<Dates> {
        let days = Rc::clone(&leaf.days);
        match (wanted, leaf.dates) {
            (Wanted::To(day), _) => Some(leaf.from(days.number(day).max(self.least(leaf)))),
            (Wanted::By(by), Some((start, _))) => Some(leaf.from((days.number(start) + by).max(self.least(leaf)))),
            (Wanted::Finish(day), Some((start, _))) => {
                let bounds = self.bounds(leaf).into_iter().filter_map(|(bound, _)| match bound {
                    Bound::Finish(number) => Some(number),
                    Bound::Start(_) => None,
                });
                let number = bounds.chain([days.number_until(day), days.number(start)]).max()?;
                Some((start, days.day(number)))
            }
            (Wanted::Start(day), Some((start, finish))) => {
                let bounds = self.bounds(leaf).into_iter().filter_map(|(bound, _)| match bound {
                    Bound::Start(number) => Some(number),
                    Bound::Finish(_) => None,
                });
                let not_before = leaf.holds.not_before.map(|day| days.number(day));
                let bound = bounds.chain(not_before).max().unwrap_or(i32::MIN);
                let last = days.number_until(finish);
                let number = days.number(day).max(bound).min(last);
                Some((if bound > last { start } else { days.day(number) }, finish))
            }
            (_, None) => None,
        }
    }

    /// Moves a leaf on where a link that this move has made later is no longer kept.
    fn push(&mut self, leaf: &Leaf<'_>) {
        let Some((start, _)) = leaf.dates else { return };
        let start = leaf.days.number(start);
        let links: Vec<&Link> = self.ground.links_into(leaf.task.id).map(|link| &**link).collect();
        let pushing = links.into_iter().find(|link| {
            let End { before, now } = self.end(link);
            let number = |end: Day| Bound::of(link, end, &leaf.days).on_start(leaf.length);
            let now = now.map(number);
            now > before.map(number) && now.is_some_and(|now| start < now)
        });
        let Some(link) = pushing else { return };
        let Some((number, strictest)) = self.bound(leaf) else { return };
        let to = leaf.from(number);
        match leaf.stays() {
            Some(why) => {
                let why = Why::Stays(why);
                self.stopped.push(Stopped { task: leaf.task.id, why, link: Some(link.id), to });
            }
            None => self.place(leaf, to, strictest.or(Some(link.id))),
        }
    }

    /// Puts a leaf on its new dates, unless that is too late for it.
    fn place(&mut self, leaf: &Leaf<'_>, to: Dates, link: Option<LinkId>) {
        if leaf.dates == Some(to) {
            return;
        }
        match leaf.holds.not_after.filter(|last| to.1 > *last && leaf.dates.is_none_or(|(_, finish)| finish != to.1)) {
            Some(last) => {
                self.stopped.push(Stopped { task: leaf.task.id, why: Why::NotAfter(last), link, to });
            }
            None => drop(self.now.insert(leaf.task.id, to)),
        }
    }

    /// The first working day, by number, on which links and `not before` let a leaf start, and the link that says so.
    fn bound(&mut self, leaf: &Leaf<'_>) -> Option<(i32, Option<LinkId>)> {
        let not_before = leaf.holds.not_before.map(|day| (leaf.days.number(day), None));
        let bounds = self.bounds(leaf).into_iter().map(|(bound, link)| (bound.on_start(leaf.length), Some(link)));
        bounds.chain(not_before).max_by_key(|(number, link)| (*number, *link))
    }

    /// The number of that day; of a leaf that nothing binds the smallest.
    fn least(&mut self, leaf: &Leaf<'_>) -> i32 {
        self.bound(leaf).map_or(i32::MIN, |(number, _)| number)
    }

    /// What each link sets on a leaf as everything stands now.
    fn bounds(&mut self, leaf: &Leaf<'_>) -> Vec<(Bound, LinkId)> {
        let links: Vec<&Link> = self.ground.links_into(leaf.task.id).map(|link| &**link).collect();
        let bound = |link: &Link| Some((Bound::of(link, self.end(link).now?, &leaf.days), link.id));
        links.into_iter().filter_map(bound).collect()
    }

    /// The earlier end of a link, before the move and now; asked for when everything that it needs has its place.
    fn end(&mut self, link: &Link) -> End {
        if let Some(known) = self.ends.get(&link.id) {
            return *known;
        }
        let today = self.ground.today;
        let stood = |from: &Leaf<'_>| self.was.get(&from.task.id).copied().unwrap_or(from.dates);
        let before = self.ground.end_of(link, &|from| Some(from.binding(stood(from)?, today)));
        let before = before.filter(|_| !self.fresh.contains(&link.id));
        let now = |from: &Leaf<'_>| Some(from.binding(self.now.get(&from.task.id).copied().or(from.dates)?, today));
        let end = End { before, now: self.ground.end_of(link, &now) };
        self.ends.insert(link.id, end);
        end
    }
}

/// The larger of two distances by days, whichever way.
fn further(a: Option<i32>, b: Option<i32>) -> Option<i32> {
    a.into_iter().chain(b).max_by_key(|days| (days.abs(), *days))
}

/// What has come to an end from those that moved.
#[derive(Clone, Copy, Debug, Default)]
struct Reached {
    /// Something that binds it has moved.
    touched: bool,
    /// By as many of its working days it is carried along.
    carried: Option<i32>,
}

/// How moves go on along the links.
#[derive(Debug, Default)]
struct Flow(HashMap<Node, Reached>);

impl Flow {
    fn reached(&self, node: Node) -> Reached {
        self.0.get(&node).copied().unwrap_or_default()
    }

    fn add(&mut self, node: Node, more: Reached) {
        let reached = self.0.entry(node).or_default();
        reached.touched |= more.touched;
        reached.carried = further(reached.carried, more.carried);
    }

    /// Hands on what has come to an end that is no leaf's.
    fn pass(&mut self, plan: &Plan, node: Node) {
        let reached = self.reached(node);
        if reached.touched || reached.carried.is_some() {
            for next in next(plan, node, sets_dates) {
                self.add(next, reached);
            }
        }
    }
}
