//! What a record must be like, wherever it comes from: by hand, by file, through the API.

mod between;
mod hours;

pub use between::{
    Nesting, bounded, free_key, free_reference, given, grouped, most_levels, nesting, overloaded, too_much, whole,
};
pub use hours::{line_stands, missing_line, named_line, overdrawn_cell, overfull_day, says_shut, shut_week};

use crate::{
    Day,
    change::Change,
    kinds::{Booking, Unit},
};
use rust_decimal::Decimal;

/// Why something cannot be done, in a sentence that a planner understands.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{message}")]
pub struct Refusal {
    /// A short name of the rule, for programs.
    pub code: RefusalCode,
    /// The sentence.
    pub message: String,
    /// The field it is about; empty for the whole.
    pub field: &'static str,
    /// The value that stands now, where somebody else altered it.
    pub standing: Option<Box<Change>>,
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
pub const LONGEST_DAYS: i32 = 3_660;
/// The most levels that anything nests: with them the walks up a line stay short, and nobody can read more.
pub const MOST_LEVELS: usize = 1_000;
/// The most minutes that one person, team or role may hold in all, 10 million hours, so that every sum of a row fits.
pub const MOST_MINUTES: i64 = 600_000_000;
/// The longest word on a booking, in characters.
pub const LONGEST_NOTE: usize = 2_000;

/// A range must not end before it starts, nor last for more than ten years, nor reach beyond the days that a plan may speak of.
///
/// # Errors
/// What is wrong with it.
pub fn range(start: Option<Day>, end: Option<Day>) -> Result<(), String> {
    if [start, end].into_iter().flatten().any(|day| !(Day::MIN..=Day::MAX).contains(&day)) {
        return Err(format!("lies outside {} to {}", Day::MIN, Day::MAX));
    }
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
///
/// # Errors
/// What cannot be.
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

/// The longest name, title or other line, in characters.
const LONGEST_LINE: usize = 300;
/// The longest effort, 100,000 hours in minutes.
pub(crate) const MOST_EFFORT: i64 = 6_000_000;

/// A name that must be there.
pub(crate) fn named(field: &'static str, text: &str, what: &str) -> Result<(), Refusal> {
    if text.trim().is_empty() {
        return Err(Refusal::value(field, what));
    }
    line(field, text)
}

/// The most that a place among others can be.
pub(crate) const MOST_PLACE: i32 = 1_000_000_000;

/// A place among others.
pub(crate) fn place(place: Decimal) -> Result<(), Refusal> {
    if place > MOST_PLACE.into() {
        return Err(Refusal::value("place", "A place is at most 1,000,000,000."));
    }
    Ok(())
}

/// A line of text that may be empty.
pub(crate) fn line(field: &'static str, text: &str) -> Result<(), Refusal> {
    if text.chars().count() > LONGEST_LINE {
        return Err(Refusal::value(field, format!("is longer than {LONGEST_LINE} characters")));
    }
    if text.contains(['\n', '\r', '\0']) {
        return Err(Refusal::value(field, "is more than one line"));
    }
    Ok(())
}
