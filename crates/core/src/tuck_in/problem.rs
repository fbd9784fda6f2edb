//! From a plan to a problem of the scheduler: what stands fills the days, and what takes part is to be placed on them.

use super::{
    ask::{Ask, Pools, is_awaited},
    engine::filling::{Activity, Bond, Calendar, End, Mode, Part, Place, Problem, Wish},
    people::Crew,
};
use crate::{
    Day, PersonId, Plan, Refusal, TaskId,
    demand::{effort_of, left_of},
    kinds::{Assignees, Link, LinkKind, Priority, Task},
    network::{Bound, Dates, Ground, Leaf, Workdays, kept_until, leaves},
};
use std::{
    collections::{BTreeSet, HashMap},
    rc::Rc,
};

/// A plan as a problem, and what of it means what.
pub(super) struct Built {
    pub problem: Problem,
    /// The day that is day 0, a Monday.
    pub first: Day,
    /// The task of each activity; `None` for a gate.
    pub tasks: Vec<Option<TaskId>>,
    /// Who does an activity in each of its modes.
    pub givers: Vec<Vec<Assignees>>,
}

impl Built {
    /// The day of a number.
    pub fn day(&self, day: usize) -> Day {
        self.first + i32::try_from(day).unwrap_or(i32::MAX)
    }

    /// Where a leaf is proposed to be: its first and last day, and who does it.
    pub fn proposed(&self, at: usize, place: Place) -> (Dates, &Assignees) {
        ((self.day(place.start), self.day(place.finish)), &self.givers[at][place.mode])
    }
}

/// The most days of people that are looked at, and the most ways in which work could be done; beyond, less is to be asked at a time.
const MOST_DAYS_OF_PEOPLE: usize = 4_000_000;
const MOST_WAYS: usize = 1_000_000;

/// How much a late day of a task weighs.
pub(super) fn weight_of(priority: Priority) -> i64 {
    match priority {
        Priority::Low => 1,
        Priority::Normal => 2,
        Priority::High => 4,
        Priority::Urgent => 8,
    }
}

/// Puts a problem together.
struct Builder<'a, 'p> {
    plan: &'p Plan,
    ground: &'a Ground<'p>,
    ask: &'a Ask,
    first: Day,
    /// So many days are looked at.
    days: usize,
    crew: Crew<'p>,
    calendars: Vec<Calendar>,
    /// The calendar of each set of working days, by where they lie in memory; they are kept with it.
    known: HashMap<*const Workdays, (usize, Rc<Workdays>)>,
    activities: Vec<Activity>,
    tasks: Vec<Option<TaskId>>,
    givers: Vec<Vec<Assignees>>,
    of_task: HashMap<TaskId, usize>,
    /// The gate behind a whole, whose parts are these.
    gates: HashMap<TaskId, usize>,
    /// Activities that cannot be placed: behind work that has no dates, or before what stands before today.
    impossible: BTreeSet<usize>,
    /// What takes part, has dates and found no others.
    stay: &'a [TaskId],
}

/// Makes the problem of placing these leaves; everything else stands, and of what takes part those that `stay`.
///
/// # Errors
/// It is more than is looked at at a time; or the links close a circle, which the rules of links rule out.
pub(super) fn built<'p>(
    plan: &'p Plan,
    ground: &Ground<'p>,
    ask: &Ask,
    part: &[TaskId],
    stay: &[TaskId],
) -> Result<Built, Refusal> {
    let first = ask.today.monday();
    let days = usize::try_from(ask.until.monday().since(first) + 7).unwrap_or(7);
    let leaving: BTreeSet<TaskId> = part.iter().copied().collect();
    let mut builder = Builder {
        plan,
        ground,
        ask,
        first,
        days,
        crew: Crew::new(plan, ask, leaving),
        calendars: Vec::new(),
        known: HashMap::new(),
        activities: Vec::new(),
        tasks: Vec::new(),
        givers: Vec::new(),
        of_task: part.iter().enumerate().map(|(at, id)| (*id, at)).collect(),
        gates: HashMap::new(),
        impossible: BTreeSet::new(),
        stay,
    };
    let mut pools = Pools::new(plan);
    let mut ways = 0;
    for id in part {
        if let Some(leaf) = ground.leaf(*id) {
            let options = pools.options(leaf.task, ask.people);
            ways += options.len();
            builder.add(&leaf, options);
        }
        if ways > MOST_WAYS || builder.crew.len().saturating_mul(days) > MOST_DAYS_OF_PEOPLE {
            let message =
                "This is more than can be looked at at a time; choose a project or a team, or an earlier last day.";
            return Err(Refusal::value("scope", message.to_owned()));
        }
    }
    for at in 0..part.len() {
        builder.bind(at);
    }
    builder.done()
}

