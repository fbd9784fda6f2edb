//! What would help a leaf that is left out or late: the scheduler is asked again for that leaf alone, everything else standing as
//! proposed, with somebody else, without a link, with somebody's time off given up, or with more time.

use super::{
    ask::{AHEAD, Ask, MayDate, MayGive, Scope},
    proposal::{Proposal, Row, propose},
    reasons::Obstacle,
};
use crate::{
    Day, LinkId, PersonId, Plan, TaskId,
    change::{Change, Edit},
    kinds::{Absence, Assignees, Constraint, Task},
    network::Dates,
    rules::LONGEST_DAYS,
};
use std::collections::BTreeSet;

/// Something that would help, and the day on which the leaf would end then.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Help {
    /// Somebody else does it.
    Person(PersonId, Day),
    /// A link from this task goes.
    Link(LinkId, TaskId, Day),
    /// Somebody gives up time off on these days.
    DaysOff(PersonId, Dates, Day),
    /// It may end later than it may, or than was looked at.
    Later(Day),
}

/// The most things of a kind that are tried for a leaf.
const MOST: usize = 3;

/// What would help a row that is left out or late; nothing where it is neither, or nothing that is tried does.
#[must_use]
pub fn helps(plan: &Plan, ask: &Ask, proposal: &Proposal, row: &Row) -> Vec<Help> {
    let is_in_time = row.dates.is_some() && row.late_days == 0;
    let Some(task) = plan.tasks.get(&row.task).filter(|_| !is_in_time && !row.is_sizeless) else { return Vec::new() };
    let undated = Task { start: None, finish: None, assignees: row.assignees.clone(), ..(**task).clone() };
    let proposed = plan.with(&proposal.changes(plan));
    let Some(stands) = proposed.tasks.get(&row.task) else { return Vec::new() };
    let rest = proposed.with(&[Change::Task(Edit::alter((**stands).clone(), undated.clone()))]);
    let tried = Tried { rest: &rest, ask, row };
    [tried.person(&undated), tried.links(), tried.days_off(), tried.later(&undated)].concat()
}

/// Everything but the leaf as proposed, and the leaf.
struct Tried<'a> {
    rest: &'a Plan,
    ask: &'a Ask,
    row: &'a Row,
}

impl Tried<'_> {
    /// Where the leaf would end, and who would do it, if some things were otherwise; `None` where that is no better.
    fn with(&self, changes: &[Change], until: Day, people: MayGive) -> Option<(Day, Assignees)> {
        let scope = Scope { tasks: vec![self.row.task], ..Scope::default() };
        let ask = Ask { until, scope, dates: MayDate::Empty, people, pinned: BTreeSet::new(), ..self.ask.clone() };
        let found = propose(&self.rest.with(changes), &ask, 1, &mut |_| false).ok()?;
        let placed = found.rows.into_iter().find(|row| row.task == self.row.task)?;
        let finish = placed.dates?.1;
        let is_better = self.row.dates.is_none_or(|(_, now)| finish < now);
        is_better.then_some((finish, placed.assignees))
    }

    /// Who names nobody is given to whoever may have it; where nobody may, to whoever has the role or skill, of whatever team.
    fn person(&self, task: &Task) -> Vec<Help> {
        let open = Task { assignees: Assignees::Even(Vec::new()), ..task.clone() };
        let anywhere = Task { team: None, ..open.clone() };
        let ways = [open, anywhere].into_iter().map(|to| Change::Task(Edit::alter(task.clone(), to)));
        let found =
            ways.filter_map(|change| self.with(&[change], self.ask.until, MayGive::Empty)).find_map(|(finish, who)| {
                let other = who.people().next().filter(|id| !self.row.assignees.people().any(|now| now == *id))?;
                Some(Help::Person(other, finish))
            });
        found.into_iter().collect()
    }

    fn links(&self) -> Vec<Help> {
        let named = self.row.why.iter().filter_map(|it| match it {
            Obstacle::Link(link, from, _) | Obstacle::Waits(link, from) => Some((*link, *from)),
            _ => None,
        });
        let without = |(id, from): (LinkId, TaskId)| {
            let link = self.rest.records.links.get(&id)?;
            let change = Change::Link(Edit::remove((**link).clone()));
            let (finish, _) = self.with(&[change], self.ask.until, self.ask.people)?;
            Some(Help::Link(id, from, finish))
        };
        named.take(MOST).filter_map(without).collect()
    }

    fn days_off(&self) -> Vec<Help> {
        let hindering = |off: &Absence| {
            self.row.why.iter().any(|it| match it {
                Obstacle::DaysOff(people, from, to) => {
                    people.contains(&off.person) && off.start <= *to && off.end >= *from
                }
                _ => false,
            })
        };
        let people = self.row.assignees.people().filter_map(|id| self.rest.people.get(&id));
        let off = people.flat_map(|entry| entry.absences.iter().filter(|off| hindering(off)));
        let without = |off: &Absence| {
            let change = Change::Absence(Edit::remove(off.clone()));
            let (finish, _) = self.with(&[change], self.ask.until, self.ask.people)?;
            Some(Help::DaysOff(off.person, (off.start, off.end), finish))
        };
        off.take(MOST).filter_map(without).collect()
    }

    /// More time helps what is left out: without the day after which it must not end, and beyond the days that were looked at.
    fn later(&self, task: &Task) -> Vec<Help> {
        if self.row.dates.is_some() {
            return Vec::new();
        }
        let free = match task.constraint {
            Some(Constraint::NotAfter) => Task { constraint: None, constraint_date: None, ..task.clone() },
            _ => task.clone(),
        };
        let change = Change::Task(Edit::alter(task.clone(), free));
        let until = (self.ask.until + AHEAD).min(self.ask.today + LONGEST_DAYS);
        self.with(&[change], until, self.ask.people).map(|(finish, _)| Help::Later(finish)).into_iter().collect()
    }
}
