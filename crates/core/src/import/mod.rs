//! Import: rows from files become changes, or are refused one by one with their place.
//!
//! Rows are known by their key; where the optional `ref` is empty, the whole row is the identity, counted as a multiset. What
//! the files do not speak of stays as it is. Nothing is removed by an import.

mod between;
mod diff;
mod read;
mod resolve;

pub use crate::kinds::sheet::{Dataset, Line, Problem, Sheet};
pub use read::{keeping_parts, record};

use crate::{Day, Plan, change::Change, text::Text};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// The most problems told of one file; a wrong file has as many as it has lines.
const MOST_PROBLEMS: usize = 200;

/// What is wrong with one file: so many problems as one reads, and how many more there are.
#[derive(Debug, Default)]
pub struct Told {
    problems: Vec<Problem>,
    left_out: usize,
}

impl Told {
    /// Tells a problem of a file.
    pub fn say(&mut self, file: &str, line: u64, column: &str, reason: impl Into<String>) {
        if self.problems.len() >= MOST_PROBLEMS {
            self.left_out += 1;
            return;
        }
        let (file, column) = (file.to_owned(), column.to_owned());
        self.problems.push(Problem { file, line, column, reason: reason.into() });
    }

    /// All of them, the last one saying how many were left out.
    #[must_use]
    pub fn problems(mut self) -> Vec<Problem> {
        if let Some(first) = self.problems.first().filter(|_| self.left_out > 0) {
            let reason = format!("has {} more lines that cannot be read", self.left_out);
            self.problems.push(Problem { file: first.file.clone(), line: 0, column: String::new(), reason });
        }
        self.problems
    }
}

/// How many rows of a file are what.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Tally {
    /// Rows that make a new record.
    pub new: usize,
    /// Rows that alter a record.
    pub changed: usize,
    /// Rows that stand in the plan already.
    pub same: usize,
    /// Rows that cannot be taken.
    pub refused: usize,
}

/// What an import would do. It can be carried out only when nothing is refused.
#[derive(Clone, Debug, Default)]
pub struct Preview {
    /// By file name.
    pub files: BTreeMap<String, Tally>,
    /// Everything that cannot be taken.
    pub problems: Vec<Problem>,
    /// Columns that nobody knows, as file and column; they are reported and left out.
    pub unknown_columns: Vec<(String, String)>,
    /// How many links the files break, or bring broken.
    pub broken: usize,
    /// The changes, in an order in which each finds what it refers to.
    pub changes: Vec<Change>,
}

impl Preview {
    /// What is told of links that the files break or bring broken; they are taken all the same.
    #[must_use]
    pub fn says_broken(&self) -> Option<String> {
        match self.broken {
            0 => None,
            1 => Some("1 link is broken by these files: the dates of its tasks do not keep it.".to_owned()),
            count => {
                Some(format!("{count} links are broken by these files: the dates of their tasks do not keep them."))
            }
        }
    }
}

/// Works out what the rows would do to a plan in which nothing stands whose dates they could break.
#[must_use]
pub fn preview(plan: &Plan, data: &Dataset) -> Preview {
    worked_out(plan, data, &[], None)
}

/// The same today, where there are texts beside the plan, which the files may speak of.
#[must_use]
pub fn preview_beside(plan: &Plan, data: &Dataset, texts: &[Text], today: Day) -> Preview {
    worked_out(plan, data, texts, Some(today))
}

fn worked_out(plan: &Plan, data: &Dataset, texts: &[Text], today: Option<Day>) -> Preview {
    let mut preview = resolve::resolve(plan, data, texts, today);
    preview.unknown_columns.clone_from(&data.unknown_columns);
    for problem in &data.problems {
        preview.problems.push(problem.clone());
        if problem.line > 0 {
            preview.files.entry(problem.file.clone()).or_default().refused += 1;
        }
    }
    preview.problems.sort_by(|a, b| (&a.file, a.line).cmp(&(&b.file, b.line)));
    preview
}
