//! `snug-roster import` and `snug-roster export`.

use crate::{Database, explain, load::list};
use clap::Args;
use snug_core::{
    Command,
    import::{Dataset, Preview, preview_beside},
    settings::Settings,
};
use snug_exchange::csv::{read_folder, write_folder};
use snug_store::Keeper;
use std::{fmt::Write as _, path::PathBuf, sync::Arc};

/// What to take over.
#[derive(Args)]
pub struct ImportArgs {
    /// The folder with the CSV files.
    dir: PathBuf,
    #[command(flatten)]
    database: Database,
    /// Show what would happen, and change nothing.
    #[arg(long)]
    preview: bool,
}

/// Where to write.
#[derive(Args)]
pub struct ExportArgs {
    /// The folder; made when it is not there.
    dir: PathBuf,
    #[command(flatten)]
    database: Database,
}

/// Reads, shows the preview, and carries it out unless only the preview is asked for.
pub async fn import(args: ImportArgs) -> Result<(), String> {
    eprintln!("Reading {} …", args.dir.display());
    let data = read_folder(&args.dir).map_err(|error| explain(&error))?;
    let keeper = args.database.keeper().await?;
    if !keeper.is_founded() {
        keeper.found(Settings::default()).await.map_err(|error| explain(&error))?;
    }
    let source = args.dir.display().to_string();
    take_over(&keeper, data, source, args.preview).await
}

/// Shows what files would do and does it, all or nothing.
pub async fn take_over(keeper: &Arc<Keeper>, data: Dataset, source: String, only_preview: bool) -> Result<(), String> {
    eprintln!("Comparing with the workspace …");
    let beside = keeper.texts_beside(&data).await.map_err(|error| explain(&error))?;
    let found = preview_beside(&keeper.plan(), &data, &beside, crate::today());
    print!("{}", table(&found));
    if !found.problems.is_empty() {
        return Err(list(&found.problems));
    }
    if only_preview {
        return Ok(());
    }
    eprintln!("Writing {} changes …", found.changes.len());
    let command = Command::Import { source, data: Box::new(data) };
    let outcome = keeper.submit("command line", command, crate::today()).await.map_err(|error| explain(&error))?;
    match outcome.changes.len() {
        0 => println!("Everything stands in the workspace already; nothing was changed."),
        count => println!("{count} changes made, as entry {} of the ledger.", outcome.revision),
    }
    Ok(())
}

fn table(preview: &Preview) -> String {
    let mut out = format!("{:16} {:>8} {:>8} {:>8} {:>8}\n", "file", "new", "changed", "same", "refused");
    for (file, tally) in &preview.files {
        let (new, changed, same, refused) = (tally.new, tally.changed, tally.same, tally.refused);
        let _ = writeln!(out, "{file:16} {new:>8} {changed:>8} {same:>8} {refused:>8}");
    }
    if let Some(says) = preview.says_broken() {
        let _ = writeln!(out, "{says}");
    }
    for (file, column) in &preview.unknown_columns {
        let _ = writeln!(out, "{file}: the column “{column}” is not known and is left out");
    }
    out
}

/// Writes every file of the workspace.
pub async fn export(args: ExportArgs) -> Result<(), String> {
    let keeper = args.database.keeper().await?;
    if !keeper.is_founded() {
        return Err("There is no workspace to export yet.".to_owned());
    }
    let texts = keeper.all_texts().await.map_err(|error| explain(&error))?;
    write_folder(&keeper.plan(), &texts, &args.dir).map_err(|error| format!("{}: {error}", args.dir.display()))?;
    println!("Written to {}.", args.dir.display());
    Ok(())
}
