//! What reaches others: news of changes, who is where, shared looks; and what a phone is shown.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::blocking::Client;
use serde_json::Value;
use support::{Database, News, Server, post};

fn text(client: &Client, server: &Server, path: &str) -> String {
    let answer = client.get(server.at(path)).header("x-requested-with", "fetch").send().unwrap();
    assert!(answer.status().is_success(), "{path}: {}", answer.status());
    answer.text().unwrap()
}

#[test]
fn news_reach_both_servers_and_an_answer_says_how_new_it_is() {
    let database = Database::with_demo();
    let (first, second) = (Server::start(&database), Server::start(&database));
    let (mira, teo) = (first.signed_in("mira"), second.signed_in("teo"));
    let (mut here, mut there) = (News::of(&mira, &first), News::of(&teo, &second));
    assert_eq!((here.next("hello"), there.next("hello")), ("1".to_owned(), "1".to_owned()));
    let form = [("person", "1"), ("start", "2026-03-16"), ("end", "2026-03-20"), ("amount", "1h/d")];
    let done: Value = post(&mira, &first, "/bookings", &form).json().unwrap();
    let revision = done["revision"].as_i64().unwrap();
    for news in [&mut here, &mut there] {
        let told: Value = serde_json::from_str(&news.next("change")).unwrap();
        assert_eq!(told["revision"], revision);
        assert_eq!(told["people"], serde_json::json!([1]), "whose rows are to be read again");
        assert_eq!(told["title"], "Booking placed");
    }
    // Whoever was told of a revision gets it, or a later one, from the same server.
    let answer = teo.get(second.at("/fit/rows/1")).send().unwrap();
    assert!(answer.headers()["snug-revision"].to_str().unwrap().parse::<i64>().unwrap() >= revision);

    // Who looks at a row is told to the other server, too, with a name and no more.
    post(&mira, &first, "/fit/presence", &[("person", "1"), ("tab", "a1b2c3")]);
    let told: Value = serde_json::from_str(&there.next("presence")).unwrap();
    assert_eq!((&told["person"], &told["name"], &told["tab"]), (&1.into(), &"Mira Castellan".into(), &"a1b2c3".into()));
    assert_eq!(told.as_object().unwrap().len(), 3);
}

#[test]
fn looks_are_ones_own_until_they_are_shared() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let (mira, teo) = (server.signed_in("mira"), server.signed_in("teo"));
    let address = "/fit?angle=team&measure=percent&zoom=month";
    let keep = |name: &str, shared: &str| {
        post(&mira, &server, "/looks/fit", &[("name", name), ("address", address), ("shared", shared)]).status()
    };
    assert!(keep("Monday round", "yes").is_success() && keep("My own view", "").is_success());
    assert!(keep("", "").is_client_error() && keep(&"long ".repeat(20), "").is_client_error());
    for elsewhere in ["https://example.org/fit", "//example.org/fit", "/setup", "/fit\\..\\@example.org"] {
        let form = [("name", "Elsewhere"), ("address", elsewhere)];
        assert!(post(&mira, &server, "/looks/fit", &form).status().is_client_error(), "{elsewhere}");
    }
    let (own, others) = (text(&mira, &server, "/looks/fit"), text(&teo, &server, "/looks/fit"));
    assert!(own.contains("Monday round") && own.contains("My own view") && !own.contains("Elsewhere"));
    assert!(others.contains("Monday round") && !others.contains("My own view"));
    // Somebody else's look is not forgotten for everybody; who may not is not offered to.
    assert!(!others.contains("Forget"));
    let id = own.split("name=\"look\" value=\"").nth(1).unwrap().split_once('"').unwrap().0;
    assert!(post(&teo, &server, "/looks/fit/forget", &[("look", id)]).status().is_client_error());
    assert!(text(&mira, &server, "/looks/fit").contains("Monday round"));
    assert!(post(&mira, &server, "/looks/fit/forget", &[("look", id)]).status().is_success());
}

#[test]
fn a_phone_shows_ones_own_weeks_and_who_is_over_to_those_who_plan() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let pocket = |who: &str| text(&server.signed_in(who), &server, "/fit/pocket?from=2026-03-09&span=6");
    let manager = pocket("mira");
    assert!(manager.contains("You, Mira Castellan") && manager.contains("Who is over"));
    // Everybody whom the load table has over in a week to come, and nobody else.
    let token = database.run(&["token", "mira@tidewater.test"]);
    let query = "from=2026-03-09&to=2026-04-19&by=week&group=person";
    let cells = Client::new().get(server.at(&format!("/api/v1/load?{query}"))).bearer_auth(token.trim());
    let cells: Vec<Value> = cells.send().unwrap().json().unwrap();
    let mut over: Vec<&str> =
        cells.iter().filter(|cell| cell["band"] == "over").map(|cell| cell["key"].as_str().unwrap()).collect();
    over.dedup();
    assert!(over.len() > 5);
    assert_eq!(manager.matches("hand over, move or trim").count(), over.len());
    // The worst comes first.
    let much =
        |line: &str| -> f64 { line.split_once("is-over\">+").unwrap().1.split_once(" h").unwrap().0.parse().unwrap() };
    let sizes: Vec<f64> = manager.split("<li>").skip(1).map(much).collect();
    assert!(sizes.is_sorted_by(|a, b| a >= b), "{sizes:?}");
    // A viewer plans nothing and is shown no list of others.
    let viewer = pocket("guest");
    assert!(!viewer.contains("Who is over") && !viewer.contains("You, "), "a guest is nobody of the plan");
}
