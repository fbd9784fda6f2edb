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
    /// How long, 1..=1440 minutes.
    pub minutes: i32,
    /// Whether it can be billed.
    pub billable: bool,
    /// A word on it.
    pub note: String,
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
                    it.minutes = cell::minutes(text)?;
                    let possible = (1..=1_440).contains(&it.minutes);
                    if possible { Ok(()) } else { Err("lies not between a minute and 24 hours".to_owned()) }
                },
                |it: &Self, _| cell::hours_text(i64::from(it.minutes)),
            ),
        )
        .bounds(0, 24)
        .example("1.5"),
        may("billable", "Billable", at!(billable: Yes)),
        may("note", "Note", at!(note: Line)),
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

    fn check(&self, today: Day) -> Result<(), Refusal> {
        if !(1..=1_440).contains(&self.minutes) {
            return Err(Refusal::value("hours", "Log between a minute and 24 hours."));
        }
        if self.date > today + 7 {
            let message = "Time is logged once it is worked; this day is more than a week ahead.";
            return Err(Refusal::value("date", message));
        }
        if self.note.chars().count() > LONGEST_NOTE {
            return Err(Refusal::value("note", format!("is longer than {LONGEST_NOTE} characters")));
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
