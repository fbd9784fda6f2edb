//! Filling a week sheet without typing: what was planned is taken over, or last week's hours are copied. A walk-in is made and logged
//! in one breath.

use crate::{
    Day, PersonId, Plan, Refusal, TaskId, TimeEntryId,
    change::{Change, Edit},
    kinds::{MOST_LOGGED, Record as _, Task, TimeEntry},
    week::{Subject, WeekSheet, week_sheet},
};

/// What an empty cell of a week sheet is filled with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Filling {
    /// With what is planned there.
    Planned,
    /// With what was logged there a week before.
    LastWeek,
}

/// Which cells are filled; where nothing is said, all of them.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Cells {
    /// Those of one line.
    pub line: Option<Subject>,
    /// Those of one day.
    pub day: Option<Day>,
}

impl Plan {
    /// The entries that fill the empty cells of somebody's week up to today. What is logged stays as it is.
    ///
    /// # Errors
    /// There is nobody, or nothing to fill them with.
    pub(crate) fn filled(
        &self,
        person: PersonId,
        monday: Day,
        with: Filling,
        cells: Cells,
        today: Day,
    ) -> Result<Vec<Change>, Refusal> {
        let nobody = || Refusal::value("person", "There is no such person in the plan.");
        let sheet = |monday| week_sheet(self, person, monday, today).ok_or_else(nobody);
        let here = sheet(monday)?;
        let from = if with == Filling::Planned { here.clone() } else { sheet(monday - 7)? };
        let mut made = Vec::new();
        for line in &from.lines {
            let minutes = if with == Filling::Planned { line.planned } else { line.logged };
            for (at, minutes) in (0..).zip(minutes) {
                let date = monday + at;
                let is_asked =
                    cells.line.is_none_or(|asked| asked == line.subject) && cells.day.is_none_or(|asked| asked == date);
                if is_asked && minutes > 0 && date <= today && is_empty(&here, line.subject, at) {
                    made.push(self.entry_of(person, date, line.subject, minutes.min(MOST_LOGGED.into())));
                }
            }
        }
        if made.is_empty() {
            let message = match with {
                Filling::Planned => {
                    "Nothing is planned there that is not logged yet; days to come are logged once they are worked."
                }
                Filling::LastWeek => "Last week has nothing that is not logged here already.",
            };
            return Err(Refusal::value("week", message));
        }
        Ok(made)
    }

    fn entry_of(&self, person: PersonId, date: Day, (project, task): Subject, minutes: i64) -> Change {
        // Time is billed as the last time on the same thing was, and else it is billable.
        let log = self.log_of(person, date - 28, date - 1);
        let last = log.iter().rev().find(|row| row.subject(self) == (project, task));
        Change::TimeEntry(Edit::new(TimeEntry {
            person,
            date,
            project,
            task,
            minutes: i32::try_from(minutes).unwrap_or(MOST_LOGGED),
            billable: last.is_none_or(|row| row.billable),
            ..TimeEntry::blank()
        }))
    }

    /// A walk-in and the time that it took, as one. They have the identities that the plan gives them in this order.
    pub(crate) fn walked_in(&self, task: &Task, entry: &TimeEntry) -> Vec<Change> {
        let id = TaskId(self.next_id());
        let entry = TimeEntry { id: TimeEntryId(0), task: Some(id), project: Some(task.project), ..entry.clone() };
        let task = Task { id: TaskId(0), walk_in: true, ..task.clone() };
        vec![Change::Task(Edit::new(task)), Change::TimeEntry(Edit::new(entry))]
    }
}

fn is_empty(sheet: &WeekSheet, subject: Subject, at: i32) -> bool {
    let line = sheet.lines.iter().find(|line| line.subject == subject);
    usize::try_from(at).is_ok_and(|at| line.is_none_or(|line| line.logged[at] == 0))
}

/// A task whose log has passed what was thought, so that nothing is left of it though it is not done: what remains is asked anew.
#[must_use]
pub fn asks_anew(plan: &Plan, task: &Task) -> bool {
    let is_used_up = || {
        let figures = super::of_task(plan, task);
        figures.estimated && figures.remaining() == 0 && figures.actual() >= figures.estimate() && figures.actual() > 0
    };
    !task.is_done() && plan.children_of(task.id).is_empty() && is_used_up()
}
