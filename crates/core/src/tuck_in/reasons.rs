//! Why a leaf is where it is proposed to be, and not earlier; or, where it wishes to be late, not later; or why it was left out.
//!
//! What stands between a leaf and an earlier finish is looked for from the first day that its links leave to it, day by day up to the day
//! before it finishes: on each of these days either nobody who does it works, or somebody cannot take more of it. Were none of these
//! obstacles there, it would finish earlier.

use super::{
    ask::{Ask, MayGive, Pools, is_awaited},
    check::last_of_others,
    people::counted,
    proposal::{Proposal, Row},
    standing::{AtATime, People, Standing, fits, last_day, line_of},
};
use crate::{
    Day, LinkId, PersonId, Plan, ProjectId, TaskId,
    kinds::{Link, Task},
    network::{Bound, Dates, Ground, Leaf, kept_until, leaves},
    parts::in_parts,
};

/// Something that keeps a leaf from being earlier, later or there at all.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Obstacle {
    /// What is before it by a link, and the first day that this leaves to it.
    Link(LinkId, TaskId, Day),
    /// It does not start before a day, by its own constraint or that of something it is in.
    NotBefore(Day),
    /// Everyone who does it is off on these days.
    DaysOff(Vec<PersonId>, Day, Day),
    /// Somebody cannot take more of it on these days.
    Person(PersonId, Why, Day, Day),
    /// It is to be over by a day: due, for a milestone, or not after.
    By(Day),
    /// It is not to be later than the last finish of all others.
    LastOfAll(Day),
    /// What is behind it by a link.
    Before(LinkId, TaskId),
    /// What is before it by a link has no dates.
    Waits(LinkId, TaskId),
    /// Nobody has the role or skill, or nobody of the team has.
    Nobody,
    /// Nobody is named, and people are to stay as they are.
    Unnamed,
    /// Nobody is named, and neither team, role nor skill says who could.
    Unsaid,
    /// It lands nowhere up to a day, after which it must not end.
    NotAfter(Day),
    /// It lands nowhere up to the last day that is looked at.
    NoRoom(Day),
    /// Nobody said how much work it is.
    Sizeless,
}

/// Why somebody cannot take more of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Why {
    /// There is no room.
    Full,
    /// There is room for so many minutes a day beside other work.
    Room(i64),
    /// Their limit is so many minutes a day, and all of it is free.
    Limit(i64),
    /// Their week has room for so many minutes more, which is less than the day has.
    Week(i64),
    /// They are on as many tasks as they may be at a time.
    Tasks(i32),
    /// They are on as many projects as they may be at a time.
    Projects(i32),
}

/// The plan before and as proposed.
struct Looked<'p> {
    ask: &'p Ask,
    after: &'p Plan,
    ground: Ground<'p>,
    people: People<'p>,
    /// The last finish of what has no wish to be late.
    others: Option<Day>,
}

/// The obstacles of every row, in the order in which they come.
pub(super) fn reasons(plan: &Plan, ask: &Ask, proposal: &Proposal) -> Vec<Vec<Obstacle>> {
    let before = counted(plan);
    let after = before.with(&proposal.changes(&before));
    let last = last_day(&after, ask, &proposal.rows);
    let others = last_of_others(&after, &proposal.rows);
    let of_part = |rows: &[Row]| {
        let people = People::until(&before, &after, ask.today, last);
        let looked = Looked { ask, after: &after, ground: Ground::new(&after, ask.today), people, others };
        let mut pools = Pools::new(plan);
        rows.iter().map(|row| looked.of(row, &mut pools)).collect::<Vec<_>>()
    };
    in_parts(&proposal.rows, of_part).into_iter().flatten().collect()
}

