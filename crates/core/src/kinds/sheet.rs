//! Files as they come in, cell by cell, before anything is made of them.

use super::{
    File, Input, Kind, OWN, Wrong,
    fields::{FieldKind, FieldOf},
    file,
};
use crate::{Day, words::NOT_KEPT};
use serde::{Deserialize, Serialize};

/// One row of a file that cannot be taken, and why.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Problem {
    /// The file's name.
    pub file: String,
    /// The line, counted from 1; 0 for the file as a whole.
    pub line: u64,
    /// The column's name; empty for the whole row.
    pub column: String,
    /// What is wrong and what would do.
    pub reason: String,
}

impl std::fmt::Display for Problem {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}", self.file)?;
        if self.line > 0 {
            write!(f, ", line {}", self.line)?;
        }
        if !self.column.is_empty() {
            write!(f, ", column {}", self.column)?;
        }
        write!(f, ": {}", self.reason)
    }
}

/// The cells of one line, in one piece of memory.
#[derive(Clone, Debug)]
struct Cells {
    /// Counted from 1, the header included.
    line: u64,
    text: Box<str>,
    /// Where each cell ends.
    ends: Box<[u32]>,
}

impl Cells {
    fn of<'a>(line: u64, cells: impl Iterator<Item = &'a str>) -> Self {
        let (mut text, mut ends) = (String::new(), Vec::new());
        for cell in cells {
            text.push_str(cell);
            ends.push(u32::try_from(text.len()).unwrap_or(u32::MAX));
        }
        Self { line, text: text.into(), ends: ends.into() }
    }

    fn at(&self, place: usize) -> &str {
        let end = |at: usize| self.ends.get(at).map_or(0, |end| *end as usize);
        let start = if place == 0 { 0 } else { end(place - 1) };
        self.text.get(start..end(place)).unwrap_or_default()
    }
}

/// The lines of one file.
#[derive(Clone, Debug)]
pub struct Sheet {
    /// The file.
    pub file: &'static File,
    /// For each column of the file, where its cells stand in a line.
    places: Vec<Option<usize>>,
    /// Where the cells of the workspace's own fields stand, by the names of the fields.
    own: Vec<(String, usize)>,
    /// Which of the cells that come are kept, and what column each is for.
    kept: Vec<(usize, String)>,
    lines: Vec<Cells>,
}

impl Sheet {
    /// Begins a file with its header. Columns that nobody knows are put into `unknown` and left out.
    ///
    /// # Errors
    /// The columns that stand twice or are missing, by their names; nothing can be read then.
    pub fn begin(
        file: &'static File,
        titles: &[String],
        unknown: &mut Vec<String>,
    ) -> Result<Self, Vec<(String, String)>> {
        let mut sheet =
            Self { file, places: vec![None; file.columns.len()], own: Vec::new(), kept: Vec::new(), lines: Vec::new() };
        for (at, title) in titles.iter().enumerate() {
            let title = title.trim_start_matches('\u{feff}');
            let place = sheet.kept.len();
            let twice = || vec![(title.to_owned(), "stands twice in the header".to_owned())];
            if let Some(name) = title.strip_prefix(OWN).filter(|_| file.has_own()) {
                if sheet.own.iter().any(|(known, _)| known == name) {
                    return Err(twice());
                }
                sheet.own.push((name.to_owned(), place));
            } else if let Some(column) = file.place(title) {
                if sheet.places[column].is_some() {
                    return Err(twice());
                }
                sheet.places[column] = Some(place);
            } else {
                unknown.push(title.to_owned());
                continue;
            }
            sheet.kept.push((at, title.to_owned()));
        }
        let needed: Vec<&str> = file.columns.iter().filter(|spec| spec.must).map(|spec| spec.name).collect();
        let missing = |name: &&str| file.place(name).is_some_and(|column| sheet.places[column].is_none());
        let said = |name: &str| (name.to_owned(), format!("is missing; the header needs {}", needed.join(", ")));
        let missing: Vec<(String, String)> = needed.iter().copied().filter(missing).map(said).collect();
        if missing.is_empty() { Ok(sheet) } else { Err(missing) }
    }

    /// Takes a line: its cells in the order of the header.
    ///
    /// # Errors
    /// The first column whose cell is no text, and why.
    pub fn push<'a>(
        &mut self,
        line: u64,
        cell: impl Fn(usize) -> Result<&'a str, &'static str>,
    ) -> Result<(), (String, String)> {
        let mut cells = Vec::with_capacity(self.kept.len());
        for (at, title) in &self.kept {
            let text = cell(*at).and_then(|text| if text.contains('\0') { Err(NOT_KEPT) } else { Ok(text) });
            cells.push(text.map_err(|reason| (title.clone(), reason.to_owned()))?);
        }
        self.lines.push(Cells::of(line, cells.into_iter()));
        Ok(())
    }

    /// The lines.
    pub fn lines(&self) -> impl Iterator<Item = Line<'_>> {
        self.lines.iter().map(|cells| Line { sheet: self, cells })
    }
}

