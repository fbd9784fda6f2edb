//! Risks: what may happen to a project, how likely it is, how bad it would be, and what is done about it.

use super::{
    About, Column, Key, PersonId, ProjectId, Record, Room, TaskId,
    codec::{Date, Line, MayTo, MayWord, To, ToSeveral, Whole, Word},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal,
    rules::{line, named},
    words::words,
};
use serde::{Deserialize, Serialize};

identity!(
    /// A risk.
    RiskId of Risk
);

/// Something that may happen to a project.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Risk {
    /// Identity inside the plan.
    pub id: RiskId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// The project that it threatens.
    pub project: ProjectId,
    /// What may happen.
    pub title: String,
    /// Who watches it.
    pub owner: Option<PersonId>,
    /// How likely it is, from 1 (rare) to 5 (all but certain).
    pub probability: i32,
    /// How bad it would be, from 1 (slight) to 5 (severe).
    pub impact: i32,
    /// What is done about it; nothing until that is decided.
    pub response: Option<Response>,
    /// Where it stands.
    pub state: RiskState,
    /// The work that it threatens, or that answers it.
    pub tasks: Vec<TaskId>,
    /// By when something is to be done about it.
    pub due: Option<Day>,
}

/// The standard responses to a risk.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Response {
    /// Plan so that it cannot happen.
    Avoid,
    /// Make it less likely, or less bad.
    Mitigate,
    /// Let somebody else bear it.
    Transfer,
    /// Live with it.
    Accept,
}

words!(Response { Avoid = "avoid", Mitigate = "mitigate", Transfer = "transfer", Accept = "accept" });

/// Where a risk stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum RiskState {
    /// It may happen.
    Open,
    /// It has happened.
    Happened,
    /// It can happen no more.
    Closed,
}

words!(RiskState { Open = "open", Happened = "happened", Closed = "closed" });

/// The most that probability and impact are counted to.
pub const MOST_RISK: i32 = 5;

/// The most tasks that a risk names.
const MOST_TASKS: usize = 50;

impl Risk {
    /// How much it weighs: probability × impact, from 1 to 25.
    #[must_use]
    pub fn weight(&self) -> i32 {
        self.probability * self.impact
    }

    /// An open one by when something should have been done about it.
    #[must_use]
    pub fn is_overdue(&self, today: Day) -> bool {
        self.state == RiskState::Open && self.due.is_some_and(|due| due < today)
    }
}

impl Record for Risk {
    has_id!(RiskId);

    const ABOUT: About = About {
        key: Key::Ref,
        title: "title",
        room: Room::Schedule,
        says: "What may happen to a project, how likely and how bad it would be, and what is done about it.",
        usual: &["title", "project", "probability", "impact", "response", "owner", "due", "state"],
        facets: &["project", "owner", "response", "state"],
        found_by: &["ref"],
        beside: "project",
        ..About::new("risk", "risks", "risks.csv", "risks")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files."),
        must("project", "Project", at!(project: To)).example("moon"),
        must("title", "What may happen", at!(title: Line)).example("The casting cracks"),
        may("owner", "Who watches it", at!(owner: MayTo)),
        may("probability", "Probability", at!(probability: Whole))
            .hint("From 1, rare, to 5, all but certain.")
            .bounds(1, MOST_RISK),
        may("impact", "Impact", at!(impact: Whole)).hint("From 1, slight, to 5, severe.").bounds(1, MOST_RISK),
        may("response", "Response", at!(response: MayWord)),
        may("state", "State", at!(state: Word)),
        may("tasks", "Work", at!(tasks: ToSeveral))
            .hint("Refs of tasks that it threatens or that answer it, with ; between."),
        may("due", "By when", at!(due: Date)).hint("By when something is to be done about it."),
    ];

    fn blank() -> Self {
        Self {
            id: RiskId(0),
            reference: String::new(),
            project: ProjectId(0),
            title: String::new(),
            owner: None,
            probability: 3,
            impact: 3,
            response: None,
            state: RiskState::Open,
            tasks: Vec::new(),
            due: None,
        }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    fn name(&self) -> String {
        self.title.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        line("ref", &self.reference)?;
        named("title", &self.title, "Say what may happen.")?;
        for (field, value) in [("probability", self.probability), ("impact", self.impact)] {
            if !(1..=MOST_RISK).contains(&value) {
                return Err(Refusal::value(field, "Write a number from 1 to 5."));
            }
        }
        if self.tasks.len() > MOST_TASKS {
            return Err(Refusal::value("tasks", format!("A risk names at most {MOST_TASKS} tasks.")));
        }
        Ok(())
    }

    stands_in!(records.risks);
}
