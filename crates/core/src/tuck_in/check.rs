//! Whether a proposal keeps the rules (`rules/tuck-in.md`), looked at without anything of the search: the plan is changed as proposed, and
//! its load and its network are asked. What breaks a rule is never shown.

use super::{
    ask::{Ask, MayGive, is_awaited},
    people::counted,
    proposal::{Proposal, Row},
    standing::{People, fits, last_day, line_of},
};
use crate::{
    Day, PersonId, Plan, TaskId,
    cell::hours_text,
    demand::person_load,
    kinds::Link,
    network::{Bound, Dates, Ground, Leaf, kept_until, leaves},
    parts::in_parts,
    plan::Entry,
};
use std::collections::BTreeSet;

/// A rule that a proposal breaks.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Breach {
    /// The leaf it is about, where it is about one.
    pub task: Option<TaskId>,
    /// What is wrong, in words.
    pub what: String,
}

/// The plan before and after, and the days that are looked at.
struct Check<'p> {
    ask: &'p Ask,
    before: &'p Plan,
    after: &'p Plan,
    ground: Ground<'p>,
    people: People<'p>,
    /// Leaves that are given dates.
    placed: &'p BTreeSet<TaskId>,
    found: Vec<Breach>,
}

/// Everything that a proposal breaks; nothing where it is sound.
#[must_use]
pub fn breaches(plan: &Plan, ask: &Ask, proposal: &Proposal) -> Vec<Breach> {
    let before = counted(plan);
    let after = before.with(&proposal.changes(&before));
    let rows: Vec<(&Row, Dates)> = proposal.rows.iter().filter_map(|row| Some((row, row.dates?))).collect();
    let placed: BTreeSet<TaskId> = rows.iter().map(|(row, _)| row.task).collect();
    let last = last_day(&after, ask, &proposal.rows);
    let others = last_of_others(&after, &proposal.rows);
    let mut check = Check::new(ask, (&before, &after), &placed, ask.until);
    check.people(proposal);
    let mut found = check.found;
    found.extend(
        in_parts(&rows, |rows| {
            let mut check = Check::new(ask, (&before, &after), &placed, last);
            for (row, dates) in rows {
                check.row(row, *dates, others);
            }
            check.found
        })
        .into_iter()
        .flatten(),
    );
    found
}

/// What forbids to give some leaves the days and people of these rows, if anything does: somebody would have more than they may, or days
/// break a link or a constraint. That something could be better does not count.
pub(super) fn forbids(plan: &Plan, ask: &Ask, rows: &[Row]) -> Option<Breach> {
    let proposal = Proposal { rows: rows.to_vec(), ..Proposal::default() };
    let before = counted(plan);
    let after = before.with(&proposal.changes(&before));
    let placed: BTreeSet<TaskId> = rows.iter().map(|row| row.task).collect();
    let mut check = Check::new(ask, (&before, &after), &placed, ask.until);
    for row in rows {
        let Some((leaf, (start, finish))) = check.ground.leaf(row.task).zip(row.dates) else { continue };
        for what in check.at(&leaf, start, finish) {
            check.tell(Some(row.task), what);
        }
    }
    check.people(&proposal);
    check.found.into_iter().next()
}

/// `9 of 8 h`.
fn of(load: i32, most: i32) -> String {
    format!("{} of {} h", hours_text(load.into()), hours_text(most.into()))
}

/// The last finish of those without the wish to be late, where they are placed or where they stand.
pub(super) fn last_of_others(plan: &Plan, rows: &[Row]) -> Option<Day> {
    let others = rows.iter().filter(|row| !row.is_wish(plan));
    others.filter_map(|row| row.dates.or(row.before).map(|dates| dates.1)).max()
}

