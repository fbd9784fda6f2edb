//! Every table and move of the networks with known answers, from the files to the last cell.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use snug_core::{
    Day, Plan, TaskId, import,
    kinds::Kind,
    network::{Ground, Mode, figures, moved},
};
use snug_exchange::{
    Form,
    csv::read_folder,
    network::{moves, passes},
};
use std::path::{Path, PathBuf};

const TODAY: &str = "2026-03-18";

fn folder(case: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases").join(case)
}

fn plan_of(case: &str) -> Plan {
    let preview = import::preview(&Plan::empty(), &read_folder(&folder(case)).unwrap());
    assert_eq!(preview.problems, []);
    Plan::empty().with(&preview.changes)
}

/// Line by line, so that a difference names its rows.
fn same(got: &str, expected: &str, what: &str) {
    let lines = |text: &str| text.lines().map(str::to_owned).collect::<Vec<_>>();
    let (got, expected) = (lines(got), lines(expected));
    let differ: Vec<_> = got.iter().filter(|line| !expected.contains(line)).collect();
    let missing: Vec<_> = expected.iter().filter(|line| !got.contains(line)).collect();
    assert_eq!(got, expected, "{what}: {differ:#?} in place of {missing:#?}");
}

#[test]
fn every_table_of_the_known_networks() {
    for case in ["network-worked", "network-1", "network-2"] {
        let plan = plan_of(case);
        let today: Day = TODAY.parse().unwrap();
        let expected = |file: &str| std::fs::read_to_string(folder(case).join(file)).unwrap();
        same(&passes(&plan, &figures(&plan, today), Form::Csv), &expected("expected-network.csv"), case);
        let list = expected("moves.csv");
        let mut reader = csv::Reader::from_reader(list.as_bytes());
        let mut tried = 0;
        for row in reader.records().map(Result::unwrap) {
            let wanted = row[1].split(',').map(|it| {
                let (task, day) = it.split_once('=').unwrap();
                (TaskId(plan.find(Kind::Task, task).unwrap()), day.parse().unwrap())
            });
            let wanted: Vec<(TaskId, Day)> = wanted.collect();
            let mode: Mode = row[2].parse().unwrap();
            let got = moved(&Ground::new(&plan, today), &wanted, mode);
            same(&moves(&plan, &got, Form::Csv), &expected(&row[0]), &format!("{case}, {} {mode}", &row[1]));
            tried += 1;
        }
        assert!(tried >= 6, "{case} has moves");
    }
}
