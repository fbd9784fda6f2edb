//! Values as people read them: an address becomes a name, a code the name behind it, hours get their unit.

use super::Column;
use crate::words;
use snug_core::{
    Day, Plan,
    change::Change,
    kinds::{Input, Kind},
};

/// A record by its kind and its identity, as it stands.
pub fn record(plan: &Plan, kind: Kind, id: i32) -> Option<Change> {
    kind.one(plan, id).map(|record| record.as_new())
}

/// What a value of a column is called on pages.
pub fn shown(plan: &Plan, column: &Column, raw: &str) -> String {
    if raw.is_empty() {
        return String::new();
    }
    match column.input {
        Input::Hours => format!("{raw} h"),
        Input::File => "attached".to_owned(),
        Input::Date => {
            raw.parse::<Day>().map_or_else(|_| raw.to_owned(), |day| words::date(day, plan.settings.date_order))
        }
        Input::One(kind) => called(plan, kind, raw),
        Input::Whom => person_name(plan, raw),
        Input::Several(kind) => raw.split(';').map(|key| called(plan, kind, key)).collect::<Vec<_>>().join(", "),
        Input::People => raw.split(';').map(|part| assignee(plan, part)).collect::<Vec<_>>().join(", "),
        Input::Words => raw.replace(';', ", "),
        _ => raw.to_owned(),
    }
}

/// What the record is called that a key names; the key where there is none.
fn called(plan: &Plan, kind: Kind, key: &str) -> String {
    let record = plan.find(kind, key).and_then(|id| kind.one(plan, id));
    record.map_or_else(|| key.to_owned(), |record| record.called())
}

/// What somebody is called; their address where the plan has nobody of it.
pub fn person_name(plan: &Plan, email: &str) -> String {
    plan.person_by_email(email).map_or_else(|| email.to_owned(), |entry| entry.person.name.clone())
}

/// `Oona Varga 70 %`, `Jonah Petrov in full`.
fn assignee(plan: &Plan, part: &str) -> String {
    match part.split_once('=') {
        None => person_name(plan, part),
        Some((email, "full")) => format!("{} in full", person_name(plan, email)),
        Some((email, share)) => format!("{} {share} %", person_name(plan, email)),
    }
}

/// By what a list sorts: numbers and dates as what they are, words without case; nothing comes last.
#[derive(Clone, Debug, PartialEq, PartialOrd)]
pub enum SortKey {
    /// A number.
    Number(f64),
    /// Words.
    Words(String),
    /// Nothing.
    Nothing,
}

/// The sort key of a value.
pub fn sort_key(column: &Column, raw: &str, shown: &str) -> SortKey {
    if raw.is_empty() {
        return SortKey::Nothing;
    }
    match column.input {
        Input::Hours | Input::Number | Input::Whole => raw.parse().map_or(SortKey::Nothing, SortKey::Number),
        Input::Date => SortKey::Words(raw.to_owned()),
        // A closed list has an order of its own: low before normal before high.
        Input::Choice(_) => {
            let at = column.choices.iter().position(|choice| choice == raw);
            at.map_or_else(
                || SortKey::Words(raw.to_lowercase()),
                |at| SortKey::Number(f64::from(u32::try_from(at).unwrap_or(u32::MAX))),
            )
        }
        _ => SortKey::Words(shown.to_lowercase()),
    }
}
