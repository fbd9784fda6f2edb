//! The rules of load read in the plainest way: every day asked anew, fractions as fractions, nothing shared and nothing saved. It takes
//! nothing from the core but the records of a plan; availability, spreading and efforts are worked out here a second time.

use num_rational::Ratio;
use snug_core::{
    Day, PersonId, Plan, ProjectId, TaskId, TeamId,
    cells::{Bucket, Cell, Grain},
    kinds::{Assignees, Booking, Certainty, Contour, DatedPattern, ProjectStatus, Task, Unit, Who},
    settings::Envelope,
};
use std::collections::{BTreeMap, BTreeSet};

pub type Part = Ratio<i128>;
type Minutes = BTreeMap<Day, i64>;

pub fn part(minutes: i64) -> Part {
    Part::from(i128::from(minutes))
}

fn half_up(value: Part) -> i64 {
    i64::try_from((value + Ratio::new(1, 2)).floor().to_integer()).unwrap()
}

fn at(minutes: &Minutes, day: Day) -> i64 {
    minutes.get(&day).copied().unwrap_or(0)
}

/// Cuts a total by weights: each its floor, then one more to the largest rests, the earlier first.
fn cut(total: i64, weights: &[Part]) -> Option<Vec<i64>> {
    let sum: Part = weights.iter().sum();
    if sum <= part(0) {
        return None;
    }
    let exact: Vec<Part> = weights.iter().map(|weight| part(total) * weight / sum).collect();
    let mut parts: Vec<i64> = exact.iter().map(|it| i64::try_from(it.floor().to_integer()).unwrap()).collect();
    while parts.iter().sum::<i64>() < total {
        let rest = |at: usize| exact[at] - part(parts[at]);
        let best = (0..parts.len()).fold(0, |best, at| if rest(at) > rest(best) { at } else { best });
        parts[best] += 1;
    }
    Some(parts)
}

/// Whose days: somebody's, or the workspace's.
#[derive(Clone, Copy)]
enum Of {
    Person(PersonId),
    Workspace,
}

/// One task's minutes on the days of whoever does it.
struct Lying<'a> {
    task: &'a Task,
    minutes: Minutes,
}

type Slots = BTreeMap<Option<ProjectId>, Slot>;

/// What stands under one project.
#[derive(Default)]
struct Slot {
    firm: Minutes,
    load: Minutes,
}

pub struct Slow<'a> {
    pub plan: &'a Plan,
    pub today: Day,
}

impl<'a> Slow<'a> {
    fn pattern(&self, of: Of, day: Day) -> i64 {
        let minutes = |dated: &DatedPattern| {
            let anchor = dated.from.map_or("2024-01-01".parse().unwrap(), Day::monday);
            let weeks = i32::try_from(dated.pattern.0.len()).unwrap();
            let turn = (day.monday().since(anchor) / 7).rem_euclid(weeks);
            i64::from(dated.pattern.0[usize::try_from(turn).unwrap()][day.weekday()])
        };
        match of {
            Of::Workspace => minutes(&DatedPattern { from: None, pattern: self.plan.settings.pattern.clone() }),
            Of::Person(id) => {
                let patterns = &self.plan.people[&id].person.patterns;
                let begun = patterns.iter().filter(|dated| dated.from.is_none_or(|from| from <= day));
                begun.max_by_key(|dated| dated.from).map_or(0, minutes)
            }
        }
    }

    fn available(&self, of: Of, day: Day) -> i64 {
        let pattern = self.pattern(of, day);
        let Of::Person(id) = of else { return pattern };
        let entry = &self.plan.people[&id];
        let holidays = self.plan.calendars.get(&entry.person.calendar).into_iter().flat_map(|it| &it.holidays);
        let off: i64 = holidays.filter(|it| it.date == day).map(|it| i64::from(it.fraction)).sum();
        let mut left = half_up(part(pattern) * (Part::from(1) - Part::new(off.min(1_000_000).into(), 1_000_000)));
        let mut timed = BTreeSet::new();
        for absence in entry.absences.iter().filter(|it| (it.start..=it.end).contains(&day)) {
            match (absence.minutes, absence.at) {
                (None, _) => left = 0,
                (Some(minutes), None) => left -= i64::from(minutes),
                (Some(minutes), Some(from)) => timed.extend(from..from + minutes),
            }
        }
        (left - i64::try_from(timed.len()).unwrap()).max(0)
    }