impl Looked<'_> {
    fn of(&self, row: &Row, pools: &mut Pools<'_>) -> Vec<Obstacle> {
        let (Some(leaf), Some(task)) = (self.ground.leaf(row.task), self.after.tasks.get(&row.task)) else {
            return Vec::new();
        };
        match row.dates {
            _ if row.is_sizeless => vec![Obstacle::Sizeless],
            None => self.left_out(&leaf, pools),
            Some(dates) if row.is_wish(self.after) => self.not_later(task, &leaf, dates),
            Some(dates) => self.not_earlier(task, &leaf, dates),
        }
    }

    /// What its links, and what it is not to start before, set on a leaf: the first day that each leaves to it.
    fn sets(&self, leaf: &Leaf<'_>) -> Vec<(Day, Obstacle)> {
        let not_before = leaf.holds.not_before.map(|day| (day, Obstacle::NotBefore(day)));
        let links = self.ground.links_into(leaf.task.id).filter(|link| link.kind.binds_the_start());
        let links = links.filter_map(|link| {
            let (from, end) = self.end_of(link)?;
            let Bound::Start(number) = Bound::of(link, end, &leaf.days) else { return None };
            // Without a lag the first day is the next one, whoever works on it.
            let day = match (link.lag_days, link.kind.binds_by_start()) {
                (0, false) => end + 1,
                (0, true) => end,
                _ => leaf.days.day(number),
            };
            Some((day, Obstacle::Link(link.id, from, day)))
        });
        not_before.into_iter().chain(links).collect()
    }

    /// The first day that is left to a leaf, `but_for` some, and what sets it. A day that leaves no fewer working days than another one sets
    /// nothing.
    fn first(&self, leaf: &Leaf<'_>, but_for: &[Obstacle]) -> (Day, Option<Obstacle>) {
        let mut found = (self.ask.today, None);
        for (day, set) in self.sets(leaf) {
            if leaf.days.number(day) > leaf.days.number(found.0) && !but_for.contains(&set) {
                found = (day, Some(set));
            }
        }
        found
    }

    /// The earlier leaf whose end binds most by a link, and the day of that end.
    fn end_of(&self, link: &Link) -> Option<(TaskId, Day)> {
        let ends = leaves(self.after, link.from).into_iter().filter_map(|id| {
            let leaf = self.ground.leaf(id)?;
            let (start, finish) = leaf.binding_from_today(leaf.dates?, self.ask.today);
            Some((id, if link.kind.binds_by_start() { start } else { finish }))
        });
        ends.max_by_key(|(id, day)| (*day, *id))
    }

    /// A link that holds the very day of a finish.
    fn held_finish(&self, leaf: &Leaf<'_>, finish: Day) -> Option<Obstacle> {
        self.ground.links_into(leaf.task.id).filter(|link| !link.kind.binds_the_start()).find_map(|link| {
            let (from, end) = self.end_of(link)?;
            let Bound::Finish(number) = Bound::of(link, end, &leaf.days) else { return None };
            let day = leaf.days.day(number);
            (day == finish).then_some(Obstacle::Link(link.id, from, day))
        })
    }

    fn not_earlier(&self, task: &Task, leaf: &Leaf<'_>, (_, finish): Dates) -> Vec<Obstacle> {
        if finish == self.ask.today {
            return Vec::new();
        }
        let (first, set) = self.first(leaf, &[]);
        let last = finish - 1;
        let people = self.people.of(task);
        let line = line_of(self.after, task);
        let mut found = Vec::new();
        let working = first.through(last).find(|day| leaf.days.has(*day));
        // A link that leaves a day on which there is no room anyway is not what holds it.
        let is_open = |day: Day| people.iter().all(|person| person.minutes == 0 || room_on(person, &line, day) > 0);
        if working.is_none_or(is_open) {
            found.extend(set);
        }
        found.extend(self.held_finish(leaf, finish));
        self.along(leaf, &people, &line, (first, last), &mut found);
        if found.iter().any(|it| matches!(it, Obstacle::DaysOff(..))) {
            // What sets nothing because of days off would without them.
            let alike = |day: Day| day > first && leaf.days.number(day) == leaf.days.number(first);
            found.extend(self.sets(leaf).into_iter().filter(|(day, _)| alike(*day)).map(|(_, set)| set));
        }
        if found.iter().all(|it| it.days().is_none()) {
            self.behind_the_first(task, leaf, (&people, &line, last), &mut found);
        }
        found
    }

    /// Where links alone hold a leaf: what would hold it without them, if anything would, so that it is known what it takes.
    fn behind_the_first(
        &self,
        task: &Task,
        leaf: &Leaf<'_>,
        (people, line, last): (&[Standing<'_>], &[ProjectId], Day),
        found: &mut Vec<Obstacle>,
    ) {
        loop {
            let (first, next) = self.first(leaf, found);
            let mut starts = first.through(last).filter(|day| leaf.days.has(*day));
            if starts.any(|start| fits(task, people, line, (start, last))) {
                return;
            }
            match next {
                Some(next) => found.push(next),
                None => return self.along(leaf, people, line, (first, last), found),
            }
        }
    }

    /// What stands in the way on each of some days, alike ones put together.
    fn along(
        &self,
        leaf: &Leaf<'_>,
        people: &[Standing<'_>],
        line: &[ProjectId],
        (first, last): Dates,
        found: &mut Vec<Obstacle>,
    ) {
        let everyone: Vec<PersonId> = leaf.task.assignees.people().collect();
        for day in first.through(last) {
            let at = |from: Day| (from, day);
            if !leaf.days.has(day) {
                // A stretch of days off is told from its first day, also where that lies before those that are looked at.
                let back = (self.ask.today.number()..day.number()).rev().map(Day::from_number);
                let from = back.take_while(|day| !leaf.days.has(*day)).last().unwrap_or(day);
                put(leaf, found, at(from), |from, to| Obstacle::DaysOff(everyone.clone(), from, to));
                continue;
            }
            for person in people.iter().filter(|person| person.minutes > 0) {
                let id = person.person.id;
                if gives(person, day) == 0 {
                    put(leaf, found, at(day), |from, to| Obstacle::DaysOff(vec![id], from, to));
                } else {
                    let why = why(person, line, day);
                    put(leaf, found, at(day), |from, to| Obstacle::Person(id, why, from, to));
                }
            }
        }
    }

    fn not_later(&self, task: &Task, leaf: &Leaf<'_>, (_, finish): Dates) -> Vec<Obstacle> {
        let by = leaf.holds.by.map(Obstacle::By).or(self.others.map(Obstacle::LastOfAll));
        let until = leaf.holds.by.or(self.others).unwrap_or(finish);
        let mut found: Vec<Obstacle> = by.into_iter().collect();
        if until > finish {
            if let Some(before) = self.behind(leaf) {
                found.push(before);
            }
            let people = self.people.of(task);
            self.along(leaf, &people, &line_of(self.after, task), (finish + 1, until), &mut found);
        }
        found
    }

    /// What stands behind a leaf by links, each with the last day on which the end that binds it may be.
    fn stand_behind(&self, leaf: &Leaf<'_>) -> Vec<(Day, &Link, TaskId)> {
        let links = self.ground.links_out_of(leaf.task.id);
        let stands = |(link, id)| Some((kept_until(link, &*self.ground.leaf(id)?)?, link, id));
        links
            .flat_map(|link| leaves(self.after, link.to).into_iter().map(move |id| (&**link, id)))
            .filter_map(stands)
            .collect()
    }

    /// What is placed behind a leaf by a link that would break if it were any later.
    fn behind(&self, leaf: &Leaf<'_>) -> Option<Obstacle> {
        let (start, finish) = leaf.dates?;
        let would_break = |(until, link, _): &(Day, &Link, TaskId)| {
            let end = if link.kind.binds_by_start() { start } else { finish };
            *until < leaf.days.day(leaf.days.number(end + 1))
        };
        let broken = self.stand_behind(leaf).into_iter().find(would_break);
        broken.map(|(_, link, later)| Obstacle::Before(link.id, later))
    }

    fn left_out(&self, leaf: &Leaf<'_>, pools: &mut Pools<'_>) -> Vec<Obstacle> {
        let task = leaf.task;
        for link in self.ground.links_into(task.id) {
            let undated = leaves(self.after, link.from)
                .into_iter()
                .find(|id| self.ground.leaf(*id).is_some_and(|earlier| is_awaited(self.after, &earlier)));
            if let Some(earlier) = undated {
                return vec![Obstacle::Waits(link.id, earlier)];
            }
        }
        if pools.options(task, self.ask.people).is_empty() {
            return vec![match () {
                () if self.ask.people == MayGive::Keep => Obstacle::Unnamed,
                () if pools.is_nowhere(task) => Obstacle::Unsaid,
                () => Obstacle::Nobody,
            }];
        }
        let mut found = Vec::new();
        if let (_, Some(set)) = self.first(leaf, &[]) {
            found.push(set);
        }
        // Of what it would have to be over before, the first.
        let first = self.stand_behind(leaf).into_iter().min_by_key(|(until, link, later)| (*until, link.id, *later));
        found.extend(first.map(|(_, link, later)| Obstacle::Before(link.id, later)));
        found.push(match leaf.holds.not_after.filter(|day| *day < self.ask.until) {
            Some(day) => Obstacle::NotAfter(day),
            None => Obstacle::NoRoom(self.ask.until),
        });
        found
    }
}

/// Adds what stands in the way from a day to another one, or makes what is there already longer where no working day lies between.
fn put(leaf: &Leaf<'_>, found: &mut Vec<Obstacle>, (from, to): Dates, made: impl Fn(Day, Day) -> Obstacle) {
    let grown = found.iter().rposition(|it| {
        it.days().is_some_and(|(first, last)| {
            *it == made(first, last) && (last >= from || leaf.days.number(from) == leaf.days.number(last + 1))
        })
    });
    match grown.and_then(|at| Some((at, found[at].days()?.0))) {
        Some((at, first)) => found[at] = made(first, to),
        None => found.push(made(from, to)),
    }
}

fn at(person: &Standing<'_>, day: Day) -> usize {
    usize::try_from(day.since(person.with.days.first)).unwrap_or(0).min(person.with.days.available.len() - 1)
}

/// Minutes that somebody works on a day.
fn gives(person: &Standing<'_>, day: Day) -> i32 {
    person.with.days.available[at(person, day)]
}

/// How much of it somebody could take on a day.
fn room_on(person: &Standing<'_>, line: &[ProjectId], day: Day) -> i64 {
    let at = at(person, day);
    if person.is_at_its_most(line, at).is_some() { 0 } else { person.room(line, at).min(person.room_in_week(line, at)) }
}

fn why(person: &Standing<'_>, line: &[ProjectId], day: Day) -> Why {
    let at = at(person, day);
    match person.is_at_its_most(line, at) {
        Some(AtATime::Tasks(most)) => return Why::Tasks(most),
        Some(AtATime::Projects(most)) => return Why::Projects(most),
        None => {}
    }
    let in_week = person.room_in_week(line, at);
    match person.room(line, at) {
        0 => Why::Full,
        room if in_week < room => Why::Week(in_week),
        room if room >= i64::from(person.with.days.limit()[at]) => Why::Limit(room),
        room => Why::Room(room),
    }
}

impl Obstacle {
    /// The days on which it stands in the way, where it is about days.
    pub(super) fn days(&self) -> Option<Dates> {
        match self {
            Self::DaysOff(_, from, to) | Self::Person(_, _, from, to) => Some((*from, *to)),
            _ => None,
        }
    }
}
