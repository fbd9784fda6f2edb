//! The real pages in headless Chromium, and the stylesheet that goes with them.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use std::{fs, process::Command};
use support::{Database, Server, root};

#[test]
fn the_pages_work_in_a_browser() {
    let database = Database::with_demo();
    let (server, second) = (Server::start(&database), Server::start(&database));
    let nothing = Database::new();
    let empty = Server::start(&nothing);
    let token = database.run(&["token", "mira@tidewater.test"]);
    let status = Command::new("npx")
        .args(["playwright", "test", "--config", "e2e/playwright.config.mjs"])
        .current_dir(root())
        .env("SNUG_URL", &server.url)
        .env("SNUG_URL_2", &second.url)
        .env("SNUG_TOKEN", token.trim())
        .env("SNUG_EMPTY_URL", &empty.url)
        .status()
        .unwrap();
    assert!(status.success(), "the browser specs failed; their output stands above");
}

#[test]
fn the_stylesheet_is_not_stale() {
    let made = std::env::temp_dir().join(format!("snug-app-{}.css", std::process::id()));
    let status = Command::new("npx")
        .args(["tailwindcss", "-i", "crates/web/styles/app.css", "-o", made.to_str().unwrap(), "--minify"])
        .current_dir(root())
        .output()
        .unwrap();
    assert!(status.status.success());
    let (fresh, kept) = (fs::read(&made).unwrap(), fs::read(root().join("crates/web/assets/app.css")).unwrap());
    fs::remove_file(&made).unwrap();
    assert!(fresh == kept, "crates/web/assets/app.css is stale: run `make styles`");
}
