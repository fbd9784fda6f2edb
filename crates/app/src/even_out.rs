//! `snug-roster even-out DIR`: from a folder of CSV files to flatter weeks, or to where unworked hours are offered again.

use crate::load::{Format, read_plan};
use clap::{Args, ValueEnum};
use snug_core::{
    BookingId, Day, PersonId, Plan, TaskId,
    even_out::{Flatten, Offered, Unworked, flatten, in_turn, until, unworked},
    kinds::Kind,
};
use snug_exchange::even_out::{self as tables, moves, spill};
use std::{collections::BTreeSet, io::Write as _, path::PathBuf};

/// Which table.
#[derive(Clone, Copy, ValueEnum)]
enum Table {
    /// What moves so that weeks are flatter.
    Moves,
    /// What is over in each week, before and after.
    Spill,
    /// Where hours are offered again that were booked and not worked.
    Unworked,
}

/// What is to be evened out.
#[derive(Args)]
pub struct EvenOutArgs {
    /// The folder with people.csv, bookings.csv, tasks.csv and the others.
    dir: PathBuf,
    /// The day that counts as today; the machine's own date when left out.
    #[arg(long)]
    today: Option<Day>,
    /// Which table is printed.
    #[arg(long, default_value = "moves")]
    table: Table,
    /// Whose weeks: e-mail addresses with commas between; everybody's when left out.
    #[arg(long, value_delimiter = ',')]
    people: Vec<String>,
    /// A day of the first week; this week when left out.
    #[arg(long)]
    from: Option<Day>,
    /// How many weeks: to come, or of unworked hours past ones.
    #[arg(long, default_value_t = 6, value_parser = clap::value_parser!(i32).range(1..=104))]
    weeks: i32,
    /// Which bookings may be cut into weeks: `all`, or references with commas between; none when left out.
    #[arg(long, value_delimiter = ',')]
    cut: Vec<String>,
    /// Tasks that stay, by reference with commas between.
    #[arg(long, value_delimiter = ',')]
    pin: Vec<String>,
    /// Until when hours are offered; the end of the booking, or of the project, when left out.
    #[arg(long)]
    until: Option<Day>,
    /// How many other places are looked at.
    #[arg(long, default_value_t = 3_000)]
    steps: u64,
    /// How the answer is written.
    #[arg(long, default_value = "table")]
    format: Format,
}

/// Evens out, and prints a table of it.
pub fn run(args: &EvenOutArgs) -> Result<(), String> {
    let plan = read_plan(&args.dir)?;
    let today = args.today.unwrap_or_else(crate::today);
    let found = |kind: Kind, key: &String| {
        plan.find(kind, key).ok_or_else(|| format!("there is no {} {key}", kind.about().words.0))
    };
    let people: BTreeSet<PersonId> = if args.people.is_empty() {
        plan.people.keys().copied().collect()
    } else {
        args.people.iter().map(|key| found(Kind::Person, key).map(PersonId)).collect::<Result<_, _>>()?
    };
    let form = args.format.form();
    let text = if let Table::Unworked = args.table {
        tables::unworked(&plan, &offers(&plan, &people, args, today), form)
    } else {
        let from = args.from.unwrap_or(today).max(today).monday();
        let ask = Flatten {
            today,
            people,
            weeks: (from, from + 7 * args.weeks - 1),
            pinned: args.pin.iter().map(|key| found(Kind::Task, key).map(TaskId)).collect::<Result<_, _>>()?,
            movable: movable(&plan, &args.cut)?,
        };
        let evened = flatten(&plan, &ask, args.steps);
        if let Table::Spill = args.table { spill(&plan, &evened, form) } else { moves(&plan, &evened, form) }
    };
    // A reader that closes early (head) is no failure.
    let _ = std::io::stdout().write_all(text.as_bytes());
    Ok(())
}

fn movable(plan: &Plan, cut: &[String]) -> Result<BTreeSet<BookingId>, String> {
    if cut == ["all"] {
        return Ok(plan.bookings().map(|booking| booking.id).collect());
    }
    let find =
        |key: &String| plan.find(Kind::Booking, key).map(BookingId).ok_or_else(|| format!("there is no booking {key}"));
    cut.iter().map(find).collect()
}

/// What each did not work in the weeks before today, the largest first, offered in the room that those before it leave.
fn offers(plan: &Plan, people: &BTreeSet<PersonId>, args: &EvenOutArgs, today: Day) -> Vec<(Unworked, Offered)> {
    let past = (today.monday() - 7 * args.weeks, today - 1);
    let all = unworked(plan, people.iter().copied(), past, today).into_iter();
    in_turn(plan, all.map(|of| (of, args.until.or_else(|| until(plan, of, today)))), today)
}
