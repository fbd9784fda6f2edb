//! Sprints: a team's short stretches of time, each with what it takes on (`rules/queue.md`, Sprints).

use super::{
    About, Column, Key, Record, Room, TeamId,
    codec::{Date, Line, To, Word},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal,
    rules::{line, named, range},
    words::words,
};
use serde::{Deserialize, Serialize};

identity!(
    /// A sprint.
    SprintId of Sprint
);

/// A sprint of a team.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Sprint {
    /// Identity inside the plan.
    pub id: SprintId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// Whose sprint it is.
    pub team: TeamId,
    /// First day.
    pub start: Day,
    /// Last day.
    pub finish: Day,
    /// Where it stands.
    pub state: SprintState,
    /// What it is to reach.
    pub goal: String,
}

/// Where a sprint stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum SprintState {
    /// To come.
    Planned,
    /// Begun.
    Running,
    /// Over.
    Finished,
}

words!(SprintState { Planned = "planned", Running = "running", Finished = "finished" });

impl Record for Sprint {
    has_id!(SprintId);

    const ABOUT: About = About {
        key: Key::Named,
        key_column: "code",
        room: Room::Schedule,
        says: "A team’s sprints: from a first to a last day, with a goal. Tasks name the one they are in.",
        usual: &["name", "code", "team", "start", "finish", "state", "goal"],
        facets: &["team", "state"],
        found_by: &["code", "goal"],
        beside: "team",
        ..About::new("sprint", "sprints", "sprints.csv", "sprints")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("code", "Code", at!(code: Line)).hint("Short, unique; the key in files.").example("build-5"),
        must("name", "Name", at!(name: Line)).example("Week 12 and 13"),
        must("team", "Team", at!(team: To)).example("workshop"),
        must("start", "First day", at!(start: Date)).example("2026-03-09"),
        must("finish", "Last day", at!(finish: Date)).example("2026-03-20"),
        may("state", "State", at!(state: Word)),
        may("goal", "Goal", at!(goal: Line)).hint("What it is to reach, in a sentence."),
    ];

    fn blank() -> Self {
        Self {
            id: SprintId(0),
            code: String::new(),
            name: String::new(),
            team: TeamId(0),
            start: Day::MIN,
            finish: Day::MIN,
            state: SprintState::Planned,
            goal: String::new(),
        }
    }
    fn key(&self) -> String {
        self.code.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("code", &self.code, "Give a short code; files and tasks use it.")?;
        named("name", &self.name, "Give the sprint a name.")?;
        range(Some(self.start), Some(self.finish)).map_err(|message| Refusal::value("finish", message))?;
        line("goal", &self.goal)
    }

    stands_in!(records.sprints);
}