    /// Whether somebody has any minute on a day.
    pub fn works(&self, id: PersonId, day: Day) -> bool {
        self.available(Of::Person(id), day) > 0
    }

    fn limit(&self, of: Of, day: Day) -> i64 {
        let most = match of {
            Of::Person(id) => self.plan.people[&id].person.day_limit,
            Of::Workspace => None,
        };
        self.available(of, day).min(most.map_or(i64::MAX, i64::from))
    }

    fn rim(&self, of: Of, day: Day) -> i64 {
        let Of::Person(id) = of else { return self.limit(of, day) };
        let limits: Vec<i64> = (0..7).map(|at| self.limit(of, day.monday() + at)).collect();
        match self.plan.people[&id].person.week_limit.map(i64::from) {
            Some(most) if limits.iter().sum::<i64>() > most => {
                cut(most, &limits.iter().map(|it| part(*it)).collect::<Vec<_>>()).unwrap()[day.weekday()]
            }
            _ => limits[day.weekday()],
        }
    }

    /// What a day weighs for a booking that may be marked to work on days off.
    fn weight(&self, of: Of, booking: &Booking, day: Day) -> i64 {
        match (self.available(of, day), self.pattern(of, day)) {
            (0, _) if !booking.days_off => 0,
            (0, 0) => self.plan.settings.day_minutes.into(),
            (0, pattern) => pattern,
            (available, _) => available,
        }
    }

    fn spread(&self, of: Of, booking: &Booking, total: i64, days: &[Day], into: &mut Minutes) {
        let weights: Vec<Part> = days.iter().map(|day| part(self.weight(of, booking, *day))).collect();
        into.extend(days.iter().copied().zip(cut(total, &weights).into_iter().flatten()));
    }

    fn booked(&self, of: Of, booking: &Booking) -> Minutes {
        let days: Vec<Day> = booking.start.through(booking.end).collect();
        let value = i64::from(booking.amount.value);
        let mut found = Minutes::new();
        match booking.amount.unit {
            Unit::PerDay => found.extend(days.iter().map(|day| {
                let (available, pattern) = (self.available(of, *day), self.pattern(of, *day));
                let here = if available > 0 { half_up(part(value) * part(available) / part(pattern)) } else { 0 };
                (*day, if available == 0 && booking.days_off { value } else { here })
            })),
            Unit::Percent => found.extend(days.iter().map(|day| {
                let of_day =
                    if self.available(of, *day) > 0 { self.rim(of, *day) } else { self.weight(of, booking, *day) };
                (*day, of_day * value / 10_000)
            })),
            Unit::Total => self.spread(of, booking, value, &days, &mut found),
            Unit::PerWeek => {
                for monday in days.iter().map(|day| day.monday()).collect::<BTreeSet<_>>() {
                    let week: Vec<Day> = days.iter().copied().filter(|day| day.monday() == monday).collect();
                    let sum = |days: &[Day]| part(days.iter().map(|day| self.pattern(of, *day)).sum());
                    let whole = sum(&monday.through(monday + 6).collect::<Vec<_>>());
                    if whole > part(0) {
                        let amount = if week.len() == 7 { value } else { half_up(part(value) * sum(&week) / whole) };
                        self.spread(of, booking, amount, &week, &mut found);
                    }
                }
            }
        }
        found
    }

