//! The columns of every kind of record as pages show and read them: labels, values in words, forms.

mod changed;
mod form;
mod value;

pub use changed::{Changed, booked_for, changed};
pub use form::{Extra, Field, Pairs, Problems, altered, extras, fields, grouped, read, rows_of, sent, values};
pub use value::{SortKey, person_name, record, shown, sort_key};

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
    /// Whether it follows from other records, so that nobody types it.
    pub follows: bool,
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
        follows: false,
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
        follows: false,
    });
    fixed.chain(own).collect()
}

/// What a list of a kind can show: its columns, and what follows of each record from others.
pub fn listed_columns(plan: &Plan, kind: Kind, role: Role) -> Vec<Column> {
    let figure = |(name, label): (&str, &str)| Column {
        name: name.to_owned(),
        label: label.to_owned(),
        input: Input::Line,
        hint: "",
        choices: Vec::new(),
        is_own: false,
        adds_up: false,
        follows: true,
    };
    columns(plan, kind, role).into_iter().chain(kind.figures().into_iter().map(figure)).collect()
}

/// The word for how a value is typed, for templates and scripts.
pub fn input_of(column: &Column) -> &'static str {
    match column.input {
        Input::Line => "line",
        Input::File => "file",
        Input::Number | Input::Whole | Input::Hours => "number",
        Input::Date => "date",
        Input::Yes => "yes",
        Input::People | Input::Several(Kind::Person) => "people",
        Input::Several(Kind::Milestone) => "milestones",
        Input::Several(Kind::Project) => "projects",
        Input::Words | Input::Several(_) => "words",
        Input::Used => "used",
        // Of these there are too many to choose from.
        Input::One(Kind::Person) | Input::Whom => "person",
        Input::One(Kind::Task) => "task",
        Input::Choice(_) | Input::One(_) => "choice",
    }
}

/// The values of a column that one chooses from, each with its label; empty where one types.
pub fn choices(plan: &Plan, column: &Column) -> Vec<(String, String)> {
    let mut found: Vec<(String, String)> = match column.input {
        Input::Choice(_) => {
            let listed = column.choices.iter().map(|choice| (choice.clone(), choice.clone()));
            return column.is_own.then(|| (String::new(), "–".to_owned())).into_iter().chain(listed).collect();
        }
        Input::One(kind) if input_of(column) == "choice" => {
            kind.all(plan).iter().map(|record| (record.key(), record.called())).collect()
        }
        _ => return Vec::new(),
    };
    found.sort_by_key(|(_, label)| label.to_lowercase());
    found.insert(0, (String::new(), "–".to_owned()));
    found
}
