//! What a change does, said in sentences before it is done and after.

use crate::words;
use snug_core::{
    Day, PersonId, Plan,
    change::Change,
    effect::{Warning, warnings, week_effects},
};
use std::collections::BTreeMap;

/// What a change does to the weeks of the people it touches, in sentences.
pub fn says(before: &Plan, after: &Plan, changes: &[Change], today: Day) -> Vec<String> {
    let order = after.settings.date_order;
    let name = |id: PersonId| after.people.get(&id).map_or("", |entry| entry.person.name.as_str());
    let mut found = Vec::new();
    let mut by_person: BTreeMap<PersonId, Vec<_>> = BTreeMap::new();
    for effect in week_effects(before, after, changes, today) {
        by_person.entry(effect.person).or_default().push(effect);
    }
    for (person, mut effects) in by_person {
        // What is past cannot be helped; a planner wants to hear of what is to come.
        if effects.iter().any(|effect| effect.week.to >= today) {
            effects.retain(|effect| effect.week.to >= today);
        }
        let over = |cell: &snug_core::cells::Cell| cell.spill.max(cell.peak);
        let worse: Vec<_> = effects.iter().filter(|effect| over(&effect.after) > over(&effect.before)).collect();
        if let Some(worst) = worse.iter().max_by_key(|effect| over(&effect.after)) {
            let rest = worse.len() - 1;
            let more = if rest == 0 {
                String::new()
            } else {
                format!(", and over in {}", words::count(rest, "more week", "more weeks"))
            };
            let (much, when) = (words::hours(over(&worst.after)), words::day(worst.week.from, order));
            found.push(format!("{}: {much} over the limit in the week of {when}{more}", name(person)));
        } else if let Some(first) = effects.first() {
            let (room, when) = (words::hours(first.after.room), words::day(first.week.from, order));
            let what = if over(&first.after) > 0 {
                format!("still {} over", words::hours(over(&first.after)))
            } else {
                format!("{room} of room")
            };
            found.push(format!("{}: {what} in the week of {when}", name(person)));
        }
    }
    for change in changes {
        let Change::Booking(edit) = change else { continue };
        let Some(booking) = &edit.after else { continue };
        for warning in warnings(after, booking) {
            found.push(match warning {
                Warning::Stranded(person) => {
                    format!("{} has no working day for this: some or all of it lands nowhere", name(person))
                }
                Warning::Lost(person, minutes) => {
                    format!("{} is off on some of these days: {} do not land", name(person), words::hours(minutes))
                }
                Warning::DaysOff(person, days) => {
                    format!("{} works on {days} days off with this", name(person))
                }
            });
        }
    }
    found
}
