//! Benchmarks and generators. Every benchmark calls the computation that the application calls.

// As in the application.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

mod drafts;
mod hours;
mod neutral;
mod pages;
mod schedule;
mod tuck_in;
mod workspace;

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
    /// Makes up a workspace as CSV files: people, teams, projects, tasks and bookings, the same for the same numbers.
    Workspace {
        /// Where the files go.
        dir: PathBuf,
        /// How many people; six bookings and three tasks each.
        #[arg(long, default_value_t = 10_000)]
        people: usize,
        /// How many entries of logged work they have among them.
        #[arg(long, default_value_t = 0)]
        entries: usize,
    },
    /// Places undated work of a made-up workspace, and prints how long that took.
    TuckIn {
        /// How many tasks.
        #[arg(long, default_value_t = 10_000)]
        tasks: usize,
        /// How many people.
        #[arg(long, default_value_t = 500)]
        people: usize,
        /// How long to search.
        #[arg(long, default_value_t = 1.0)]
        seconds: f64,
    },
    /// What drafts of such a workspace cost, and how long it takes to compare and to merge one, and to flatten a team's weeks.
    Drafts {
        /// The folder with the workspace.
        dir: PathBuf,
        /// How many bookings are changed in a draft.
        #[arg(long, default_value_t = 500)]
        changes: usize,
        /// The day that counts as today.
        #[arg(long, default_value = "2026-03-11")]
        today: snug_core::Day,
    },
    /// Times the Hours room at a server that holds such a workspace with entries, and prints rows of a table.
    Hours {
        /// Where the server is.
        url: String,
        /// The account that signs in.
        #[arg(long, default_value = "bench@example.test")]
        email: String,
        /// Its password.
        #[arg(long)]
        password: String,
        /// How often each page is read.
        #[arg(long, default_value_t = 20)]
        times: usize,
    },
    /// Schedules the instances of a folder in the `.sm` layout, and prints a row each: name, last finish, lower bound, passes.
    Schedule {
        /// The folder.
        folder: PathBuf,
        /// For each instance.
        #[arg(long, default_value_t = 5.0)]
        seconds: f64,
        /// The same seed finds the same in the same passes.
        #[arg(long, default_value_t = 1)]
        seed: u64,
        /// So many searches side by side.
        #[arg(long, default_value_t = 1)]
        threads: u64,
        /// Where the schedules go, a file each.
        #[arg(long)]
        out: Option<PathBuf>,
    },
    /// Times what a planner does at a server that holds such a workspace, and prints rows of a table.
    Pages {
        /// Where the server is.
        url: String,
        /// The account that signs in.
        #[arg(long, default_value = "bench@example.test")]
        email: String,
        /// Its password.
        #[arg(long)]
        password: String,
        /// How often each thing is done.
        #[arg(long, default_value_t = 200)]
        times: usize,
    },
}

fn main() -> ExitCode {
    let done = match Cli::parse().command {
        Command::Load { dir, runs, table } => neutral::run(&dir, runs.max(1), table.as_deref()),
        Command::Workspace { dir, people, entries } => workspace::write(&dir, people, entries),
        Command::Schedule { folder, seconds, seed, threads, out } => {
            schedule::run(&schedule::Asked { folder: &folder, seconds, seed, threads, out: out.as_deref() })
        }
        Command::Drafts { dir, changes, today } => drafts::run(&dir, changes, today),
        Command::TuckIn { tasks, people, seconds } => tuck_in::run(tasks, people, seconds),
        Command::Hours { url, email, password, times } => hours::run(&url, &email, &password, times.max(1)),
        Command::Pages { url, email, password, times } => pages::run(&url, &email, &password, times.max(1)),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("{problem}");
            ExitCode::FAILURE
        }
    }
}
