//! `snug-roster network DIR`: from a folder of CSV files to the two passes over its tasks, or to what a move would change.

use crate::load::{Format, read_plan};
use clap::Args;
use snug_core::{
    Day, Plan, TaskId,
    kinds::Kind,
    network::{Ground, Mode, figures, moved},
};
use snug_exchange::network::{moves, passes};
use std::{io::Write as _, path::PathBuf, str::FromStr};

/// What to compute.
#[derive(Args)]
pub struct NetworkArgs {
    /// The folder with tasks.csv, links.csv and the others.
    dir: PathBuf,
    /// The day that counts as today; the machine's own date when left out.
    #[arg(long)]
    today: Option<Day>,
    /// Which tasks go to which days, as `T07=2026-03-23,T09=2026-03-30`; the passes when left out.
    #[arg(long = "move", value_delimiter = ',')]
    moves: Vec<String>,
    /// What a move does to what follows: push or carry; or which end of one leaf moves alone: start or finish.
    #[arg(long, default_value = "push", value_parser = Mode::from_str)]
    mode: Mode,
    /// How the answer is written.
    #[arg(long, default_value = "table")]
    format: Format,
}

/// Computes and prints the table.
pub fn run(args: &NetworkArgs) -> Result<(), String> {
    let plan = read_plan(&args.dir)?;
    let today = args.today.unwrap_or_else(crate::today);
    let form = args.format.form();
    let out = if args.moves.is_empty() {
        passes(&plan, &figures(&plan, today), form)
    } else {
        let wanted: Vec<(TaskId, Day)> = args.moves.iter().map(|it| wanted(&plan, it)).collect::<Result<_, _>>()?;
        moves(&plan, &moved(&Ground::new(&plan, today), &wanted, args.mode), form)
    };
    // A reader that closes early (head) is no failure.
    let _ = std::io::stdout().write_all(out.as_bytes());
    Ok(())
}

/// `T07=2026-03-23`: a task and a day.
fn wanted(plan: &Plan, text: &str) -> Result<(TaskId, Day), String> {
    let (name, day) =
        text.rsplit_once('=').ok_or_else(|| format!("“{text}” names no day; write it as T07=2026-03-23"))?;
    let task = plan.find(Kind::Task, name).ok_or_else(|| format!("there is no task “{name}”"))?;
    Ok((TaskId(task), day.parse().map_err(|error: snug_core::NoDay| error.to_string())?))
}