    fn inner(&self, id: TaskId) -> Vec<&'a Task> {
        self.plan.tasks.values().map(|task| &**task).filter(|task| task.parent == Some(id)).collect()
    }

    fn heads(task: &Task) -> i64 {
        match &task.assignees {
            Assignees::Full(people) => i64::try_from(people.len()).unwrap(),
            _ => 1,
        }
    }

    fn logged(&self, id: TaskId, by: Option<PersonId>) -> i64 {
        let own =
            self.plan.time_entries.values().filter(|it| it.task == Some(id) && by.is_none_or(|by| by == it.person));
        own.map(|it| i64::from(it.minutes)).sum()
    }

    fn logged_in(&self, id: TaskId) -> i64 {
        self.logged(id, None) + self.inner(id).iter().map(|task| self.logged_in(task.id)).sum::<i64>()
    }

    /// P by a task's own figures.
    fn own(&self, task: &Task) -> Option<i64> {
        let typed =
            task.remaining.map(|left| (task.logged_then + left * Self::heads(task)).max(self.logged_in(task.id)));
        typed.or(task.estimate.map(|estimate| estimate * Self::heads(task)))
    }

    /// E of a leaf, or what of a parent's is not in the tasks inside it; `None` where it says none.
    pub fn estimate(&self, task: &Task) -> Option<i64> {
        let own = task.estimate? * Self::heads(task);
        Some((own - self.inner(task.id).iter().map(|inner| self.estimated(inner)).sum::<i64>()).max(0))
    }

    /// Σ E of a task and of what is inside it.
    fn estimated(&self, task: &Task) -> i64 {
        let inner: i64 = self.inner(task.id).iter().map(|inner| self.estimated(inner)).sum();
        inner + self.estimate(task).unwrap_or(0)
    }

    fn inside(&self, id: TaskId) -> i64 {
        self.inner(id).iter().map(|task| self.planned(task)).sum()
    }

    /// P of a task in the sum of its parent.
    fn planned(&self, task: &Task) -> i64 {
        let inside = self.inside(task.id);
        self.own(task).map_or(self.logged(task.id, None) + inside, |own| own.max(inside))
    }

    /// What remains of a leaf, or is not broken down of a parent: in all, and of each assignee.
    pub fn remaining(&self, task: &Task) -> Option<(i64, Vec<i64>)> {
        if task.stage == "done" {
            return None;
        }
        let own = self.own(task)?;
        let planned = if self.inner(task.id).is_empty() { own } else { (own - self.inside(task.id)).max(0) };
        let closed = self.plan.records.projects[&task.project].status == ProjectStatus::Closed;
        let left = if closed { 0 } else { (planned - self.logged(task.id, None)).max(0) };
        let people: Vec<PersonId> = task.assignees.people().collect();
        let weights: Vec<Part> = match &task.assignees {
            Assignees::Shares(shares) => shares.iter().map(|(_, share)| part((*share).into())).collect(),
            _ => vec![part(1); people.len()],
        };
        let parts = cut(planned, &weights).unwrap_or_default();
        let rests = people.iter().zip(&parts).map(|(who, own)| part((own - self.logged(task.id, Some(*who))).max(0)));
        let by_parts: Vec<Part> = parts.iter().map(|own| part(*own)).collect();
        let cut_left = cut(left, &rests.collect::<Vec<_>>()).or_else(|| cut(left, &by_parts));
        Some((left, cut_left.unwrap_or_else(|| vec![0; people.len()])))
    }

    /// The tasks of somebody, or of a team where they name nobody, and where they lie up to a day.
    fn lying(&self, of: Of, mine: impl Fn(&Task) -> Option<i64>, until: Day) -> Vec<Lying<'a>> {
        let mut found = Vec::new();
        let mut late = Vec::new();
        for task in self.plan.tasks.values() {
            let (Some(start), Some(finish), Some(left)) = (task.start, task.finish, mine(task)) else { continue };
            if finish < self.today {
                late.push((finish, task.reference.clone(), &**task, left));
                continue;
            }
            let days: Vec<Day> = start.max(self.today).through(finish).collect();
            let free: Vec<i64> = days.iter().map(|day| self.available(of, *day)).collect();
            let all = part(free.iter().sum());
            let mut before = part(0);
            let weights = free.iter().map(|minutes| {
                let x = if all > part(0) { (before + part(*minutes) / 2) / all } else { part(0) };
                before += part(*minutes);
                let bell = x * 4 - 2;
                let height = match task.contour {
                    Contour::Flat => part(1),
                    Contour::Front => (part(1) - x) * 2,
                    Contour::Back => x * 2,
                    Contour::Bell => part(2) - bell.max(-bell),
                };
                part(*minutes) * height
            });
            let laid = cut(left, &weights.collect::<Vec<_>>());
            found.push(Lying { task, minutes: days.into_iter().zip(laid.into_iter().flatten()).collect() });
        }
        late.sort_by(|a, b| (a.0, &a.1).cmp(&(b.0, &b.1)));
        let mut room: Minutes = self.today.through(until).map(|day| (day, self.limit(of, day))).collect();
        for (_, _, task, mut left) in late {
            let mut minutes = Minutes::new();
            for (day, room) in &mut room {
                let now = left.min(*room);
                (left, *room) = (left - now, *room - now);
                minutes.insert(*day, now);
            }
            found.push(Lying { task, minutes });
        }
        found
    }

    /// Bookings and tasks together, by project.
    fn slots(&self, of: Of, who: &Who, tasks: &[Lying<'_>]) -> Slots {
        let (mut firm, mut pencilled, mut filled): (BTreeMap<_, Minutes>, BTreeMap<_, Minutes>, BTreeMap<_, Minutes>) =
            Default::default();
        for booking in self.plan.bookings().filter(|booking| booking.who == *who) {
            let side = if booking.certainty == Certainty::Firm { &mut firm } else { &mut pencilled };
            let lane = side.entry(booking.project).or_default();
            self.booked(of, &booking).into_iter().for_each(|(day, minutes)| *lane.entry(day).or_insert(0) += minutes);
        }
        let under =
            |side: &BTreeMap<Option<ProjectId>, Minutes>, project, day| side.get(&project).map_or(0, |it| at(it, day));
        for lying in tasks {
            for (day, minutes) in &lying.minutes {
                let mut line = self.plan.project_line(lying.task.project).map(|project| Some(project.id));
                let booked = line.find(|id| under(&firm, *id, *day) + under(&pencilled, *id, *day) > 0);
                let lane = filled.entry(booked.unwrap_or(Some(lying.task.project))).or_default();
                *lane.entry(*day).or_insert(0) += minutes;
            }
        }
        let projects: BTreeSet<Option<ProjectId>> =
            firm.keys().chain(pencilled.keys()).chain(filled.keys()).copied().collect();
        let mut found = BTreeMap::new();
        for project in projects {
            let slot: &mut Slot = found.entry(project).or_default();
            let days =
                [&firm, &pencilled, &filled].into_iter().filter_map(|side| side.get(&project)).flat_map(Minutes::keys);
            for day in days.copied().collect::<BTreeSet<_>>() {
                let (f, all) =
                    (under(&firm, project, day), under(&firm, project, day) + under(&pencilled, project, day));
                let task = under(&filled, project, day);
                let (f, all) = match self.plan.settings.envelope {
                    _ if project.is_none() => (f, all),
                    Envelope::Larger => (f.max(task), all.max(task)),
                    Envelope::Bookings => (f, all),
                    Envelope::Tasks => (task, task),
                    Envelope::Sum => (f + task, all + task),
                };
                slot.firm.insert(day, f);
                slot.load.insert(day, all);
            }
        }
        found
    }
}

