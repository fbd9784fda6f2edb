//! Twenty people at two servers, all at once.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use rand::{Rng as _, SeedableRng as _, rngs::StdRng};
use reqwest::{StatusCode, blocking::Client};
use serde_json::Value;
use snug_core::{Day, Plan, kinds::Booking};
use snug_store::Keeper;
use std::{
    collections::BTreeMap,
    thread,
    time::{Duration, Instant},
};
use support::{Database, Server, TODAY};

const CLIENTS: u64 = 20;
/// Edits of each client; `SNUG_RUSH_SECONDS` makes them go on for a time instead (`make bench` takes a minute).
const EDITS: usize = 12;

/// What one client did.
#[derive(Default)]
struct Done {
    /// Entries of the ledger that were confirmed.
    confirmed: Vec<i64>,
    refused: usize,
    slowest: Duration,
}

/// A booking that the room shows, as a page sees it: its tag, the row that it lies in, and the first of its days in the window.
#[derive(Clone)]
struct Seen {
    tag: String,
    person: String,
    day: Day,
}

/// The bookings that the room shows.
fn seen(client: &Client, server: &str) -> Vec<Seen> {
    let page = client.get(format!("{server}/fit/rows?span=12")).send().unwrap().text().unwrap();
    let first: Day = "2026-03-09".parse().unwrap();
    let parts =
        |text: &'static str| move |rest: &str| rest.split_once(text).map(|(value, _)| value.to_owned()).unwrap();
    let mut list = Vec::new();
    for row in page.split("class=\"row person\"").skip(1) {
        let person = parts("\"")(row.split_once("data-key=\"").unwrap().1);
        for shape in row.split("data-shape=\"").skip(1) {
            // What lies wholly over the limit is drawn as spill alone.
            let Some((_, path)) = shape.split_once("d=\"M") else { continue };
            let from = parts(" ")(path);
            list.push(Seen {
                tag: parts("\"")(shape),
                person: person.clone(),
                day: first + from.parse::<i32>().unwrap(),
            });
        }
    }
    list
}

fn edit(client: &Client, server: &str, random: &mut StdRng, list: &[Seen]) -> (StatusCode, Value) {
    let Seen { tag: seen, person, day } = &list[random.random_range(0..list.len())];
    let shift = random.random_range(-3..=9).to_string();
    let minutes = random.random_range(15..480).to_string();
    let at = day.to_string();
    let amount = format!("{minutes}m/d");
    let (path, form): (&str, Vec<(&str, &str)>) = match random.random_range(0..10) {
        0..4 => ("/bookings/move", vec![("seen", seen), ("shift", &shift)]),
        4..6 => ("/bookings/move", vec![("seen", seen), ("at", &at), ("minutes", &minutes)]),
        6 => ("/bookings/certainty", vec![("seen", seen), ("certainty", "pencilled")]),
        7 => ("/bookings/copy", vec![("seen", seen), ("shift", &shift)]),
        8 => ("/bookings/remove", vec![("seen", seen)]),
        _ => ("/bookings", vec![("person", person), ("amount", &amount), ("start", &at), ("end", &at)]),
    };
    let sent = client.post(format!("{server}{path}")).header("x-requested-with", "fetch").form(&form).send().unwrap();
    (sent.status(), sent.json().unwrap())
}

fn work(client: &Client, server: &str, number: u64, until: Option<Instant>) -> Done {
    let mut random = StdRng::seed_from_u64(number);
    let mut done = Done::default();
    let mut list = seen(client, server);
    let mut tries = 0;
    while until.map_or(tries < EDITS, |until| Instant::now() < until) {
        tries += 1;
        let begun = Instant::now();
        let (status, body) = edit(client, server, &mut random, &list);
        done.slowest = done.slowest.max(begun.elapsed());
        match status {
            StatusCode::OK if body["undo"] == true => done.confirmed.push(body["revision"].as_i64().unwrap()),
            StatusCode::OK => {}
            StatusCode::CONFLICT | StatusCode::NOT_FOUND => {
                assert!(!body["message"].as_str().unwrap().is_empty());
                done.refused += 1;
            }
            other => panic!("{other}: {body}"),
        }
        // Like a page: one sees what the others did now and then.
        if status != StatusCode::OK || tries % 4 == 0 {
            list = seen(client, server);
        }
    }
    done
}

