//! The load table: rows of people, teams, roles or projects against buckets of days. The command line, the API, the rooms and
//! the benchmark all come here.

mod rows;

pub use rows::{PersonCells, person_row, team_row, team_shares};

use crate::{
    Plan,
    cells::{Bucket, Cell, Grain},
    demand::Window,
    words::words,
};

/// What the rows are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Group {
    /// Everyone, by e-mail address.
    Person,
    /// Teams by code, and `(no team)`.
    Team,
    /// Roles, and `(no role)`.
    Role,
    /// Projects by code, and `(hold)`.
    Project,
}

words!(Group { Person = "person", Team = "team", Role = "role", Project = "project" });

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
}

words!(Measure { Minutes = "minutes", Percent = "percent", Projects = "projects", Tasks = "tasks" });

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
    let buckets = query.grain.buckets(query.window.from, query.window.to, &plan.settings);
    let minutes = query.measure == Measure::Minutes || query.measure == Measure::Percent;
    let rows = if minutes { rows::minutes(plan, query, &buckets) } else { rows::counts(plan, query, &buckets) };
    let percent = query.measure == Measure::Percent;
    let shown = |cell: &Cell| if percent { cell.percent() } else { Some(*cell) };
    let row =
        |(key, band_cells): (String, Vec<Cell>)| Row { key, cells: band_cells.iter().map(shown).collect(), band_cells };
    Table { rows: rows.into_iter().map(row).collect(), buckets }
}
