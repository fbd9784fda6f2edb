//! What a day of the calendar says besides its tasks: holidays, and who is off.

use super::query::CalendarQuery;
use crate::words;
use snug_core::{Day, Plan, agenda::Agenda, kinds::week_in_force};
use std::collections::BTreeMap;

/// Who is off on which day, and the holidays: `Wren off`, `Spring Monday`.
pub fn notes(plan: &Plan, agenda: &Agenda<'_>, query: &CalendarQuery) -> BTreeMap<Day, Vec<String>> {
    let mut found: BTreeMap<Day, Vec<String>> = BTreeMap::new();
    for (day, names) in agenda.holidays() {
        found.entry(day).or_default().extend(names.into_iter().map(str::to_owned));
    }
    for absence in agenda.off() {
        let Some(entry) = plan.people.get(&absence.person) else { continue };
        let first = entry.person.name.split(' ').next().unwrap_or_default();
        let note = match absence.minutes {
            None => format!("{first} off"),
            Some(minutes) => format!("{first} off {}", words::hours(i64::from(minutes))),
        };
        for day in absence.start.max(query.from()).through(absence.end.min(query.to())) {
            // A weekend is off anyway.
            if week_in_force(&entry.person.patterns, day).is_some_and(|week| week[day.weekday()] > 0) {
                found.entry(day).or_default().push(note.clone());
            }
        }
    }
    found
}
