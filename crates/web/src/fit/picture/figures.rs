//! What a cell says, by the measure that is counted.

use crate::{fit::address::query::FitQuery, words};
use rust_decimal::Decimal;
use snug_core::{
    cells::{Band, Cell, Grain},
    load::Measure,
};

/// A figure of a measure with its unit: `7.5 h`, `85 %`, `3 projects`, `12.5 points`.
pub fn figure(value: i64, measure: Measure) -> String {
    let unit = measure.about().map_or("", |about| if value == 1 { about.unit.0 } else { about.unit.1 });
    match measure {
        Measure::Minutes => words::hours(value),
        Measure::Percent | Measure::Projects | Measure::Tasks | Measure::Points | Measure::Field(_) => {
            format!("{}{unit}", plain(value, measure))
        }
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

/// The state of somebody's cell for a screen reader, which says row and column itself: `40 h room` where nothing is planned,
/// `36.7 h room of 40 h`, `+1.5 h over 40 h`, `snug, 39 h of 40 h`.
pub fn spoken(cell: &Cell, query: &FitQuery, mark: i32) -> String {
    if !query.measure.counts_minutes() {
        return counted(cell, query);
    }
    let (label, limit) = (words::label(cell, mark), words::hours(cell.limit.unwrap_or(0)));
    match cell.band(mark) {
        Some(Band::Open) if cell.load == 0 => label,
        Some(Band::Open) => format!("{label} of {limit}"),
        Some(Band::Over) if cell.spill == 0 => format!("{label} on single days"),
        Some(Band::Over) => format!("{label} over {limit}"),
        _ => format!("{label}, {} of {limit}", words::hours(cell.load)),
    }
}

/// The same of a group's cell.
pub fn spoken_of_group(cell: &Cell, query: &FitQuery, mark: i32) -> String {
    let people = if cell.over == 1 { "1 person is over".to_owned() } else { format!("{} people are over", cell.over) };
    if query.measure.counts_minutes() {
        let (load, limit) = (words::hours(cell.load), words::hours(cell.limit.unwrap_or(0)));
        return format!("{}. {load} planned of {limit}. {people}.", words::sentence(cell, mark));
    }
    format!("{} {people}.", counted(cell, query))
}

fn counted(cell: &Cell, query: &FitQuery) -> String {
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
    let own = || query.measure_word.trim_start_matches("field ").to_owned();
    query.measure.about().map_or_else(own, |about| about.counts.to_owned())
}
