//! What a cell says, by the measure that is counted.

use super::query::FitQuery;
use crate::words;
use rust_decimal::Decimal;
use snug_core::{
    cells::{Band, Cell, Grain},
    load::Measure,
};

/// A figure of a measure with its unit: `7.5 h`, `85 %`, `3`, `12.5 points`.
pub fn figure(value: i64, measure: Measure) -> String {
    match measure {
        Measure::Minutes => words::hours(value),
        Measure::Percent => format!("{value} %"),
        Measure::Projects => {
            if value == 1 {
                "1 project".to_owned()
            } else {
                format!("{value} projects")
            }
        }
        Measure::Tasks => {
            if value == 1 {
                "1 task".to_owned()
            } else {
                format!("{value} tasks")
            }
        }
        Measure::Points => format!("{} points", Decimal::new(value, 2).normalize()),
        Measure::Field(_) => Decimal::new(value, 2).normalize().to_string(),
    }
}

fn plain(value: i64, measure: Measure) -> String {
    if measure.in_hundredths() { Decimal::new(value, 2).normalize().to_string() } else { value.to_string() }
}

/// The label in a cell: `11 h room`, `snug`, `+15 h`; `85 %`; `3 of 4`. Narrow cells leave the word out.
pub fn label(cell: &Cell, query: &FitQuery, mark: i32) -> String {
    let narrow = query.zoom == Grain::Day || query.buckets.len() > 8;
    match query.measure {
        Measure::Minutes => {
            let label = words::label(cell, mark);
            if narrow { label.replace(" room", "") } else { label }
        }
        Measure::Percent => match (cell.band(mark), cell.percent()) {
            (Some(Band::Away), _) => "away".to_owned(),
            // Over on single days, though the whole is not.
            (Some(Band::Over), Some(percent)) if percent.load <= 100 && !narrow => {
                format!("days over, {} %", percent.load)
            }
            (_, Some(percent)) => format!("{} %", percent.load),
            (Some(Band::Over), None) => format!("+{}", words::hours(cell.load)),
            (_, None) => words::hours(cell.load),
        },
        measure => match cell.limit {
            Some(limit) if limit > 0 || cell.load > 0 => {
                format!("{} of {}", plain(cell.load, measure), plain(limit, measure))
            }
            Some(_) => "–".to_owned(),
            None if cell.load == 0 => "–".to_owned(),
            None => plain(cell.load, measure),
        },
    }
}

/// The state of a cell for a screen reader.
pub fn spoken(cell: &Cell, query: &FitQuery, mark: i32) -> String {
    if query.measure.counts_minutes() {
        let limit = words::hours(cell.limit.unwrap_or(0));
        return format!("{}. {} planned of {limit}.", words::sentence(cell, mark), words::hours(cell.load));
    }
    let load = figure(cell.load, query.measure);
    match cell.limit {
        Some(limit) if cell.spill > 0 => {
            format!("{load}, {} over the limit of {}.", plain(cell.spill, query.measure), plain(limit, query.measure))
        }
        Some(limit) => format!("{load}, the limit is {}.", plain(limit, query.measure)),
        None => format!("{load}, no limit is set."),
    }
}

/// What the cells count, for the head of the room.
pub fn counts(query: &FitQuery) -> String {
    match query.measure {
        Measure::Minutes => "hours".to_owned(),
        Measure::Percent => "percent of the limit".to_owned(),
        Measure::Projects => "projects at a time".to_owned(),
        Measure::Tasks => "tasks at a time".to_owned(),
        Measure::Points => "points that finish".to_owned(),
        Measure::Field(_) => query.measure_word.trim_start_matches("field ").to_owned(),
    }
}
