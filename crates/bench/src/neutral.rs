//! The neutral benchmark: read its folder into a plan, then compute every person's weeks the way the Fit room does.

use rayon::prelude::*;
use snug_core::{
    AbsenceId, BookingId, Day, HolidayId, PersonId, Plan, ProjectId,
    cells::{Bucket, Cell, Grain},
    change::{Change, Edit},
    demand::Window,
    load::{Group, Measure, Query, person_row},
    people::{Absence, DatedPattern, Holiday, Pattern, Person, PersonKind},
    plan::Entry,
    work::{Amount, Booking, Certainty, Unit, Who},
};
use std::{
    error::Error,
    path::Path,
    time::{Duration, Instant},
};

type Failure = Box<dyn Error>;

/// Reads, computes on one thread and on all, prints seconds and the checksum line.
pub fn run(dir: &Path, runs: usize, table: Option<&Path>) -> Result<(), String> {
    measure(dir, runs, table).map_err(|error| format!("{}: {error}", dir.display()))
}

fn measure(dir: &Path, runs: usize, table: Option<&Path>) -> Result<(), Failure> {
    let started = Instant::now();
    let (plan, query) = read(dir)?;
    println!("read seconds {:.4}", started.elapsed().as_secs_f64());
    let buckets = query.grain.buckets(query.window.from, query.window.to, &plan.settings);
    let people: Vec<&Entry> = plan.people.values().collect();
    let all = rayon::ThreadPoolBuilder::new().build()?;
    let one = rayon::ThreadPoolBuilder::new().num_threads(1).build()?;
    for (name, pool) in [("one thread", &one), ("all threads", &all)] {
        let mut times: Vec<Duration> = Vec::new();
        let mut sums = [0; 4];
        for _ in 0..runs {
            let started = Instant::now();
            let rows: Vec<Vec<Cell>> =
                pool.install(|| people.par_iter().map(|entry| person_row(&plan, entry, &query, &buckets)).collect());
            sums = checksum(&rows);
            times.push(started.elapsed());
        }
        times.sort();
        let median = times.get(times.len() / 2).map_or(0.0, Duration::as_secs_f64);
        println!("compute seconds {median:.4} ({name}, median of {runs})");
        println!("CHECKSUM capacity={} booked={} free={} over={}", sums[0], sums[1], sums[2], sums[3]);
    }
    match table {
        Some(path) => write(path, &plan, &people, &query, &buckets),
        None => Ok(()),
    }
}

fn checksum(rows: &[Vec<Cell>]) -> [i64; 4] {
    rows.iter().flatten().fold([0; 4], |sum, cell| {
        [sum[0] + cell.limit.unwrap_or(0), sum[1] + cell.load, sum[2] + cell.room, sum[3] + cell.peak]
    })
}

fn write(path: &Path, plan: &Plan, people: &[&Entry], query: &Query, buckets: &[Bucket]) -> Result<(), Failure> {
    let mut out = csv::WriterBuilder::new().terminator(csv::Terminator::Any(b'\n')).from_path(path)?;
    out.write_record(["person_id", "week_start", "capacity", "booked", "free", "over"])?;
    for entry in people {
        for (cell, bucket) in person_row(plan, entry, query, buckets).into_iter().zip(buckets) {
            let figures = [cell.limit.unwrap_or(0), cell.load, cell.room, cell.peak].map(|minutes| minutes.to_string());
            let [capacity, booked, free, over] = figures;
            out.write_record([entry.person.name.clone(), bucket.from.to_string(), capacity, booked, free, over])?;
        }
    }
    out.flush().map_err(Into::into)
}

/// Reads the folder into a plan by way of ordinary changes.
fn read(dir: &Path) -> Result<(Plan, Query), Failure> {
    let mut plan = Plan::empty();
    let mut next = 1;
    let mut id = || {
        next += 1;
        next - 1
    };
    let rows = |name: &str| csv::Reader::from_path(dir.join(name));
    let mut window = rows("window.csv")?;
    let first = window.records().next().ok_or("window.csv is empty")??;
    let (from, days): (Day, i32) = (first[0].parse()?, first[1].parse()?);
    let mut people = std::collections::HashMap::new();
    for record in rows("people.csv")?.into_records() {
        let record = record?;
        let person = PersonId(id());
        people.insert(record[0].to_owned(), person);
        let mut week = [0; 7];
        for (minutes, text) in week.iter_mut().zip(record.iter().skip(2)) {
            *minutes = text.parse()?;
        }
        plan.apply(&Change::Person(Edit::new(Person {
            id: person,
            email: format!("{:0>9}@bench.test", &record[0]),
            name: record[0].to_owned(),
            role: String::new(),
            kind: PersonKind::Person,
            calendar: record[1].to_owned(),
            patterns: vec![DatedPattern { from: None, pattern: Pattern(vec![week]) }],
            day_limit: None,
            week_limit: None,
            max_projects: None,
            max_tasks: None,
            max_points: None,
            skills: Vec::new(),
            rates: Vec::new(),
            fields: std::collections::BTreeMap::new(),
        })));
    }
    for record in rows("holidays.csv")?.into_records() {
        let record = record?;
        let (calendar, date) = (record[0].to_owned(), record[1].parse()?);
        let holiday = Holiday { id: HolidayId(id()), calendar, date, name: String::new(), fraction: 1_000_000 };
        plan.apply(&Change::Holiday(Edit::new(holiday)));
    }
    for record in rows("absences.csv")?.into_records() {
        let record = record?;
        plan.apply(&Change::Absence(Edit::new(Absence {
            id: AbsenceId(id()),
            reference: String::new(),
            person: people[&record[0]],
            start: record[1].parse()?,
            end: record[2].parse()?,
            kind: String::new(),
            minutes: None,
            at: None,
        })));
    }
    for record in rows("bookings.csv")?.into_records() {
        let record = record?;
        plan.apply(&Change::Booking(Edit::new(Booking {
            id: BookingId(id()),
            reference: String::new(),
            who: Who::Person(people[&record[1]]),
            project: Some(ProjectId(record[2].parse()?)),
            start: record[3].parse()?,
            end: record[4].parse()?,
            amount: Amount { value: record[5].parse()?, unit: Unit::PerDay },
            certainty: Certainty::Firm,
            days_off: false,
            note: String::new(),
        })));
    }
    let window = Window::new(from, from + (days - 1), from);
    Ok((plan, Query { window, grain: Grain::Week, group: Group::Person, measure: Measure::Minutes }))
}
