//! Week sheets: where the hours that somebody logged in a week stand on their way from open to approved (`rules/hours.md`). A week
//! without one is open.

use super::{
    About, Column, Key, PersonId, Record, Sight,
    codec::{Date, Line, To, Word},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Actor, Day, Plan, Refusal,
    edit::Edit,
    rules::{LONGEST_NOTE, line},
    words::words,
};
use serde::{Deserialize, Serialize};

identity!(
    /// A week sheet.
    WeekSheetId of WeekSheet
);

/// Where somebody's week stands.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct WeekSheet {
    /// Identity inside the plan.
    pub id: WeekSheetId,
    /// Whose week.
    pub person: PersonId,
    /// Its Monday.
    pub week: Day,
    /// How far it is.
    pub state: WeekState,
    /// Who brought it there, by e-mail address.
    pub by: String,
    /// What they say about it; why it was sent back.
    pub note: String,
}

/// How far a week is. One without a state is open.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum WeekState {
    /// Its person says that it is whole.
    HandedIn,
    /// It is agreed and locked.
    Approved,
    /// It is open again, with what is to be put right.
    SentBack,
}

words!(WeekState { HandedIn = "handed in", Approved = "approved", SentBack = "sent back" });

impl WeekState {
    /// Whether what was logged in such a week stays as it is, but for corrections.
    #[must_use]
    pub fn is_shut(self) -> bool {
        self != Self::SentBack
    }
}

impl Record for WeekSheet {
    has_id!(WeekSheetId);

    const ABOUT: About = About {
        own: true,
        key: Key::Pair,
        key_column: "week",
        title: "week",
        says: "Where each week of somebody’s hours stands: handed in, approved, or sent back with a note.",
        usual: &["email", "week", "state", "by", "note"],
        facets: &["email", "state"],
        sight: Sight::Private,
        ..About::new("week sheet", "week sheets", "week_sheets.csv", "week-sheets")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("email", "Who", at!(person: To)).example("oona@tidewater.test"),
        must("week", "Week", at!(week: Date)).hint("Its Monday.").example("2026-03-09"),
        must("state", "State", at!(state: Word)).example("handed in"),
        may("by", "By", at!(by: Line)).hint("Who brought it there, by e-mail address."),
        may("note", "Note", at!(note: Line)).hint("Why it was sent back."),
    ];

    fn blank() -> Self {
        Self {
            id: WeekSheetId(0),
            person: PersonId(0),
            week: Day::MIN.monday(),
            state: WeekState::HandedIn,
            by: String::new(),
            note: String::new(),
        }
    }
    fn key(&self) -> String {
        format!("{}\n{}", self.person, self.week)
    }
    fn name(&self) -> String {
        format!("week of {}", self.week)
    }
    fn whose(&self) -> Option<PersonId> {
        Some(self.person)
    }

    fn check(&self, today: Day) -> Result<(), Refusal> {
        if self.week.monday() != self.week {
            return Err(Refusal::value("week", "A week is named by its Monday."));
        }
        if self.week > today {
            return Err(Refusal::value("week", "A week is handed in once it has begun."));
        }
        if self.state == WeekState::SentBack && self.note.trim().is_empty() {
            return Err(Refusal::value("note", "Say what is to be put right."));
        }
        line("by", &self.by)?;
        if self.note.chars().count() > LONGEST_NOTE {
            return Err(Refusal::value("note", format!("is longer than {LONGEST_NOTE} characters")));
        }
        Ok(())
    }

    /// Everybody hands in their own weeks, again too once they were sent back, and takes them back until they are approved.
    fn may_own(plan: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        let from = edit.before.as_ref().is_none_or(|sheet| sheet.state != WeekState::Approved);
        let to = edit.after.as_ref().is_none_or(|sheet| sheet.state == WeekState::HandedIn);
        from && to && edit.both(|sheet| actor.is(plan, sheet.person))
    }

    stands_in!(records.week_sheets, put_week_sheet);
}

impl Plan {
    /// Where the week of somebody stands that a day lies in; `None` where it is open and was never handed in.
    #[must_use]
    pub fn week_sheet_of(&self, person: PersonId, day: Day) -> Option<&WeekSheet> {
        let week = day.monday();
        let id = self.sheets.get(&(person, week))?;
        self.records.week_sheets.get(id).map(|sheet| &**sheet)
    }
}
