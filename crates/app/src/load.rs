//! `snug-roster load DIR`: from a folder of CSV files to the load table.

use clap::{Args, ValueEnum};
use snug_core::{
    Day, Plan,
    cells::Grain,
    demand::Window,
    import::{self, Problem},
    load::{Group, Measure, Query, table},
};
use snug_exchange::{Form, csv::read_folder, table as text};
use std::{
    fmt::Write as _,
    io::Write as _,
    path::{Path, PathBuf},
    str::FromStr,
};

/// What to compute.
#[derive(Args)]
pub struct LoadArgs {
    /// The folder with people.csv, bookings.csv and the others.
    dir: PathBuf,
    /// First day, as 2026-03-04.
    #[arg(long)]
    from: Day,
    /// Last day.
    #[arg(long)]
    to: Day,
    /// The length of a bucket: day, week, fortnight, month, quarter or fiscal-year.
    #[arg(long, default_value = "week", value_parser = Grain::from_str)]
    by: Grain,
    /// The rows: person, team, role, skill or project.
    #[arg(long, default_value = "person", value_parser = Group::from_str)]
    group: Group,
    /// What is counted: minutes, percent, projects, tasks, points, or `field NAME` for a numeric field of tasks.
    #[arg(long, default_value = "minutes")]
    measure: String,
    /// The day that counts as today; the machine's own date when left out.
    #[arg(long)]
    today: Option<Day>,
    /// How the answer is written.
    #[arg(long, default_value = "table")]
    format: Format,
}

/// How an answer is written.
#[derive(Clone, Copy, ValueEnum)]
pub enum Format {
    /// Columns to read.
    Table,
    /// CSV with a header row.
    Csv,
    /// A list of objects.
    Json,
}

impl Format {
    /// The same for tables that have one shape in every form.
    pub fn form(self) -> Form {
        match self {
            Self::Table => Form::Columns,
            Self::Csv => Form::Csv,
            Self::Json => Form::Json,
        }
    }
}

/// Computes and prints the table.
pub fn run(args: &LoadArgs) -> Result<(), String> {
    if args.to < args.from {
        return Err(format!("--to {} lies before --from {}", args.to, args.from));
    }
    if args.to.since(args.from) > 3_660 {
        return Err("more than ten years are asked for".to_owned());
    }
    if args.dir.is_dir() && !args.dir.join("people.csv").exists() && read_folder(&args.dir).is_ok() {
        return Err(format!(
            "{}: people.csv is missing; without people there is no load to compute",
            args.dir.display()
        ));
    }
    let plan = read_plan(&args.dir)?;
    let today = args.today.unwrap_or_else(crate::today);
    let query = Query {
        window: Window::new(args.from, args.to, today),
        grain: args.by,
        group: args.group,
        measure: Measure::read(&args.measure, &plan).map_err(|error| error.to_string())?,
    };
    let table = table(&plan, &query);
    let out = match args.format {
        Format::Table => text::columns(&table, &query, &plan.settings),
        Format::Csv => text::csv(&table, &query, &plan.settings),
        Format::Json => {
            serde_json::to_string_pretty(&text::figures(&table, &query, &plan.settings))
                .map_err(|error| error.to_string())?
                + "\n"
        }
    };
    // A reader that closes early (head) is no failure.
    let _ = std::io::stdout().write_all(out.as_bytes());
    Ok(())
}

/// The plan that the files of a folder say, complaining of columns that are not known.
///
/// # Errors
/// The folder cannot be read, or what is wrong with its rows.
pub fn read_plan(dir: &Path) -> Result<Plan, String> {
    let data = read_folder(dir).map_err(|error| error.to_string())?;
    let preview = import::preview(&Plan::empty(), &data);
    for (file, column) in &preview.unknown_columns {
        eprintln!("{file}: the column “{column}” is not known and was left out");
    }
    if !preview.problems.is_empty() {
        return Err(list(&preview.problems));
    }
    Ok(Plan::empty().with(&preview.changes))
}

/// Problems, one a line, with a closing sentence.
pub fn list(problems: &[Problem]) -> String {
    let mut out = String::new();
    for problem in problems {
        let _ = writeln!(out, "{problem}");
    }
    let _ = write!(
        out,
        "{} cannot be taken; nothing was changed",
        if problems.len() == 1 { "One row".to_owned() } else { format!("{} rows", problems.len()) }
    );
    out
}
