//! What the network knows of leaves and of what links set on them.

use super::{
    order::{leaves, line, links_from, links_to, sets_dates},
    workdays::{Calendars, Workdays},
};
use crate::{
    Day, LinkId, Plan, TaskId,
    demand::left_of,
    kinds::{Assignees, Constraint, FIRST_STAGE, Link, LinkKind, Task},
};
use std::{cell::RefCell, collections::HashMap, rc::Rc, sync::Arc};

/// First and last day.
pub type Dates = (Day, Day);

/// What holds a leaf besides its links, its own and that of everything it is in; the strictest wins.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Holds {
    /// It does not start before.
    pub not_before: Option<Day>,
    /// It does not finish after.
    pub not_after: Option<Day>,
    /// The earliest of due days and milestones.
    pub due: Option<Day>,
    /// The earliest of those and `not after`.
    pub by: Option<Day>,
    /// Its dates stay.
    pub fixed: bool,
}

impl Holds {
    /// What holds a task.
    #[must_use]
    pub fn of(plan: &Plan, task: TaskId) -> Self {
        let mut holds = Self::default();
        for task in line(plan, task).filter_map(|id| plan.tasks.get(&id)) {
            let day = task.constraint_date;
            match task.constraint {
                Some(Constraint::NotBefore) => holds.not_before = holds.not_before.max(day),
                Some(Constraint::NotAfter) => holds.not_after = earlier(holds.not_after, day),
                Some(Constraint::Fixed) => holds.fixed = true,
                Some(Constraint::Late) | None => {}
            }
            let milestones = task.milestones.iter().filter_map(|id| plan.records.milestones.get(id));
            let due = milestones.map(|milestone| milestone.date).chain(task.due).min();
            holds.due = earlier(holds.due, due);
        }
        holds.by = earlier(holds.due, holds.not_after);
        holds
    }
}

fn earlier(a: Option<Day>, b: Option<Day>) -> Option<Day> {
    a.into_iter().chain(b).min()
}

/// Why a leaf is never moved by what moves others.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stays {
    /// It is done.
    Done,
    /// It is begun.
    Started,
    /// Its dates are fixed, or those of something it is in.
    Fixed,
}

/// A leaf of the network.
#[derive(Clone, Debug)]
pub struct Leaf<'p> {
    /// The task.
    pub task: &'p Task,
    /// Its working days.
    pub days: Rc<Workdays>,
    /// Where it stands; `None` where it lacks a day.
    pub dates: Option<Dates>,
    /// How many working days it takes, at least 1.
    pub length: i32,
    /// Whether it is done.
    pub done: bool,
    /// Whether it is begun and not done.
    pub started: bool,
    /// What else holds it.
    pub holds: Holds,
}

impl Leaf<'_> {
    /// Why it is not moved by what moves others, if it is not.
    #[must_use]
    pub fn stays(&self) -> Option<Stays> {
        let why = [(self.done, Stays::Done), (self.started, Stays::Started), (self.holds.fixed, Stays::Fixed)];
        why.into_iter().find(|(holds, _)| *holds).map(|(_, why)| why)
    }

    /// The dates with which it binds others when it stands on these: done work ended today at the latest.
    #[must_use]
    pub fn binding(&self, dates: Dates, today: Day) -> Dates {
        if !self.done {
            return dates;
        }
        let finish = dates.1.min(today);
        (dates.0.min(finish), finish)
    }

    /// The dates with which it binds what could be from today on, when it stands on these: what is not done ends today at the earliest.
    #[must_use]
    pub fn binding_from_today(&self, dates: Dates, today: Day) -> Dates {
        if self.done { self.binding(dates, today) } else { (dates.0, dates.1.max(today)) }
    }

    /// The dates with which it binds others where it stands.
    #[must_use]
    pub fn standing(&self, today: Day) -> Option<Dates> {
        self.dates.map(|dates| self.binding(dates, today))
    }

    /// How many of its working days lie after its due day up to a finish.
    #[must_use]
    pub fn late_days(&self, finish: Day) -> i64 {
        let late = |due: Day| self.days.number(finish + 1) - self.days.number(due + 1);
        i64::from(self.holds.due.map_or(0, late).max(0))
    }

    /// The dates on which it stands when it begins on the working day of this number.
    #[must_use]
    pub fn from(&self, number: i32) -> Dates {
        (self.days.day(number), self.days.day(number + self.length - 1))
    }
}

/// A plan as a network on a day; what was worked out once is kept.
#[derive(Debug)]
pub struct Ground<'p> {
    /// The plan.
    pub plan: &'p Plan,
    /// The day.
    pub today: Day,
    calendars: Calendars<'p>,
    leaves: RefCell<HashMap<TaskId, Rc<Leaf<'p>>>>,
}

impl<'p> Ground<'p> {
    /// The network of a plan.
    #[must_use]
    pub fn new(plan: &'p Plan, today: Day) -> Self {
        Self { plan, today, calendars: Calendars::new(plan, today), leaves: RefCell::default() }
    }

