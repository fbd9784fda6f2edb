//! An entry of logged work as a line, wherever entries are listed.

use super::log::entry_says;
use crate::words;
use snug_core::{Plan, kinds::TimeEntry};

/// An entry of logged work as a line.
pub struct EntryView {
    pub day: String,
    pub who: String,
    pub on: String,
    pub hours: String,
    pub billable: bool,
    /// What was noted, and why it was corrected.
    pub note: String,
    pub href: String,
}

impl EntryView {
    pub fn of(plan: &Plan, entry: &TimeEntry) -> Self {
        let because = if entry.reason.is_empty() { String::new() } else { format!("corrected: {}", entry.reason) };
        let note = [entry.note.as_str(), because.as_str()];
        let note: Vec<&str> = note.into_iter().filter(|it| !it.is_empty()).collect();
        Self {
            day: words::weekday(entry.date, plan.settings.date_order),
            who: plan.people.get(&entry.person).map(|it| it.person.name.clone()).unwrap_or_default(),
            on: entry_says(plan, entry.project, entry.task),
            hours: words::hours(entry.minutes.into()),
            billable: entry.billable,
            note: note.join(" · "),
            href: format!("/time/{}", entry.id),
        }
    }
}
