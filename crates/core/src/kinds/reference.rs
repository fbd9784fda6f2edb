//! Outside references: what stands elsewhere about a task, under an address.

use super::{
    About, Column, Key, Record, TaskId,
    codec::{Line, To, Whole},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{Day, Plan, Refusal, rules::line};
use serde::{Deserialize, Serialize};

identity!(
    /// An outside reference.
    ReferenceId of Reference
);

/// What stands elsewhere about a task.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Reference {
    /// Identity inside the plan.
    pub id: ReferenceId,
    /// The task.
    pub task: TaskId,
    /// Where it stands: an address of the web.
    pub address: String,
    /// What it is called; the address where it is not called anything.
    pub title: String,
    /// How it stands there, in the words of there.
    pub state: String,
    /// How many there are of what is counted there.
    pub count: Option<i32>,
}

/// The longest address, in characters.
const LONGEST_ADDRESS: usize = 2_000;

/// The most that is counted.
const MOST_COUNTED: i32 = 1_000_000_000;

impl Record for Reference {
    has_id!(ReferenceId);

    const ABOUT: About = About {
        key: Key::Pair,
        key_column: "address",
        title: "title",
        ..About::new("outside reference", "outside references", "references.csv", "references")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("task", "Task", at!(task: To)).example("T1"),
        must("address", "Address", at!(address: Line)).example("https://drawings.example/relief/4"),
        may("title", "Title", at!(title: Line)).hint("Left empty, the address stands for it."),
        may("state", "State", at!(state: Line)).hint("How it stands there, as “open” or “signed”."),
        may("count", "Count", at!(count: Whole))
            .hint("Of what is counted there, as open points.")
            .bounds(-MOST_COUNTED, MOST_COUNTED),
    ];

    fn blank() -> Self {
        Self {
            id: ReferenceId(0),
            task: TaskId(0),
            address: String::new(),
            title: String::new(),
            state: String::new(),
            count: None,
        }
    }
    fn key(&self) -> String {
        format!("{}\n{}", self.task, self.address)
    }
    fn name(&self) -> String {
        if self.title.is_empty() { self.address.clone() } else { self.title.clone() }
    }
    fn tidy(&mut self, _: &Plan, _: bool) {
        for text in [&mut self.address, &mut self.title, &mut self.state] {
            *text = text.trim().to_owned();
        }
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        let of_web = ["https://", "http://"].iter().find_map(|scheme| self.address.trim().strip_prefix(scheme));
        if !of_web.is_some_and(|rest| !rest.is_empty() && !rest.contains(|c: char| c.is_whitespace() || c.is_control()))
        {
            return Err(Refusal::value("address", "Write an address of the web, as https://drawings.example/relief."));
        }
        if self.address.chars().count() > LONGEST_ADDRESS {
            return Err(Refusal::value("address", format!("is longer than {LONGEST_ADDRESS} characters")));
        }
        if self.count.is_some_and(|count| count.abs() > MOST_COUNTED) {
            return Err(Refusal::value("count", "A count is at most 1,000,000,000."));
        }
        line("title", &self.title)?;
        line("state", &self.state)
    }

    stands_in!(records.references);
}

impl Plan {
    /// What stands elsewhere about a task.
    pub fn references_of(&self, task: TaskId) -> impl Iterator<Item = &Reference> {
        self.records.references.values().map(|it| &**it).filter(move |it| it.task == task)
    }
}
