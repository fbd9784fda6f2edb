//! The `snug-roster` program: the server and its command line.

mod accounts;
mod demo;
mod files;
mod load;
mod network;
mod serve;
mod serving;

use clap::{Args, Parser, Subcommand};
use snug_store::{DatabaseConnection, Keeper};
use std::{process::ExitCode, sync::Arc};

// Keeps the memory of one row for the next, on whatever thread that is computed.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

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
    /// Compute the network of tasks of a folder of CSV files: what is critical, or what a move would change.
    Network(network::NetworkArgs),
    /// Serve the application.
    Serve(serve::ServeArgs),
    /// Bring the database's schema up to date.
    Migrate(Database),
    /// Take over the CSV files of a folder: all of them, or nothing.
    Import(files::ImportArgs),
    /// Write the workspace as CSV files.
    Export(files::ExportArgs),
    /// Make the demo workspace, unless there is one.
    Demo(demo::DemoArgs),
    /// Make an account; the password is read from the standard input.
    User(accounts::UserArgs),
    /// Make a token for programs; it is shown once.
    Token(accounts::TokenArgs),
}

/// Which database.
#[derive(Args)]
struct Database {
    /// Where the database is, as <postgres://user@127.0.0.1:5432/name>.
    #[arg(long = "database", env = "DATABASE_URL", hide_env_values = true)]
    url: String,
}

impl Database {
    async fn open(&self) -> Result<DatabaseConnection, String> {
        snug_store::open(&self.url).await.map_err(|error| explain(&error))
    }

    async fn keeper(&self) -> Result<Arc<Keeper>, String> {
        Keeper::start(self.open().await?).await.map_err(|error| explain(&error))
    }
}

/// An error with its causes; on the command line there is nobody to hide them from.
fn explain(error: &dyn std::error::Error) -> String {
    let mut text = error.to_string();
    let mut cause = error.source();
    while let Some(error) = cause {
        text.push_str(": ");
        text.push_str(&error.to_string());
        cause = error.source();
    }
    text
}

fn main() -> ExitCode {
    let command = Cli::parse().command;
    match &command {
        Command::Load(args) => return finish(load::run(args)),
        Command::Network(args) => return finish(network::run(args)),
        _ => {}
    }
    let runtime = match tokio::runtime::Builder::new_multi_thread().enable_all().build() {
        Ok(runtime) => runtime,
        Err(error) => return finish(Err(error.to_string())),
    };
    finish(runtime.block_on(run(command)))
}

async fn run(command: Command) -> Result<(), String> {
    match command {
        Command::Load(args) => load::run(&args),
        Command::Network(args) => network::run(&args),
        Command::Serve(args) => serve::run(args).await,
        Command::Migrate(database) => database.open().await.map(drop),
        Command::Import(args) => files::import(args).await,
        Command::Export(args) => files::export(args).await,
        Command::Demo(args) => demo::run(args).await,
        Command::User(args) => accounts::user(args).await,
        Command::Token(args) => accounts::token(args).await,
    }
}

fn finish(done: Result<(), String>) -> ExitCode {
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("{problem}");
            ExitCode::FAILURE
        }
    }
}

/// Today by this machine's clock, for commands that have no workspace to ask.
fn today() -> snug_core::Day {
    snug_core::Day::from_date(chrono::Local::now().date_naive())
}
