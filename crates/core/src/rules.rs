//! What a record must be like, wherever it comes from: by hand, by file, through the API.

use crate::{
    Day,
    work::{Assignees, Booking, Task, Unit},
};
use std::{
    collections::{HashMap, HashSet},
    hash::Hash,
};

/// Why something cannot be done, in a sentence that a planner understands.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct Refusal {
    /// A short name of the rule, for programs.
    pub code: RefusalCode,
    /// The sentence.
    pub message: String,
    /// The field it is about; empty for the whole.
    pub field: &'static str,
    /// The value that stands now, where somebody else altered it.
    pub standing: Option<Box<Booking>>,
}

/// The rule that refuses.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum RefusalCode {
    /// A value that cannot be.
    BadValue,
    /// Something that is not there, or no longer.
    NotFound,
    /// Somebody else altered it since it was looked at.
    ChangedMeanwhile,
    /// The role does not allow it.
    NotAllowed,
    /// The state of the plan does not allow it.
    NotNow,
}

impl Refusal {
    /// A refusal of a value in a field.
    #[must_use]
    pub fn value(field: &'static str, message: impl Into<String>) -> Self {
        Self { code: RefusalCode::BadValue, message: message.into(), field, standing: None }
    }

    /// A refusal of the whole.
    #[must_use]
    pub fn whole(code: RefusalCode, message: impl Into<String>) -> Self {
        Self { code, message: message.into(), field: "", standing: None }
    }
}

/// The longest range that a booking or a task may have, ten years, so that no figure has to be looked for without end.
const LONGEST_DAYS: i32 = 3_660;
/// The longest word on a booking, in characters.
pub const LONGEST_NOTE: usize = 2_000;

/// A range must not end before it starts, nor last for more than ten years.
pub fn range(start: Option<Day>, end: Option<Day>) -> Result<(), String> {
    let (Some(start), Some(end)) = (start, end) else { return Ok(()) };
    if end < start {
        return Err(format!("ends on {end}, before it starts on {start}"));
    }
    if end.since(start) > LONGEST_DAYS {
        return Err("lasts for more than ten years".to_owned());
    }
    Ok(())
}

/// What every booking must keep to.
pub fn booking(booking: &Booking) -> Result<(), Refusal> {
    range(Some(booking.start), Some(booking.end)).map_err(|message| Refusal::value("end", message))?;
    let most = match booking.amount.unit {
        Unit::PerDay => 24 * 60,
        Unit::PerWeek => 7 * 24 * 60,
        Unit::Total => 100_000 * 60,
        Unit::Percent => 100_000,
    };
    if !(1..=most).contains(&booking.amount.value) {
        let accepted = match booking.amount.unit {
            Unit::PerDay => "hours a day lie between 0 and 24",
            Unit::PerWeek => "hours a week lie between 0 and 168",
            Unit::Total => "hours in all lie between 0 and 100,000",
            Unit::Percent => "percent lie between 0 and 1,000",
        };
        return Err(Refusal::value("amount", format!("{accepted}, and something must be booked")));
    }
    if booking.note.chars().count() > LONGEST_NOTE {
        return Err(Refusal::value("note", format!("is longer than {LONGEST_NOTE} characters")));
    }
    Ok(())
}

/// What every task must keep to.
pub fn task(task: &Task) -> Result<(), Refusal> {
    range(task.start, task.finish).map_err(|message| Refusal::value("finish", message))?;
    if task.title.trim().is_empty() {
        return Err(Refusal::value("title", "say what is to be done"));
    }
    if let Assignees::Shares(shares) = &task.assignees {
        let sum: i32 = shares.iter().map(|(_, share)| share).sum();
        if sum != 10_000 {
            return Err(Refusal::value(
                "assignees",
                format!("the shares add up to {} %, not to 100 %", f64::from(sum) / 100.0),
            ));
        }
    }
    let mut people: Vec<_> = task.assignees.people().collect();
    people.sort_unstable();
    if people.windows(2).any(|pair| pair[0] == pair[1]) {
        return Err(Refusal::value("assignees", "somebody is named twice"));
    }
    Ok(())
}

/// Finds somebody who stands above themselves, if anybody does. Each item is an identity and its parent.
pub fn cycle<K: Copy + Eq + Hash>(parents: impl Iterator<Item = (K, Option<K>)>) -> Option<K> {
    let parents: HashMap<K, Option<K>> = parents.collect();
    let mut safe: HashSet<K> = HashSet::new();
    for start in parents.keys() {
        let mut path = vec![*start];
        while let Some(Some(parent)) = parents.get(path.last()?) {
            if safe.contains(parent) {
                break;
            }
            if path.contains(parent) {
                return Some(*parent);
            }
            path.push(*parent);
        }
        safe.extend(path);
    }
    None
}
