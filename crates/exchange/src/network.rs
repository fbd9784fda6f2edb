//! The network's tables as text: the two passes, and what a move changes.

use crate::form::{Form, written};
use serde_json::json;
use snug_core::{
    Day, Plan, TaskId,
    network::{Dates, Figures, Moved, Stays, Stopped, Why},
};

/// The columns of the passes.
const PASSES: [&str; 12] = [
    "ref",
    "start",
    "finish",
    "days",
    "earliest_start",
    "earliest_finish",
    "latest_start",
    "latest_finish",
    "total_float",
    "free_float",
    "critical",
    "broken",
];

fn reference(plan: &Plan, task: TaskId) -> &str {
    plan.tasks.get(&task).map_or("", |task| task.reference.as_str())
}

fn days(dates: Option<Dates>) -> [String; 2] {
    let day = |day: Option<Day>| day.map(|day| day.to_string()).unwrap_or_default();
    [day(dates.map(|dates| dates.0)), day(dates.map(|dates| dates.1))]
}

/// The two passes over a plan: a row for each leaf that has a reference, sorted by it.
#[must_use]
pub fn passes(plan: &Plan, figures: &[Figures], form: Form) -> String {
    let mut named: Vec<(&str, &Figures)> = figures.iter().map(|it| (reference(plan, it.task), it)).collect();
    named.retain(|(name, _)| !name.is_empty());
    named.sort_unstable_by_key(|(name, _)| *name);
    let number = |number: Option<i32>| number.map(|number| number.to_string()).unwrap_or_default();
    let row = |(name, it): (&str, &Figures)| {
        let [start, finish] = days(it.dates);
        let [earliest_start, earliest_finish] = days(it.earliest);
        let [latest_start, latest_finish] = days(it.latest);
        [
            name.to_owned(),
            start,
            finish,
            it.length.to_string(),
            earliest_start,
            earliest_finish,
            latest_start,
            latest_finish,
            number(it.total_float),
            number(it.free_float),
            if it.is_critical() { "yes".to_owned() } else { String::new() },
            it.broken.to_string(),
        ]
    };
    written(PASSES, 1, named.into_iter().map(row).collect(), form)
}

/// What a move changes, a row for each leaf; or one row that says what stops it.
#[must_use]
pub fn moves(plan: &Plan, moved: &Result<Vec<Moved>, Stopped>, form: Form) -> String {
    const HEADER: [&str; 3] = ["ref", "start", "finish"];
    let rows = match moved {
        Ok(moved) => moved
            .iter()
            .map(|it| {
                let [start, finish] = days(Some(it.to));
                [reference(plan, it.task).to_owned(), start, finish]
            })
            .collect(),
        Err(stopped) => {
            let why = match stopped.why {
                Why::Stays(Stays::Done) => "done",
                Why::Stays(Stays::Started) => "started",
                Why::Stays(Stays::Fixed) => "fixed",
                Why::NotAfter(_) => "not after",
            };
            let row = ["refused", reference(plan, stopped.task), why];
            // A header would say that these are dates.
            return match form {
                Form::Json => format!("{:#}\n", json!({ "refused": row[1], "why": why })),
                Form::Columns | Form::Csv => row.join(if form == Form::Csv { "," } else { "  " }) + "\n",
            };
        }
    };
    written(HEADER, 1, rows, form)
}
