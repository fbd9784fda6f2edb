//! The week sheet: what somebody planned to work and what they logged, day by day, under their limit.

use crate::{
    Day, PersonId, Plan, ProjectId, TaskId,
    demand::{Window, person_load},
    hours::worked::Meant,
};
use std::collections::BTreeMap;

/// What a line of a week sheet is about: a task, a project's work with no task, or neither.
pub type Subject = (Option<ProjectId>, Option<TaskId>);

/// One line of the sheet, in minutes from Monday on.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Line {
    /// What it is about.
    pub subject: Subject,
    /// What the plan has: a task's effort, or what a booking holds beyond its tasks.
    pub planned: [i64; 7],
    /// What was logged.
    pub logged: [i64; 7],
}

/// One person's week.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WeekSheet {
    /// Its Monday.
    pub monday: Day,
    /// The rim of each day: their limit, and of a week limit the day's part.
    pub limits: [i64; 7],
    /// Lines with something planned or logged, by subject.
    pub lines: Vec<Line>,
}

impl WeekSheet {
    /// Minutes logged on each day.
    #[must_use]
    pub fn logged(&self) -> [i64; 7] {
        std::array::from_fn(|at| self.lines.iter().map(|line| line.logged[at]).sum())
    }
}

/// The sheet of somebody's ISO week; `None` when there is no such person.
///
/// Planned on days before today is what the plan held there: bookings, and each task with its estimate over its own dates. From today on
/// it is what is left of a task.
#[must_use]
pub fn week_sheet(plan: &Plan, person: PersonId, monday: Day, today: Day) -> Option<WeekSheet> {
    let entry = plan.people.get(&person)?;
    let window = Window::new(monday, monday + 6, today);
    let load = person_load(plan, entry, &window, true);
    let past = (monday < today).then(|| Meant::for_one(plan, entry).load(person, monday, monday + 6)).flatten();
    let mut lines: BTreeMap<Subject, Line> = BTreeMap::new();
    let mut line = |subject: Subject, at: usize, planned: i64, logged: i64| {
        if planned != 0 || logged != 0 {
            let line = lines.entry(subject).or_insert(Line { subject, planned: [0; 7], logged: [0; 7] });
            line.planned[at] += planned;
            line.logged[at] += logged;
        }
    };
    for at in 0..7 {
        let date = monday + i32::try_from(at).unwrap_or(0);
        let load = past.as_ref().filter(|_| date < today).unwrap_or(&load);
        for part in &load.tasks {
            line((Some(part.project), Some(part.task)), at, part.minutes[at].into(), 0);
        }
        for slot in load.slots.iter().filter(|slot| slot.project.is_some()) {
            line((slot.project, None), at, i64::from(slot.load[at] - slot.task[at]), 0);
        }
        for row in plan.log_of(person, date, date) {
            line(row.subject(plan), at, 0, row.minutes.into());
        }
    }
    let limits = std::array::from_fn(|at| load.days.rim()[at].into());
    Some(WeekSheet { monday, limits, lines: lines.into_values().collect() })
}
