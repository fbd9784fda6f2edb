//! The Fit room on a real server: every view of it by its address, what nobody should send, its files, and what it asks of the database.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use calamine::{DataType as _, Reader as _, Xlsx};
use reqwest::blocking::Client;
use std::{collections::BTreeMap, io::Cursor};
use support::{Database, Server, counter::Counter, post};

fn demo() -> (Database, Server, Client) {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let client = server.signed_in("mira");
    (database, server, client)
}

fn read(client: &Client, server: &Server, path: &str, query: &[(&str, &str)]) -> (u16, String) {
    let answer = client.get(server.at(path)).query(query).header("x-requested-with", "fetch").send().unwrap();
    (answer.status().as_u16(), answer.text().unwrap())
}

fn between<'a>(text: &'a str, from: &str, to: &str) -> &'a str {
    text.split_once(from).unwrap().1.split_once(to).unwrap().0
}

/// What a list of choices on the page offers.
fn choices(page: &str, name: &str) -> Vec<String> {
    let list = between(page, &format!("<select name=\"{name}\""), "</select>");
    list.split("<option value=\"").skip(1).map(|rest| rest.split_once('"').unwrap().0.to_owned()).collect()
}

#[test]
fn every_view_is_there_by_its_address() {
    let (_database, server, client) = demo();
    let (_, page) = read(&client, &server, "/fit", &[]);
    let angles = ["person", "project", "team", "role", "skill", "equipment"];
    let (measures, zooms) = (choices(&page, "measure"), choices(&page, "zoom"));
    assert!(measures.len() >= 6 && zooms.len() == 5, "{measures:?} {zooms:?}");
    for angle in angles {
        for measure in &measures {
            for zoom in &zooms {
                let query = [("angle", angle), ("measure", measure), ("zoom", zoom)];
                let (status, rows) = read(&client, &server, "/fit/rows", &query);
                assert_eq!(status, 200, "{query:?}");
                assert!(rows.contains("role=\"row\"") && !rows.contains("NaN"), "{query:?}");
            }
        }
    }
    for colour in choices(&page, "colour") {
        for height in choices(&page, "rows") {
            let query = [("colour", &*colour), ("rows", &*height), ("layers", "tasks,free"), ("open", "1,2,3")];
            let (status, page) = read(&client, &server, "/fit", &query);
            assert_eq!(status, 200, "{query:?}");
            assert!(page.contains(&format!("<option value=\"{colour}\" selected>")), "{query:?}");
        }
    }
}

#[test]
fn nothing_in_an_address_breaks_the_room() {
    let (_database, server, client) = demo();
    let long = "x".repeat(3_000);
    let worst = [
        "-1",
        "0",
        "99999999999999999999",
        "2026-02-30",
        "9999-12-31",
        "-262143-01-01",
        "1e9",
        "NaN",
        "%",
        "\u{0}",
        "ß💥\u{202e}",
        "<script>alert(1)</script>",
        "' OR 1=1 --",
        "../../etc/passwd",
        "person:",
        "field ",
        ",,,,",
        "~~",
        &long,
    ];
    let fields = [
        "angle", "measure", "zoom", "from", "span", "colour", "q", "team", "role", "skill", "project", "tag", "band",
        "alert", "layers", "rows", "open", "turned", "person", "group", "at", "offset",
    ];
    for field in fields {
        for value in worst {
            for path in ["/fit/rows", "/fit/sheet", "/fit/table"] {
                let (status, text) = read(&client, &server, path, &[(field, value)]);
                assert!(status < 500, "{path}?{field}={value:.40}: {status}");
                assert!(!text.contains("<script>alert"), "{path}?{field}={value:.40}");
            }
        }
    }
    // An address that says one thing twice says nothing, on the page as in its parts.
    for path in ["/fit", "/fit/rows"] {
        assert_eq!(read(&client, &server, path, &[("zoom", "day"), ("zoom", "week")]).0, 200, "{path}");
    }
    // The furthest days there are, at the widest zoom.
    for from in ["0001-01-01", "9999-12-31"] {
        let (status, _) = read(&client, &server, "/fit", &[("from", from), ("zoom", "quarter"), ("span", "999")]);
        assert!(status < 500, "{from}: {status}");
    }
}

