//! The neutral benchmark: read its folder into a plan, then compute every person's weeks the way the Fit room does.

mod cursor;
mod pieces;
mod read;

use rayon::prelude::*;
use snug_core::{
    Plan,
    cells::{Bucket, PersonCell},
    load::{Query, append_person_row, person_row},
    plan::Entry,
};
use std::{
    error::Error,
    path::Path,
    time::{Duration, Instant},
};

type Failure = Box<dyn Error>;

/// Capacity, booked, free and over, in minutes.
type Sums = [i64; 4];

/// How many people's rows lie in one piece of memory.
const TOGETHER: usize = 64;

/// Reads, computes on one thread and on all, prints seconds and the checksum line.
pub fn run(dir: &Path, runs: usize, table: Option<&Path>) -> Result<(), String> {
    measure(dir, runs, table).map_err(|error| format!("{}: {error}", dir.display()))
}

fn measure(dir: &Path, runs: usize, table: Option<&Path>) -> Result<(), Failure> {
    let started = Instant::now();
    let (plan, query) = read::folder(dir)?;
    let mut reading = vec![started.elapsed()];
    let buckets = query.grain.buckets(query.window.from, query.window.to, &plan.settings);
    let people: Vec<&Entry> = plan.people.values().collect();
    // The memory of the table is kept from one computation to the next, as a server's is.
    let mut table_rows: Vec<(Vec<PersonCell>, Sums)> = people.chunks(TOGETHER).map(|_| Default::default()).collect();
    let compute = |(people, (rows, sums)): (&[&Entry], &mut (Vec<PersonCell>, Sums))| {
        rows.clear();
        rows.reserve(people.len() * buckets.len());
        for entry in people {
            append_person_row(&plan, entry, &query, &buckets, rows);
        }
        *sums = checksum(rows);
    };
    let all = rayon::ThreadPoolBuilder::new().build()?;
    let one = rayon::ThreadPoolBuilder::new().num_threads(1).build()?;
    for (name, pool) in [("one thread", &one), ("all threads", &all)] {
        let mut times: Vec<Duration> = Vec::new();
        let mut sums = [0; 4];
        for _ in 0..runs {
            let started = Instant::now();
            pool.install(|| people.par_chunks(TOGETHER).zip(&mut table_rows).for_each(compute));
            sums = table_rows.iter().fold([0; 4], |sum, (_, part)| added(sum, *part));
            times.push(started.elapsed());
        }
        println!("compute seconds {:.5} ({name}, median of {runs})", median(&mut times));
        println!("CHECKSUM capacity={} booked={} free={} over={}", sums[0], sums[1], sums[2], sums[3]);
    }
    for _ in 1..runs.min(5) {
        let started = Instant::now();
        let again = read::folder(dir)?;
        reading.push(started.elapsed());
        drop(again);
    }
    println!("read seconds {:.4} (median of {})", median(&mut reading), reading.len());
    match table {
        Some(path) => write(path, &plan, &people, &query, &buckets),
        None => Ok(()),
    }
}

fn median(times: &mut [Duration]) -> f64 {
    times.sort();
    times.get(times.len() / 2).map_or(0.0, Duration::as_secs_f64)
}

fn checksum(rows: &[PersonCell]) -> Sums {
    let figures = |cell: &PersonCell| [cell.limit, cell.load, cell.room(), cell.peak].map(i64::from);
    rows.iter().map(figures).fold([0; 4], added)
}

fn added(a: Sums, b: Sums) -> Sums {
    std::array::from_fn(|at| a[at] + b[at])
}

fn write(path: &Path, plan: &Plan, people: &[&Entry], query: &Query, buckets: &[Bucket]) -> Result<(), Failure> {
    let mut out = csv::WriterBuilder::new().terminator(csv::Terminator::Any(b'\n')).from_path(path)?;
    out.write_record(["person_id", "week_start", "capacity", "booked", "free", "over"])?;
    for entry in people {
        for (cell, bucket) in person_row(plan, entry, query, buckets).into_iter().zip(buckets) {
            let figures = [cell.limit, cell.load, cell.room(), cell.peak].map(|minutes| minutes.to_string());
            let [capacity, booked, free, over] = figures;
            out.write_record([entry.person.name.clone(), bucket.from.to_string(), capacity, booked, free, over])?;
        }
    }
    out.flush().map_err(Into::into)
}
