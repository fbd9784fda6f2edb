//! Lists on a real server, held against a plain reading of all their rows.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::blocking::Client;
use std::collections::{BTreeMap, HashSet};
use support::{Database, Server, unescaped};

/// A row as it was sent: its number, and of each column what is typed, what is read, and whether it is a figure.
#[derive(Clone, Debug)]
struct Row {
    id: i32,
    cells: BTreeMap<String, (String, String, bool)>,
}

/// A row, or the head of a group with the number of records that it tells.
#[derive(Debug)]
enum Line {
    Head(String, usize),
    Row(Row),
}

fn between<'a>(text: &'a str, from: &str, to: &str) -> &'a str {
    let rest = text.split_once(from).map_or("", |(_, rest)| rest);
    rest.split_once(to).map_or(rest, |(inner, _)| inner)
}

fn line(text: &str) -> Line {
    if text.starts_with(" class=\"group\"") {
        let count = between(text, "class=\"soft\">", "<");
        return Line::Head(unescaped(between(text, "<b>", "</b>")), count.split(' ').next().unwrap().parse().unwrap());
    }
    let cell = |cell: &str| {
        let shown = cell.rsplit_once("</td>").unwrap().0.rsplit_once("</").unwrap().0.rsplit_once('>').unwrap().1;
        let is_figure = cell.contains("class=\"figure\"");
        let raw = unescaped(between(cell, "data-raw=\"", "\""));
        (unescaped(between(cell, "data-column=\"", "\"")), (raw, unescaped(shown), is_figure))
    };
    // The box that ticks a row is no value of it.
    let cells = text.split("<td ").skip(1).filter(|cell| cell.contains("data-column=")).map(cell).collect();
    Line::Row(Row { id: between(text, "data-id=\"", "\"").parse().unwrap(), cells })
}

/// All lines of a list, page after page.
fn lines(client: &Client, server: &Server, path: &str) -> Vec<Line> {
    let mut lines = Vec::new();
    let mut next = path.to_owned();
    while !next.is_empty() {
        let page = client.get(server.at(&next)).send().unwrap().text().unwrap();
        let (rows, more) = page.split_once("<tr class=\"more\"").unwrap_or((&page, ""));
        lines.extend(rows.split("<tr").skip(1).map(line));
        next = unescaped(between(more, "href=\"", "\""));
    }
    lines
}

fn rows(client: &Client, server: &Server, path: &str) -> Vec<Row> {
    let row = |line| if let Line::Row(row) = line { Some(row) } else { None };
    lines(client, server, path).into_iter().filter_map(row).collect()
}

/// The plain rule of order for columns of open values: figures as numbers, dates as dates, words without case, nothing last.
fn in_order(a: &(String, String, bool), b: &(String, String, bool), descending: bool) -> std::cmp::Ordering {
    let last = a.0.is_empty().cmp(&b.0.is_empty());
    let by_value = if a.2 {
        let number = |cell: &(String, String, bool)| cell.0.parse::<f64>().unwrap_or(0.0);
        number(a).total_cmp(&number(b))
    } else if [a, b].iter().all(|cell| cell.0.len() == 10 && cell.0.as_bytes()[4] == b'-') {
        a.0.cmp(&b.0)
    } else {
        a.1.to_lowercase().cmp(&b.1.to_lowercase())
    };
    let by_value = if a.0.is_empty() || b.0.is_empty() { std::cmp::Ordering::Equal } else { by_value };
    last.then(if descending { by_value.reverse() } else { by_value })
}

const OPEN: [(&str, &[&str]); 3] = [
    ("tasks", &["title", "project", "assignees", "estimate_h", "start", "due", "team", "field.Weight kg", "requester"]),
    ("people", &["name", "email", "role", "holiday_calendar", "day_limit_h", "skills"]),
    ("projects", &["code", "name", "lead", "start", "finish", "budget_h"]),
];

