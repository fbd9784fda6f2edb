//! A database of its own for each test, on the cluster that `make test` starts.
#![allow(dead_code, clippy::unwrap_used)] // each test file uses a part of it

use snug_core::{Command, Day, Eyes, Plan, change::Change, settings::Settings};
use snug_exchange::csv::{files_of, read_folder};
use snug_store::{DatabaseConnection, Keeper, Outcome};
use std::{
    path::Path,
    process::Command as Process,
    sync::{
        Arc,
        atomic::{AtomicU32, Ordering},
    },
};

pub struct Database {
    pub url: String,
    server: String,
    name: String,
}

impl Database {
    pub fn new() -> Self {
        static NEXT: AtomicU32 = AtomicU32::new(0);
        let server = std::env::var("TEST_DATABASE_URL").expect("run the tests by `make test`, which starts PostgreSQL");
        let name = format!("store_{}_{}", std::process::id(), NEXT.fetch_add(1, Ordering::Relaxed));
        psql(&server, &format!("CREATE DATABASE {name}"));
        let (base, _) = server.rsplit_once('/').unwrap();
        Self { url: format!("{base}/{name}"), server: server.clone(), name }
    }

    pub fn query(&self, sql: &str) -> String {
        psql(&self.url, sql)
    }

    pub async fn open(&self) -> DatabaseConnection {
        snug_store::open(&self.url).await.unwrap()
    }

    /// A keeper with an empty workspace.
    pub async fn founded(&self) -> Arc<Keeper> {
        let keeper = Keeper::start(self.open().await).await.unwrap();
        keeper.found(Settings { name: "Tidewater".into(), ..Settings::default() }).await.unwrap();
        keeper
    }

    /// A keeper with the demo in it.
    pub async fn with_demo(&self) -> Arc<Keeper> {
        let keeper = self.founded().await;
        let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
        let data = Box::new(read_folder(&folder).unwrap());
        give(&keeper, "mira@tidewater.test", Command::Import { source: "the demo".into(), data }).await;
        keeper
    }
}

impl Drop for Database {
    fn drop(&mut self) {
        psql(&self.server, &format!("DROP DATABASE {} WITH (FORCE)", self.name));
    }
}

fn psql(url: &str, sql: &str) -> String {
    let output = Process::new("psql").args([url, "-qtAX", "-v", "ON_ERROR_STOP=1", "-c", sql]).output().unwrap();
    assert!(output.status.success(), "{sql}: {}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap().trim().to_owned()
}

pub fn today() -> Day {
    "2026-03-11".parse().unwrap()
}

pub async fn give(keeper: &Keeper, actor: &str, command: Command) -> Outcome {
    keeper.submit(actor, command, today()).await.unwrap()
}

pub async fn edit(keeper: &Keeper, actor: &str, changes: Vec<Change>) -> Outcome {
    give(keeper, actor, Command::Edit { changes }).await
}

/// Everything that files say of a plan: two plans with the same text are the same to every reader.
pub fn text_of(plan: &Plan) -> String {
    files_of(&Eyes::of_all(plan), &[])
        .into_iter()
        .map(|(name, text)| [name, &text].join("\n"))
        .collect::<Vec<_>>()
        .join("\n")
}