/// How much of a task each of some people does.
fn parts_for(plan: &Plan, task: &Task, people: &Assignees) -> Vec<(PersonId, i64)> {
    let mut named = people.people();
    match (named.next(), named.next()) {
        // One alone does what is left, whoever that is.
        (Some(one), None) => vec![(one, left_of(plan, task).unwrap_or(0))],
        _ => effort_of(plan, task).map(|effort| effort.parts).unwrap_or_default(),
    }
}

/// How an end of one task binds an end of another.
fn ends(kind: LinkKind) -> (End, End) {
    let end = |is_start: bool| if is_start { End::Start } else { End::Finish };
    (end(kind.binds_by_start()), end(kind.binds_the_start()))
}

/// How late an end of a leaf may be without breaking a link to what stands worse than it is broken now.
fn as_broken(link: &Link, leaf: &Leaf<'_>, later: &Leaf<'_>) -> Option<Day> {
    let (start, finish) = leaf.dates?;
    // The last day that binds as this one does.
    let last = |day: Day, more: i32| later.days.day(later.days.number(day + more)) - more;
    Some(match ends(link.kind) {
        (End::Finish, End::Start) => last(finish, 1),
        (End::Finish, End::Finish) => last(finish, 0),
        (End::Start, _) => last(start, 0),
    })
}

impl Builder<'_, '_> {
    /// The place of a day, the first for one that lies before.
    fn place(&self, day: Day) -> usize {
        usize::try_from(day.since(self.first)).unwrap_or(0)
    }

    fn calendar(&mut self, days: &Rc<Workdays>) -> usize {
        if let Some((known, _)) = self.known.get(&Rc::as_ptr(days)) {
            return *known;
        }
        let until = self.first + i32::try_from(self.days).unwrap_or(0);
        self.calendars.push(Calendar::new(self.first.through(until - 1).map(|day| days.has(day))));
        self.known.insert(Rc::as_ptr(days), (self.calendars.len() - 1, Rc::clone(days)));
        self.calendars.len() - 1
    }

    /// Adds a leaf that may be done in some ways.
    fn add(&mut self, leaf: &Leaf<'_>, options: Vec<Assignees>) {
        let task = leaf.task;
        let last = leaf.holds.not_after.unwrap_or(Day::MAX).min(self.ask.until);
        let by = leaf.holds.by.map(|day| self.place(day).min(self.days - 1));
        let mut activity = Activity {
            contour: task.contour,
            start_by: usize::MAX,
            weight: weight_of(task.priority),
            wish: task.wishes_to_be_late().then_some(Wish { by }),
            had_place: leaf.dates.is_some(),
            ..Activity::default()
        };
        if last < self.ask.today {
            // What was to be over before today is never placed.
            self.push(task.id, activity, Vec::new());
            return;
        }
        activity.finish_by = self.place(last);
        let from = self.ask.today.max(leaf.holds.not_before.unwrap_or(self.ask.today));
        for people in &options {
            let days = self.ground.days_of(task, people);
            let calendar = self.calendar(&days);
            let parts = parts_for(self.plan, task, people).into_iter().map(|(person, minutes)| {
                let resource = self.crew.resource(person);
                Part { resource, minutes, route: self.crew.route(resource, task.project) }
            });
            activity.modes.push(Mode {
                parts: parts.collect(),
                calendar,
                start_from: self.place(from),
                finish_from: 0,
                late_from: leaf.holds.due.map(|due| days.number(due + 1) - days.number(self.first)),
            });
        }
        let stands = leaf.dates.filter(|(start, finish)| *start >= self.ask.today && *finish <= self.ask.until);
        activity.now = stands
            .filter(|_| options.first() == Some(&task.assignees))
            .map(|(start, finish)| (0, self.place(start), self.place(finish)));
        self.push(task.id, activity, options);
    }

    fn push(&mut self, task: TaskId, activity: Activity, options: Vec<Assignees>) {
        self.activities.push(activity);
        self.tasks.push(Some(task));
        self.givers.push(options);
    }

