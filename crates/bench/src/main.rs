//! Benchmarks and generators. Every benchmark calls the computation that the application calls.

mod neutral;

use clap::{Parser, Subcommand};
use std::{path::PathBuf, process::ExitCode};

#[derive(Parser)]
#[command(name = "snug-bench")]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// The load matrix of a folder in the neutral layout: window.csv, people.csv, holidays.csv, absences.csv, bookings.csv.
    Load {
        /// The folder.
        dir: PathBuf,
        /// How often the computation is timed; the median is printed.
        #[arg(long, default_value_t = 3)]
        runs: usize,
        /// Also write the whole table of people and weeks as CSV here (not timed).
        #[arg(long)]
        table: Option<PathBuf>,
    },
}

fn main() -> ExitCode {
    let done = match Cli::parse().command {
        Command::Load { dir, runs, table } => neutral::run(&dir, runs.max(1), table.as_deref()),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("{problem}");
            ExitCode::FAILURE
        }
    }
}