/// Whether a leaf with dates keeps every rule where it stands.
pub(super) fn stands_well(plan: &Plan, ask: &Ask, task: TaskId) -> bool {
    let (counted, placed) = (counted(plan), BTreeSet::new());
    let Some(task) = counted.tasks.get(&task) else { return false };
    let Some((start, finish)) = task.start.zip(task.finish) else { return false };
    let check = Check::new(ask, (&counted, &counted), &placed, finish);
    let (Some(leaf), people) = (check.ground.leaf(task.id), check.people.of(task)) else { return false };
    !people.is_empty()
        && check.at(&leaf, start, finish).is_empty()
        && fits(task, &people, &line_of(&counted, task), (start, finish))
}

impl<'p> Check<'p> {
    fn new(ask: &'p Ask, (before, after): (&'p Plan, &'p Plan), placed: &'p BTreeSet<TaskId>, last: Day) -> Self {
        let people = People::until(before, after, ask.today, last);
        Self { ask, before, after, ground: Ground::new(after, ask.today), people, placed, found: Vec::new() }
    }

    fn tell(&mut self, task: Option<TaskId>, what: impl Into<String>) {
        self.found.push(Breach { task, what: what.into() });
    }

    /// Nobody is filled beyond what they may be, or were before.
    fn people(&mut self, proposal: &Proposal) {
        let mut people: BTreeSet<PersonId> = BTreeSet::new();
        for row in &proposal.rows {
            people.extend(row.assignees.people());
            people.extend(self.before.tasks.get(&row.task).iter().flat_map(|task| task.assignees.people()));
        }
        for id in people {
            let (Some(was), Some(is)) = (self.before.people.get(&id), self.after.people.get(&id)) else { continue };
            let load = |plan: &Plan, entry: &Entry| person_load(plan, entry, &self.people.window, true);
            let (was, is) = (load(self.before, was), load(self.after, is));
            let person = &self.after.people[&id].person;
            let days = &is.days;
            let mut told = Vec::new();
            for at in 0..days.available.len() {
                let most = days.limit()[at].max(was.load[at]);
                if is.load[at] > most {
                    told.push(format!("{} would have {} on {}", person.name, of(is.load[at], most), days.day(at)));
                }
                for (own, now, then) in [
                    (person.max_tasks, is.tasks_on(at), was.tasks_on(at)),
                    (person.max_projects, is.projects_on(at), was.projects_on(at)),
                ] {
                    if own.is_some_and(|own| now > i64::from(own).max(then)) {
                        told.push(format!("{} would be on {now} tasks or projects on {}", person.name, days.day(at)));
                    }
                }
            }
            for week in 0..days.available.weeks() {
                let most = is.weeks.limit[week].max(was.weeks.load[week]);
                if is.weeks.load[week] > most {
                    let (monday, load) = (days.day(week * 7), is.weeks.load[week]);
                    told.push(format!("{} would have {} in the week of {monday}", person.name, of(load, most)));
                }
            }
            for what in told {
                self.tell(None, what);
            }
        }
    }

    /// One leaf that is given dates.
    fn row(&mut self, row: &Row, (start, finish): Dates, others: Option<Day>) {
        let id = row.task;
        let (Some(leaf), Some(task)) = (self.ground.leaf(id), self.after.tasks.get(&id)) else {
            return self.tell(Some(id), "it is not there");
        };
        let was = self.before.tasks.get(&id).is_some_and(|before| before.start.zip(before.finish) == row.dates);
        let told = self.at(&leaf, start, finish);
        // What stands where it stood before may stand badly.
        if !was {
            for what in told {
                self.tell(Some(id), what);
            }
        }
        if !self.may_have(row) {
            self.tell(Some(id), "who is to do it may not be given it");
        }
        let line = line_of(self.after, task);
        let filled = self.people.of(task);
        if filled.is_empty() {
            return self.tell(Some(id), "nobody does it");
        }
        if !fits(task, &filled, &line, (start, finish)) {
            return self.tell(Some(id), "it does not land whole inside the limits");
        }
        if was {
            return;
        }
        let days = |from: Day, to: Day| from.through(to).filter(|day| leaf.days.has(*day));
        let first = |from: Day, to: Day| {
            let allowed = |day: &Day| self.at(&leaf, from, *day).is_empty() && fits(task, &filled, &line, (from, *day));
            days(from, to).find(allowed)
        };
        if let Some(earlier) = first(start, finish - 1) {
            return self.tell(Some(id), format!("from {start} it can finish on {earlier}, not {finish}"));
        }
        if row.is_wish(self.after) {
            let by = leaf.holds.by.or(others).unwrap_or(finish).max(finish);
            let later = days(start + 1, by).find_map(|from| Some((from, first(from, by)?)));
            if let Some((from, to)) = later.filter(|(_, to)| leaf.late_days(*to) <= leaf.late_days(finish)) {
                self.tell(Some(id), format!("it is to be as late as possible, and can be from {from} to {to}"));
            }
        }
    }

