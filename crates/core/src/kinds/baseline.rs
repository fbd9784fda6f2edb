//! Baselines: what was meant on a day, held against what came of it (`rules/queue.md`, `rules/hours.md`).

use super::{
    About, Column, Key, Record, Room,
    codec::{Date, Line, Word},
    column::{at, must},
    record::{has_id, identity, stands_in},
};
use crate::{Day, Refusal, rules::named, words::words};
use serde::{Deserialize, Serialize};

identity!(
    /// A baseline.
    BaselineId of Baseline
);

/// What was meant on a day, of a project, a sprint or a season.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Baseline {
    /// Identity inside the plan.
    pub id: BaselineId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// What kind of thing it is a baseline of.
    pub kind: BaselineKind,
    /// The code of that thing, as it was when the baseline was made: a baseline outlives what it speaks of.
    pub of: String,
    /// The day on which it was made.
    pub date: Day,
}

/// What a baseline is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum BaselineKind {
    /// Ghosts of a project's dates, and its earned value.
    Project,
    /// What a sprint committed to.
    Sprint,
    /// What a season committed to.
    Season,
}

words!(BaselineKind { Project = "project", Sprint = "sprint", Season = "season" });

impl Record for Baseline {
    has_id!(BaselineId);

    const ABOUT: About = About {
        key: Key::Named,
        key_column: "code",
        room: Room::Schedule,
        says: "What was meant on a day, of a project, a sprint or a season, to be held against what came of it.",
        usual: &["name", "code", "kind", "of", "date"],
        facets: &["kind"],
        ..About::new("baseline", "baselines", "baselines.csv", "baselines")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("code", "Code", at!(code: Line)).hint("Short, unique; the key in files.").example("B-build-5"),
        must("name", "Name", at!(name: Line)).example("Commitment of build-5"),
        must("kind", "Kind", at!(kind: Word)).example("sprint"),
        must("of", "Of", at!(of: Line)).hint("The code of the project, sprint or season.").example("build-5"),
        must("date", "Date", at!(date: Date)).example("2026-03-09"),
    ];

    fn blank() -> Self {
        let text = String::new;
        Self { id: BaselineId(0), code: text(), name: text(), kind: BaselineKind::Project, of: text(), date: Day::MIN }
    }
    fn key(&self) -> String {
        self.code.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("code", &self.code, "Give a short code; files use it.")?;
        named("name", &self.name, "Give the baseline a name.")?;
        named("of", &self.of, "Say what it is a baseline of, by its code.")
    }

    stands_in!(records.baselines);
}
