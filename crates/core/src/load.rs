//! The load table: rows of people, teams, roles or projects against buckets of days. The command line, the API, the rooms and
//! the benchmark all come here.

mod counts;
mod drawn;
mod ground;
mod keys;
mod measure;
mod minutes;
mod person;
mod teams;

pub use counts::{MadeOf, made_of};
pub use drawn::GroupDays;
pub use ground::Groups;
pub use keys::RowKey;
pub use measure::{AboutMeasure, Measure};
pub use person::{PersonCells, append_person_row, person_row};
pub use teams::team_shares;

use crate::{
    Plan,
    cells::{Bucket, Cell, Grain},
    demand::Window,
    plan::Entry,
    words::words,
};
use std::collections::{BTreeMap, HashSet};

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

impl Group {
    /// How many rows a table can have at most.
    #[must_use]
    pub fn most_rows(self, plan: &Plan) -> usize {
        let people = || plan.people.values().map(|entry| &entry.person);
        match self {
            Self::Person => plan.people.len(),
            Self::Team => plan.records.teams.len() + 1,
            Self::Project => plan.records.projects.len() + 1,
            Self::Role => people().map(|person| &person.role).collect::<HashSet<_>>().len() + 1,
            Self::Skill => people().flat_map(|person| &person.skills).collect::<HashSet<_>>().len() + 1,
        }
    }
}

words!(Group { Person = "person", Team = "team", Role = "role", Skill = "skill", Project = "project" });

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
    let mut rows: Vec<(String, Vec<Cell>)> = match query.group {
        Group::Person => {
            plan.people.values().map(|entry| (entry.person.email.clone(), row_of(&groups, entry))).collect()
        }
        group => {
            let rows = rows(&groups, group, plan.people.values(), None);
            rows.into_iter().map(|(key, cells)| (key.text(plan), cells)).collect()
        }
    };
    rows.sort_by(|a, b| a.0.cmp(&b.0));
    let percent = query.measure == Measure::Percent;
    let shown = |cell: &Cell| if percent { cell.percent() } else { Some(*cell) };
    let row =
        |(key, band_cells): (String, Vec<Cell>)| Row { key, cells: band_cells.iter().map(shown).collect(), band_cells };
    Table { rows: rows.into_iter().map(row).collect(), buckets: groups.buckets }
}

/// One person's cells by the measure that is asked for.
#[must_use]
pub fn row_of(groups: &Groups<'_>, entry: &Entry) -> Vec<Cell> {
    match groups.query.measure.counted() {
        None => person_row(groups.plan, entry, &groups.query, &groups.buckets).into_iter().map(Cell::from).collect(),
        Some(way) => counts::person_row(groups, way, entry),
    }
}

/// Rows that add up several people, or projects, by the measure that is asked for; one row only, where one is wanted.
fn rows<'e>(
    groups: &Groups<'_>,
    group: Group,
    people: impl Iterator<Item = &'e Entry>,
    wanted: Option<&RowKey>,
) -> BTreeMap<RowKey, Vec<Cell>> {
    match groups.query.measure.counted() {
        None => minutes::rows(groups, group, people, wanted),
        Some(way) => counts::rows(groups, way, group, people, wanted),
    }
}

impl Groups<'_> {
    /// The row of one group: the same as in the whole table, computed from the people whose load it holds.
    #[must_use]
    pub fn row(&self, key: &RowKey) -> Vec<Cell> {
        let mut rows = rows(self, key.group(), self.held(key).into_iter(), Some(key));
        rows.remove(key).unwrap_or_else(|| vec![Cell::default(); self.buckets.len()])
    }
}
