//! The cells over the picture of a row.

use super::figures::{label, spoken, spoken_of_group};
use crate::{fit::address::query::FitQuery, grid::CellView};
use snug_core::{
    Plan,
    cells::{Band, Bucket, Cell, Grain},
    plan::Entry,
};

fn days_of(query: &FitQuery, bucket: Bucket) -> Option<i32> {
    let uneven = !matches!(query.zoom, Grain::Day | Grain::Week | Grain::Fortnight);
    uneven.then(|| bucket.to.since(bucket.from) + 1)
}

/// What is said of a cell has what is read of it.
fn said(label: &str, spoken: String) -> String {
    if spoken.contains(label) { spoken } else { format!("{label}. {spoken}") }
}

/// A cell of somebody's row.
pub fn of_person(plan: &Plan, entry: &Entry, query: &FitQuery, bucket: Bucket, cell: &Cell) -> CellView {
    let mark = plan.settings.snug_mark;
    let label = label(cell, query, mark);
    CellView {
        band: cell.band(mark).map_or("open", Band::as_str),
        spoken: said(&label, spoken(cell, query, mark)),
        label,
        days: days_of(query, bucket),
        selected: query.person_id() == Some(entry.person.id) && query.at == Some(bucket.from),
    }
}

/// A cell of a group's row; `group` is its word in an address.
pub fn of_group(plan: &Plan, query: &FitQuery, group: &str, bucket: Bucket, cell: &Cell) -> CellView {
    let mark = plan.settings.snug_mark;
    let over = cell.over > 0 && cell.limit.is_some();
    let counted = over && query.measure.counts_minutes();
    let label = if counted { format!("{} over", cell.over) } else { label(cell, query, mark) };
    CellView {
        band: if over { "over" } else { cell.band(mark).map_or("open", Band::as_str) },
        spoken: said(&label, spoken_of_group(cell, query, mark)),
        label,
        days: days_of(query, bucket),
        selected: query.group == group && query.at == Some(bucket.from),
    }
}

/// A cell of work that has no name yet; `label` is empty where nothing of it lies.
pub fn of_seat(query: &FitQuery, bucket: Bucket, label: String) -> CellView {
    let nothing = label.is_empty();
    CellView {
        spoken: if nothing { "Nothing here".to_owned() } else { format!("{label} here") },
        label: if nothing { "–".to_owned() } else { label },
        band: "open",
        days: days_of(query, bucket),
        selected: false,
    }
}
