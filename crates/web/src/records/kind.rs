//! The columns of a kind of record as pages show them: what the core says of them, and the workspace's own fields.

use snug_core::{
    Plan, Role,
    fields::FieldKind,
    kinds::{Input, Kind, Room},
};

/// One column.
#[derive(Clone, Debug)]
pub struct Column {
    /// Its name in files.
    pub name: String,
    /// What it is called on pages.
    pub label: String,
    /// How its values are typed.
    pub input: Input,
    /// What a form says of it.
    pub hint: &'static str,
    /// What there is to choose from.
    pub choices: Vec<String>,
    /// Whether it is a field of the workspace's own.
    pub is_own: bool,
    /// Whether a list adds its values up.
    pub adds_up: bool,
}

/// The kinds that have a list and a form.
pub fn listed() -> impl Iterator<Item = Kind> {
    Kind::ALL.iter().copied().filter(|kind| kind.about().room != Room::None)
}

/// The columns of a kind in this workspace that somebody of a role sees, its own fields last.
pub fn columns(plan: &Plan, kind: Kind, role: Role) -> Vec<Column> {
    let seen = kind.columns().into_iter().filter(|spec| spec.sight.is_for(role));
    let fixed = seen.map(|spec| Column {
        name: spec.name.to_owned(),
        label: spec.label.to_owned(),
        input: spec.input,
        hint: spec.hint,
        choices: match spec.input {
            Input::Choice(list) => list().into_iter().map(str::to_owned).collect(),
            _ => Vec::new(),
        },
        is_own: false,
        adds_up: spec.adds_up,
    });
    let own = kind.about().own_fields.map(|of| plan.fields_of(of)).unwrap_or_default();
    let own = own.into_iter().map(|field| Column {
        name: field.column(),
        label: field.name.clone(),
        input: match field.kind {
            FieldKind::Number => Input::Number,
            FieldKind::Date => Input::Date,
            FieldKind::Text => Input::Line,
            // What there is to choose from stands with the column.
            FieldKind::Choice => Input::Choice(Vec::new),
        },
        hint: "",
        choices: field.choices.clone(),
        is_own: true,
        adds_up: false,
    });
    fixed.chain(own).collect()
}
