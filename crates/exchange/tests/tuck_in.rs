//! Tuck in on workspaces with known answers: the worked one has the best there is, with its reasons; the others are better than one task
//! after the other.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use snug_core::{
    Day, Eyes, Plan, import,
    tuck_in::{Ask, Proposal, Score, breaches, propose},
};
use snug_exchange::{
    Form,
    csv::{file_text, read_folder, write_folder},
    tuck_in::{proposal, rewritten},
};
use std::path::{Path, PathBuf};

fn folder(case: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases").join(case)
}

fn plan_of(folder: &Path) -> Plan {
    let preview = import::preview(&Plan::empty(), &read_folder(folder).unwrap());
    assert_eq!(preview.problems, []);
    Plan::empty().with(&preview.changes)
}

fn ask() -> Ask {
    Ask::new("2026-03-18".parse().unwrap())
}

fn proposed(plan: &Plan, steps: u64) -> Proposal {
    let found = propose(plan, &ask(), 1, &mut |progress| progress.steps < steps).unwrap();
    assert_eq!(breaches(plan, &ask(), &found), []);
    found
}

/// `left_out,weighted_lateness_days,last_finish,sum_finish` of the plain scheduler.
fn plain(case: &str) -> (usize, i64, Option<Day>, i64) {
    let text = std::fs::read_to_string(folder(case).join("expected-objective.csv")).unwrap();
    let cells: Vec<&str> = text.lines().nth(1).unwrap().split(',').collect();
    (cells[0].parse().unwrap(), cells[1].parse().unwrap(), cells[2].parse().ok(), cells[3].parse().unwrap())
}

fn found(score: Score) -> (usize, i64, Option<Day>, i64) {
    (score.left_out, score.late, score.last, score.sum)
}

#[test]
fn the_worked_one_has_its_best_answer_and_its_reasons() {
    let plan = plan_of(&folder("tuck-in-worked"));
    let answer = proposed(&plan, 50);
    assert_eq!((found(answer.score), answer.score.changed), (plain("tuck-in-worked"), 4));
    let expected = "\
ref,start,finish,assignees,late_days,reason
crate,2026-03-26,2026-03-26,ana@example.test,0,not later: it is to be over by 2026-03-27; Ana is off on 2026-03-27
cut,2026-03-18,2026-03-19,ana@example.test,0,not earlier: Ana has 8 h a day at most on 2026-03-18
desk,2026-03-18,2026-03-18,ben@example.test,0,
paint,2026-03-23,2026-03-24,ben@example.test,1,\"not earlier: after “Cut the boards” (link), so from 2026-03-20 on; Ben is off from 2026-03-19 to 2026-03-22, \
has 8 h a day at most on 2026-03-23\"
weld,,,,,left out: nobody who may be chosen has the role or skill that it needs
";
    assert_eq!(proposal(&plan, &answer, Form::Csv).replace('"', ""), expected.replace('"', ""));
}

#[test]
fn the_others_are_better_than_one_task_after_the_other() {
    for case in ["tuck-in-1", "tuck-in-2"] {
        let plan = plan_of(&folder(case));
        let score = proposed(&plan, 300).score;
        assert!(found(score) < plain(case), "{case}: {score:?} against {:?}", plain(case));
    }
}

#[test]
fn written_into_the_file_nothing_differs_but_dates_and_people() {
    for case in ["tuck-in-worked", "tuck-in-2"] {
        let plan = plan_of(&folder(case));
        let answer = proposed(&plan, 20);
        let before = std::fs::read_to_string(folder(case).join("tasks.csv")).unwrap();
        let after = rewritten(&before, &plan, &answer).unwrap();
        let cells = |text: &str| {
            let mut reader = csv::Reader::from_reader(text.as_bytes());
            let header = reader.headers().unwrap().clone();
            (header, reader.records().map(Result::unwrap).collect::<Vec<_>>())
        };
        let ((header, before), (same, after_rows)) = (cells(&before), cells(&after));
        assert_eq!((header.clone(), before.len()), (same, after_rows.len()));
        for (before, after) in before.iter().zip(&after_rows) {
            for (column, (before, after)) in header.iter().zip(before.iter().zip(after)) {
                assert!(before == after || ["start", "finish", "assignees"].contains(&column), "{column}: {after}");
            }
        }
        // Read back it is the plan with the proposal in it.
        let to = std::env::temp_dir().join(format!("snug-tuck-in-{case}-{}", std::process::id()));
        write_folder(&plan, &[], &to).unwrap();
        std::fs::write(to.join("tasks.csv"), after).unwrap();
        let tasks = |plan: &Plan| file_text(&Eyes::of_all(plan), &[], "tasks.csv");
        assert_eq!(tasks(&plan_of(&to)), tasks(&plan.with(&answer.changes(&plan))));
        std::fs::remove_dir_all(to).unwrap();
    }
}
