//! What a day of the calendar says besides its tasks: holidays, and who is off.

use super::query::CalendarQuery;
use crate::words;
use snug_core::{Day, Plan, agenda::Agenda, plan::Entry};
use std::collections::BTreeMap;

/// Who is off on which day, and the holidays: `Wren off`, `Spring Monday`.
pub fn notes(plan: &Plan, agenda: &Agenda<'_>, query: &CalendarQuery) -> BTreeMap<Day, Vec<String>> {
    let mut found: BTreeMap<Day, Vec<String>> = BTreeMap::new();
    for (day, names) in agenda.holidays() {
        found.entry(day).or_default().extend(names.into_iter().map(str::to_owned));
    }
    for absence in agenda.off() {
        let name = plan.people.get(&absence.person).map_or("", |entry| entry.person.name.as_str());
        let first = name.split(' ').next().unwrap_or_default();
        let note = match absence.minutes {
            None => format!("{first} off"),
            Some(minutes) => format!("{first} off {}", words::hours(i64::from(minutes))),
        };
        for day in absence.start.max(query.from()).through(absence.end.min(query.to())) {
            // A weekend is off anyway.
            let works = plan.people.get(&absence.person).is_some_and(|entry| usually_works(entry, day));
            if works {
                found.entry(day).or_default().push(note.clone());
            }
        }
    }
    found
}

fn usually_works(entry: &Entry, day: Day) -> bool {
    let dated = entry.person.patterns.iter().rev().find(|dated| dated.from.is_none_or(|from| from <= day));
    let week = dated.and_then(|dated| dated.pattern.week(dated.anchor(), day));
    week.is_some_and(|week| week[day.weekday()] > 0)
}
