//! The `snug-roster` program: the server and its command line.

mod accounts;
mod demo;
mod even_out;
mod files;
mod hours;
mod load;
mod network;
mod serve;
mod serving;
mod tuck_in;

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
    #[command(flatten)]
    Table(Table),
    #[command(flatten)]
    Workspace(Workspace),
}

/// What is computed from a folder of CSV files alone; no server and no database needed.
#[derive(Subcommand)]
enum Table {
    /// Compute the load table of a folder of CSV files.
    Load(load::LoadArgs),
    /// Compute the network of tasks of a folder of CSV files: what is critical, or what a move would change.
    Network(network::NetworkArgs),
    /// Put the undated work of a folder of CSV files where it fits, and say why it is not earlier.
    TuckIn(tuck_in::TuckInArgs),
    /// Flatten the weeks of a folder of CSV files that spill, or offer hours again that were booked and not worked.
    EvenOut(even_out::EvenOutArgs),
    /// Hold the estimates of a folder of CSV files against what was logged.
    Actuals(hours::ActualsArgs),
    /// Hold what was booked and planned on past days against what was worked.
    Worked(hours::WorkedArgs),
    /// Compute what work cost, what is billed, and what the work to come will cost.
    Money(hours::MoneyArgs),
    /// How budgets burn, and when they run out.
    Budgets(hours::BudgetsArgs),
    /// Compute the earned value of a project over one of its baselines.
    EarnedValue(hours::EarnedArgs),
    /// Compute by how much estimates of a kind of work, a team or a person are wrong.
    Bias(hours::BiasArgs),
}

impl Table {
    fn print(&self) -> Result<(), String> {
        match self {
            Self::Load(args) => load::run(args),
            Self::Network(args) => network::run(args),
            Self::TuckIn(args) => tuck_in::run(args),
            Self::EvenOut(args) => even_out::run(args),
            Self::Actuals(args) => hours::actuals(args),
            Self::Worked(args) => hours::worked(args),
            Self::Money(args) => hours::money(args),
            Self::Budgets(args) => hours::budgets(args),
            Self::EarnedValue(args) => hours::earned(args),
            Self::Bias(args) => hours::bias(args),
        }
    }
}

/// What is done with a workspace in a database.
#[derive(Subcommand)]
enum Workspace {
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

impl Workspace {
    async fn run(self) -> Result<(), String> {
        match self {
            Self::Serve(args) => serve::run(args).await,
            Self::Migrate(database) => database.open().await.map(drop),
            Self::Import(args) => files::import(args).await,
            Self::Export(args) => files::export(args).await,
            Self::Demo(args) => demo::run(args).await,
            Self::User(args) => accounts::user(args).await,
            Self::Token(args) => accounts::token(args).await,
        }
    }
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
    let workspace = match Cli::parse().command {
        Command::Table(table) => return finish(table.print()),
        Command::Workspace(workspace) => workspace,
    };
    let runtime = match tokio::runtime::Builder::new_multi_thread().enable_all().build() {
        Ok(runtime) => runtime,
        Err(error) => return finish(Err(error.to_string())),
    };
    finish(runtime.block_on(workspace.run()))
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
