//! Milestones.

use super::{
    About, Column, Key, ProjectId, Record, Room,
    codec::{Date, Line, ToSeveral},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{Day, Refusal, rules::named};
use serde::{Deserialize, Serialize};

identity!(
    /// A milestone.
    MilestoneId of Milestone
);

/// A date that matters to one, several or (with no projects named) all projects.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Milestone {
    /// Identity inside the plan.
    pub id: MilestoneId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// What happens.
    pub name: String,
    /// When.
    pub date: Day,
    /// The projects it belongs to.
    pub projects: Vec<ProjectId>,
}

impl Record for Milestone {
    has_id!(MilestoneId);

    const ABOUT: About = About {
        key: Key::Ref,
        room: Room::Schedule,
        says: "Dates that matter to one, several or (with no project named) all projects.",
        usual: &["name", "date", "projects"],
        ..About::new("milestone", "milestones", "milestones.csv", "milestones")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files."),
        must("name", "Name", at!(name: Line)).example("Opening"),
        must("date", "Date", at!(date: Date)).example("2026-05-16"),
        may("projects", "Projects", at!(projects: ToSeveral)).hint("Codes with ; between; empty for all."),
    ];

    fn blank() -> Self {
        let (reference, name) = (String::new(), String::new());
        Self { id: MilestoneId(0), reference, name, date: Day::MIN, projects: Vec::new() }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("name", &self.name, "Say what happens on the day.")
    }

    stands_in!(records.milestones);
}
