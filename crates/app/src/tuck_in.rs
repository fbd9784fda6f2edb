//! `snug-roster tuck-in DIR`: from a folder of CSV files to where its work fits.

use crate::load::{Format, read_plan};
use clap::{ArgGroup, Args};
use snug_core::{
    Day, Plan,
    kinds::Kind,
    tuck_in::{AHEAD, Ask, MayDate, MayGive, Scope, propose},
};
use snug_exchange::tuck_in::{proposal, rewritten};
use std::{
    fs,
    io::Write as _,
    path::{Path, PathBuf},
    str::FromStr,
    time::{Duration, Instant},
};

/// What to place.
#[derive(Args)]
#[command(group = ArgGroup::new("box").multiple(false))]
pub struct TuckInArgs {
    /// The folder with tasks.csv, people.csv and the others.
    dir: PathBuf,
    /// The day that counts as today; the machine's own date when left out.
    #[arg(long)]
    today: Option<Day>,
    /// What is placed: `all`, or a list as `task:T07,project:MILL,team:shop`.
    #[arg(long, default_value = "all", value_delimiter = ',')]
    scope: Vec<String>,
    /// Which dates may change: only empty ones, or all that are not pinned.
    #[arg(long, default_value = "empty", value_parser = MayDate::from_str)]
    dates: MayDate,
    /// Which people may change: keep all, choose only where nobody is named (empty), or choose for work of one, too.
    #[arg(long, default_value = "empty", value_parser = MayGive::from_str)]
    people: MayGive,
    /// The last day; a year from today when left out.
    #[arg(long)]
    until: Option<Day>,
    /// How long it may search.
    #[arg(long, default_value_t = 1.0, group = "box")]
    seconds: f64,
    /// How many schedules it may try, in place of the time: the answer is then the same on every machine.
    #[arg(long, group = "box")]
    steps: Option<u64>,
    /// Another one may give another answer that is as good.
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// How the answer is written.
    #[arg(long, default_value = "table")]
    format: Format,
    /// A folder into which the files are copied with the answer in them.
    #[arg(long)]
    write: Option<PathBuf>,
}

/// Places the work, prints the answer, and writes the files where that is asked for.
pub fn run(args: &TuckInArgs) -> Result<(), String> {
    let begun = Instant::now();
    let plan = read_plan(&args.dir)?;
    let today = args.today.unwrap_or_else(crate::today);
    let until = args.until.unwrap_or(today + AHEAD);
    if !Ask::may_end(today, until) {
        return Err(format!("--until {until} is not within ten years from {today} on"));
    }
    let ask =
        Ask { until, scope: scope(&plan, &args.scope)?, dates: args.dates, people: args.people, ..Ask::new(today) };
    let seconds = Duration::try_from_secs_f64(args.seconds).map_err(|_| "--seconds is no length of time".to_owned())?;
    let found = propose(&plan, &ask, args.seed, &mut |progress| match args.steps {
        Some(steps) => progress.steps < steps,
        None => begun.elapsed() < seconds,
    });
    let found = found.map_err(|refusal| refusal.message)?;
    if let Some(to) = &args.write {
        let text = fs::read_to_string(args.dir.join("tasks.csv")).map_err(|error| format!("tasks.csv: {error}"))?;
        let text = rewritten(&text, &plan, &found)?;
        copied(&args.dir, to, &text).map_err(|error| format!("{}: {error}", to.display()))?;
    }
    // A reader that closes early (head) is no failure.
    let _ = std::io::stdout().write_all(proposal(&plan, &found, args.format.form()).as_bytes());
    Ok(())
}

/// The files of a folder in another one, with another tasks.csv.
fn copied(from: &Path, to: &Path, tasks: &str) -> std::io::Result<()> {
    fs::create_dir_all(to)?;
    for entry in fs::read_dir(from)? {
        let path = entry?.path();
        let is_table = path.extension().is_some_and(|end| end == "csv");
        if let (true, Some(name)) = (is_table && path.is_file(), path.file_name()) {
            // Not as a copy: the original may be such as nobody may write.
            fs::write(to.join(name), fs::read(&path)?)?;
        }
    }
    fs::write(to.join("tasks.csv"), tasks)
}

/// `all`, or a list of `task:REF`, `project:CODE` and `team:CODE`.
fn scope(plan: &Plan, words: &[String]) -> Result<Scope, String> {
    let mut scope = Scope::default();
    if words == ["all"] {
        return Ok(scope);
    }
    for word in words {
        let (kind, key) = word
            .split_once(':')
            .ok_or_else(|| format!("“{word}” is no scope; write all, or a list as task:T07,project:MILL,team:shop"))?;
        let find = |kind: Kind| plan.find(kind, key).ok_or_else(|| format!("there is no {word}"));
        match kind {
            "task" => scope.tasks.push(snug_core::TaskId(find(Kind::Task)?)),
            "project" => scope.projects.push(snug_core::ProjectId(find(Kind::Project)?)),
            "team" => scope.teams.push(snug_core::TeamId(find(Kind::Team)?)),
            _ => return Err(format!("“{kind}” is no kind of scope; there are task, project and team")),
        }
    }
    Ok(scope)
}