/// What two plans are compared by: every booking.
fn bookings(plan: &Plan) -> BTreeMap<i32, Booking> {
    plan.bookings().map(|booking| (booking.id.0, booking)).collect()
}

#[test]
fn twenty_clients_at_two_servers_lose_no_edit() {
    let database = Database::with_demo();
    let servers = [Server::start(&database), Server::start(&database)];
    let seconds: Option<u64> = std::env::var("SNUG_RUSH_SECONDS").ok().map(|text| text.parse().unwrap());
    let clients: Vec<(Client, &Server)> = (0..CLIENTS)
        .map(|number| {
            let server = &servers[usize::try_from(number % 2).unwrap()];
            (server.signed_in(["ada", "mira", "teo"][usize::try_from(number % 3).unwrap()]), server)
        })
        .collect();
    let until = seconds.map(|seconds| Instant::now() + Duration::from_secs(seconds));
    let done: Vec<Done> = thread::scope(|scope| {
        let threads: Vec<_> = clients
            .iter()
            .zip(0..)
            .map(|((client, server), number)| scope.spawn(move || work(client, &server.url, number, until)))
            .collect();
        threads.into_iter().map(|thread| thread.join().unwrap()).collect()
    });
    let mut revisions: Vec<i64> = done.iter().flat_map(|done| done.confirmed.iter().copied()).collect();
    revisions.sort_unstable();
    let count = revisions.len();
    assert!(count >= 60, "{count} edits were taken");
    revisions.dedup();
    assert_eq!(revisions.len(), count, "every confirmed edit has an entry of its own");

    // Both servers say the same of everybody.
    let token = database.run(&["token", "mira@tidewater.test"]);
    let plain = Client::new();
    let load = |server: &Server| {
        let path = "/api/v1/load?from=2026-01-05&to=2026-07-05&by=day&group=person";
        plain.get(server.at(path)).bearer_auth(token.trim()).send().unwrap().text().unwrap()
    };
    let last = revisions.last().copied().unwrap();
    clients.iter().take(2).for_each(|(client, server)| wait_for(client, server, last));
    let both: Vec<String> = servers.iter().map(load).collect();
    assert!(both[0] == both[1], "the two servers hold different plans");

    // What they hold is what the ledger replays, entry by entry, and nothing stands there that nobody confirmed.
    let runtime = tokio::runtime::Runtime::new().unwrap();
    runtime.block_on(async {
        let db = snug_store::open(&database.url).await.unwrap();
        let read = Keeper::start(db).await.unwrap();
        let plan = read.plan();
        assert_eq!(plan.revision, last);
        let mut replayed = Plan::empty();
        for revision in 1..=plan.revision {
            replayed = replayed.with(&read.ledger().changes_of(revision).await.unwrap());
        }
        assert_eq!(bookings(&replayed), bookings(&plan));
        assert_eq!(usize::try_from(plan.revision).unwrap(), count + 1, "the demo, and one entry for each edit");
        let today: Day = TODAY.parse().unwrap();
        assert!(plan.bookings().any(|booking| booking.end > today));
    });
    let refused: usize = done.iter().map(|done| done.refused).sum();
    let slowest = done.iter().map(|done| done.slowest).max().unwrap();
    println!(
        "{count} edits by {CLIENTS} clients at two servers, {refused} refused with both values, slowest {slowest:?}"
    );
}

/// Waits until a server has heard of an entry that the other made.
fn wait_for(client: &Client, server: &Server, revision: i64) {
    let heard = format!("data-revision=\"{revision}\"");
    while !client.get(server.at("/fit")).send().unwrap().text().unwrap().contains(&heard) {
        thread::yield_now();
    }
}