#[test]
fn every_column_sorts_filters_and_groups_as_its_values_say() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    for (list, columns) in OPEN {
        let shown = format!("&col={}", columns.join("&col=").replace(' ', "+"));
        let all = rows(&mira, &server, &format!("/{list}/rows?x=1{shown}"));
        let everybody: HashSet<i32> = all.iter().map(|row| row.id).collect();
        assert_eq!(everybody.len(), all.len(), "no row of {list} comes twice");
        assert_eq!(all[0].cells.len(), columns.len(), "every column of {list} is there that was asked for");
        for column in columns {
            let named = column.replace(' ', "+");
            for (mark, descending) in [("", false), ("-", true)] {
                let sorted = rows(&mira, &server, &format!("/{list}/rows?sort={mark}{named}{shown}"));
                let mut plain = all.clone();
                plain.sort_by(|a, b| in_order(&a.cells[*column], &b.cells[*column], descending).then(a.id.cmp(&b.id)));
                let ids = |rows: &[Row]| rows.iter().map(|row| row.id).collect::<Vec<_>>();
                assert_eq!(ids(&sorted), ids(&plain), "{list} by {mark}{column}");
            }
            let raw = &all[all.len() / 2].cells[*column].0;
            let value = if raw.is_empty() { "(none)" } else { raw };
            let query = [(format!("is.{column}"), value)];
            let address =
                reqwest::Url::parse_with_params(&server.at(&format!("/{list}/rows?x=1{shown}")), &query).unwrap();
            let path = format!("{}?{}", address.path(), address.query().unwrap());
            let filtered: HashSet<i32> = rows(&mira, &server, &path).iter().map(|row| row.id).collect();
            let expected = all.iter().filter(|row| row.cells[*column].0 == *raw).map(|row| row.id).collect();
            assert_eq!(filtered, expected, "{list} with {column} = {value}");
            groups_are_whole(&lines(&mira, &server, &format!("/{list}/rows?group={named}{shown}")), column, all.len());
        }
    }
}

/// Every value has one head, which counts the rows under it, and every row stands under its own.
fn groups_are_whole(lines: &[Line], column: &str, in_all: usize) {
    let mut heads: Vec<(&str, usize, Vec<&Row>)> = Vec::new();
    for line in lines {
        match line {
            Line::Head(label, count) => heads.push((label, *count, Vec::new())),
            Line::Row(row) => heads.last_mut().expect("a head comes first").2.push(row),
        }
    }
    let values: HashSet<&str> = heads.iter().map(|(_, _, rows)| rows[0].cells[column].0.as_str()).collect();
    assert_eq!(values.len(), heads.len(), "each value of {column} has one head");
    assert_eq!(heads.iter().map(|(_, count, _)| count).sum::<usize>(), in_all);
    for (label, count, rows) in heads {
        assert_eq!(rows.len(), count, "under {label}");
        assert!(rows.iter().all(|row| row.cells[column].0 == rows[0].cells[column].0), "under {label}");
        let (raw, shown, _) = &rows[0].cells[column];
        assert!(if raw.is_empty() { label.starts_with("No ") } else { label == shown }, "{label} is {shown}");
    }
}

#[test]
fn two_of_one_name_are_two_groups() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    // Two seasons of a show may have one name; by title their tasks come mixed.
    let id = database.query("SELECT id FROM project WHERE code = 'ropes'");
    let page = mira.get(server.at(&format!("/projects/{id}"))).send().unwrap().text().unwrap();
    let seen = unescaped(between(&page, "name=\"seen\" value=\"", "\""));
    let form = [("seen", seen.as_str()), ("code", "ropes"), ("name", "Moon Garden"), ("status", "active")];
    assert!(mira.post(server.at(&format!("/projects/{id}"))).form(&form).send().unwrap().status().is_success());
    let lines = lines(&mira, &server, "/tasks/rows?group=project&col=title&col=project");
    groups_are_whole(&lines, "project", rows(&mira, &server, "/tasks/rows").len());
}

