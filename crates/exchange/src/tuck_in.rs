//! A proposal of tuck in as text: as a table, and in the file of tasks that it was made for.

use crate::{
    csv::row_of,
    form::{Form, written},
};
use snug_core::{
    Day, Eyes, Plan, TaskId,
    cell::hours_text,
    change::{Change, Edit},
    tuck_in::{Proposal, Row, Words},
};
use std::collections::HashMap;

/// The columns of a proposal.
const COLUMNS: [&str; 6] = ["ref", "start", "finish", "assignees", "late_days", "reason"];

/// The columns of the file of tasks that a proposal may change.
const MAY_CHANGE: [&str; 3] = ["start", "finish", "assignees"];

/// A row for each leaf that takes part or waits for its size, sorted by reference.
#[must_use]
pub fn proposal(plan: &Plan, proposal: &Proposal, form: Form) -> String {
    let day = |day: Option<Day>| day.map(|day| day.to_string()).unwrap_or_default();
    let row = |row: &Row| {
        let reference = plan.tasks.get(&row.task).map(|task| task.reference.clone()).unwrap_or_default();
        [
            reference,
            day(row.dates.map(|dates| dates.0)),
            day(row.dates.map(|dates| dates.1)),
            cells_of(plan, row).remove("assignees").unwrap_or_default(),
            row.dates.map(|_| row.late_days.to_string()).unwrap_or_default(),
            reason(plan, row),
        ]
    };
    written(COLUMNS, 1, proposal.rows.iter().map(row).collect(), form)
}

/// Why a row is not earlier, or later, or left out.
fn reason(plan: &Plan, row: &Row) -> String {
    let hours = |minutes: i64| format!("{} h", hours_text(minutes));
    let why = Words { day: &|day| day.to_string(), hours: &hours }.of(plan, &row.why);
    match row.dates {
        _ if why.is_empty() || row.is_sizeless => why,
        None => format!("left out: {why}"),
        Some(_) if row.is_wish(plan) => format!("not later: {why}"),
        Some(_) => format!("not earlier: {why}"),
    }
}

/// What the file of tasks would say of a row's task.
fn cells_of(plan: &Plan, row: &Row) -> HashMap<&'static str, String> {
    let Some(task) = plan.tasks.get(&row.task) else { return HashMap::new() };
    let change = Change::Task(Edit::new(row.given(task)));
    let cells = row_of(&Eyes::of_all(plan), &change).unwrap_or_default();
    let cell = |name: &&'static str| {
        let found = cells.iter().find(|(column, _)| column == name);
        (*name, found.map(|(_, cell)| cell.clone()).unwrap_or_default())
    };
    MAY_CHANGE.iter().map(cell).collect()
}

/// The text of a file of tasks with a proposal in it: rows and columns keep their order, and nothing differs but start, finish and assignees.
/// `plan` is the one that was read from the file.
///
/// # Errors
/// The file lacks one of these columns, or is no CSV.
pub fn rewritten(text: &str, plan: &Plan, proposal: &Proposal) -> Result<String, String> {
    let wrong = |error: csv::Error| format!("tasks.csv: {error}");
    let mut reader =
        csv::ReaderBuilder::new().flexible(true).from_reader(text.trim_start_matches('\u{feff}').as_bytes());
    let header = reader.headers().map_err(wrong)?.clone();
    let place = |name: &str| header.iter().position(|column| column.trim() == name);
    let mut places = Vec::new();
    for name in MAY_CHANGE {
        let missing = || format!("tasks.csv has no column “{name}”, so that the proposal cannot be written into it");
        places.push((name, place(name).ok_or_else(missing)?));
    }
    let reference = place("ref");
    let changed: HashMap<TaskId, &Row> =
        proposal.rows.iter().filter(|row| row.dates.is_some()).map(|row| (row.task, row)).collect();
    let named: HashMap<&str, TaskId> = plan
        .tasks
        .values()
        .map(|task| (task.reference.as_str(), task.id))
        .filter(|(name, _)| !name.is_empty())
        .collect();
    // Rows without a reference were read one after the other.
    let mut nameless = plan.tasks.values().filter(|task| task.reference.is_empty()).map(|task| task.id);
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(&header).map_err(wrong)?;
    for row in reader.records() {
        let mut cells: Vec<String> = row.map_err(wrong)?.iter().map(str::to_owned).collect();
        cells.resize(header.len(), String::new());
        let name = reference.map_or("", |at| cells[at].trim());
        let task = if name.is_empty() { nameless.next() } else { named.get(name).copied() };
        if let Some(row) = task.and_then(|task| changed.get(&task)) {
            let new = cells_of(plan, row);
            let is_same = plan.tasks.get(&row.task).is_some_and(|task| task.assignees == row.assignees);
            for (name, at) in &places {
                if *name != "assignees" || !is_same {
                    cells[*at].clone_from(&new[name]);
                }
            }
        }
        writer.write_record(&cells).map_err(wrong)?;
    }
    let bytes = writer.into_inner().map_err(|error| error.to_string())?;
    String::from_utf8(bytes).map_err(|error| error.to_string())
}