/// Limit, firm, load, room, spill and peak of a row, exact, and how many are over.
#[derive(Clone, Default)]
struct Row {
    figures: [Part; 6],
    over: u32,
}

impl Row {
    fn add(&mut self, [limit, firm, load, peak]: [Part; 4]) {
        let nothing = part(0);
        let all = [limit, firm, load, (limit - load).max(nothing), (load - limit).max(nothing), peak];
        self.figures.iter_mut().zip(all).for_each(|(sum, more)| *sum += more);
        self.over += u32::from(load > limit || peak > nothing);
    }

    fn add_seats(&mut self, firm: i64, load: i64) {
        let taken = self.figures[3].min(part(load));
        for (at, more) in [(1, part(firm)), (2, part(load)), (3, -taken), (4, part(load) - taken)] {
            self.figures[at] += more;
        }
    }

    fn cell(&self, limited: bool) -> Cell {
        let [limit, firm, load, room, spill, peak] = self.figures.map(half_up);
        let none = |figure: i64| if limited { figure } else { 0 };
        Cell {
            limit: limited.then_some(limit),
            load,
            firm,
            room: none(room),
            spill: none(spill),
            peak: none(peak),
            over: if limited { self.over } else { 0 },
        }
    }
}

/// Everything that rows are added up from, worked out once a plan.
pub struct Rows<'a> {
    slow: Slow<'a>,
    grain: Grain,
    people: BTreeMap<PersonId, (Vec<Lying<'a>>, Slots)>,
    seats: BTreeMap<Who, Slots>,
}