#[test]
fn lists_are_filtered_sorted_grouped_and_cut_into_pages() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let names = |path: &str| -> Vec<String> {
        let page = mira.get(server.at(path)).send().unwrap().text().unwrap();
        page.split("class=\"name\"").skip(1).map(|rest| rest.split(['>', '<']).nth(1).unwrap().to_owned()).collect()
    };
    assert_eq!(names("/people/rows?is.role=rigger"), ["Jonah Petrov", "Ruth Engel"]);
    assert_eq!(names("/people/rows?is.role=rigger&sort=-name"), ["Ruth Engel", "Jonah Petrov"]);
    assert_eq!(names("/people/rows?q=sensors"), ["Oona Varga", "Teo Lindqvist"], "skills are words, too");
    assert_eq!(names("/tasks/rows?is.field.Bench=north"), ["Crater relief, casting", "Crater relief, milling"]);
    assert_eq!(names("/tasks/rows?is.field.Bench=north&sort=-field.Weight+kg")[0], "Crater relief, milling");
    let grouped = mira.get(server.at("/people/rows?group=role")).send().unwrap().text().unwrap();
    assert!(grouped.contains("<b>rigger</b>") && grouped.contains("<b>No role</b>"));
    let sums = mira.get(server.at("/tasks/rows?group=stage&is.project=ticket")).send().unwrap().text().unwrap();
    assert!(sums.contains("Estimate "), "a group says what its hours add up to");
    // Nonsense in an address is taken as not said.
    assert_eq!(names("/people/rows?sort=nothing&group=nothing&col=nothing&is.nothing=x&offset=-1").len(), 30);
    let all: usize = database.query("SELECT count(*) FROM task").parse().unwrap();
    assert_eq!(names("/tasks/rows?offset=40").len(), all - 40);
    let page = mira.get(server.at("/tasks?q=nothing+is+called+so")).send().unwrap().text().unwrap();
    assert!(page.contains("Nothing fits this filter"));
}

/// Kinds of time off and logs are for oneself, leads of one’s teams and managers, wherever they could stand.
#[test]
fn what_is_private_is_seen_by_few() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let one = |sql: &str| database.query(sql);
    let person = |who: &str| one(&format!("SELECT id FROM person WHERE email = '{who}@tidewater.test'"));
    let off = |who: &str| one(&format!("SELECT id FROM absence WHERE person_id = {}", person(who)));
    // Mira enters it by hand, so that it stands in the activity too.
    let form = [("email", "cato@tidewater.test"), ("start", "2026-05-04"), ("end", "2026-05-04"), ("kind", "hearing")];
    let mira = server.signed_in("mira");
    let made = mira.post(server.at("/time-off")).form(&form).send().unwrap().text().unwrap();
    assert!(made.contains("Time off of Cato"), "the message names nobody’s reason");
    let entry = one("SELECT max(revision) FROM ledger WHERE draft = 0");
    let (cato, noor) = (person("cato"), person("noor"));
    // Cato is one of Teo’s, Noor of the designers.
    let of_cato = [
        ("/time-off/rows?q=cato".to_owned(), "sick"),
        ("/time-off".to_owned(), "<option value=\"sick\""),
        (format!("/time-off/{}", off("cato").lines().next().unwrap()), "sick"),
        ("/setup/export/absences.csv".to_owned(), "sick"),
        ("/suggest?of=used&kind=absence&column=kind&q=sick".to_owned(), "sick"),
        (format!("/fit/sheet?person={cato}&from=2026-03-09&at=2026-03-09"), "Sick, "),
        (format!("/setup/activity/{entry}"), "hearing"),
        ("/setup/export/time.csv".to_owned(), "teo@tidewater.test"),
    ];
    let of_noor = [
        ("/time-off/rows?q=noor".to_owned(), "appointment"),
        ("/time-off".to_owned(), "<option value=\"appointment\""),
        (format!("/time-off/{}", off("noor")), "appointment"),
        ("/setup/export/absences.csv".to_owned(), "appointment"),
        (format!("/fit/sheet?person={noor}&from=2026-03-30&at=2026-03-30"), "Appointment, "),
        ("/setup/export/time.csv".to_owned(), "juno@tidewater.test"),
        ("/hours/actuals?by=person".to_owned(), "Juno"),
    ];
    for (who, sees_cato, sees_noor) in [
        ("ada", true, true),
        ("mira", true, true),
        ("teo", true, false),
        ("oona", false, false),
        ("guest", false, false),
    ] {
        let client = server.signed_in(who);
        let places = of_cato.iter().map(|place| (place, sees_cato)).chain(of_noor.iter().map(|it| (it, sees_noor)));
        for ((path, words), sees) in places {
            let page = client.get(server.at(path)).send().unwrap();
            assert!(page.status().is_success(), "{who}, {path}");
            let page = unescaped(&page.text().unwrap());
            assert_eq!(page.contains(words), sees, "{who}, {path}: {words}");
        }
        let status = |path: String| client.get(server.at(&path)).send().unwrap().status().as_u16();
        for (other, sees) in [(&cato, sees_cato), (&noor, sees_noor)] {
            let expected = if sees { 200 } else { 403 };
            assert_eq!(status(format!("/hours?person={other}")), expected, "{who}");
            assert_eq!(status(format!("/hours/sheet?person={other}")), expected, "{who}");
        }
        let token = database.run(&["token", &format!("{who}@tidewater.test")]);
        let ask = |path: &str| client.get(server.at(path)).bearer_auth(token.trim()).send().unwrap();
        assert_eq!(ask("/api/v1/time-off").text().unwrap().contains("appointment"), sees_noor, "{who}");
        let noors = ask(&format!("/api/v1/time-off/{}", off("noor")));
        assert_eq!(noors.headers().contains_key("etag"), sees_noor, "{who}: a tag would tell by guessing");
        assert_eq!(ask("/api/v1/time?limit=500").text().unwrap().contains("juno@tidewater.test"), sees_noor, "{who}");
        let juno = one(&format!("SELECT min(id) FROM time_entry WHERE person_id = {}", person("juno")));
        let found = ask(&format!("/api/v1/time/{juno}")).status().as_u16();
        assert_eq!(found, if sees_noor { 200 } else { 404 }, "{who}");
    }
}

