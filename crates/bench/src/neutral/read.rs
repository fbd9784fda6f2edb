//! Reads the neutral folder into a plan: in one pass of bytes, blocks of lines on all threads, keys told apart once.

use super::{Failure, cursor::Cursor};
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use snug_core::{
    AbsenceId, HolidayId, PersonId, Plan, ProjectId,
    cells::Grain,
    change::{Change, Edit},
    demand::Window,
    load::{Group, Measure, Query},
    people::{Absence, DatedPattern, Holiday, Pattern, Person, PersonKind},
    plan::{Batch, BatchBooking, Brick},
    work::{Certainty, Unit},
};
use std::path::Path;

/// How many bytes of a file one thread takes at a time, to the end of a line.
const BLOCK: usize = 1 << 20;
/// About as long as a line is, in bytes: room for that many lines is made at first.
const USUAL: usize = 40;

/// Reads the folder.
pub fn folder(dir: &Path) -> Result<(Plan, Query), Failure> {
    let file = |name: &str| std::fs::read(dir.join(name)).map_err(|error| format!("{name}: {error}"));
    let mut plan = Plan::empty();
    let window = file("window.csv")?;
    let mut cursor = Cursor::new(body(&window));
    let (from, days) = (cursor.day()?, cursor.number()?);
    let (people_file, mut people) = (file("people.csv")?, Keys::default());
    let mut next = 1;
    let mut cursor = Cursor::new(body(&people_file));
    while cursor.has_line() {
        let (key, region) = (cursor.key(), cursor.key());
        let mut week = [0; 7];
        for slot in &mut week {
            *slot = cursor.number()?;
        }
        let id = PersonId(next);
        next += 1;
        people.insert(key, id);
        plan.apply(&Change::Person(Edit::new(person(id, &text(key)?, &text(region)?, week))));
    }
    let holidays_file = file("holidays.csv")?;
    let mut cursor = Cursor::new(body(&holidays_file));
    while cursor.has_line() {
        let (calendar, date) = (text(cursor.key())?, cursor.day()?);
        let holiday = Holiday { id: HolidayId(next), calendar, date, name: String::new(), fraction: 1_000_000 };
        next += 1;
        plan.apply(&Change::Holiday(Edit::new(holiday)));
    }
    let of = |key: &[u8]| people.get(key).ok_or_else(|| format!("nobody is {}", String::from_utf8_lossy(key)));
    let absences = blocks(&file("absences.csv")?, |line| {
        Ok(Absence {
            id: AbsenceId(0),
            reference: String::new(),
            person: of(line.key())?,
            start: line.day()?,
            end: line.day()?,
            kind: String::new(),
            minutes: None,
            at: None,
        })
    })?;
    let mut absences: Vec<Absence> = absences.into_iter().flatten().collect();
    for absence in &mut absences {
        absence.id = AbsenceId(next);
        next += 1;
    }
    let bookings = blocks(&file("bookings.csv")?, |line| {
        line.key();
        let (person, project) = (of(line.key())?, Some(ProjectId(line.number()?)));
        let (start, end, value) = (line.day()?, line.day()?, line.number()?);
        let (unit, certainty) = (Unit::PerDay, Certainty::Firm);
        let brick = Brick { start, end, value, unit, certainty, days_off: false, hold: false };
        Ok(BatchBooking { person, project, brick })
    })?;
    plan.take_in(Batch { absences, bookings, first: next });
    let window = Window::new(from, from + (days - 1), from);
    Ok((plan, Query { window, grain: Grain::Week, group: Group::Person, measure: Measure::Minutes }))
}

fn person(id: PersonId, key: &str, region: &str, week: [i32; 7]) -> Person {
    Person {
        id,
        email: format!("{key:0>9}@bench.test"),
        name: key.to_owned(),
        role: String::new(),
        kind: PersonKind::Person,
        calendar: region.to_owned(),
        patterns: vec![DatedPattern { from: None, pattern: Pattern(vec![week]) }],
        day_limit: None,
        week_limit: None,
        max_projects: None,
        max_tasks: None,
        max_points: None,
        skills: Vec::new(),
        rates: Vec::new(),
        fields: std::collections::BTreeMap::new(),
    }
}

/// What follows the header.
fn body(file: &[u8]) -> &[u8] {
    file.iter().position(|byte| *byte == b'\n').map_or(&[], |end| &file[end + 1..])
}

/// People by their keys. Short ones, as nearly all are, are numbers themselves.
#[derive(Default)]
struct Keys<'a> {
    short: FxHashMap<u64, PersonId>,
    long: FxHashMap<&'a [u8], PersonId>,
}

impl<'a> Keys<'a> {
    /// The bytes of a key of up to seven, and their number.
    fn packed(key: &[u8]) -> Option<u64> {
        let add = |sum: u64, byte: &u8| sum << 8 | u64::from(*byte);
        (key.len() < 8).then(|| key.iter().fold(u64::try_from(key.len()).unwrap_or(0), add))
    }

    fn insert(&mut self, key: &'a [u8], person: PersonId) {
        match Self::packed(key) {
            Some(short) => self.short.insert(short, person),
            None => self.long.insert(key, person),
        };
    }

    fn get(&self, key: &[u8]) -> Option<PersonId> {
        Self::packed(key).map_or_else(|| self.long.get(key), |short| self.short.get(&short)).copied()
    }
}

/// Reads the lines of a file on all threads, in pieces that keep their order.
fn blocks<T: Send>(
    file: &[u8],
    read: impl Fn(&mut Cursor<'_>) -> Result<T, String> + Sync,
) -> Result<Vec<Vec<T>>, String> {
    let mut rest = body(file);
    let mut pieces = Vec::new();
    while !rest.is_empty() {
        let near = rest.len().min(BLOCK);
        let end = rest[near..].iter().position(|byte| *byte == b'\n').map_or(rest.len(), |at| near + at + 1);
        pieces.push(&rest[..end]);
        rest = &rest[end..];
    }
    let piece = |bytes: &&[u8]| {
        let mut cursor = Cursor::new(bytes);
        let mut found = Vec::with_capacity(bytes.len() / USUAL);
        while cursor.has_line() {
            found.push(read(&mut cursor)?);
        }
        Ok(found)
    };
    pieces.par_iter().map(piece).collect()
}

fn text(cell: &[u8]) -> Result<String, String> {
    String::from_utf8(cell.to_vec()).map_err(|error| error.to_string())
}
