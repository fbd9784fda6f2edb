//! One CSV file while it is read: header, rows and cells, each problem with its place.

use super::columns::{Column, File, OWN};
use csv::{ByteRecord, ReaderBuilder, Trim};
use snug_core::{
    fields::FieldOf,
    import::{Line, Problem},
};
use std::{fmt::Display, io::Read, str::FromStr};

/// The longest line, in bytes. A longer one is no row of ours, and is not taken into memory.
const LONGEST_LINE: usize = 1 << 20;
/// The most problems told of one file; a wrong file has as many as it has lines.
const MOST_PROBLEMS: usize = 200;

/// What is wrong with a cell: its column and the reason.
pub(super) type Wrong = (&'static str, String);

pub(super) fn parsed<T: FromStr<Err: Display>>(text: &str) -> Result<T, String> {
    text.parse().map_err(|error: T::Err| error.to_string())
}

/// One file while it is read.
#[derive(Default)]
pub(super) struct Sheet {
    name: &'static str,
    columns: &'static [Column],
    /// Where each known column stands.
    places: Vec<(&'static str, usize)>,
    /// Where values of the workspace's own fields stand, by the field's name.
    own: Vec<(String, usize)>,
    records: Vec<(u64, ByteRecord)>,
    pub problems: Vec<Problem>,
    pub unknown: Vec<String>,
    left_out: usize,
    /// Whether rows may have values of the workspace's own fields.
    has_own: bool,
}

impl Sheet {
    fn problem(&mut self, line: u64, column: &str, reason: impl Into<String>) {
        if self.problems.len() < MOST_PROBLEMS {
            self.problems.push(Problem {
                file: self.name.to_owned(),
                line,
                column: column.to_owned(),
                reason: reason.into(),
            });
        } else {
            self.left_out += 1;
        }
    }

    /// Reads a whole file; what cannot be read is among the problems.
    pub fn read(file: &'static File, bytes: impl Read) -> Self {
        let mut sheet = Self { name: file.name, columns: file.columns, ..Self::default() };
        sheet.has_own = file.kind.parse::<FieldOf>().is_ok();
        sheet.take(bytes);
        sheet
    }

    fn take(&mut self, bytes: impl Read) {
        let guard = LineGuard { inner: bytes, line: 1, length: 0, too_long: None };
        let mut reader = ReaderBuilder::new().has_headers(false).flexible(true).trim(Trim::All).from_reader(guard);
        let mut record = ByteRecord::new();
        let mut header: Option<ByteRecord> = None;
        loop {
            match reader.read_byte_record(&mut record) {
                Ok(false) => break,
                Ok(true) => {}
                Err(error) => {
                    let (line, reason) = match reader.get_ref().too_long {
                        Some(line) => (
                            line,
                            format!(
                                "is longer than {} kB; no row is, so this is some other kind of file",
                                LONGEST_LINE / 1_024
                            ),
                        ),
                        None => (0, format!("cannot be read: {error}")),
                    };
                    self.records.clear();
                    return self.problem(line, "", reason);
                }
            }
            let line = record.position().map_or(0, csv::Position::line);
            match &header {
                None => {
                    if !self.open(&record) {
                        return;
                    }
                    header = Some(record.clone());
                }
                Some(header) if record == *header => self.problem(line, "", "repeats the header"),
                Some(header) if record.len() != header.len() => {
                    let reason = format!("has {} columns where the header has {}", record.len(), header.len());
                    self.problem(line, "", reason);
                }
                Some(_) => self.records.push((line, record.clone())),
            }
        }
        if header.is_none() {
            self.problem(0, "", "is empty; a header row is expected");
        }
    }

    /// Takes the header row; `false` when nothing can be read by it.
    fn open(&mut self, record: &ByteRecord) -> bool {
        for (place, title) in record.iter().enumerate() {
            let title = String::from_utf8_lossy(title).trim_start_matches('\u{feff}').to_owned();
            if let Some(name) = title.strip_prefix(OWN).filter(|_| self.has_own) {
                if self.own.iter().any(|(known, _)| known == name) {
                    self.problem(1, &title, "stands twice in the header");
                    return false;
                }
                self.own.push((name.to_owned(), place));
                continue;
            }
            match self.columns.iter().map(|(name, _)| *name).find(|known| *known == title) {
                Some(known) if self.places.iter().any(|(column, _)| *column == known) => {
                    self.problem(1, known, "stands twice in the header");
                    return false;
                }
                Some(known) => self.places.push((known, place)),
                None => self.unknown.push(title),
            }
        }
        let needed: Vec<&str> = self.columns.iter().filter(|(_, must)| *must).map(|(name, _)| *name).collect();
        let missing: Vec<&str> =
            needed.iter().copied().filter(|column| !self.places.iter().any(|(known, _)| known == column)).collect();
        for column in &missing {
            let reason = format!("is missing; the header needs {}", needed.join(", "));
            self.problem(1, column, reason);
        }
        missing.is_empty()
    }

    pub fn rows<T>(&mut self, parse: impl Fn(&Row<'_>) -> Result<T, Wrong>) -> Vec<Line<T>> {
        let mut rows = Vec::with_capacity(self.records.len());
        for (line, record) in std::mem::take(&mut self.records) {
            match parse(&Row { record: &record, places: &self.places, own: &self.own }) {
                Ok(row) => rows.push(Line { line, row }),
                Err((column, reason)) => self.problem(line, column, reason),
            }
        }
        if self.left_out > 0 {
            let reason = format!("has {} more lines that cannot be read", self.left_out);
            self.problems.push(Problem { file: self.name.to_owned(), line: 0, column: String::new(), reason });
        }
        rows
    }
}

/// One row while it is read.
pub(super) struct Row<'a> {
    record: &'a ByteRecord,
    places: &'a [(&'static str, usize)],
    own: &'a [(String, usize)],
}

