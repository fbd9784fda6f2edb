//! The rules of the network read in the plainest way: day by day, parents as all their leaves, every link looked at for every leaf.

use super::slow::Slow;
use snug_core::{
    Day, Plan, TaskId,
    kinds::{Constraint, Link, LinkKind, Task},
    network::{Mode, Stays, Why},
};
use std::{
    cell::RefCell,
    collections::{BTreeMap, BTreeSet, HashMap},
    rc::Rc,
};

pub type Dates = (Day, Day);
type Where = BTreeMap<TaskId, Dates>;

pub struct Net<'a> {
    pub plan: &'a Plan,
    pub today: Day,
    slow: Slow<'a>,
    days: RefCell<HashMap<TaskId, Rc<BTreeSet<Day>>>>,
}

/// What a row of the table says.
#[derive(Debug, PartialEq, Eq)]
pub struct Row {
    pub length: i32,
    pub earliest: Option<Dates>,
    pub latest: Option<Dates>,
    pub total: Option<i32>,
    pub free: Option<i32>,
    pub broken: usize,
}

impl<'a> Net<'a> {
    pub fn new(plan: &'a Plan, today: Day) -> Self {
        Self { plan, today, slow: Slow { plan, today }, days: RefCell::default() }
    }

    fn task(&self, id: TaskId) -> &'a Task {
        &self.plan.tasks[&id]
    }

    fn children(&self, id: TaskId) -> Vec<TaskId> {
        self.plan.tasks.values().filter(|task| task.parent == Some(id)).map(|task| task.id).collect()
    }

    /// The leaves that an end of a link stands for.
    pub fn leaves(&self, id: TaskId) -> Vec<TaskId> {
        let children = self.children(id);
        if children.is_empty() { vec![id] } else { children.into_iter().flat_map(|id| self.leaves(id)).collect() }
    }

    fn all_leaves(&self) -> Vec<TaskId> {
        self.plan.tasks.keys().copied().filter(|id| self.children(*id).is_empty()).collect()
    }

    fn line(&self, id: TaskId) -> Vec<&'a Task> {
        let task = self.task(id);
        std::iter::once(task).chain(task.parent.into_iter().flat_map(|id| self.line(id))).collect()
    }

    fn looked_at(&self, id: TaskId) -> Rc<BTreeSet<Day>> {
        if let Some(known) = self.days.borrow().get(&id) {
            return Rc::clone(known);
        }
        let task = self.task(id);
        let mut who: Vec<_> = task.assignees.people().collect();
        if who.is_empty()
            && let Some(team) = task.team
        {
            let teams = self.plan.team_and_inner(team);
            who = teams.iter().flat_map(|id| &self.plan.records.teams[id].members).map(|(id, _)| *id).collect();
        }
        let window = (self.today - 1_096).through(self.today + 1_096);
        let mut days: BTreeSet<Day> =
            window.clone().filter(|day| who.iter().any(|id| self.slow.works(*id, *day))).collect();
        if days.is_empty() {
            days = window.filter(|day| day.weekday() < 5).collect();
        }
        let days = Rc::new(days);
        self.days.borrow_mut().insert(id, Rc::clone(&days));
        days
    }

    fn works(&self, id: TaskId, day: Day) -> bool {
        let near = day.since(self.today).abs() <= 1_096;
        if near { self.looked_at(id).contains(&day) } else { day.weekday() < 5 }
    }

    fn at(&self, id: TaskId, day: Day, more: i32) -> Day {
        let step = |mut day: Day, by: i32| {
            while !self.works(id, day) {
                day = day + by;
            }
            day
        };
        let mut day = step(day, 1);
        for _ in 0..more.abs() {
            day = step(day + more.signum(), more.signum());
        }
        day
    }

    fn count(&self, id: TaskId, from: Day, to: Day) -> i32 {
        i32::try_from(from.through(to).filter(|day| self.works(id, *day)).count()).unwrap()
    }

    fn last_until(&self, id: TaskId, mut day: Day) -> Day {
        while !self.works(id, day) {
            day = day - 1;
        }
        day
    }

    fn stands(&self, id: TaskId) -> Option<Dates> {
        self.task(id).start.zip(self.task(id).finish)
    }

    fn length(&self, id: TaskId) -> i32 {
        if let Some((start, finish)) = self.stands(id) {
            return self.count(id, start, finish).max(1);
        }
        let heads = i64::try_from(self.task(id).assignees.people().count()).unwrap().max(1);
        let effort = self.slow.remaining(self.task(id)).map_or(0, |(minutes, _)| minutes);
        let day = i64::from(self.plan.settings.day_minutes) * heads;
        i32::try_from((effort + day - 1) / day).unwrap().max(1)
    }

    fn done(&self, id: TaskId) -> bool {
        self.task(id).stage == "done"
    }

    fn started(&self, id: TaskId) -> bool {
        let task = self.task(id);
        let logged = self.plan.time_entries.values().any(|entry| entry.task == Some(id) && entry.minutes > 0);
        let begun = task.stage != "to do" || task.progress.is_some_and(|it| it > 0.into());
        !self.done(id) && (logged || begun)
    }

    fn fixed(&self, id: TaskId) -> bool {
        self.line(id).iter().any(|task| task.constraint == Some(Constraint::Fixed))
    }

    fn stays(&self, id: TaskId) -> Option<Stays> {
        if self.done(id) {
            Some(Stays::Done)
        } else if self.started(id) {
            Some(Stays::Started)
        } else {
            self.fixed(id).then_some(Stays::Fixed)
        }
    }

    fn constraint(&self, id: TaskId, which: Constraint) -> Vec<Day> {
        self.line(id).iter().filter(|it| it.constraint == Some(which)).filter_map(|it| it.constraint_date).collect()
    }

    fn not_after(&self, id: TaskId) -> Option<Day> {
        self.constraint(id, Constraint::NotAfter).into_iter().min()
    }

    fn links(&self) -> Vec<&'a Link> {
        let links = self.plan.records.links.values().map(|link| &**link);
        links.filter(|link| !matches!(link.kind, LinkKind::HoldsUp | LinkKind::Relates)).collect()
    }

    fn links_into(&self, id: TaskId) -> Vec<&'a Link> {
        self.links().into_iter().filter(|link| self.leaves(link.to).contains(&id)).collect()
    }

    fn links_from(&self, id: TaskId) -> Vec<&'a Link> {
        self.links().into_iter().filter(|link| self.leaves(link.from).contains(&id)).collect()
    }

    /// What a link from a leaf on these dates, with which it binds, sets on the start of another leaf.
    fn sets(&self, link: &Link, to: TaskId, (start, finish): Dates) -> Day {
        let back = -(self.length(to) - 1);
        match link.kind {
            LinkKind::StartStart => self.at(to, start, link.lag_days),
            LinkKind::FinishFinish => self.at(to, self.at(to, finish, link.lag_days), back),
            LinkKind::StartFinish => self.at(to, self.at(to, start, link.lag_days - 1), back),
            _ => self.at(to, finish + 1, link.lag_days),
        }
    }

    fn binding(&self, id: TaskId, (start, finish): Dates) -> Dates {
        let finish = if self.done(id) { finish.min(self.today) } else { finish };
        (if self.done(id) { start.min(finish) } else { start }, finish)
    }

    /// What a link sets on a leaf where the leaves of its earlier end stand on these dates.
    fn link_sets(&self, link: &Link, to: TaskId, at: &Where) -> Option<Day> {
        let from = self.leaves(link.from).into_iter().filter_map(|id| Some(self.binding(id, *at.get(&id)?)));
        from.map(|dates| self.sets(link, to, dates)).max()
    }

    fn bound(&self, to: TaskId, at: &Where) -> Option<Day> {
        let links = self.links_into(to).into_iter().filter_map(|link| self.link_sets(link, to, at));
        links.chain(self.constraint(to, Constraint::NotBefore).into_iter().map(|day| self.at(to, day, 0))).max()
    }

    fn begun_on(&self, id: TaskId, start: Day) -> Dates {
        let start = self.at(id, start, 0);
        (start, self.at(id, start, self.length(id) - 1))
    }

    fn standing(&self) -> Where {
        self.all_leaves().into_iter().filter_map(|id| Some((id, self.stands(id)?))).collect()
    }

    /// The leaves in an order in which what binds comes first.
    pub fn ordered(&self) -> Option<Vec<TaskId>> {
        let mut left = self.all_leaves();
        let mut found = Vec::new();
        let before = |id: TaskId| -> BTreeSet<TaskId> {
            self.links_into(id).iter().flat_map(|link| self.leaves(link.from)).collect()
        };
        let before: BTreeMap<TaskId, BTreeSet<TaskId>> = left.iter().map(|id| (*id, before(*id))).collect();
        while !left.is_empty() {
            let free = left.iter().position(|id| before[id].iter().all(|other| found.contains(other)))?;
            found.push(left.remove(free));
        }
        Some(found)
    }

    fn earliest(&self, order: &[TaskId]) -> Where {
        let mut found = Where::new();
        for id in order.iter().copied() {
            let dates = match (self.stays(id), self.stands(id)) {
                (Some(Stays::Done), None) => continue,
                (Some(Stays::Done), Some(dates)) => self.binding(id, dates),
                (Some(_), Some((start, finish))) => (start, finish.max(self.today)),
                _ => {
                    let start = self.bound(id, &found).into_iter().chain([self.today]).max().unwrap();
                    self.begun_on(id, start)
                }
            };
            found.insert(id, dates);
        }
        found
    }

    fn cap(&self, id: TaskId) -> Day {
        let root = |id: TaskId| self.plan.project_line(self.task(id).project).last().unwrap().id;
        let same = self.all_leaves().into_iter().filter(|other| !self.done(*other) && root(*other) == root(id));
        let last = same.filter_map(|other| self.stands(other)).map(|(_, finish)| finish).max().unwrap();
        let milestones = |task: &'a Task| task.milestones.iter().map(|id| self.plan.records.milestones[id].date);
        let due = self.line(id).into_iter().flat_map(|task| milestones(task).chain(task.due)).min();
        [Some(last), due, self.not_after(id)].into_iter().flatten().min().unwrap()
    }

    /// Whether a leaf on these dates keeps its links to dated leaves that are not done, where those stand.
    fn keeps(&self, id: TaskId, dates: Dates, at: &Where, latest: bool) -> bool {
        self.links_from(id).into_iter().all(|link| {
            let of_start = matches!(link.kind, LinkKind::StartStart | LinkKind::StartFinish);
            if of_start && self.started(id) {
                return true;
            }
            self.leaves(link.to).into_iter().filter(|to| !self.done(*to)).all(|to| {
                let Some((start, finish)) = at.get(&to).copied() else { return true };
                let (began, binds_start) =
                    (self.started(to), matches!(link.kind, LinkKind::FinishStart | LinkKind::StartStart));
                if began && binds_start {
                    true
                } else if began && latest {
                    let lag = if link.kind == LinkKind::FinishFinish { link.lag_days } else { link.lag_days - 1 };
                    let day = if link.kind == LinkKind::FinishFinish { dates.1 } else { dates.0 };
                    self.at(to, day, lag) <= finish
                } else {
                    self.sets(link, to, dates) <= self.at(to, start, 0)
                }
            })
        })
    }

    fn latest(&self, order: &[TaskId]) -> Where {
        let mut found = Where::new();
        for id in order.iter().rev().copied() {
            let Some(dates) = self.stands(id).filter(|_| !self.done(id)) else { continue };
            let of = |finish: Day| {
                let start = if self.started(id) { dates.0 } else { self.at(id, finish, -(self.length(id) - 1)) };
                (start, finish)
            };
            let mut finish = self.last_until(id, self.cap(id));
            while !self.keeps(id, of(finish), &found, true) {
                finish = self.last_until(id, finish - 1);
            }
            found.insert(id, if self.fixed(id) { dates } else { of(finish) });
        }
        found
    }

    fn free(&self, id: TaskId, (start, finish): Dates, total: i32, at: &Where) -> i32 {
        let later = |k: i32| match (k, self.started(id)) {
            (0, _) => (start, finish),
            (_, true) => (start, self.at(id, self.last_until(id, finish), k)),
            (_, false) => {
                let start = self.at(id, start, k);
                (start, self.at(id, start, self.length(id) - 1))
            }
        };
        let fits = |k: &i32| later(*k).1 <= self.cap(id) && self.keeps(id, later(*k), at, false);
        if fits(&0) { (0..=total).rev().find(fits).unwrap_or(0) } else { 0 }
    }

    pub fn table(&self) -> BTreeMap<TaskId, Row> {
        let order = self.ordered().unwrap();
        let (earliest, latest, standing) = (self.earliest(&order), self.latest(&order), self.standing());
        let row = |id: TaskId| {
            let floats = latest.get(&id).zip(self.stands(id)).filter(|_| !self.fixed(id)).map(|(latest, dates)| {
                let total = if latest.1 >= dates.1 {
                    self.count(id, dates.1 + 1, latest.1)
                } else {
                    -self.count(id, latest.1 + 1, dates.1)
                };
                (total, self.free(id, dates, total, &standing))
            });
            let is_broken = |link: &&Link| {
                let start = standing.get(&id).map(|(start, _)| self.at(id, *start, 0));
                !self.done(id) && start.is_some_and(|start| self.link_sets(link, id, &standing) > Some(start))
            };
            Row {
                length: self.length(id),
                earliest: earliest.get(&id).copied().filter(|_| !self.done(id)),
                latest: latest.get(&id).copied(),
                total: floats.map(|(total, _)| total),
                free: floats.map(|(_, free)| free),
                broken: self.links_into(id).iter().filter(|link| is_broken(link)).count(),
            }
        };
        order.iter().map(|id| (*id, row(*id))).collect()
    }

    /// By how many of its working days a leaf moves from one day to another one.
    fn by(&self, id: TaskId, from: Day, to: Day) -> i32 {
        let (from, to) = (self.at(id, from, 0), self.at(id, to, 0));
        if from <= to { self.count(id, from, to) - 1 } else { 1 - self.count(id, to, from) }
    }

    /// The leaves that change, or the one that stops the move and why.
    pub fn moved(&self, id: TaskId, wanted: Day, mode: Mode) -> Result<Where, (TaskId, Why)> {
        let (standing, order) = (self.standing(), self.ordered().unwrap());
        let mut hand: BTreeMap<TaskId, Option<i32>> = BTreeMap::new();
        if self.children(id).is_empty() {
            hand.insert(id, None);
        } else {
            let all = self.leaves(id).into_iter().filter(|id| standing.contains_key(id) && self.stays(*id).is_none());
            let all: Vec<TaskId> = all.collect();
            let first = all.iter().min_by_key(|id| (standing[id].0, standing[id].1, &self.task(**id).reference));
            let Some(first) = first.copied() else { return Ok(Where::new()) };
            let rest: Where = standing.clone().into_iter().filter(|(id, _)| !all.contains(id)).collect();
            let day = self.bound(first, &rest).into_iter().chain([wanted]).max().unwrap();
            let by = self.by(first, standing[&first].0, day);
            if by == 0 {
                return Ok(Where::new());
            }
            hand.extend(all.into_iter().map(|id| (id, Some(by))));
        }
        let (mut now, mut stopped) = (standing.clone(), Vec::new());
        let mut carried: BTreeMap<TaskId, i32> = BTreeMap::new();
        for id in order {
            let (bound, own) = (self.bound(id, &now), standing.get(&id).copied());
            let from = |start: Day| self.begun_on(id, bound.into_iter().chain([start]).max().unwrap());
            let passes = own.is_some() && self.stays(id).is_none();
            let along = carried.get(&id).copied().filter(|_| passes);
            let to = if let Some(by) = hand.get(&id) {
                match (by, mode, own) {
                    (Some(by), _, Some((start, _))) => Some(from(self.at(id, start, *by))),
                    (None, Mode::Push | Mode::Carry, _) => Some(from(wanted)),
                    (None, Mode::Finish, Some((start, _))) => {
                        let bounds = self.ends(id, &now, [LinkKind::FinishFinish, LinkKind::StartFinish]);
                        let day = self.last_until(id, wanted);
                        bounds.into_iter().chain([day, self.at(id, start, 0)]).max().map(|finish| (start, finish))
                    }
                    (None, Mode::Start, Some((start, finish))) => {
                        let links = self.ends(id, &now, [LinkKind::FinishStart, LinkKind::StartStart]);
                        let not_before = self.constraint(id, Constraint::NotBefore).into_iter();
                        let bound = links.into_iter().chain(not_before.map(|day| self.at(id, day, 0))).max();
                        let last = self.last_until(id, finish);
                        let first = bound.into_iter().chain([self.at(id, wanted, 0)]).max().unwrap().min(last);
                        Some((if bound > Some(last) { start } else { first }, finish))
                    }
                    (_, _, None) => None,
                }
            } else if let (Some(by), Some((start, _))) = (along.filter(|by| *by != 0), own) {
                Some(from(self.at(id, start, by)))
            } else if let Some((start, _)) = own {
                let presses = |link: &&Link| {
                    let (was, is) = (self.link_sets(link, id, &standing), self.link_sets(link, id, &now));
                    is > was && is > Some(self.at(id, start, 0))
                };
                self.links_into(id).iter().any(presses).then(|| self.begun_on(id, bound.unwrap()))
            } else {
                None
            };
            let by_hand = hand.contains_key(&id);
            let to = to.filter(|to| Some(*to) != own);
            let late = |(_, finish): Dates| {
                own.is_none_or(|(_, was)| was != finish) && self.not_after(id).is_some_and(|last| finish > last)
            };
            match (to, self.stays(id)) {
                (Some(_), Some(why)) if !by_hand => stopped.push((id, Why::Stays(why))),
                (Some(to), _) if late(to) => stopped.push((id, Why::NotAfter(self.not_after(id).unwrap()))),
                (Some(to), _) => drop(now.insert(id, to)),
                (None, _) => {}
            }
            if mode == Mode::Carry {
                let own_by = own.filter(|_| by_hand).map(|(start, _)| self.by(id, start, now[&id].0));
                let on = own_by.into_iter().chain(along).max_by_key(|by| (by.abs(), *by));
                for to in self.links_from(id).iter().flat_map(|link| self.leaves(link.to)) {
                    let known = carried.get(&to).copied();
                    carried.extend(on.into_iter().chain(known).max_by_key(|by| (by.abs(), *by)).map(|by| (to, by)));
                }
            }
        }
        let name = |id: &TaskId| &self.task(*id).reference;
        match stopped.into_iter().min_by_key(|(id, _)| name(id)) {
            Some(first) => Err(first),
            None => Ok(now.into_iter().filter(|(id, dates)| standing.get(id) != Some(dates)).collect()),
        }
    }

    /// What links of two types set on that end which they bind.
    fn ends(&self, id: TaskId, at: &Where, kinds: [LinkKind; 2]) -> Vec<Day> {
        let links = self.links_into(id).into_iter().filter(|link| kinds.contains(&link.kind));
        let set = |link: &Link| {
            let from = self.leaves(link.from).into_iter().filter_map(|from| Some(self.binding(from, *at.get(&from)?)));
            let day = |(start, finish): Dates| match link.kind {
                LinkKind::StartStart => self.at(id, start, link.lag_days),
                LinkKind::FinishFinish => self.at(id, finish, link.lag_days),
                LinkKind::StartFinish => self.at(id, start, link.lag_days - 1),
                _ => self.at(id, finish + 1, link.lag_days),
            };
            from.map(day).max()
        };
        links.filter_map(set).collect()
    }
}
