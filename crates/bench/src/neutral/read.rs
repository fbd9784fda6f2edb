//! Reads the neutral folder into a plan, on all threads.

use super::{
    Failure,
    cursor::Cursor,
    pieces::{body, pieces},
};
use rustc_hash::FxHashMap;
use snug_core::{
    AbsenceId, HolidayId, PersonId, Plan, ProjectId,
    cells::Grain,
    change::{Change, Edit},
    demand::Window,
    kinds::{Absence, DatedPattern, Holiday, Pattern, Person, PersonKind, Unit},
    load::{Group, Measure, Query},
    plan::{Batch, BatchBooking, Brick, Marks},
};
use std::path::Path;

/// Reads the folder.
pub fn folder(dir: &Path) -> Result<(Plan, Query), Failure> {
    let file = |name: &str| std::fs::read(dir.join(name)).map_err(|error| format!("{name}: {error}"));
    let window = file("window.csv")?;
    let mut cursor = Cursor::new(body(&window));
    let (from, days) = (cursor.day()?, cursor.number()?);
    let people_file = file("people.csv")?;
    let keys = keys(&people_file);
    let holidays = file("holidays.csv")?;
    let of = |key: &[u8]| keys.get(key).ok_or_else(|| format!("nobody is {}", String::from_utf8_lossy(key)));
    // Whose something is one tells by the keys alone, so that the people may come into the plan meanwhile.
    let (plan, records) = rayon::join(|| plan_of(&people_file, &holidays), || records(dir, of));
    let (mut plan, (absences, bookings)) = (plan?, records?);
    plan.take_in(Batch { absences, bookings, first: plan.next_id() });
    let window = Window::new(from, from + (days - 1), from);
    Ok((plan, Query { window, grain: Grain::Week, group: Group::Person, measure: Measure::Minutes }))
}

/// The people's keys, numbered from 1 on.
fn keys(file: &[u8]) -> Keys<'_> {
    let mut keys = Keys::default();
    let mut cursor = Cursor::new(body(file));
    for number in 1.. {
        if !cursor.has_line() {
            break;
        }
        keys.insert(cursor.key(), PersonId(number));
        cursor.skip_line();
    }
    keys
}

fn plan_of(people: &[u8], holidays: &[u8]) -> Result<Plan, String> {
    let mut plan = Plan::empty();
    let mut cursor = Cursor::new(body(people));
    while cursor.has_line() {
        let (key, region) = (cursor.key(), cursor.key());
        let mut week = [0; 7];
        for minutes in &mut week {
            *minutes = cursor.number()?;
        }
        let person = person(PersonId(plan.next_id()), &text(key)?, &text(region)?, week);
        plan.apply(&Change::Person(Edit::new(person)));
    }
    let mut cursor = Cursor::new(body(holidays));
    while cursor.has_line() {
        let (calendar, date, id) = (text(cursor.key())?, cursor.day()?, HolidayId(plan.next_id()));
        let holiday = Holiday { id, calendar, date, name: String::new(), fraction: 1_000_000 };
        plan.apply(&Change::Holiday(Edit::new(holiday)));
    }
    Ok(plan)
}

type Pieces<T> = Vec<Vec<T>>;

fn records(
    dir: &Path,
    of: impl Fn(&[u8]) -> Result<PersonId, String> + Sync,
) -> Result<(Pieces<Absence>, Pieces<BatchBooking>), String> {
    let absences = pieces(&dir.join("absences.csv"), |line| {
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
    let bookings = pieces(&dir.join("bookings.csv"), |line| {
        line.key();
        let (person, project) = (of(line.key())?, Some(ProjectId(line.number()?)));
        let (start, end, value) = (line.day()?, line.day()?, line.number()?);
        let brick = Brick { start, end, value, unit: Unit::PerDay, marks: Marks::empty() };
        Ok(BatchBooking { person, project, brick })
    })?;
    Ok((absences, bookings))
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

/// People by their keys. Small numbers, as most are, are places in a list.
#[derive(Default)]
struct Keys<'a> {
    /// 0 for nobody.
    small: Vec<i32>,
    others: FxHashMap<&'a [u8], PersonId>,
}

/// The list of small numbers is no longer than this.
const SMALL: usize = 1 << 20;

impl<'a> Keys<'a> {
    /// The number that a key is, if it is a small one as numbers are written.
    fn small(key: &[u8]) -> Option<usize> {
        let digits = |sum: usize, byte: &u8| byte.is_ascii_digit().then(|| sum * 10 + usize::from(byte - b'0'));
        let number = if key.len() < 8 { key.iter().try_fold(0, digits) } else { None };
        number.filter(|number| *number > 0 && *number < SMALL && key[0] != b'0')
    }

    fn insert(&mut self, key: &'a [u8], person: PersonId) {
        if let Some(number) = Self::small(key) {
            self.small.resize(self.small.len().max(number + 1), 0);
            self.small[number] = person.0;
        } else {
            self.others.insert(key, person);
        }
    }

    fn get(&self, key: &[u8]) -> Option<PersonId> {
        match Self::small(key) {
            Some(number) => self.small.get(number).filter(|id| **id != 0).map(|id| PersonId(*id)),
            None => self.others.get(key).copied(),
        }
    }
}

fn text(cell: &[u8]) -> Result<String, String> {
    String::from_utf8(cell.to_vec()).map_err(|error| error.to_string())
}
