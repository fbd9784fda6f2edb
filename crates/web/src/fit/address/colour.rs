//! What layers are coloured by.

use snug_core::{
    FieldId, Plan,
    fields::{FieldKind, FieldOf},
};
/// What layers are coloured by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Colour {
    /// The project.
    Project,
    /// The stage of the tasks inside.
    Stage,
    /// The priority of the tasks inside.
    Priority,
    /// Firm or pencilled.
    Certainty,
    /// A field of the project.
    ProjectField(FieldId),
    /// A field of the tasks inside.
    TaskField(FieldId),
}

impl Colour {
    const PLAIN: [(Self, &'static str, &'static str); 4] = [
        (Self::Project, "project", "Project"),
        (Self::Stage, "stage", "Stage"),
        (Self::Priority, "priority", "Priority"),
        (Self::Certainty, "certainty", "Certainty"),
    ];

    /// Reads its word; project when it is none.
    pub fn read(word: &str, plan: &Plan) -> Self {
        Self::choices(plan).into_iter().find(|(_, known, _)| known == word).map_or(Self::Project, |(colour, ..)| colour)
    }

    /// Whether there is a colour by this word.
    pub fn is_known(word: &str, plan: &Plan) -> bool {
        Self::choices(plan).iter().any(|(_, known, _)| known == word)
    }

    /// Its word in an address.
    pub fn word(self, plan: &Plan) -> String {
        Self::choices(plan).into_iter().find(|(known, ..)| *known == self).map(|(_, word, _)| word).unwrap_or_default()
    }

    /// Everything to choose from: colour, word, name. Fields count where their values can be told apart, as choices and words.
    pub fn choices(plan: &Plan) -> Vec<(Self, String, String)> {
        let plain = Self::PLAIN.iter().map(|(colour, word, name)| (*colour, (*word).to_owned(), (*name).to_owned()));
        let of = |of: FieldOf, word: &'static str, colour: fn(FieldId) -> Self| {
            let fields = plan.fields_of(of).into_iter();
            let fit = fields.filter(|field| matches!(field.kind, FieldKind::Choice | FieldKind::Text));
            fit.map(move |field| (colour(field.id), format!("{word} {}", field.name), field.name.clone()))
        };
        plain
            .chain(of(FieldOf::Project, "project-field", Self::ProjectField))
            .chain(of(FieldOf::Task, "task-field", Self::TaskField))
            .collect()
    }

    /// Whether it colours what lies inside a booking, not the booking.
    pub fn of_tasks(self) -> bool {
        matches!(self, Self::Stage | Self::Priority | Self::TaskField(_))
    }
}