#[test]
fn gestures_with_figures_that_cannot_be_are_refused_in_words() {
    let (database, server, client) = demo();
    let (_, rows) = read(&client, &server, "/fit/rows", &[]);
    let seen = between(&rows, "data-shape=\"", "\"").to_owned();
    let before = database.query("SELECT count(*) FROM ledger WHERE draft = 0");
    let (id, _) = seen.split_once('-').unwrap();
    let (forged, unknown) = (format!("{id}-0"), "2147483647-0".to_owned());
    let (far, most) = (i32::MAX.to_string(), i32::MIN.to_string());
    let cases: &[(&str, &[(&str, &str)])] = &[
        ("move", &[("seen", &seen), ("shift", &far)]),
        ("move", &[("seen", &seen), ("shift", &most)]),
        ("move", &[("seen", &seen), ("start_shift", &far), ("end_shift", &most)]),
        ("move", &[("seen", &seen), ("to", "2147483647")]),
        ("move", &[("seen", &seen), ("shift", "1"), ("to", "nobody@tidewater.test")]),
        ("move", &[("seen", &seen), ("at", "2026-13-16"), ("minutes", "60")]),
        ("move", &[("seen", &forged), ("shift", "1")]),
        ("move", &[("seen", &unknown), ("shift", "1")]),
        ("move", &[("seen", id)]),
        ("move", &[("seen", "[]")]),
        ("move", &[("seen", "{\"id\":1}")]),
        ("copy", &[("seen", &seen), ("shift", &far)]),
        ("split", &[("seen", &seen), ("at", "0000-00-00")]),
        ("trim", &[("seen", &seen), ("hours", "-4h")]),
        ("trim", &[("seen", &seen), ("hours", "1e30h")]),
        ("repeat", &[("seen", &seen), ("weeks", "-3"), ("until", "2027-01-01")]),
        ("repeat", &[("seen", &seen), ("weeks", "1"), ("until", "9999-12-31")]),
        ("unit", &[("seen", &seen), ("unit", "fortnights")]),
        ("no-such-deed", &[("seen", &seen)]),
    ];
    for (deed, form) in cases {
        for path in [format!("/bookings/{deed}"), "/bookings/preview".to_owned()] {
            let what = [("what", *deed)];
            let form: Vec<(&str, &str)> = form.iter().copied().chain(what).collect();
            let sent = post(&client, &server, &path, &form);
            let status = sent.status();
            let text = sent.text().unwrap();
            assert!(status.is_client_error(), "{path} {form:?}: {status} {text}");
            assert!(!text.contains("panicked") && text.len() > 12, "{path} {form:?}: {text}");
        }
    }
    assert_eq!(database.query("SELECT count(*) FROM ledger WHERE draft = 0"), before, "nothing was written");
    // The last days there are, moved on: refused, as no plan could be read with it.
    let form = [("person", "1"), ("amount", "1h/d"), ("start", "2190-01-05"), ("end", "2199-12-31")];
    assert!(post(&client, &server, "/bookings", &form).status().is_success());
    let far_off = [("from", "2188-12-01"), ("zoom", "quarter"), ("span", "12")];
    let (_, rows) = read(&client, &server, "/fit/rows", &far_off);
    let form = [("seen", between(&rows, "data-shape=\"", "\"")), ("shift", "60")];
    let sent = post(&client, &server, "/bookings/copy", &form);
    assert!(sent.status().is_client_error() && sent.text().unwrap().contains("2199-12-31"));
    // More at once than go, said in words; as many as go are looked at.
    for (count, says) in [(201, "201 bookings are more than go at once"), (200, "meanwhile")] {
        let many = vec![forged.as_str(); count].join(",");
        let form = [("seen", many.as_str()), ("shift", "1")];
        let text = post(&client, &server, "/bookings/move", &form).text().unwrap();
        assert!(text.contains(says), "{count}: {text:.300}");
    }
}

