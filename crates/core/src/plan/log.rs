//! What is logged, added up where it was logged.

use super::Plan;
use crate::{Day, PersonId, ProjectId, TaskId, TimeEntryId, kinds::TimeEntry, week::Subject};
use std::sync::Arc;

/// What one person logged in one place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Logged {
    /// Who.
    pub person: PersonId,
    /// Minutes, corrections included.
    pub minutes: i64,
    /// In so many entries, at least one.
    pub entries: u32,
}

impl Logged {
    fn none(person: PersonId) -> Self {
        Self { person, minutes: 0, entries: 0 }
    }

    fn put(&mut self, entry: &TimeEntry, is_in: bool) {
        let minutes = i64::from(entry.minutes);
        if is_in {
            (self.minutes, self.entries) = (self.minutes + minutes, self.entries + 1);
        } else {
            (self.minutes, self.entries) = (self.minutes - minutes, self.entries.saturating_sub(1));
        }
    }

    /// Takes an entry into what is logged in one place, or out of it again; who has no entry there is not in the list.
    pub(crate) fn put_among(log: &mut Vec<Self>, entry: &TimeEntry, is_in: bool) {
        let at = log.iter().position(|it| it.person == entry.person).unwrap_or_else(|| {
            log.push(Self::none(entry.person));
            log.len() - 1
        });
        log[at].put(entry, is_in);
        if log[at].entries == 0 {
            log.remove(at);
        }
    }
}

/// An entry of logged work as sums read it: a person's lie together, in the order of days, so that millions can be walked over.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LogRow {
    /// When.
    pub date: Day,
    /// Which entry.
    pub id: TimeEntryId,
    /// On which project.
    pub project: Option<ProjectId>,
    /// On which task.
    pub task: Option<TaskId>,
    /// How long, of a correction below 0.
    pub minutes: i32,
    /// Whether it can be billed.
    pub billable: bool,
}

impl LogRow {
    /// The row of an entry.
    #[must_use]
    pub fn of(entry: &TimeEntry) -> Self {
        let TimeEntry { date, id, project, task, minutes, billable, .. } = *entry;
        Self { date, id, project, task, minutes, billable }
    }

    /// What it is about. What is on a task belongs to the task's project.
    #[must_use]
    pub fn subject(&self, plan: &Plan) -> Subject {
        let of_task = self.task.and_then(|id| plan.tasks.get(&id)).map(|task| task.project);
        (of_task.or(self.project), self.task)
    }
}

impl Plan {
    /// What somebody logged from a day to another one, both included, in the order of days.
    #[must_use]
    pub fn log_of(&self, person: PersonId, from: Day, to: Day) -> &[LogRow] {
        let rows = self.days_logged.get(&person).map_or(&[] as &[LogRow], |rows| rows.as_slice());
        within(rows, from, to)
    }

    /// What everybody logged from a day to another one, person by person; of whoever logged nothing on these days nothing.
    pub fn whole_log(&self, from: Day, to: Day) -> impl Iterator<Item = (PersonId, &[LogRow])> {
        self.days_logged
            .iter()
            .map(move |(id, rows)| (*id, within(rows, from, to)))
            .filter(|(_, rows)| !rows.is_empty())
    }

    /// Everything logged by a person on a day.
    pub fn logged_on(&self, person: PersonId, day: Day) -> impl Iterator<Item = &Arc<TimeEntry>> {
        self.log_of(person, day, day).iter().filter_map(|row| self.time_entries.get(&row.id))
    }

    /// Puts an entry among the rows of its person, or takes it out.
    pub(super) fn put_row(&mut self, entry: &TimeEntry, is_in: bool) {
        let rows = Arc::make_mut(self.days_logged.entry(entry.person).or_default());
        match (rows.binary_search_by_key(&(entry.date, entry.id), |row| (row.date, row.id)), is_in) {
            (Ok(at), true) => rows[at] = LogRow::of(entry),
            (Err(at), true) => rows.insert(at, LogRow::of(entry)),
            (Ok(at), false) => drop(rows.remove(at)),
            (Err(_), false) => {}
        }
    }

    /// Takes an entry into the sums of its task, or of its project where it is on none, or out of them.
    pub(super) fn put_log(&mut self, entry: &TimeEntry, is_in: bool) {
        if let Some(task) = entry.task {
            let log = Arc::make_mut(self.logged.entry(task).or_default());
            Logged::put_among(log, entry, is_in);
            if log.is_empty() {
                self.logged.remove(&task);
            }
        } else {
            let key = (entry.project, entry.person);
            let log = self.logged_apart.entry(key).or_insert_with(|| Logged::none(entry.person));
            log.put(entry, is_in);
            if log.entries == 0 {
                self.logged_apart.remove(&key);
            }
        }
    }
}

fn within(rows: &[LogRow], from: Day, to: Day) -> &[LogRow] {
    let rows = &rows[rows.partition_point(|row| row.date < from)..];
    &rows[..rows.partition_point(|row| row.date <= to)]
}