    /// What days of a leaf break besides the load.
    fn at(&self, leaf: &Leaf<'_>, start: Day, finish: Day) -> Vec<String> {
        let (days, holds, mut told) = (&leaf.days, &leaf.holds, Vec::new());
        let mut say = |is_wrong: bool, what: &str| {
            if is_wrong {
                told.push(format!("{what}: {start} to {finish}"));
            }
        };
        say(start < self.ask.today, "it starts before today");
        say(finish < start || finish > self.ask.until, "it ends before it starts, or after the last day");
        say(!days.has(start) || !days.has(finish), "it starts or ends on a day off");
        say(holds.not_before.is_some_and(|day| start < day), "it starts before its not before");
        say(holds.not_after.is_some_and(|day| finish > day), "it ends after its not after");
        let length = days.between(start, finish);
        for link in self.ground.links_into(leaf.task.id) {
            for from in leaves(self.after, link.from).into_iter().filter_map(|id| self.ground.leaf(id)) {
                say(is_awaited(self.after, &from), "it is behind work that has no dates");
                let Some(dates) = from.dates else { continue };
                let end = from.binding_from_today(dates, self.ask.today);
                let end = if link.kind.binds_by_start() { end.0 } else { end.1 };
                say(days.number(start) < Bound::of(link, end, days).on_start(length), "it does not keep a link");
            }
        }
        for link in self.ground.links_out_of(leaf.task.id) {
            let end = if link.kind.binds_by_start() { start } else { finish };
            for to in leaves(self.after, link.to).into_iter().filter_map(|id| self.ground.leaf(id)) {
                if self.placed.contains(&to.task.id) {
                    let (bound, start) =
                        (Bound::of(link, end, &to.days), to.dates.map(|dates| to.days.number(dates.0)));
                    say(
                        start.is_some_and(|start| start < bound.on_start(to.length)),
                        "what is behind it does not keep a link",
                    );
                    continue;
                }
                let until = kept_until(link, &to);
                say(
                    until.is_some_and(|until| end > until && !self.was_worse(leaf, link, end, &to)),
                    "it breaks a link",
                );
            }
        }
        told
    }

    /// Whether a link was broken before, and no less than it is with this end.
    fn was_worse(&self, leaf: &Leaf<'_>, link: &Link, end: Day, to: &Leaf<'_>) -> bool {
        let Some(then) = self.before.tasks.get(&leaf.task.id) else { return false };
        let then = if link.kind.binds_by_start() { then.start } else { then.finish };
        then.is_some_and(|then| {
            Bound::of(link, end, &to.days).on_start(0) <= Bound::of(link, then, &to.days).on_start(0)
        })
    }

    /// Whether the people of a row are such as may be chosen.
    fn may_have(&self, row: &Row) -> bool {
        let Some(before) = self.before.tasks.get(&row.task) else { return false };
        let heads = before.assignees.people().count();
        if row.assignees == before.assignees {
            return heads > 0;
        }
        let may_choose = match self.ask.people {
            MayGive::Keep => false,
            MayGive::Empty => heads == 0,
            MayGive::Choose => heads < 2,
        };
        may_choose && row.assignees.people().count() == 1
    }
}