#[test]
fn the_files_of_what_is_in_view_say_what_the_table_says() {
    let (_database, server, client) = demo();
    let view = [("angle", "team"), ("from", "2026-03-09"), ("span", "6")];
    let (_, csv) = read(&client, &server, "/fit/export/csv", &view);
    let mut lines = csv.lines().map(|line| line.split(',').collect::<Vec<_>>());
    let columns = lines.next().unwrap();
    let at = |name: &str| columns.iter().position(|column| *column == name).unwrap();
    let mut minutes: BTreeMap<(String, String), i32> = BTreeMap::new();
    for line in lines {
        minutes
            .insert((line[at("key")].to_owned(), line[at("start")].to_owned()), line[at("load_min")].parse().unwrap());
    }
    let cells = csv.lines().count() - 1;
    assert!(cells >= 180, "six weeks of everybody, and of their teams");

    let book = client.get(server.at("/fit/export/xlsx")).query(&view).send().unwrap().bytes().unwrap();
    let mut book: Xlsx<_> = Xlsx::new(Cursor::new(book.to_vec())).unwrap();
    let sheet = book.worksheet_range_at(0).unwrap().unwrap();
    // Under a title stand the heads: the row's name and key, then load, limit and what is left of each week.
    let heads: Vec<String> = sheet.rows().nth(1).unwrap().iter().map(ToString::to_string).collect();
    assert_eq!(heads[..2], ["Row", "Key"]);
    let mut found = 0;
    for row in sheet.rows().skip(2) {
        for (head, cell) in heads.iter().zip(row) {
            let Some(start) = head.strip_suffix(" load") else { continue };
            let expected = minutes[&(row[1].to_string(), start.to_owned())];
            let hours = cell.as_f64().expect("a number is a number");
            assert!((hours - f64::from(expected) / 60.0).abs() < 0.005_1, "{} {start}: {hours} h", row[1]);
            found += 1;
        }
    }
    assert_eq!(found, cells, "who is in two teams stands under both");

    let (_, svg) = read(&client, &server, "/fit/export/svg", &view);
    let mut reader = quick_xml::Reader::from_str(&svg);
    let mut shapes = 0;
    loop {
        match reader.read_event().unwrap() {
            quick_xml::events::Event::Eof => break,
            quick_xml::events::Event::Empty(one) if one.name().as_ref() == b"path" => shapes += 1,
            _ => {}
        }
    }
    assert!(shapes > 30 && svg.contains("Workshop"), "a picture of {shapes} shapes");
}

#[test]
fn more_rows_ask_no_more_of_the_database() {
    let database = Database::with_demo();
    let counter = Counter::before(&database.url);
    let server = Server::start_at(&database, &counter.url);
    let client = server.signed_in("mira");
    // The least of several tries: a look at the clock by a task in the background counts as well.
    let asked = |path: &str, query: &[(&str, &str)]| {
        let once = || {
            let before = counter.statements();
            let (status, _) = read(&client, &server, path, query);
            assert_eq!(status, 200);
            counter.statements() - before
        };
        (0..4).map(|_| once()).min().unwrap()
    };
    let one = [("q", "teo"), ("span", "1")];
    let few = asked("/fit/rows", &one);
    assert_eq!(few, 2, "whose session it is, and what they may see");
    let wide = [("span", "26")];
    let all: [(&str, &[(&str, &str)]); 9] = [
        ("/fit/rows", &[]),
        ("/fit/rows", &wide),
        ("/fit/rows", &[("angle", "team")]),
        ("/fit/rows", &[("angle", "project"), ("measure", "percent")]),
        ("/fit/rows", &[("rows", "tall"), ("open", "1,2,3,4,5,6,7,8")]),
        ("/fit/alerts", &wide),
        ("/fit/tray", &wide),
        ("/fit/table", &[("angle", "skill")]),
        ("/fit", &wide),
    ];
    for (path, query) in all {
        assert_eq!(asked(path, query), asked(path, &one), "{path} {query:?}");
    }
}

#[test]
fn where_there_are_more_than_one_looks_through_people_and_projects_are_typed() {
    let (database, server, client) = demo();
    let offered = |of: &str, q: &str| {
        let asked = client.get(server.at("/suggest")).query(&[("of", of), ("q", q)]);
        asked.send().unwrap().json::<Vec<BTreeMap<String, String>>>().unwrap()
    };
    let offers = offered("project", "moon");
    assert!(offers.iter().any(|offer| offer["value"] == "moon" && offer["label"] == "Moon Garden"), "{offers:?}");
    assert!(offered("project", "kelp").is_empty(), "a closed project is not offered");
    // By key or by number, as a form has it.
    let ada = database.query("SELECT id FROM person WHERE email = 'ada@tidewater.test'");
    let book = |person: &str, project: &str| {
        let days = [("amount", "1h/d"), ("start", "2026-05-04"), ("end", "2026-05-05")];
        let form: Vec<(&str, &str)> = [("person", person), ("project", project)].into_iter().chain(days).collect();
        let sent = client.post(server.at("/bookings")).header("x-requested-with", "test").form(&form).send().unwrap();
        (sent.status(), sent.text().unwrap())
    };
    for (person, project) in [("ada@tidewater.test", "moon"), (ada.as_str(), "")] {
        let (status, text) = book(person, project);
        assert!(status.is_success(), "{person} {project}: {text}");
    }
    let placed = "SELECT count(*) FROM booking WHERE start_day = '2026-05-04'";
    assert_eq!(database.query(&format!("{placed} AND person_id = {ada}")), "2");
    for (person, project) in [("nobody@tidewater.test", ""), ("ada@tidewater.test", "no such project")] {
        let (status, text) = book(person, project);
        assert!(status.is_client_error() && text.contains("Say whose") == project.is_empty(), "{text}");
    }
}
