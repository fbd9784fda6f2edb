//! Checklists: lines to tick off in a task.

use super::{
    About, Column, Key, Record, TaskId,
    codec::{Line, Number, To, Yes},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Actor, Day, Plan, Refusal,
    edit::Edit,
    rules::{MOST_PLACE, named, place},
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

identity!(
    /// A line of a checklist.
    CheckId of Check
);

/// A line to tick off in a task.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Check {
    /// Identity inside the plan.
    pub id: CheckId,
    /// The task.
    pub task: TaskId,
    /// What is to be ticked off.
    pub text: String,
    /// Whether it is.
    pub done: bool,
    /// Its place: the smallest comes first; those of one place as they were made.
    pub place: Decimal,
}

impl Record for Check {
    has_id!(CheckId);

    const ABOUT: About = About {
        own: true,
        key: Key::Pair,
        key_column: "text",
        title: "text",
        ..About::new("checklist line", "checklist lines", "checklist.csv", "checklist")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("task", "Task", at!(task: To)).example("T1"),
        must("text", "What", at!(text: Line)).example("Sand the edges"),
        may("done", "Ticked off", at!(done: Yes)),
        may("place", "Place", at!(place: Number)).hint("The smallest comes first.").bounds(0, MOST_PLACE),
    ];

    fn blank() -> Self {
        Self { id: CheckId(0), task: TaskId(0), text: String::new(), done: false, place: Decimal::ZERO }
    }
    fn key(&self) -> String {
        format!("{}\n{}", self.task, self.text)
    }
    fn name(&self) -> String {
        self.text.clone()
    }
    fn tidy(&mut self, _: &Plan, _: bool) {
        self.text = self.text.trim().to_owned();
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        place(self.place)?;
        named("text", &self.text, "Say what is to be ticked off.")
    }

    /// Whoever does a task keeps its checklist.
    fn may_own(plan: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        edit.both(|line| actor.does(plan, line.task))
    }

    stands_in!(records.checks);
}

impl Plan {
    /// The checklist of a task, in order.
    #[must_use]
    pub fn checklist(&self, task: TaskId) -> Vec<&Check> {
        let mut lines: Vec<&Check> =
            self.records.checks.values().map(|line| &**line).filter(|line| line.task == task).collect();
        lines.sort_by_key(|line| (line.place, line.id));
        lines
    }
}
