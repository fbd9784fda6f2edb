//! Figures and dates as people say them.

use chrono::Datelike as _;
use snug_core::{
    Day,
    cells::{Band, Cell},
    spread::round_half_up,
    work::{Amount, Unit},
};
use snug_exchange::table::hours_short;

/// Minutes as hours with their unit: `7.5 h`.
pub fn hours(minutes: i64) -> String {
    format!("{} h", hours_short(minutes))
}

/// An amount with its unit: `6 h a day`, `23 h in all`, `40 %`.
pub fn amount(amount: Amount) -> String {
    let value = snug_exchange::csv::amount_text(amount);
    match amount.unit {
        Unit::PerDay => format!("{value} h a day"),
        Unit::PerWeek => format!("{value} h a week"),
        Unit::Total => format!("{value} h in all"),
        Unit::Percent => format!("{value} %"),
    }
}

/// `23 March`.
pub fn day(day: Day) -> String {
    day.date().format("%-d %B").to_string()
}

/// `23 Mar`.
pub fn day_short(day: Day) -> String {
    day.date().format("%-d %b").to_string()
}

/// `Mon 23 March`.
pub fn weekday(day: Day) -> String {
    day.date().format("%a %-d %B").to_string()
}

/// `9 March – 19 April`, or `23 Nov 2026 – 3 Jan 2027`.
pub fn range(from: Day, to: Day) -> String {
    if from == to {
        return day(from);
    }
    if from.date().year() == to.date().year() {
        format!("{} – {}", day(from), day(to))
    } else {
        format!("{} – {}", from.date().format("%-d %b %Y"), to.date().format("%-d %b %Y"))
    }
}

/// The label in a cell: `11 h room`, `snug`, `0 h left`, `+15 h`, `away`. A label is read at a glance, so it has one digit after
/// the point; the side sheet has the rest.
pub fn label(cell: &Cell, snug_mark: i32) -> String {
    let hours = |minutes: i64| {
        let tenths = round_half_up(minutes * 10, 60);
        if tenths % 10 == 0 { format!("{} h", tenths / 10) } else { format!("{}.{} h", tenths / 10, tenths % 10) }
    };
    match cell.band(snug_mark) {
        None => hours(cell.load),
        Some(Band::Away) => "away".to_owned(),
        Some(Band::Open) => format!("{} room", hours(cell.room)),
        Some(Band::Snug) => "snug".to_owned(),
        Some(Band::Brim) => "0 h left".to_owned(),
        Some(Band::Over) => format!("+{}", hours(cell.spill.max(cell.peak).max(6))),
    }
}

/// The state of a cell in a sentence: `15 h over the limit`.
pub fn sentence(cell: &Cell, snug_mark: i32) -> String {
    match cell.band(snug_mark) {
        None => format!("{} planned", hours(cell.load)),
        Some(Band::Away) => "Away: no time to give".to_owned(),
        Some(Band::Open) => format!("{} of room", hours(cell.room)),
        Some(Band::Snug) => format!("Snug: {} of room left", hours(cell.room)),
        Some(Band::Brim) => "Full to the brim: 0 h left".to_owned(),
        Some(Band::Over) if cell.spill >= cell.peak => format!("{} over the limit", hours(cell.spill)),
        Some(Band::Over) => format!("{} over on single days", hours(cell.peak)),
    }
}