/// One line of a file.
#[derive(Clone, Copy, Debug)]
pub struct Line<'a> {
    sheet: &'a Sheet,
    cells: &'a Cells,
}

impl<'a> Line<'a> {
    /// Where it stands, counted from 1, the header included.
    #[must_use]
    pub fn number(&self) -> u64 {
        self.cells.line
    }

    /// The cell of a column, by its place among the columns of the file; empty where the file does not have it.
    #[must_use]
    pub fn at(&self, column: usize) -> &'a str {
        self.sheet.places.get(column).copied().flatten().map_or("", |place| self.cells.at(place))
    }

    /// The cells after the first, of a line that adds to the record which the first one names.
    #[must_use]
    pub fn after_key(&self) -> Vec<&'a str> {
        (1..self.sheet.file.columns.len()).map(|column| self.at(column)).collect()
    }

    /// The cell of a column, by its name.
    #[must_use]
    pub fn cell(&self, column: &str) -> &'a str {
        self.sheet.file.place(column).map_or("", |column| self.at(column))
    }

    /// A cell that is read where it is filled.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn read<T>(&self, column: &'static str, read: impl Fn(&str) -> Result<T, String>) -> Result<Option<T>, Wrong> {
        Some(self.cell(column)).filter(|text| !text.is_empty()).map(read).transpose().map_err(|reason| (column, reason))
    }

    /// The values of the workspace's own fields, by the names of the fields.
    pub fn own(&self) -> impl Iterator<Item = (&'a str, &'a str)> {
        let cells = self.cells;
        self.sheet.own.iter().map(move |(name, place)| (name.as_str(), cells.at(*place)))
    }
}

/// All lines of a set of files, with what could not be read.
#[derive(Clone, Debug, Default)]
pub struct Dataset {
    /// The files.
    pub sheets: Vec<Sheet>,
    /// Rows, columns or files that could not be read.
    pub problems: Vec<Problem>,
    /// Columns that nobody knows, as file and column.
    pub unknown_columns: Vec<(String, String)>,
}

impl Dataset {
    /// One record as the row of its file, from column and value; columns that are left out are empty.
    #[must_use]
    pub fn of_row<'a>(name: &str, cells: impl IntoIterator<Item = (&'a str, &'a str)>) -> Self {
        let mut data = Self::default();
        data.add_row(name, 2, cells);
        data
    }

    /// Adds a row of a file, from column and value, as the line of this number.
    pub fn add_row<'a>(&mut self, name: &str, number: u64, cells: impl IntoIterator<Item = (&'a str, &'a str)>) {
        let Some(file) = file(name) else { return };
        let (titles, values): (Vec<String>, Vec<&str>) =
            cells.into_iter().map(|(title, value)| (title.to_owned(), value.trim())).unzip();
        let mut unknown = Vec::new();
        let told =
            |line: u64, (column, reason): (String, String)| Problem { file: name.to_owned(), line, column, reason };
        match Sheet::begin(file, &titles, &mut unknown) {
            Ok(mut sheet) => match sheet.push(number, |at| Ok(values[at])) {
                Ok(()) => self.sheets.push(sheet),
                Err(wrong) => self.problems.push(told(number, wrong)),
            },
            Err(missing) => self.problems.extend(missing.into_iter().map(|wrong| told(1, wrong))),
        }
        self.unknown_columns.extend(unknown.into_iter().map(|column| (name.to_owned(), column)));
    }

    /// The lines of a file.
    pub fn lines<'a>(&'a self, name: &'a str) -> impl Iterator<Item = Line<'a>> {
        self.sheets.iter().filter(move |sheet| sheet.file.name == name).flat_map(Sheet::lines)
    }

    /// Moves every date by a number of days, as when an example is to lie around today.
    pub fn shift(&mut self, days: i32) {
        let dates: Vec<(FieldOf, String)> = self
            .lines(Kind::Field.about().file)
            .filter(|line| line.cell("kind").parse() == Ok(FieldKind::Date))
            .filter_map(|line| Some((line.cell("of").parse().ok()?, line.cell("name").to_owned())))
            .collect();
        for sheet in &mut self.sheets {
            let of = sheet.file.kind.about().own_fields;
            let is_date = |column: usize| matches!(sheet.file.columns[column].input, Input::Date);
            let own = sheet
                .own
                .iter()
                .filter(|(name, _)| dates.iter().any(|(known, field)| Some(*known) == of && field == name));
            let known =
                (0..sheet.places.len()).filter(|column| is_date(*column)).filter_map(|column| sheet.places[column]);
            let moved: Vec<usize> = known.chain(own.map(|(_, place)| *place)).collect();
            for line in &mut sheet.lines {
                let shifted = |place: usize| {
                    let text = line.at(place);
                    let day = text.parse::<Day>().ok().filter(|_| moved.contains(&place));
                    day.map_or_else(|| text.to_owned(), |day| (day + days).to_string())
                };
                let cells: Vec<String> = (0..line.ends.len()).map(shifted).collect();
                *line = Cells::of(line.line, cells.iter().map(String::as_str));
            }
        }
    }
}
