//! What was acknowledged is kept, whatever happens to the server; what was not leaves no half behind.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::blocking::Client;
use std::{collections::HashSet, thread};
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

#[test]
fn every_acknowledged_change_outlives_a_killed_server_and_none_is_there_by_half() {
    let database = Database::with_demo();
    let server = Server::start(&database);
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
        while database.query("SELECT count(*) FROM ledger").parse::<i32>().unwrap() < 40 {}
        server.kill();
        writers.into_iter().flat_map(|writer| writer.join().unwrap()).collect()
    });
    assert!(acknowledged.len() >= 30 && acknowledged.len() < 1_600, "{} acknowledged", acknowledged.len());
    let kept: HashSet<String> =
        database.query("SELECT note FROM booking WHERE note LIKE 'stream %'").lines().map(str::to_owned).collect();
    for note in &acknowledged {
        assert!(kept.contains(note), "{note} was acknowledged and is gone");
    }
    // The ledger, its changes, the bookings and the revision tell of the same entries.
    let entries = database.query("SELECT count(*) FROM ledger WHERE title = 'Booking placed'");
    let changes = database.query("SELECT count(*) FROM ledger_change WHERE change->'after'->>'note' LIKE 'stream %'");
    assert_eq!(
        (entries.as_str(), changes.as_str()),
        (kept.len().to_string().as_str(), kept.len().to_string().as_str())
    );
    assert_eq!(database.query("SELECT revision FROM workspace"), database.query("SELECT max(revision) FROM ledger"));
    let again = Server::start(&database);
    assert!(book(&again.signed_in("mira"), &again, &person, "after the restart"));
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
    assert!(database.run(&["import", demo]).contains("599 changes made"));
    assert!(database.run(&["import", demo]).contains("nothing was changed"));
    let folder = std::env::temp_dir().join(format!("snug-export-{}", std::process::id()));
    let out = folder.to_str().unwrap();
    database.run(&["export", out]);
    assert!(database.run(&["import", out]).contains("nothing was changed"));
    let bookings = std::fs::read_to_string(folder.join("bookings.csv")).unwrap();
    let wrong = format!(
        "{bookings}NEW,mira@tidewater.test,,,moon,2026-03-02,2026-03-06,2,h/day,firm,,\nBAD,nobody@x.test,,,moon,2026-03-02,2026-03-06,2,h/day,firm,,\n"
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
