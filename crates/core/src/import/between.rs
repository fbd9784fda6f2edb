//! What files may not say together: nesting without end, circles of links, more time than there is.

use super::resolve::Resolving;
use crate::{
    change::Change,
    kinds::{Booking, Identity as _, Kind, PersonId, Project, Record, Task, TaskId, Team, TimeEntry},
    network, rules,
};
use std::collections::HashMap;

impl Resolving<'_> {
    pub(super) fn between(&mut self) {
        self.nesting::<Team>();
        self.nesting::<Project>();
        self.nesting::<Task>();
        self.overgiven();
        self.network();
        self.impossible_log();
        self.budget_lines();
        self.overload();
    }

    /// The records of a kind as the files leave them.
    fn after<R: Record>(&self) -> impl Iterator<Item = &R> {
        self.changes.get(&R::KIND).into_iter().flatten().filter_map(|change| R::in_change(change)?.after.as_ref())
    }

    /// The line that a record comes from; 0 where it comes from none.
    fn line_of<R: Record>(&self, record: &R) -> u64 {
        self.lines.get(&(R::KIND, record.number())).copied().unwrap_or(0)
    }

    fn nesting<R: Record>(&mut self) {
        if self.after::<R>().next().is_none() {
            return;
        }
        let mut parents: HashMap<R::Id, Option<R::Id>> = R::all(self.plan).map(|it| (it.id(), it.parent())).collect();
        parents.extend(self.after::<R>().map(|it| (it.id(), it.parent())));
        let Some((id, how)) = rules::nesting(parents.into_iter()) else { return };
        let reason = match how {
            rules::Nesting::Circle => "is inside itself".to_owned(),
            rules::Nesting::TooDeep => format!("nests more than {} levels deep", rules::most_levels()),
        };
        let line = self.lines.get(&(R::KIND, id.number())).copied().unwrap_or(0);
        self.nests = false;
        self.refuse(R::ABOUT.file, line, ("parent", reason));
    }

    /// Somebody who would give more than all of their time to teams.
    fn overgiven(&mut self) {
        let mut given = rules::given(&self.plan.with(self.changes.get(&Kind::Team).into_iter().flatten()));
        let data = self.data;
        let mut told = Vec::new();
        for line in data.lines("members.csv") {
            let person = self.keys.known(Kind::Person, line.cell("email")).map(PersonId);
            if let Some((person, sum)) = person.ok().and_then(|person| Some((person, *given.get(&person)?)))
                && sum > 10_000
            {
                given.remove(&person);
                told.push((line.number(), line.cell("email").to_lowercase(), f64::from(sum) / 100.0));
            }
        }
        for (line, email, sum) in told {
            let reason = format!("{email} gives {sum} % of their time to teams, more than there is");
            self.refuse("members.csv", line, ("share_percent", reason));
        }
    }

    /// Links that cannot stand, and dates that break links which stood.
    fn network(&mut self) {
        let of = |kind: Kind| self.changes.get(&kind).into_iter().flatten();
        let changes: Vec<Change> = of(Kind::Task).chain(of(Kind::Link)).cloned().collect();
        if changes.is_empty() || !self.nests {
            return;
        }
        // People come first: whose days they are decides what breaks.
        let after = self.plan.with(self.changes.values().flatten());
        if let Err((link, refusal)) = network::links_may_stand(&after, &changes) {
            let line = self.lines.get(&(Kind::Link, link.0)).copied().unwrap_or(0);
            self.refuse("links.csv", line, (refusal.field, refusal.message));
            return;
        }
        let Some(today) = self.today else { return };
        for (task, refusal) in network::broken_by(self.plan, &after, &changes, today) {
            let line = self.lines.get(&(Kind::Task, task.0)).copied().unwrap_or(0);
            self.refuse("tasks.csv", line, (refusal.field, refusal.message));
        }
        self.out.broken = network::newly_broken(self.plan, &after, today);
    }

    /// Days with more hours than there are, and cells in which more is taken out than was logged.
    fn impossible_log(&mut self) {
        let Some(logged) = self.changes.get(&Kind::TimeEntry) else { return };
        // People who come with the same files have nothing logged before, so the entries alone will do.
        let after = self.plan.with(logged);
        let first = |of: &dyn Fn(&TimeEntry) -> bool| {
            self.after::<TimeEntry>().filter(|entry| of(entry)).map(|entry| self.line_of(entry)).min().unwrap_or(0)
        };
        let hours = |minutes: i64| format!("{}:{:02}", minutes / 60, minutes % 60);
        let over = rules::overfull_day(&after, logged).map(|(person, date, minutes)| {
            let line = first(&|entry| entry.person == person && entry.date == date);
            (line, format!("{date} would have {} hours; a day has 24", hours(minutes)))
        });
        let under = rules::overdrawn_cell(&after, logged).map(|(drawn, minutes)| {
            let line = first(&|entry| entry.minutes < 0 && entry.cell() == drawn.cell());
            (line, format!("takes out {} hours more on {} than were logged there", hours(-minutes), drawn.date))
        });
        // What comes with the same files may come into weeks that they say are shut; what stands there already stays.
        let shut = rules::shut_week(self.plan, logged).map(|(entry, state)| {
            let line = first(&|other| other.id == entry.id);
            (line, rules::says_shut(self.plan, entry, state))
        });
        for (line, reason) in [over, under, shut].into_iter().flatten() {
            self.refuse("time.csv", line, ("hours", reason));
        }
    }

    /// Budget lines that are named and are in no file and no project.
    fn budget_lines(&mut self) {
        let of = |kind: Kind| self.changes.get(&kind).into_iter().flatten();
        let named = [Kind::Task, Kind::Booking, Kind::Expense].into_iter().flat_map(of);
        let named: Vec<&Change> = named.filter(|change| rules::named_line(change).is_some()).collect();
        if named.is_empty() {
            return;
        }
        let after = self.plan.with(self.changes.values().flatten());
        let Some((change, line)) = rules::missing_line(&after, named) else { return };
        let (subject, reason) =
            (change.subject(), format!("there is no budget line “{line}” in this project, nor in what it is inside"));
        self.refuse(subject.0.about().file, self.lines.get(&subject).copied().unwrap_or(0), ("line", reason));
    }

    /// What would be more than one row can hold.
    fn overload(&mut self) {
        let Some((who, minutes)) = rules::overloaded(self.plan, self.changes.values().flatten()) else { return };
        let bookings = self.after::<Booking>().filter(|booking| booking.who == who);
        let line = bookings.map(|booking| self.line_of(booking)).min();
        let (file, column) = if line.is_some() { ("bookings.csv", "amount") } else { ("tasks.csv", "estimate_h") };
        self.refuse(file, line.unwrap_or(0), (column, rules::too_much(minutes)));
    }

    /// What is logged on every task and inside it, once the log of these files is in and their tasks stand where they say; `None`
    /// where no line says what remains.
    pub(super) fn logs(&self) -> Option<HashMap<TaskId, i64>> {
        let lines = || self.data.lines(Task::ABOUT.file);
        lines().find(|line| !line.cell("remaining_h").is_empty())?;
        let mut own: HashMap<TaskId, i64> = HashMap::new();
        for (task, log) in &self.plan.logged {
            own.insert(*task, log.iter().map(|it| it.minutes).sum());
        }
        for change in self.changes.get(&Kind::TimeEntry).into_iter().flatten() {
            let Change::TimeEntry(edit) = change else { continue };
            for (entry, sign) in [(&edit.before, -1), (&edit.after, 1)] {
                if let Some((task, entry)) = entry.as_ref().and_then(|entry| Some((entry.task?, entry))) {
                    *own.entry(task).or_default() += sign * i64::from(entry.minutes);
                }
            }
        }
        let mut parents: HashMap<TaskId, TaskId> = HashMap::new();
        for task in self.plan.tasks.values() {
            parents.extend(task.parent.map(|parent| (task.id, parent)));
        }
        for line in lines().filter(|line| !line.cell("ref").is_empty()) {
            let Some(id) = self.keys.get(Kind::Task, line.cell("ref")).map(TaskId) else { continue };
            parents.remove(&id);
            parents.extend(self.keys.get(Kind::Task, line.cell("parent")).map(|parent| (id, TaskId(parent))));
        }
        let mut sums = HashMap::new();
        for (task, minutes) in own.into_iter().filter(|(_, minutes)| *minutes != 0) {
            // Rows that stand in a circle, or too deep, are refused afterwards.
            let line = std::iter::successors(Some(task), |id| parents.get(id).copied());
            line.take(rules::MOST_LEVELS + 1).for_each(|id| *sums.entry(id).or_insert(0) += minutes);
        }
        Some(sums)
    }
}