/// Rates and money are for managers and up, in no page, list, file or answer of others.
#[test]
fn money_is_seen_by_managers_alone() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let ids = |table: &str, key: &str| database.query(&format!("SELECT id FROM {table} WHERE {key}"));
    let (oona, moon) = (ids("person", "email = 'oona@tidewater.test'"), ids("project", "code = 'moon'"));
    // The budget of Moon Garden, and what an hour of Oona Varga is billed at, wherever they could stand.
    let places = [
        ("/projects?col=name&col=budget_money".to_owned(), "148000"),
        (format!("/projects/{moon}"), "148000"),
        ("/setup/export/projects.csv".to_owned(), "148000"),
        ("/people?col=name&col=bill_rate".to_owned(), "data-column=\"bill_rate\""),
        (format!("/people/{oona}"), "bill_rate"),
        ("/setup/export/people.csv".to_owned(), ",50,96,"),
        ("/setup/export/rates.csv".to_owned(), ",54,102"),
    ];
    for (who, sees) in [("ada", true), ("mira", true), ("teo", false), ("oona", false), ("guest", false)] {
        let client = server.signed_in(who);
        for (path, money) in &places {
            let page = client.get(server.at(path)).send().unwrap();
            assert!(page.status().is_success(), "{who}, {path}");
            let page = unescaped(&page.text().unwrap());
            assert_eq!(page.contains(money), sees, "{who}, {path}");
            // Nor in what a script is handed to send back.
            assert!(sees || !page.contains("\"rates\":[{"), "{who}, {path}");
        }
    }
    for (who, sees) in [("mira", true), ("teo", false)] {
        let token = database.run(&["token", &format!("{who}@tidewater.test")]);
        let client = Client::new();
        let ask = |path: &str| client.get(server.at(path)).bearer_auth(token.trim()).send().unwrap().text().unwrap();
        assert_eq!(ask(&format!("/api/v1/projects/{moon}")).contains("148000"), sees, "{who}");
        assert_eq!(ask("/api/v1/people").contains("\"bill_rate\":96"), sees, "{who}");
    }
}
