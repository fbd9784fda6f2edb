//! Every table of the cases with known answers, from the files to the last figure.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use snug_core::{
    Plan,
    demand::Window,
    import,
    load::{Measure, Query, table},
};
use snug_exchange::{csv::read_folder, table as text};
use std::{
    collections::{BTreeMap, BTreeSet},
    path::Path,
};

/// The cells of a table by key and start; rows of zeros may be missing from either side.
fn cells(csv: &str) -> BTreeMap<(String, String), Vec<String>> {
    let mut reader = csv::Reader::from_reader(csv.as_bytes());
    let rows = reader.records().map(Result::unwrap);
    let cell = |row: csv::StringRecord| {
        let values: Vec<String> = row.iter().skip(2).map(str::to_owned).collect();
        ((row[0].to_owned(), row[1].to_owned()), values)
    };
    let all_zero = |values: &[String]| values.iter().take(7).all(|value| value.is_empty() || value == "0");
    rows.map(cell).filter(|(_, values)| !all_zero(values)).collect()
}

fn holds(case: &str, from: &str, to: &str, today: &str) {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases").join(case);
    let preview = import::preview(&Plan::empty(), &read_folder(&folder).unwrap());
    assert_eq!(preview.problems, []);
    let plan = Plan::empty().with(&preview.changes);
    let window = Window::new(from.parse().unwrap(), to.parse().unwrap(), today.parse().unwrap());
    let mut tables = 0;
    for file in std::fs::read_dir(&folder).unwrap().map(Result::unwrap) {
        let name = file.file_name().into_string().unwrap();
        let Some(kind) = name.strip_prefix("expected-").and_then(|rest| rest.strip_suffix(".csv")) else { continue };
        let (group, grain) = kind.split_once('-').unwrap();
        let (group, grain) = (group.parse().unwrap(), grain.parse().unwrap());
        let query = Query { window, grain, group, measure: Measure::Minutes };
        let got = text::csv(&table(&plan, &query), &query, &plan.settings);
        let expected = std::fs::read_to_string(file.path()).unwrap();
        let (got, expected) = (cells(&got), cells(&expected));
        let keys: BTreeSet<_> = got.keys().chain(expected.keys()).collect();
        let differ: Vec<_> = keys.into_iter().filter(|key| got.get(*key) != expected.get(*key)).collect();
        let told = differ.iter().map(|key| format!("{key:?}: {:?}, not {:?}\n", got.get(*key), expected.get(*key)));
        assert!(differ.is_empty(), "{case}, {kind}:\n{}", told.collect::<String>());
        tables += 1;
    }
    assert!(tables > 0, "{case} has no tables");
}

#[test]
fn the_worked_example() {
    holds("worked", "2026-03-02", "2026-03-08", "2026-03-01");
}

/// A week limit of 12 h, by which the rim is cut and percents go.
#[test]
fn a_week_limit_that_binds() {
    holds("worked-2", "2026-03-02", "2026-03-08", "2026-03-01");
}

#[test]
fn late_tasks_in_a_queue() {
    holds("worked-3", "2026-03-02", "2026-03-08", "2026-03-01");
}

#[test]
fn what_remains_of_parents() {
    holds("worked-4", "2026-03-02", "2026-03-08", "2026-03-01");
}

#[test]
fn mixed_1() {
    holds("mixed-1", "2026-03-04", "2026-06-17", "2026-03-18");
}

#[test]
fn mixed_2() {
    holds("mixed-2", "2026-03-04", "2026-06-17", "2026-03-18");
}

#[test]
fn mixed_3() {
    holds("mixed-3", "2026-03-04", "2026-06-17", "2026-03-18");
}
