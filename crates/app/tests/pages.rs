//! The real pages in headless Chromium, and the stylesheet that goes with them.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use std::{
    fs,
    io::{BufRead as _, BufReader, Write as _},
    net::{TcpListener, TcpStream},
    process::Command,
    thread,
};
use support::{Database, Server, root};

/// What one spec works on: a workspace of its own and two servers.
struct World {
    _servers: [Server; 2],
    _database: Database,
}

/// Makes worlds for specs that ask for one, so that none finds what another has left: `POST /` answers the addresses of a new one, and
/// the one before it goes.
fn make_worlds(listener: &TcpListener, template: &Database) {
    let mut world: Option<World> = None;
    for mut asking in listener.incoming().map_while(Result::ok) {
        let head: Vec<String> =
            BufReader::new(&asking).lines().map(Result::unwrap).take_while(|it| !it.is_empty()).collect();
        if head[0].starts_with("DELETE") {
            return;
        }
        drop(world.take());
        let database = template.copy();
        let servers = thread::scope(|scope| {
            let start = || scope.spawn(|| Server::start(&database));
            [start(), start()].map(|started| started.join().unwrap())
        });
        let body = format!(r#"{{"url":"{}","second":"{}"}}"#, servers[0].url, servers[1].url);
        write!(asking, "HTTP/1.1 200 OK\r\nContent-Length: {}\r\nConnection: close\r\n\r\n{body}", body.len()).unwrap();
        world = Some(World { _servers: servers, _database: database });
    }
}

#[test]
fn the_pages_work_in_a_browser() {
    let template = Database::with_demo();
    let token = template.run(&["token", "mira@tidewater.test"]);
    let nothing = Database::new();
    let empty = Server::start(&nothing);
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let worlds = listener.local_addr().unwrap();
    let status = thread::scope(|scope| {
        scope.spawn(|| make_worlds(&listener, &template));
        let status = Command::new("npx")
            .args(["playwright", "test", "--config", "e2e/playwright.config.mjs"])
            .args(std::env::var("SNUG_SPECS").iter().flat_map(|which| which.split_whitespace()))
            .current_dir(root())
            .env("SNUG_WORLDS", format!("http://{worlds}"))
            .env("SNUG_TOKEN", token.trim())
            .env("SNUG_EMPTY_URL", &empty.url)
            .env("SNUG_FIRST_KEY", empty.next_line().rsplit_once("key=").unwrap().1)
            .status();
        TcpStream::connect(worlds).unwrap().write_all(b"DELETE / HTTP/1.1\r\n\r\n").unwrap();
        status.unwrap()
    });
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
