//! Ledgers outlive the program that wrote them: changes that an earlier one recorded are read still, and can be taken back.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use snug_core::{
    Plan,
    change::{Change, inverse_of},
    kinds::Kind,
};
use std::collections::BTreeSet;

/// A change of each kind, as the program wrote it before the kinds of record were described in one place.
const BEFORE_KINDS: &str = include_str!("ledgers/2026-11-before-kinds.jsonl");

#[test]
fn changes_that_an_earlier_program_recorded_are_read_still() {
    let changes: Vec<Change> = BEFORE_KINDS.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let kinds: BTreeSet<Kind> = changes.iter().map(|change| change.subject().0).collect();
    let words: Vec<&str> = kinds.iter().map(|kind| kind.as_str()).collect();
    let known = [
        "settings",
        "field",
        "person",
        "holiday",
        "absence",
        "team",
        "project",
        "milestone",
        "task",
        "link",
        "booking",
        "time entry",
        "text",
    ];
    assert_eq!(words, known);
    // What they say is kept: the plan has it, and has nothing of it once they are taken back.
    let plan = Plan::empty().with(&changes);
    assert_eq!(plan.find(Kind::Task, "T06"), Some(54));
    assert_eq!(plan.find(Kind::Person, "dov@tidewater.test"), Some(15));
    let task = &plan.tasks[&snug_core::TaskId(49)];
    assert_eq!((task.stage.as_str(), task.estimate), ("done", Some(7_200)));
    let back = plan.with(&inverse_of(&changes));
    let left: usize = Kind::ALL.iter().map(|kind| kind.all(&back).len()).sum();
    assert_eq!(left, 1, "the task that was changed stands as it stood before");
}
