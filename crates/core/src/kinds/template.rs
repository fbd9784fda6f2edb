//! Templates: projects to begin with, their dates counted from the day on which one begins.

use super::{
    About, Column, Key, Record, Room,
    codec::Line,
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal,
    rules::{line, named},
};
use serde::{Deserialize, Serialize};

identity!(
    /// A template.
    TemplateId of Template
);

/// A project to begin with.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Template {
    /// Identity inside the plan.
    pub id: TemplateId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// When to use it.
    pub says: String,
}

impl Record for Template {
    has_id!(TemplateId);

    const ABOUT: About = About {
        key: Key::Named,
        key_column: "code",
        room: Room::Schedule,
        says: "Projects to begin with: a project is saved as one, and another is started from it on a day.",
        usual: &["name", "code", "says"],
        found_by: &["code", "says"],
        ..About::new("template", "templates", "templates.csv", "templates")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("code", "Code", at!(code: Line)).hint("Short, unique; the key in files.").example("travelling"),
        must("name", "Name", at!(name: Line)).example("A travelling exhibit"),
        may("says", "When to use it", at!(says: Line)),
    ];

    fn blank() -> Self {
        Self { id: TemplateId(0), code: String::new(), name: String::new(), says: String::new() }
    }
    fn key(&self) -> String {
        self.code.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("code", &self.code, "Give a short code; files use it.")?;
        named("name", &self.name, "Give the template a name.")?;
        line("says", &self.says)
    }

    stands_in!(records.templates);
}
