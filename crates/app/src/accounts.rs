//! `snug-roster user` and `snug-roster token`.

use crate::{Database, explain};
use clap::Args;
use snug_core::Role;
use snug_store::{
    accounts::{self, Scope},
    passwords,
};
use std::str::FromStr as _;

/// Who gets an account.
#[derive(Args)]
pub struct UserArgs {
    /// E-mail address.
    email: String,
    /// Name shown.
    #[arg(long)]
    name: String,
    /// administrator, manager, lead, member or viewer.
    #[arg(long, default_value = "member", value_parser = Role::from_str)]
    role: Role,
    #[command(flatten)]
    database: Database,
}

/// For whom a token acts.
#[derive(Args)]
pub struct TokenArgs {
    /// E-mail address of the account.
    email: String,
    /// What the token is for.
    #[arg(long, default_value = "command line")]
    name: String,
    /// The token may also change things, within what the account may.
    #[arg(long)]
    write: bool,
    #[command(flatten)]
    database: Database,
}

/// Makes an account.
pub async fn user(args: UserArgs) -> Result<(), String> {
    eprintln!("Password for {}:", args.email);
    let mut password = String::new();
    std::io::stdin().read_line(&mut password).map_err(|error| error.to_string())?;
    let password = password.trim_end_matches(['\r', '\n']).to_owned();
    if let Some(problem) = passwords::problem(&password, &[&args.email, &args.name]) {
        return Err(problem);
    }
    let db = args.database.open().await?;
    let made = accounts::create(&db, &args.email, &args.name, args.role, password).await;
    let account = made.map_err(|error| explain(&error))?;
    println!("{} can sign in as {}.", account.email, account.role);
    Ok(())
}

/// Makes a token and prints it.
pub async fn token(args: TokenArgs) -> Result<(), String> {
    let db = args.database.open().await?;
    let scope = if args.write { Scope::Write } else { Scope::Read };
    match accounts::create_token(&db, &args.email, &args.name, scope).await.map_err(|error| explain(&error))? {
        Some(token) => println!("{token}"),
        None => return Err(format!("There is no account with the address {}.", args.email)),
    }
    Ok(())
}