impl<'a> Rows<'a> {
    pub fn new(plan: &'a Plan, grain: Grain, today: Day, until: Day) -> Self {
        let slow = Slow { plan, today };
        let mut people = BTreeMap::new();
        for id in plan.people.keys() {
            let mine = |task: &Task| {
                let place = task.assignees.people().position(|who| who == *id)?;
                Some(slow.remaining(task)?.1[place])
            };
            let tasks = slow.lying(Of::Person(*id), mine, until);
            let slots = slow.slots(Of::Person(*id), &Who::Person(*id), &tasks);
            people.insert(*id, (tasks, slots));
        }
        let roles = plan.seats.values().map(|seat| seat.who.clone());
        let whose: BTreeSet<Who> = roles.chain(plan.records.teams.keys().map(|id| Who::Team(*id))).collect();
        let seats = whose.into_iter().map(|who| {
            let mine = |task: &Task| {
                let named = task.assignees.is_empty() && task.team.map(Who::Team).as_ref() == Some(&who);
                named.then(|| slow.remaining(task).map(|(left, _)| left)).flatten()
            };
            let tasks = slow.lying(Of::Workspace, mine, until);
            let slots = slow.slots(Of::Workspace, &who, &tasks);
            (who, slots)
        });
        let seats = seats.collect();
        Self { slow, grain, people, seats }
    }

    /// Limit, firm, load and peak of somebody who gives a share of all but `named`, which counts wholly; minutes by day.
    fn person(&self, id: PersonId, share: Part, named: &Minutes, all_named: &Minutes, bucket: Bucket) -> [Part; 4] {
        let of = Of::Person(id);
        let sum = |day: Day, which: fn(&Slot) -> &Minutes| {
            let all: i64 = self.people[&id].1.values().map(|slot| at(which(slot), day)).sum();
            part(all - at(all_named, day)) * share + part(at(named, day))
        };
        let [mut limit, mut firm, mut load, mut peak] = [part(0); 4];
        for monday in bucket.from.through(bucket.to).map(Day::monday).collect::<BTreeSet<_>>() {
            let [mut week_limit, mut week_load, mut days_over] = [part(0); 3];
            for day in monday.through(monday + 6).filter(|day| (bucket.from..=bucket.to).contains(day)) {
                let own = part(self.slow.limit(of, day)) * share;
                week_limit += if self.grain == Grain::Day { own } else { part(self.slow.rim(of, day)) * share };
                week_load += sum(day, |slot| &slot.load);
                firm += sum(day, |slot| &slot.firm);
                days_over += (sum(day, |slot| &slot.load) - own).max(part(0));
            }
            limit += week_limit;
            load += week_load;
            let long = !matches!(self.grain, Grain::Day | Grain::Week);
            peak += if long { days_over.max(week_load - week_limit) } else { days_over };
        }
        [limit, firm, load, peak]
    }

    fn whole(&self, id: PersonId, bucket: Bucket) -> [Part; 4] {
        self.person(id, part(1), &Minutes::new(), &Minutes::new(), bucket)
    }

    pub fn of_person(&self, id: PersonId, bucket: Bucket) -> Cell {
        let mut row = Row::default();
        row.add(self.whole(id, bucket));
        row.cell(true)
    }

    /// What is left under the day's limit.
    pub fn room_on(&self, id: PersonId, day: Day) -> i64 {
        let load: i64 = self.people[&id].1.values().map(|slot| at(&slot.load, day)).sum();
        (self.slow.limit(Of::Person(id), day) - load).max(0)
    }

    /// How many projects somebody works on, on a day.
    pub fn projects_on(&self, id: PersonId, day: Day) -> usize {
        self.people[&id].1.iter().filter(|(project, slot)| project.is_some() && at(&slot.load, day) > 0).count()
    }

    fn seat_sum(&self, who: &Who, bucket: Bucket) -> (i64, i64) {
        let slots = self.seats.get(who).into_iter().flat_map(BTreeMap::values);
        slots.map(|slot| slot_sum(slot, bucket)).fold((0, 0), |a, b| (a.0 + b.0, a.1 + b.1))
    }