impl Row<'_> {
    /// The cell of a column; empty where the file has no such column.
    fn cell(&self, column: &'static str) -> Result<&str, Wrong> {
        let Some((_, place)) = self.places.iter().find(|(known, _)| *known == column) else { return Ok("") };
        self.at(*place, column)
    }

    fn at(&self, place: usize, column: &'static str) -> Result<&str, Wrong> {
        let bytes = self.record.get(place).unwrap_or_default();
        let text =
            std::str::from_utf8(bytes).map_err(|_| (column, "is no UTF-8; save the file as UTF-8".to_owned()))?;
        if text.contains('\0') { Err((column, "holds a zero byte".to_owned())) } else { Ok(text) }
    }

    /// The values of the workspace's own fields, by the field's name; no empty ones.
    pub fn own(&self) -> Result<Vec<(String, String)>, Wrong> {
        let value = |(name, place): &(String, usize)| Ok((name.clone(), self.at(*place, "fields")?.to_owned()));
        let values = self.own.iter().map(value).collect::<Result<Vec<_>, Wrong>>()?;
        Ok(values.into_iter().filter(|(_, value)| !value.is_empty()).collect())
    }

    pub fn text(&self, column: &'static str) -> Result<String, Wrong> {
        self.cell(column).map(str::to_owned)
    }

    pub fn email(&self, column: &'static str) -> Result<String, Wrong> {
        self.cell(column).map(str::to_ascii_lowercase)
    }

    pub fn filled(&self, column: &'static str) -> Result<String, Wrong> {
        let text = self.text(column)?;
        if text.is_empty() { Err((column, "is empty".to_owned())) } else { Ok(text) }
    }

    pub fn with<T>(&self, column: &'static str, read: impl Fn(&str) -> Result<T, String>) -> Result<T, Wrong> {
        read(self.cell(column)?).map_err(|reason| (column, reason))
    }

    pub fn option<T>(
        &self,
        column: &'static str,
        read: impl Fn(&str) -> Result<T, String>,
    ) -> Result<Option<T>, Wrong> {
        match self.cell(column)? {
            "" => Ok(None),
            text => read(text).map(Some).map_err(|reason| (column, reason)),
        }
    }

    pub fn or<T: FromStr<Err: Display>>(&self, column: &'static str, default: T) -> Result<T, Wrong> {
        Ok(self.option(column, parsed)?.unwrap_or(default))
    }

    pub fn needed<T: FromStr<Err: Display>>(&self, column: &'static str) -> Result<T, Wrong> {
        self.filled(column)?.parse().map_err(|error: T::Err| (column, error.to_string()))
    }
}

/// Passes bytes on until a line is longer than any row can be, so that no file fills the memory.
struct LineGuard<R> {
    inner: R,
    line: u64,
    length: usize,
    too_long: Option<u64>,
}

impl<R: Read> Read for LineGuard<R> {
    fn read(&mut self, buffer: &mut [u8]) -> std::io::Result<usize> {
        let count = self.inner.read(buffer)?;
        for piece in buffer[..count].split_inclusive(|byte| *byte == b'\n') {
            self.length += piece.len();
            if self.length > LONGEST_LINE {
                self.too_long = Some(self.line);
                return Err(std::io::Error::other("a line is too long"));
            }
            if piece.ends_with(b"\n") {
                self.line += 1;
                self.length = 0;
            }
        }
        Ok(count)
    }
}