    /// A leaf; nothing where there is no such task.
    #[must_use]
    pub fn leaf(&self, id: TaskId) -> Option<Rc<Leaf<'p>>> {
        if let Some(known) = self.leaves.borrow().get(&id) {
            return Some(Rc::clone(known));
        }
        let task: &Task = self.plan.tasks.get(&id)?;
        let days = self.calendars.of(task);
        let dates = task.start.zip(task.finish);
        let leaf = Rc::new(Leaf {
            length: dates
                .map_or_else(|| self.length_without_dates(task), |(start, finish)| days.between(start, finish)),
            done: task.is_done(),
            started: !task.is_done() && self.is_begun(task),
            holds: Holds::of(self.plan, id),
            task,
            days,
            dates,
        });
        self.leaves.borrow_mut().insert(id, Rc::clone(&leaf));
        Some(leaf)
    }

    /// The working days of a task that is given to these people, which need not be those of the plan.
    #[must_use]
    pub(crate) fn days_of(&self, task: &Task, people: &Assignees) -> Rc<Workdays> {
        self.calendars.of_those(people, task.team)
    }

    fn is_begun(&self, task: &Task) -> bool {
        let logged = self.plan.logged.get(&task.id).is_some_and(|log| log.iter().any(|it| it.minutes > 0));
        logged || task.progress.is_some_and(|percent| percent > 0.into()) || task.stage != FIRST_STAGE
    }

    /// As many days of the workspace's length as its effort takes those who do it.
    fn length_without_dates(&self, task: &Task) -> i32 {
        let heads = i64::try_from(task.assignees.people().count()).unwrap_or(1).max(1);
        let a_day = (i64::from(self.plan.settings.day_minutes) * heads).max(1);
        let days = (left_of(self.plan, task).unwrap_or(0) + a_day - 1) / a_day;
        i32::try_from(days).unwrap_or(i32::MAX).clamp(1, LONGEST)
    }

    /// The links that set dates into a leaf: its own, and those into what it is in.
    pub fn links_into(&self, leaf: TaskId) -> impl Iterator<Item = &'p Arc<Link>> {
        let plan = self.plan;
        line(plan, leaf).flat_map(move |id| links_to(plan, id)).filter(|link| sets_dates(link.kind))
    }

    /// The links that set dates out of a leaf: its own, and those out of what it is in.
    pub fn links_out_of(&self, leaf: TaskId) -> impl Iterator<Item = &'p Arc<Link>> {
        let plan = self.plan;
        line(plan, leaf).flat_map(move |id| links_from(plan, id)).filter(|link| sets_dates(link.kind))
    }

    /// Whether every leaf at the later end of a link keeps it where it stands; done leaves and those without dates do.
    #[must_use]
    pub fn keeps(&self, link: &Link) -> bool {
        let Some(end) = self.end_of(link, &|from| from.standing(self.today)) else { return true };
        leaves(self.plan, link.to).into_iter().filter_map(|id| self.leaf(id)).all(|leaf| {
            let start = leaf.dates.filter(|_| !leaf.done).map(|(start, _)| leaf.days.number(start));
            start.is_none_or(|start| start >= Bound::of(link, end, &leaf.days).on_start(leaf.length))
        })
    }

    /// The day on which the earlier end of a link binds, where its leaves stand on the dates that `dates` says, which are those with
    /// which they bind: the latest of them. `None` where none of them has dates.
    pub fn end_of(&self, link: &Link, dates: &impl Fn(&Leaf<'p>) -> Option<Dates>) -> Option<Day> {
        let ends = leaves(self.plan, link.from).into_iter().filter_map(|id| dates(&*self.leaf(id)?));
        let by_start = link.kind.binds_by_start();
        ends.map(|(start, finish)| if by_start { start } else { finish }).max()
    }
}

/// The longest length, which an effort of many years could come to.
const LONGEST: i32 = 100_000;

/// Which end of a task a link binds, and by the number of which of its working days.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bound {
    /// It starts on the working day of this number, or later.
    Start(i32),
    /// It finishes on the working day of this number, or later.
    Finish(i32),
}

impl Bound {
    /// What a link sets on a leaf whose working days these are, when its earlier end binds on a day.
    #[must_use]
    pub fn of(link: &Link, end: Day, days: &Workdays) -> Self {
        let lag = link.lag_days;
        match link.kind {
            LinkKind::StartStart => Self::Start(days.number(end) + lag),
            LinkKind::FinishFinish => Self::Finish(days.number(end) + lag),
            LinkKind::StartFinish => Self::Finish(days.number(end) + lag - 1),
            _ => Self::Start(days.number(end + 1) + lag),
        }
    }

    /// The number of the first working day on which a leaf of a length may start.
    #[must_use]
    pub fn on_start(self, length: i32) -> i32 {
        match self {
            Self::Start(number) => number,
            Self::Finish(number) => number - (length - 1),
        }
    }
}

/// What each link’s earlier end comes to, worked out once a link.
#[derive(Debug, Default)]
pub struct Ends(HashMap<LinkId, Option<Day>>);

impl Ends {
    /// The day on which a link's earlier end binds, as [`Ground::end_of`]; asked for when everything that it needs is known.
    pub fn of<'p>(
        &mut self,
        ground: &Ground<'p>,
        link: &Link,
        dates: &impl Fn(&Leaf<'p>) -> Option<Dates>,
    ) -> Option<Day> {
        *self.0.entry(link.id).or_insert_with(|| ground.end_of(link, dates))
    }
}
