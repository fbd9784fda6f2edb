//! The load table: rows of people, teams, roles or projects against buckets of days. The command line, the API, the rooms and
//! the benchmark all come here.

mod counts;
mod drawn;
mod groups;
mod person;
mod teams;

pub use counts::{MadeOf, made_of};
pub use drawn::GroupDays;
pub use groups::{Groups, RowKey};
pub use person::{PersonCells, append_person_row, person_row};
pub use teams::team_shares;

use crate::{
    FieldId, Plan,
    cells::{Bucket, Cell, Grain},
    demand::Window,
    fields::{FieldKind, FieldOf},
    kinds::Field,
    plan::Entry,
    words::{NoSuchWord, words},
};
use std::{collections::BTreeMap, sync::Arc};

/// What the rows are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Group {
    /// Everyone, by e-mail address.
    Person,
    /// Teams by code, and `(no team)`.
    Team,
    /// Roles, and `(no role)`.
    Role,
    /// Skills, and `(no skill)`; somebody with several skills stands in each of their rows.
    Skill,
    /// Projects by code, and `(hold)`.
    Project,
}

words!(Group { Person = "person", Team = "team", Role = "role", Skill = "skill", Project = "project" });

/// What is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Measure {
    /// Minutes of work.
    Minutes,
    /// Percent of the limit.
    Percent,
    /// The largest number of projects on any day.
    Projects,
    /// The largest number of tasks on any day.
    Tasks,
    /// Points of the tasks that finish, in hundredths.
    Points,
    /// The sum of a numeric field over the tasks that finish, in hundredths.
    Field(FieldId),
}

impl Measure {
    /// The measures that every workspace has, each with its word.
    pub const PLAIN: [(Self, &'static str); 5] = [
        (Self::Minutes, "minutes"),
        (Self::Percent, "percent"),
        (Self::Projects, "projects"),
        (Self::Tasks, "tasks"),
        (Self::Points, "points"),
    ];

    /// Reads the word of a measure, or `field NAME` for a numeric field of tasks.
    ///
    /// # Errors
    /// The words that would do.
    pub fn read(text: &str, plan: &Plan) -> Result<Self, NoSuchWord> {
        if let Some((known, _)) = Self::PLAIN.iter().find(|(_, word)| *word == text) {
            return Ok(*known);
        }
        let numbers = Self::fields(plan);
        let named = text.strip_prefix("field ").and_then(|name| numbers.iter().find(|field| field.name == name));
        named.map(|field| Self::Field(field.id)).ok_or_else(|| {
            let plain = Self::PLAIN.iter().map(|(_, word)| (*word).to_owned());
            let fields = numbers.iter().map(|field| format!("field {}", field.name));
            NoSuchWord { found: text.to_owned(), known: plain.chain(fields).collect::<Vec<_>>().join(", ") }
        })
    }

    /// The word by which [`Measure::read`] finds it.
    #[must_use]
    pub fn word(self, plan: &Plan) -> String {
        match self {
            Self::Field(id) => {
                plan.records.fields.get(&id).map(|field| format!("field {}", field.name)).unwrap_or_default()
            }
            plain => Self::PLAIN.iter().find(|(known, _)| *known == plain).map_or("", |(_, word)| word).to_owned(),
        }
    }

    /// The fields that can be a measure: numbers of tasks.
    #[must_use]
    pub fn fields(plan: &Plan) -> Vec<&Arc<Field>> {
        plan.fields_of(FieldOf::Task).into_iter().filter(|field| field.kind == FieldKind::Number).collect()
    }

    /// Whether cells are minutes inside (percent are minutes of the limit).
    #[must_use]
    pub fn counts_minutes(self) -> bool {
        matches!(self, Self::Minutes | Self::Percent)
    }

    /// Whether figures are hundredths of what is shown.
    #[must_use]
    pub fn in_hundredths(self) -> bool {
        matches!(self, Self::Points | Self::Field(_))
    }
}

/// A question to the plan.
#[derive(Clone, Copy, Debug)]
pub struct Query {
    /// Which days, and which of them is today.
    pub window: Window,
    /// How long a bucket is.
    pub grain: Grain,
    /// What the rows are.
    pub group: Group,
    /// What is counted.
    pub measure: Measure,
}

/// One row of the answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Row {
    /// E-mail address, role, team or project code, or a key in brackets.
    pub key: String,
    /// One cell a bucket; `None` where the measure has no figure (percent at limit 0).
    pub cells: Vec<Option<Cell>>,
    /// The same in minutes, which decide the band.
    pub band_cells: Vec<Cell>,
}

/// The answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Table {
    /// The buckets, cut to the window.
    pub buckets: Vec<Bucket>,
    /// The rows, sorted by key.
    pub rows: Vec<Row>,
}

/// Computes the load table.
#[must_use]
pub fn table(plan: &Plan, query: &Query) -> Table {
    let groups = Groups::new(plan, *query);
    let rows: BTreeMap<String, Vec<Cell>> = match query.group {
        Group::Person => {
            plan.people.values().map(|entry| (entry.person.email.clone(), row_of(&groups, entry))).collect()
        }
        group => groups.all(group),
    };
    let percent = query.measure == Measure::Percent;
    let shown = |cell: &Cell| if percent { cell.percent() } else { Some(*cell) };
    let row =
        |(key, band_cells): (String, Vec<Cell>)| Row { key, cells: band_cells.iter().map(shown).collect(), band_cells };
    Table { rows: rows.into_iter().map(row).collect(), buckets: groups.buckets }
}

/// One person's cells by the measure that is asked for.
#[must_use]
pub fn row_of(groups: &Groups<'_>, entry: &Entry) -> Vec<Cell> {
    if groups.query.measure.counts_minutes() {
        person_row(groups.plan, entry, &groups.query, &groups.buckets).into_iter().map(Cell::from).collect()
    } else {
        counts::person_row(groups, entry)
    }
}
