//! Logged work.

use super::{
    About, Access, Column, Input, PersonId, ProjectId, Record, Sight, TaskId,
    codec::{Date, Line, MayTo, To, Yes},
    column::{at, may, must},
    record::{has_id, identity},
};
use crate::{Actor, Day, Plan, Refusal, cell, edit::Edit, rules::LONGEST_NOTE};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

identity!(
    /// One logged piece of work.
    TimeEntryId of TimeEntry
);

/// The most minutes of one entry, and of a day.
pub const MOST_LOGGED: i32 = 1_440;

/// One logged piece of work.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct TimeEntry {
    /// Identity inside the plan.
    pub id: TimeEntryId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// Who worked.
    pub person: PersonId,
    /// When.
    pub date: Day,
    /// On which project.
    pub project: Option<ProjectId>,
    /// On which task.
    pub task: Option<TaskId>,
    /// How long, 1..=1440 minutes; of a correction also −1440..=−1, what is taken out again.
    pub minutes: i32,
    /// Whether it can be billed.
    pub billable: bool,
    /// A word on it.
    pub note: String,
    /// Why it was put in afterwards: of corrections, which those below 0 always are.
    #[serde(default)]
    pub reason: String,
}

impl TimeEntry {
    /// The cell of a week sheet in which it counts: on a task it is for whatever project that is in.
    #[must_use]
    pub fn cell(&self) -> (PersonId, Day, Option<ProjectId>, Option<TaskId>) {
        (self.person, self.date, self.project.filter(|_| self.task.is_none()), self.task)
    }
}

impl Record for TimeEntry {
    has_id!(TimeEntryId);

    const ABOUT: About = About {
        own: true,
        title: "email",
        sight: Sight::Private,
        ..About::new("time entry", "time entries", "time.csv", "time")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files."),
        must("email", "Who", at!(person: To)).example("oona@tidewater.test"),
        must("date", "Date", at!(date: Date)).example("2026-03-09"),
        may("project", "Project", at!(project: MayTo)),
        may("task", "Task", at!(task: MayTo)).hint("A task’s ref."),
        must(
            "hours",
            "Hours",
            Access::by_hand(
                Input::Hours,
                |it: &mut Self, text, _| {
                    it.minutes = cell::signed_minutes(text)?;
                    let possible = (1..=MOST_LOGGED).contains(&it.minutes.abs());
                    if possible { Ok(()) } else { Err("lies not between a minute and 24 hours".to_owned()) }
                },
                |it: &Self, _| cell::hours_text(i64::from(it.minutes)),
            ),
        )
        .bounds(-24, 24)
        .hint("Of a correction also below 0.")
        .example("1.5"),
        may("billable", "Billable", at!(billable: Yes)),
        may("note", "Note", at!(note: Line)),
        may("reason", "Reason", at!(reason: Line)).hint("Why hours are corrected."),
    ];

    fn blank() -> Self {
        Self {
            id: TimeEntryId(0),
            reference: String::new(),
            person: PersonId(0),
            date: Day::MIN,
            project: None,
            task: None,
            minutes: 0,
            billable: false,
            note: String::new(),
            reason: String::new(),
        }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    fn name(&self) -> String {
        String::new()
    }
    fn whose(&self) -> Option<PersonId> {
        Some(self.person)
    }

    fn tidy(&mut self, plan: &Plan, _: bool) {
        if let Some(task) = self.task.and_then(|id| plan.tasks.get(&id)) {
            self.project = Some(task.project);
        }
    }

    fn check_in(&self, plan: &Plan, today: Day) -> Result<(), Refusal> {
        let ahead = plan.settings.log_ahead;
        if self.date.since(today) <= ahead {
            return Ok(());
        }
        let message = match ahead {
            0 => "Time is logged once it is worked; this day is still to come.".to_owned(),
            1 => "Time is logged once it is worked; this day is more than a day ahead.".to_owned(),
            ahead => format!("Time is logged once it is worked; this day is more than {ahead} days ahead."),
        };
        Err(Refusal::value("date", message))
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        if !(1..=MOST_LOGGED).contains(&self.minutes.abs()) {
            return Err(Refusal::value("hours", "Log between a minute and 24 hours."));
        }
        if self.minutes < 0 && self.reason.is_empty() {
            return Err(Refusal::value("reason", "Say why hours are taken out again."));
        }
        for (field, text) in [("note", &self.note), ("reason", &self.reason)] {
            if text.chars().count() > LONGEST_NOTE {
                return Err(Refusal::value(field, format!("is longer than {LONGEST_NOTE} characters")));
            }
        }
        Ok(())
    }

    fn may_own(plan: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        edit.both(|entry| actor.is(plan, entry.person))
    }

    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(plan.time_entries.values().map(|entry| Cow::Borrowed(&**entry)))
    }
    fn find(plan: &Plan, id: TimeEntryId) -> Option<Cow<'_, Self>> {
        plan.time_entries.get(&id).map(|entry| Cow::Borrowed(&**entry))
    }
    fn put(plan: &mut Plan, edit: &Edit<Self>) {
        plan.put_time_entry(edit);
    }
}
