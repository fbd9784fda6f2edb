//! `snug-roster actuals | worked | money | budgets | earned-value | bias DIR`: from a folder of CSV files to the tables of the Hours room.

use crate::load::{Format, read_plan};
use clap::Args;
use snug_core::{
    Day, Plan,
    hours::{
        By, Cut,
        actuals::{self, Asked},
        bias::{self, Of},
        burn, earned, money, worked,
    },
    kinds::{BaselineId, BaselineKind, Kind},
};
use snug_exchange::hours as text;
use std::{io::Write as _, path::PathBuf, str::FromStr};

/// What every one of these tables is made from.
#[derive(Args)]
struct From {
    /// The folder with people.csv, tasks.csv, time.csv and the others.
    dir: PathBuf,
    /// The day that counts as today; the machine's own date when left out.
    #[arg(long)]
    today: Option<Day>,
    /// How the answer is written.
    #[arg(long, default_value = "table")]
    format: Format,
}

impl From {
    fn today(&self) -> Day {
        self.today.unwrap_or_else(crate::today)
    }

    fn plan(&self) -> Result<Plan, String> {
        read_plan(&self.dir)
    }
}

/// Estimate against actual.
#[derive(Args)]
pub struct ActualsArgs {
    #[command(flatten)]
    from_files: From,
    /// The rows: task, project, person, team, role, kind, tag or level.
    #[arg(long, value_parser = By::from_str)]
    by: By,
    /// The first day whose time counts.
    #[arg(long)]
    from: Option<Day>,
    /// The last day whose time counts.
    #[arg(long)]
    to: Option<Day>,
}

/// Planned against worked.
#[derive(Args)]
pub struct WorkedArgs {
    #[command(flatten)]
    from_files: From,
    /// The first day.
    #[arg(long)]
    from: Day,
    /// The last day; days from today on have not been worked yet.
    #[arg(long)]
    to: Day,
}

/// What work costs and what is billed.
#[derive(Args)]
pub struct MoneyArgs {
    #[command(flatten)]
    from_files: From,
}

/// How budgets burn, and when they run out.
#[derive(Args)]
pub struct BudgetsArgs {
    #[command(flatten)]
    from_files: From,
}

/// Earned value over a baseline of a project.
#[derive(Args)]
pub struct EarnedArgs {
    #[command(flatten)]
    from_files: From,
    /// The code of the baseline.
    #[arg(long)]
    baseline: String,
    /// The figures of today in place of the weeks.
    #[arg(long)]
    figures: bool,
}

/// By how much estimates are wrong.
#[derive(Args)]
pub struct BiasArgs {
    #[command(flatten)]
    from_files: From,
    /// The rows: kind, team or person.
    #[arg(long, value_parser = Of::from_str)]
    by: Of,
}

fn print(out: &str) {
    // A reader that closes early (head) is no failure.
    let _ = std::io::stdout().write_all(out.as_bytes());
}

fn in_order(from: Option<Day>, to: Option<Day>) -> Result<(), String> {
    match (from, to) {
        (Some(from), Some(to)) if to < from => Err(format!("--to {to} lies before --from {from}")),
        _ => Ok(()),
    }
}

/// Prints estimate against actual.
pub fn actuals(args: &ActualsArgs) -> Result<(), String> {
    in_order(args.from, args.to)?;
    let plan = args.from_files.plan()?;
    let cut = Cut { from: args.from, to: args.to };
    let rows = actuals::table(&plan, args.by, Asked { cut, project: None });
    print(&text::actuals(&plan, &rows, cut != Cut::ALL, args.from_files.format.form()));
    Ok(())
}

/// Prints planned against worked.
pub fn worked(args: &WorkedArgs) -> Result<(), String> {
    in_order(Some(args.from), Some(args.to))?;
    if args.to.since(args.from) > 3_660 {
        return Err("more than ten years are asked for".to_owned());
    }
    let plan = args.from_files.plan()?;
    let rows = worked::table(&plan, (args.from, args.to), args.from_files.today());
    print(&text::worked(&plan, &rows, args.from_files.format.form()));
    Ok(())
}

/// Prints how budgets burn.
pub fn budgets(args: &BudgetsArgs) -> Result<(), String> {
    let (plan, today) = (args.from_files.plan()?, args.from_files.today());
    print(&text::budgets(&plan, &burn::table(&plan, today), today, true, args.from_files.format.form()));
    Ok(())
}

/// Prints what work costs.
pub fn money(args: &MoneyArgs) -> Result<(), String> {
    let plan = args.from_files.plan()?;
    let rows = money::table(&plan, args.from_files.today());
    print(&text::money(&plan, &rows, args.from_files.format.form()));
    Ok(())
}

/// Prints earned value.
pub fn earned(args: &EarnedArgs) -> Result<(), String> {
    let plan = args.from_files.plan()?;
    let code = &args.baseline;
    let id = plan.find(Kind::Baseline, code).map(BaselineId).ok_or_else(|| format!("there is no baseline “{code}”"))?;
    let baseline = &plan.records.baselines[&id];
    if baseline.kind != BaselineKind::Project {
        return Err(format!("“{code}” is a baseline of a {}; earned value is that of a project", baseline.kind));
    }
    let earned = earned::earned(&plan, baseline, args.from_files.today());
    let form = args.from_files.format.form();
    print(&if args.figures { text::earned_figures(&earned, form) } else { text::earned(&earned, form) });
    Ok(())
}

/// Prints by how much estimates are wrong.
pub fn bias(args: &BiasArgs) -> Result<(), String> {
    let plan = args.from_files.plan()?;
    print(&text::bias(&plan, &bias::table(&plan, args.by), args.from_files.format.form()));
    Ok(())
}
