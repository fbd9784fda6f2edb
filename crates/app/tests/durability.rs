//! What was acknowledged is kept, whatever happens to the server; what was not leaves no half behind.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::blocking::Client;
use std::{
    collections::HashSet,
    process::Command,
    thread,
    time::{Duration, Instant},
};
use support::{Database, Server};

/// Books with a note of its own; true when the server said that it is done.
fn book(client: &Client, server: &Server, person: &str, note: &str) -> bool {
    let form = [
        ("person", person),
        ("project", ""),
        ("start", "2026-03-16"),
        ("end", "2026-03-20"),
        ("amount", "0.25h/d"),
        ("note", note),
    ];
    let answer = client.post(format!("{}/bookings", server.url)).header("x-requested-with", "test").form(&form).send();
    answer.is_ok_and(|answer| answer.status().is_success())
}

/// `make soak` does it a hundred times.
#[test]
fn every_acknowledged_change_outlives_a_killed_server_and_none_is_there_by_half() {
    let times = std::env::var("SNUG_SOAK").ok().and_then(|text| text.parse().ok()).unwrap_or(1);
    let template = Database::with_demo();
    let mut sum = 0;
    for _ in 0..times {
        sum += killed_at_some_moment(&template.copy());
    }
    println!("{times} servers killed in the middle of a stream: {sum} changes acknowledged, none lost, none by half");
}

/// Kills a server at a moment by chance while four browsers write; returns how many changes were acknowledged.
fn killed_at_some_moment(database: &Database) -> usize {
    let server = Server::start(database);
    let person = database.query("SELECT id FROM person WHERE email = 'mira@tidewater.test'");
    let client = server.signed_in("mira");
    let acknowledged: Vec<String> = thread::scope(|scope| {
        let writers: Vec<_> = (0..4)
            .map(|writer| {
                let (client, server, person) = (&client, &server, &person);
                scope.spawn(move || {
                    let notes = (0..400).map(|at| format!("stream {writer}.{at}"));
                    notes.take_while(|note| book(client, server, person, note)).collect::<Vec<_>>()
                })
            })
            .collect();
        // In the middle of the stream: when some changes stand and the writers go on.
        let (some, moment) = (rand::random_range(20..120), rand::random_range(0..20_000));
        while database.query("SELECT count(*) FROM ledger WHERE draft = 0").parse::<i32>().unwrap() < some {}
        let begun = Instant::now();
        while begun.elapsed() < Duration::from_micros(moment) {}
        server.kill();
        writers.into_iter().flat_map(|writer| writer.join().unwrap()).collect()
    });
    assert!(acknowledged.len() >= 10 && acknowledged.len() < 1_600, "{} acknowledged", acknowledged.len());
    let kept: HashSet<String> =
        database.query("SELECT note FROM booking WHERE note LIKE 'stream %'").lines().map(str::to_owned).collect();
    for note in &acknowledged {
        assert!(kept.contains(note), "{note} was acknowledged and is gone");
    }
    // The ledger, its changes, the bookings and the revision tell of the same entries.
    let entries = database.query("SELECT count(*) FROM ledger WHERE draft = 0 AND title = 'Booking placed'");
    let changes = database
        .query("SELECT count(*) FROM ledger_change WHERE draft = 0 AND change->'after'->>'note' LIKE 'stream %'");
    assert_eq!(
        (entries.as_str(), changes.as_str()),
        (kept.len().to_string().as_str(), kept.len().to_string().as_str())
    );
    assert_eq!(
        database.query("SELECT revision FROM workspace"),
        database.query("SELECT max(revision) FROM ledger WHERE draft = 0")
    );
    let again = Server::start(database);
    assert!(book(&again.signed_in("mira"), &again, &person, "after the restart"));
    acknowledged.len()
}

/// As docs/operating.md says it: a copy by the database's own programs, put into another database, is the same workspace.
#[test]
fn a_backup_put_back_elsewhere_is_the_same_workspace() {
    let (first, second) = (Database::with_demo(), Database::new());
    let server = Server::start(&first);
    let (mira, person) = (server.signed_in("mira"), first.query("SELECT min(id) FROM person"));
    assert!(book(&mira, &server, &person, "before the backup"));
    let export = |server: &Server| {
        let mira = server.signed_in("mira");
        mira.get(server.at("/setup/export.zip")).send().unwrap().bytes().unwrap()
    };
    let copy = std::env::temp_dir().join(format!("snug-backup-{}", std::process::id()));
    let run = |program: &str, args: &[&str]| {
        let done = Command::new(program).args(args).output().unwrap();
        assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    };
    run("pg_dump", &["--format=custom", "--file", copy.to_str().unwrap(), &first.url]);
    assert!(book(&mira, &server, &person, "after the backup"));
    run("pg_restore", &["--no-owner", "--exit-on-error", "--dbname", &second.url, copy.to_str().unwrap()]);
    std::fs::remove_file(copy).unwrap();
    // A new server on it: the plan of then, whoever could sign in can, and it goes on from there.
    let restored = Server::start(&second);
    assert_eq!(second.query("SELECT revision FROM workspace"), "2");
    let mira = restored.signed_in("mira");
    assert!(book(&mira, &restored, &person, "after the restore"));
    assert_eq!(
        second.query(
            "SELECT string_agg(note, ',' ORDER BY id) FROM booking WHERE note ~ '^(before|after) the (backup|restore)$'"
        ),
        "before the backup,after the restore"
    );
    // Without the last two, both are the same to the byte.
    for (database, server) in [(&first, &server), (&second, &restored)] {
        let mira = server.signed_in("mira");
        let revision = database.query("SELECT max(revision) FROM ledger WHERE draft = 0");
        let undone = mira.post(server.at(&format!("/setup/activity/{revision}/undo"))).send().unwrap();
        assert!(undone.status().is_success());
    }
    assert!(export(&server) == export(&restored));
}

