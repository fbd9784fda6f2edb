//! Releases: what goes out together (`rules/queue.md`, Releases).

use super::{
    About, Column, Key, Record, Room,
    codec::{Date, Line, Used},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal,
    rules::{line, named},
};
use serde::{Deserialize, Serialize};

identity!(
    /// A release.
    ReleaseId of Release
);

/// What goes out together.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Release {
    /// Identity inside the plan.
    pub id: ReleaseId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// What it is a release of; empty for none.
    pub product: String,
    /// The day it goes out.
    pub date: Option<Day>,
    /// Where it stands, in the workspace's own words.
    pub state: String,
}

impl Record for Release {
    has_id!(ReleaseId);

    const ABOUT: About = About {
        key: Key::Named,
        key_column: "code",
        room: Room::Schedule,
        says: "What goes out together on a day. Tasks name the release they are part of; a parent brings what is inside it.",
        usual: &["name", "code", "product", "date", "state"],
        facets: &["product", "state"],
        found_by: &["code", "product"],
        beside: "product",
        ..About::new("release", "releases", "releases.csv", "releases")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("code", "Code", at!(code: Line)).hint("Short, unique; the key in files.").example("tour-1"),
        must("name", "Name", at!(name: Line)).example("Touring version"),
        may("product", "Product", at!(product: Used)).hint("What it is a release of."),
        may("date", "Date", at!(date: Date)).hint("The day it goes out.").example("2026-05-16"),
        may("state", "State", at!(state: Used)).hint("In your own words, as “planned” or “out”."),
    ];

    fn blank() -> Self {
        let text = String::new;
        Self { id: ReleaseId(0), code: text(), name: text(), product: text(), date: None, state: text() }
    }
    fn key(&self) -> String {
        self.code.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("code", &self.code, "Give a short code; files and tasks use it.")?;
        named("name", &self.name, "Give the release a name.")?;
        line("product", &self.product)?;
        line("state", &self.state)
    }

    stands_in!(records.releases);
}
