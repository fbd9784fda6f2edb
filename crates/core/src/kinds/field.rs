//! Fields that a workspace defines itself.

use super::{
    About, Column, Key, OWN, Record, Room,
    codec::{Line, Word, Words},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal, Role,
    fields::{FieldKind, FieldOf},
};
use serde::{Deserialize, Serialize};

identity!(
    /// A field that the workspace defines itself.
    FieldId of Field
);

/// One field.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Field {
    /// Identity inside the plan.
    pub id: FieldId,
    /// The name shown, unique among the fields of the same records.
    pub name: String,
    /// Which records have it.
    pub of: FieldOf,
    /// What a value is like.
    pub kind: FieldKind,
    /// The values there are to choose from, where the kind is a choice.
    pub choices: Vec<String>,
}

impl Field {
    /// The key of the field of some records that has this name.
    #[must_use]
    pub fn key_of(of: FieldOf, name: &str) -> String {
        format!("{of} {name}")
    }

    /// How the column of its values is headed.
    #[must_use]
    pub fn column(&self) -> String {
        format!("{OWN}{}", self.name)
    }
}

impl Record for Field {
    has_id!(FieldId);

    const ABOUT: About = About {
        least: Role::Manager,
        key: Key::Named,
        key_column: "name",
        room: Room::Setup,
        says: "Fields of your own for people, projects and tasks: columns, filters, grouping.",
        usual: &["name", "of", "kind", "choices"],
        facets: &["of", "kind"],
        ..About::new("field", "fields", "fields.csv", "fields")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("of", "Of", at!(of: Word)).hint("Which records have it.").example("task"),
        must("name", "Name", at!(name: Line)).example("Wood"),
        must("kind", "Kind", at!(kind: Word)).hint("A number can be measured.").example("text"),
        may("choices", "Choices", at!(choices: Words))
            .hint("For a choice: what there is to choose from, with ; between."),
    ];

    fn blank() -> Self {
        let (name, choices) = (String::new(), Vec::new());
        Self { id: FieldId(0), name, of: FieldOf::Task, kind: FieldKind::Number, choices }
    }
    fn key(&self) -> String {
        Self::key_of(self.of, &self.name)
    }
    fn key_in(line: &super::sheet::Line<'_>) -> String {
        format!("{} {}", line.cell("of"), line.cell("name"))
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        let name = self.name.trim();
        if name.is_empty() || name.chars().count() > 60 {
            return Err(Refusal::value("name", "Give the field a name of at most 60 characters."));
        }
        if self.kind == FieldKind::Choice && self.choices.is_empty() {
            return Err(Refusal::value("choices", "Write what there is to choose from, with “;” between."));
        }
        if self.choices.len() > 200 {
            return Err(Refusal::value(
                "choices",
                "More than 200 choices cannot be looked through; use a text instead.",
            ));
        }
        Ok(())
    }

    stands_in!(records.fields);
}