    /// Binds an activity to what is before it and to what stands behind it.
    fn bind(&mut self, at: usize) {
        let Some(leaf) = self.tasks[at].and_then(|id| self.ground.leaf(id)) else { return };
        for link in self.ground.links_into(leaf.task.id) {
            self.bind_to(at, link);
        }
        let plan = self.plan;
        for link in self.ground.links_out_of(leaf.task.id) {
            for later in leaves(plan, link.to).into_iter().filter(|id| !self.of_task.contains_key(id)) {
                let later = self.ground.leaf(later);
                let Some((until, later)) = later.and_then(|it| Some((kept_until(link, &it)?, it))) else { continue };
                let until = until.max(as_broken(link, &leaf, &later).unwrap_or(until));
                let activity = &mut self.activities[at];
                let place = until.since(self.first);
                match usize::try_from(place) {
                    Ok(day) if link.kind.binds_by_start() => activity.start_by = activity.start_by.min(day),
                    Ok(day) => activity.finish_by = activity.finish_by.min(day),
                    Err(_) => drop(self.impossible.insert(at)),
                }
            }
        }
    }

    /// Binds an activity by one link: to activities, or to what stands.
    fn bind_to(&mut self, at: usize, link: &Link) {
        let before = leaves(self.plan, link.from);
        let (of, on) = ends(link.kind);
        let placed: Vec<usize> = before.iter().filter_map(|id| self.of_task.get(id).copied()).collect();
        let from = match placed.as_slice() {
            [] => None,
            [one] => Some(*one),
            _ => Some(self.gate(link.from, &placed)),
        };
        if let Some(from) = from {
            self.activities[at].bonds.push(Bond { from, of, on, lag: link.lag_days });
        }
        for standing in before {
            let leaf = self.ground.leaf(standing).filter(|_| !self.of_task.contains_key(&standing));
            let Some(leaf) = leaf else { continue };
            if let Some(dates) = leaf.dates {
                self.bound_by(at, link, leaf.binding_from_today(dates, self.ask.today));
            } else if is_awaited(self.plan, &leaf) {
                self.impossible.insert(at);
            }
        }
    }

    /// What a link sets on an activity when its earlier end stands on these days.
    fn bound_by(&mut self, at: usize, link: &Link, (start, finish): Dates) {
        let Some(task) = self.tasks[at].and_then(|id| self.plan.tasks.get(&id)) else { return };
        let end = if link.kind.binds_by_start() { start } else { finish };
        for (mode, people) in self.givers[at].iter().enumerate() {
            let days = self.ground.days_of(task, people);
            let day = |number| usize::try_from(days.day(number).since(self.first)).unwrap_or(0);
            let Some(mode) = self.activities[at].modes.get_mut(mode) else { continue };
            match Bound::of(link, end, &days) {
                Bound::Start(number) => mode.start_from = mode.start_from.max(day(number)),
                Bound::Finish(number) => mode.finish_from = mode.finish_from.max(day(number)),
            }
        }
    }

    /// The gate behind a whole, of which these take part.
    fn gate(&mut self, whole: TaskId, parts: &[usize]) -> usize {
        if let Some(known) = self.gates.get(&whole) {
            return *known;
        }
        let bond = |from: &usize| Bond { from: *from, of: End::Finish, on: End::Start, lag: 0 };
        self.activities.push(Activity {
            modes: vec![Mode::default()],
            bonds: parts.iter().map(bond).collect(),
            start_by: usize::MAX,
            finish_by: usize::MAX,
            is_gate: true,
            ..Activity::default()
        });
        self.tasks.push(None);
        self.givers.push(vec![Assignees::Even(Vec::new())]);
        self.gates.insert(whole, self.activities.len() - 1);
        self.activities.len() - 1
    }

    fn done(mut self) -> Result<Built, Refusal> {
        for at in &self.impossible {
            let activity = &mut self.activities[*at];
            (activity.modes, activity.now) = (Vec::new(), None);
        }
        if self.calendars.is_empty() {
            self.calendars.push(Calendar::new(std::iter::repeat_n(false, self.days)));
        }
        let today = self.place(self.ask.today);
        let fills = self.crew.fills();
        let last = self.stay.iter().filter_map(|id| self.plan.tasks.get(id));
        let last = last.filter(|task| !task.wishes_to_be_late()).filter_map(|task| task.finish).max();
        let stands_until = last.map(|day| self.place(day).min(self.days - 1));
        let (resources, routes) = self.crew.filled();
        let problem = Problem::new(self.activities, resources, routes, self.calendars, today, fills);
        let mut problem =
            problem.map_err(|fault| Refusal::value("scope", format!("The links do not hold: {fault}.")))?;
        problem.stands_until = stands_until;
        let Self { first, tasks, givers, .. } = self;
        Ok(Built { problem, first, tasks, givers })
    }
}