#[test]
fn two_servers_under_fire_hold_the_same_plan_and_lose_nothing() {
    let database = Database::with_demo();
    let servers = [Server::start(&database), Server::start(&database)];
    let token = database.run(&["token", "mira@tidewater.test"]).trim().to_owned();
    let people = database.query("SELECT id FROM person WHERE kind = 'person' ORDER BY id LIMIT 4");
    let people: Vec<&str> = people.lines().collect();
    thread::scope(|scope| {
        for (at, person) in people.iter().enumerate() {
            let server = &servers[at % 2];
            scope.spawn(move || {
                let client = server.signed_in(["mira", "teo", "ada", "mira"][at]);
                for number in 0..15 {
                    assert!(book(&client, server, person, &format!("both {at}.{number}")));
                }
            });
        }
    });
    assert_eq!(database.query("SELECT count(*) FROM booking WHERE note LIKE 'both %'"), "60");
    let table = |server: &Server| {
        let path = "/api/v1/load?from=2026-03-09&to=2026-04-19&by=day&group=person";
        Client::new().get(format!("{}{path}", server.url)).bearer_auth(&token).send().unwrap().text().unwrap()
    };
    // News travel between the servers on their own; wait until both show the same.
    let deadline = std::time::Instant::now() + std::time::Duration::from_secs(20);
    while table(&servers[0]) != table(&servers[1]) {
        assert!(std::time::Instant::now() < deadline, "the two servers show different plans");
    }
    // And it is what a server that reads the tables anew shows.
    assert_eq!(table(&servers[0]), table(&Server::start(&database)));
}

#[test]
fn files_come_in_whole_or_not_at_all() {
    let database = Database::new();
    let demo = support::root().join("demo");
    let demo = demo.to_str().unwrap();
    assert!(database.run(&["import", demo]).contains("683 changes made"));
    assert!(database.run(&["import", demo]).contains("nothing was changed"));
    let folder = std::env::temp_dir().join(format!("snug-export-{}", std::process::id()));
    let out = folder.to_str().unwrap();
    database.run(&["export", out]);
    assert!(database.run(&["import", out]).contains("nothing was changed"));
    let bookings = std::fs::read_to_string(folder.join("bookings.csv")).unwrap();
    let wrong = format!(
        "{bookings}NEW,mira@tidewater.test,,,moon,2026-03-02,2026-03-06,2,h/day,firm,,,\nBAD,nobody@x.test,,,moon,2026-03-02,2026-03-06,2,h/day,firm,,,\n"
    );
    std::fs::write(folder.join("bookings.csv"), wrong).unwrap();
    let (done, said) = database.try_run(&["import", out]);
    assert!(
        !done && said.contains("bookings.csv, line 117, column email: there is no person “nobody@x.test”"),
        "{said}"
    );
    assert_eq!(database.query("SELECT count(*) FROM booking WHERE reference = 'NEW'"), "0");
    let (done, said) = database.try_run(&["import", "/nowhere"]);
    assert!(!done && said.contains("/nowhere"), "{said}");
    std::fs::remove_dir_all(folder).unwrap();
}

#[test]
fn the_first_start_offers_to_make_the_workspace_and_its_administrator() {
    let database = Database::new();
    let server = Server::start(&database);
    let client = Client::builder().cookie_store(true).build().unwrap();
    let first = client.get(format!("{}/fit", server.url)).send().unwrap();
    assert_eq!(first.url().path(), "/welcome");
    // Whoever started the server reads the key where it was started.
    let key = server.next_line().rsplit_once("key=").unwrap().1.to_owned();
    let found = |password: &str, key: &str| {
        let form = [
            ("key", key),
            ("workspace", "Pier Seven"),
            ("zone", "Europe/Lisbon"),
            ("name", "Mira"),
            ("email", "mira@pier.test"),
            ("password", password),
        ];
        client.post(format!("{}/welcome", server.url)).form(&form).send().unwrap()
    };
    let stranger = found("seven oaks by the pier", "guessed").text().unwrap();
    assert!(stranger.contains("This is not the key") && stranger.contains("Pier Seven"));
    assert_eq!(database.query("SELECT count(*) FROM account"), "0");
    let refused = found("short", &key).text().unwrap();
    assert!(refused.contains("Use at least 10 characters") && refused.contains("Pier Seven"), "what was typed stays");
    let common = found("password123", &key).text().unwrap();
    assert!(common.contains("among the first passwords"), "{common}");
    let room = found("seven oaks by the pier", &key);
    assert_eq!(room.url().path(), "/start/people");
    assert!(room.text().unwrap().contains("Who is there?"));
    assert!(client.get(server.at("/fit")).send().unwrap().text().unwrap().contains("Nobody is here yet"));
    assert_eq!(database.query("SELECT role FROM account"), "administrator");
    // The door is closed behind the first.
    let stranger = Client::builder().cookie_store(true).build().unwrap();
    let late = stranger.get(format!("{}/welcome", server.url)).send().unwrap();
    assert_eq!(late.url().path(), "/sign-in");
}
