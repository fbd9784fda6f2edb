//! What a draft costs: memory for its changes, and how long it takes to hold it against the plan.

use snug_core::{
    Day, Plan,
    change::{Change, Edit},
    drafts::{Side, merged, net},
    even_out::{Flatten, flatten},
    import::preview,
    kinds::{Booking, Unit},
};
use snug_exchange::csv::read_folder;
use std::{
    collections::{BTreeMap, BTreeSet},
    path::Path,
    time::Instant,
};

/// How many drafts are made, so that one is told from what else takes memory.
const DRAFTS: usize = 400;

/// Resident memory of this process, in kilobytes.
fn resident() -> Result<u64, String> {
    let text = std::fs::read_to_string("/proc/self/status").map_err(|error| error.to_string())?;
    let line = text.lines().find_map(|line| line.strip_prefix("VmRSS:")).unwrap_or_default();
    line.trim()
        .trim_end_matches(" kB")
        .parse()
        .map_err(|_| "the system does not tell how much memory is used".to_owned())
}

/// A draft in which so many bookings, spread over everybody, take an hour a day less or more.
fn draft(plan: &Plan, changes: usize, first: usize) -> (Plan, Vec<Change>) {
    let every = (plan.booking_count() / changes.max(1)).max(1);
    let some = plan.bookings().skip(first).step_by(every).take(changes);
    let change = |before: Booking| {
        let mut after = before.clone();
        (after.amount.value, after.amount.unit) = (60, Unit::PerDay);
        Change::Booking(Edit::alter(before, after))
    };
    let changes: Vec<Change> = some.map(change).collect();
    (plan.with(&changes), changes)
}

/// Prints what a draft of a folder's plan takes besides that plan, and how long comparing, merging and flattening take.
pub fn run(dir: &Path, changes: usize, today: Day) -> Result<(), String> {
    let data = read_folder(dir).map_err(|error| error.to_string())?;
    let plan = Plan::empty().with(&preview(&Plan::empty(), &data).changes);
    drop(data);
    let whole = resident()?;
    println!("people {} bookings {}", plan.people.len(), plan.booking_count());
    let drafts: Vec<(Plan, Vec<Change>)> = (0..DRAFTS).map(|at| draft(&plan, changes, at)).collect();
    let each = resident()?.saturating_sub(whole) / DRAFTS as u64;
    println!("draft of {} changes kB {each}", drafts[0].1.len());
    let begun = Instant::now();
    let (one, other) = (Side::of(&plan, today), Side::of(&drafts[0].0, today));
    println!("compared seconds {:.3} over {} and {}", begun.elapsed().as_secs_f64(), one.over.len(), other.over.len());
    let begun = Instant::now();
    let all = merged(&plan, &[], &net(drafts[0].1.clone()), &BTreeMap::new());
    println!("merged seconds {:.3} changes {}", begun.elapsed().as_secs_f64(), all.len());
    let ask = Flatten {
        today,
        people: plan.people.keys().take(40).copied().collect(),
        weeks: (today.monday(), today.monday() + 41),
        pinned: BTreeSet::new(),
        movable: plan.bookings().map(|booking| booking.id).collect(),
    };
    let begun = Instant::now();
    let found = flatten(&plan, &ask, 3_000);
    let sum = |spills: &snug_core::even_out::Spills| spills.values().sum::<i64>() / 60;
    let hours = (sum(&found.before), sum(&found.after));
    println!("flattened seconds {:.3} people 40 hours over {} and {}", begun.elapsed().as_secs_f64(), hours.0, hours.1);
    Ok(())
}
