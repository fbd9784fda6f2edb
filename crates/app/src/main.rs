//! The `snug-roster` program: the server and its command line.

mod load;

use clap::{Parser, Subcommand};
use std::process::ExitCode;

/// Allocate people's hours across projects, inside everyone's limits.
#[derive(Parser)]
#[command(name = "snug-roster", version)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Compute the load table of a folder of CSV files; no server and no database needed.
    Load(load::LoadArgs),
}

fn main() -> ExitCode {
    let done = match Cli::parse().command {
        Command::Load(args) => load::run(&args),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("{problem}");
            ExitCode::FAILURE
        }
    }
}
