//! `snug-roster demo`: the made-up workshop Tidewater Exhibits, moved so that it lies around today.

use crate::{Database, explain, files::take_over};
use clap::Args;
use snug_core::{Command, Day, Role, TaskId, kinds::Kind, network::Mode, settings::Settings};
use snug_exchange::csv::read_folder;
use snug_store::{
    Keeper, accounts,
    drafts::{self, Origin},
};
use snug_web::{Demo, Shelf};
use std::path::PathBuf;

/// Where the demo's files are.
#[derive(Args)]
pub struct DemoArgs {
    /// The folder with the demo's CSV files.
    #[arg(default_value = "demo")]
    dir: PathBuf,
    #[command(flatten)]
    database: Database,
    /// Where what is in files lies; as of <serve>.
    #[arg(long, env = "FILES", default_value = "snug-files")]
    files: Shelf,
    /// The day around which it is to lie; today when left out.
    #[arg(long)]
    today: Option<Day>,
}

/// One password for everybody in the demo, which listens on loopback only.
const PASSWORD: &str = "tidewater-2026";

const ACCOUNTS: [(&str, &str, Role); 5] = [
    ("ada@tidewater.test", "Ada Brandt", Role::Administrator),
    ("mira@tidewater.test", "Mira Castellan", Role::Manager),
    ("teo@tidewater.test", "Teo Lindqvist", Role::Lead),
    ("oona@tidewater.test", "Oona Varga", Role::Member),
    ("guest@tidewater.test", "Guest of the house", Role::Viewer),
];

/// The Monday around which the files were written.
fn anchor() -> Day {
    Day::from_ymd(2026, 3, 9).unwrap_or(Day::MIN)
}

/// What the sign-in page of the demo tells.
pub fn sign_ins() -> Demo {
    let address = |(email, _, role): &(&str, &str, Role)| ((*email).to_owned(), role.to_string());
    Demo { addresses: ACCOUNTS.iter().map(address).collect(), password: PASSWORD.to_owned() }
}

/// Makes the workspace, the accounts and the plan; leaves a workspace that stands as it is.
pub async fn run(args: DemoArgs) -> Result<(), String> {
    let keeper = args.database.keeper().await?;
    if keeper.is_founded() {
        println!("The demo stands already; its data are kept.");
        return Ok(());
    }
    let mut data = read_folder(&args.dir).map_err(|error| explain(&error))?;
    let today = args.today.unwrap_or_else(crate::today);
    data.shift(today.monday().since(anchor()));
    let settings = Settings {
        name: "Tidewater Exhibits".to_owned(),
        levels: vec!["exhibit".to_owned(), "part".to_owned()],
        ..Settings::default()
    };
    keeper.found(settings).await.map_err(|error| explain(&error))?;
    take_over(&keeper, data, "the demo".to_owned(), false).await?;
    for entry in std::fs::read_dir(args.dir.join("files")).map_err(|error| explain(&error))?.flatten() {
        let bytes = std::fs::read(entry.path()).map_err(|error| explain(&error))?;
        let name = entry.file_name().to_string_lossy().into_owned();
        args.files.lay_down(&name, bytes).await.map_err(|error| explain(&error))?;
    }
    for (email, name, role) in ACCOUNTS {
        let made = accounts::create(keeper.db(), email, name, role, PASSWORD.to_owned()).await;
        made.map_err(|error| explain(&error))?;
    }
    try_something(&keeper, today).await
}

/// A shared draft to look at: the casting begins two weeks later, and what follows with it.
async fn try_something(keeper: &Keeper, today: Day) -> Result<(), String> {
    const OWNER: &str = ACCOUNTS[1].0;
    let plan = keeper.plan();
    let casting = plan.find(Kind::Task, "T04").and_then(|id| plan.tasks.get(&TaskId(id)));
    let owner = accounts::by_email(keeper.db(), OWNER).await.map_err(|error| explain(&error))?;
    let (Some((casting, start)), Some(owner)) = (casting.and_then(|task| Some((task, task.start?))), owner) else {
        return Ok(());
    };
    let made = async {
        let origin = Origin::Live(plan.revision);
        let id = drafts::make(keeper.db(), owner.id, ("Casting two weeks later", true), origin, today).await?;
        let tasks = vec![((**casting).clone(), start + 14)];
        if let Some(draft) = keeper.of_draft(id).await? {
            draft.submit(OWNER, Command::MoveTasks { tasks, mode: Mode::Push }, today).await?;
        }
        Ok::<_, snug_store::Error>(())
    };
    made.await.map_err(|error| explain(&error))
}