    /// Everyone who fits, and the open seats whose word fits.
    pub fn of_words(&self, fits: impl Fn(PersonId) -> bool, is_word: impl Fn(&str) -> bool, bucket: Bucket) -> Cell {
        let mut row = Row::default();
        self.people.keys().filter(|id| fits(**id)).for_each(|id| row.add(self.whole(*id, bucket)));
        for who in self.seats.keys().filter(|who| matches!(who, Who::Role(word) if is_word(word))) {
            let (firm, load) = self.seat_sum(who, bucket);
            row.add_seats(firm, load);
        }
        row.cell(true)
    }

    pub fn of_project(&self, id: Option<ProjectId>, bucket: Bucket) -> Cell {
        let mut row = Row::default();
        let people = self.people.values().map(|(_, slots)| slots);
        for slot in people.chain(self.seats.values()).filter_map(|slots| slots.get(&id)) {
            let (firm, load) = slot_sum(slot, bucket);
            row.add_seats(firm, load);
        }
        row.cell(false)
    }

    /// A team with all inside it; `None` is what is left of everybody's whole.
    pub fn of_team(&self, id: Option<TeamId>, bucket: Bucket) -> Cell {
        let plan = self.slow.plan;
        let is_inside = |mut team: TeamId| loop {
            if Some(team) == id {
                return true;
            }
            match plan.records.teams[&team].parent {
                Some(parent) => team = parent,
                None => return false,
            }
        };
        let mut row = Row::default();
        let mut members = BTreeSet::new();
        for person in self.people.keys() {
            let given = |fits: &dyn Fn(TeamId) -> bool| -> i64 {
                let teams = plan.records.teams.values().filter(|team| fits(team.id)).flat_map(|team| &team.members);
                teams.filter(|(who, _)| who == person).map(|(_, share)| i64::from(*share)).sum()
            };
            let share = if id.is_none() { 10_000 - given(&|_| true) } else { given(&is_inside).min(10_000) };
            if share > 0 {
                members.insert(*person);
            }
            let named = |fits: &dyn Fn(TeamId) -> bool| {
                let mut sum = Minutes::new();
                if plan.settings.envelope != Envelope::Bookings {
                    for lying in self.people[person].0.iter().filter(|it| it.task.team.is_some_and(fits)) {
                        lying.minutes.iter().for_each(|(day, minutes)| *sum.entry(*day).or_insert(0) += minutes);
                    }
                }
                sum
            };
            let own = if id.is_none() { Minutes::new() } else { named(&is_inside) };
            if share > 0 || own.values().any(|minutes| *minutes > 0) {
                row.add(self.person(*person, Part::new(share.into(), 10_000), &own, &named(&|_| true), bucket));
            }
        }
        for (who, _) in self.seats.iter().filter(|(who, _)| matches!(who, Who::Team(team) if is_inside(*team))) {
            let (firm, load) = self.seat_sum(who, bucket);
            row.add_seats(firm, load);
        }
        if let Some(capacity) = id.and_then(|id| plan.records.teams[&id].week_capacity) {
            let people: Vec<Of> = members.into_iter().map(Of::Person).collect();
            let whose = if people.is_empty() { vec![Of::Workspace] } else { people };
            let mut limit = part(0);
            for monday in bucket.from.through(bucket.to).map(Day::monday).collect::<BTreeSet<_>>() {
                let week = || monday.through(monday + 6);
                let sum = |of: &dyn Fn(Of, Day) -> i64| -> Part {
                    part(
                        whose
                            .iter()
                            .flat_map(|who| week().map(move |day| (*who, day)))
                            .map(|(who, day)| of(who, day))
                            .sum(),
                    )
                };
                let pattern = sum(&|who, day| self.slow.pattern(who, day));
                let inside = |day: Day| (bucket.from..=bucket.to).contains(&day);
                let free = sum(&|who, day| if inside(day) { self.slow.available(who, day) } else { 0 });
                if pattern > part(0) {
                    limit += part(capacity.into()) * free / pattern;
                }
            }
            let load = row.figures[2];
            row.figures[0] = limit;
            (row.figures[3], row.figures[4]) = ((limit - load).max(part(0)), (load - limit).max(part(0)));
        }
        row.cell(true)
    }
}

fn slot_sum(slot: &Slot, bucket: Bucket) -> (i64, i64) {
    let sum = |minutes: &Minutes| minutes.range(bucket.from..=bucket.to).map(|(_, minutes)| minutes).sum();
    (sum(&slot.firm), sum(&slot.load))
}
