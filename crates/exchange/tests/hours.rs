//! Every table of the Hours room with known answers, from the files to the last byte.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use snug_core::{
    Day, Plan,
    hours::{
        Cut,
        actuals::{self, Asked},
        bias,
        earned::earned,
        money, worked,
    },
    import,
    kinds::{BaselineId, Kind},
};
use snug_exchange::{Form, csv::read_folder, hours as text};
use std::{
    collections::BTreeMap,
    path::{Path, PathBuf},
};

fn folder(case: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases").join(case)
}

fn plan_of(case: &str) -> Plan {
    let preview = import::preview(&Plan::empty(), &read_folder(&folder(case)).unwrap());
    assert_eq!(preview.problems, []);
    Plan::empty().with(&preview.changes)
}

/// `--by team --figures`: each word with the one behind it.
fn words(arguments: &str) -> BTreeMap<&str, &str> {
    let mut found = BTreeMap::new();
    let mut words = arguments.split_whitespace().peekable();
    while let Some(word) = words.next() {
        found.insert(word, words.next_if(|next| !next.starts_with("--")).unwrap_or_default());
    }
    found
}

fn computed(plan: &Plan, command: &str, arguments: &str) -> String {
    let words = words(arguments);
    let day = |word: &str| words.get(word).map(|text| text.parse::<Day>().unwrap());
    let today = day("--today").unwrap_or(Day::MIN);
    match command {
        "actuals" => {
            let cut = Cut { from: day("--from"), to: day("--to") };
            let rows = actuals::table(plan, words["--by"].parse().unwrap(), Asked { cut, project: None });
            text::actuals(plan, &rows, cut != Cut::ALL, Form::Csv)
        }
        "worked" => {
            let rows = worked::table(plan, (day("--from").unwrap(), day("--to").unwrap()), today);
            text::worked(plan, &rows, Form::Csv)
        }
        "money" => text::money(plan, &money::table(plan, today), Form::Csv),
        "earned-value" => {
            let id = BaselineId(plan.find(Kind::Baseline, words["--baseline"]).unwrap());
            let earned = earned(plan, &plan.records.baselines[&id], today);
            if words.contains_key("--figures") {
                text::earned_figures(&earned, Form::Csv)
            } else {
                text::earned(&earned, Form::Csv)
            }
        }
        "bias" => text::bias(plan, &bias::table(plan, words["--by"].parse().unwrap()), Form::Csv),
        other => panic!("nobody knows {other}"),
    }
}

/// Every table of a case; those that differ are told line by line.
fn holds(case: &str) {
    let plan = plan_of(case);
    let list = std::fs::read_to_string(folder(case).join("args.csv")).unwrap();
    let mut wrong = Vec::new();
    let mut tried = 0;
    for row in csv::Reader::from_reader(list.as_bytes()).records().map(Result::unwrap) {
        let (got, expected) =
            (computed(&plan, &row[1], &row[2]), std::fs::read_to_string(folder(case).join(&row[0])).unwrap());
        if got != expected {
            let differ = got.lines().filter(|line| !expected.lines().any(|it| it == *line)).collect::<Vec<_>>();
            let missing = expected.lines().filter(|line| !got.lines().any(|it| it == *line)).collect::<Vec<_>>();
            wrong.push(format!("{}: {differ:#?} in place of {missing:#?}", &row[0]));
        }
        tried += 1;
    }
    assert!(tried >= 20, "{case} has tables");
    assert!(wrong.is_empty(), "{case}:\n{}", wrong.join("\n"));
}

#[test]
fn the_worked_example_of_the_hours() {
    holds("hours-worked");
}

#[test]
fn hours_1() {
    holds("hours-1");
}

#[test]
fn hours_2() {
    holds("hours-2");
}
