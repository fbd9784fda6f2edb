//! The API's resources, one after the other, and its description.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::blocking::{Client, Response};
use serde_json::{Value, json};
use support::{Database, Server};

struct Api {
    server: Server,
    token: String,
    client: Client,
}

impl Api {
    fn start(database: &Database) -> Self {
        let token = database.run(&["token", "mira@tidewater.test", "--write"]).trim().to_owned();
        Self { server: Server::start(database), token, client: Client::new() }
    }

    fn send(&self, method: &str, path: &str, body: Option<&Value>) -> Response {
        let url = self.server.at(&format!("/api/v1{path}"));
        let request = self.client.request(method.parse().unwrap(), url).bearer_auth(&self.token);
        body.map_or_else(|| request.try_clone().unwrap(), |body| request.try_clone().unwrap().json(body))
            .send()
            .unwrap()
    }

    fn ask(&self, method: &str, path: &str, body: Option<&Value>) -> (u16, Value) {
        let answer = self.send(method, path, body);
        (answer.status().as_u16(), answer.json().unwrap_or(Value::Null))
    }
}

#[test]
fn every_resource_is_made_listed_read_changed_and_removed() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let table = [
        (
            "people",
            json!({ "email": "lift@tidewater.test", "name": "Second lift", "kind": "equipment", "pattern": "10 10 10 10 10 0 0", "day_limit_h": 9.5 }),
            ("day_limit_h", json!(8)),
        ),
        (
            "projects",
            json!({ "code": "pier", "name": "Pier", "parent": "moon", "budget_h": 120, "fields": { "Client": "Harbour" } }),
            ("status", json!("paused")),
        ),
        (
            "tasks",
            json!({ "project": "moon", "title": "Railing", "assignees": "oona@tidewater.test=60;teo@tidewater.test=40", "estimate_h": 12.5, "walk_in": true, "fields": { "Bench": "north" } }),
            ("priority", json!("high")),
        ),
        (
            "bookings",
            json!({ "role": "rigger", "project": "moon", "start": "2026-05-04", "end": "2026-05-08", "amount": 50, "unit": "%" }),
            ("certainty", json!("pencilled")),
        ),
        (
            "time",
            json!({ "email": "oona@tidewater.test", "date": "2026-03-10", "task": "T06", "hours": 0.25 }),
            ("hours", json!(0.5)),
        ),
    ];
    for (resource, body, (column, value)) in table {
        let (status, made) = api.ask("POST", &format!("/{resource}"), Some(&body));
        assert_eq!(status, 201, "{resource}: {made}");
        for (name, sent) in body.as_object().unwrap() {
            let got = &made[name];
            let same = got == sent || got.as_f64().is_some() && got.as_f64() == sent.as_f64();
            assert!(same, "{resource}, {name}: {got} is not {sent}");
        }
        let path = format!("/{resource}/{}", made["id"]);
        let after = made["id"].as_i64().unwrap() - 1;
        let (_, page) = api.ask("GET", &format!("/{resource}?after={after}"), None);
        assert_eq!(page["items"][0], made, "{resource}");
        assert_eq!(page["next"], Value::Null);
        let mut changed = body.clone();
        changed[column] = value.clone();
        let (status, now) = api.ask("PUT", &path, Some(&changed));
        assert_eq!(status, 200, "{resource}: {now}");
        assert!(now[column] == value || now[column].as_f64() == value.as_f64(), "{resource}: {now}");
        assert_eq!(api.ask("GET", &path, None).1, now);
        assert_eq!(api.ask("PUT", &path, Some(&changed)).0, 200, "nothing to change is no failure");
        assert_eq!(api.ask("DELETE", &path, None).0, 204);
        assert_eq!(api.ask("DELETE", &path, None).0, 404);
        assert_eq!(api.ask("PUT", &path, Some(&changed)).0, 404);
    }
}

#[test]
fn what_cannot_be_kept_or_added_up_is_refused_in_words() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let task = |name: &str, value: Value| {
        let mut task = json!({ "project": "moon", "title": "Odd" });
        task[name] = value;
        let (status, problem) = api.ask("POST", "/tasks", Some(&task));
        (status, problem["field"].as_str().unwrap_or_default().to_owned(), problem["detail"].to_string())
    };
    for (name, value, says) in [
        ("points", json!(1e15), "Write a number from 0 to 1,000,000."),
        ("title", json!("Od\u{0}d"), "a character that no text has"),
        ("estimate_h", json!(1e15), "more than can be"),
    ] {
        let (status, field, detail) = task(name, value);
        assert_eq!((status, field.as_str()), (422, name), "{detail}");
        assert!(detail.contains(says), "{name}: {detail}");
    }
    let rate = json!({ "email": "dear@tidewater.test", "name": "Dear", "cost_rate": 1e12 });
    let (status, problem) = api.ask("POST", "/people", Some(&rate));
    assert_eq!((status, &problem["field"]), (422, &json!("cost_rate")));
    // A reference is given once, and an address or a form holds no such character either.
    let booking = json!({ "email": "oona@tidewater.test", "ref": "B01", "start": "2026-05-04", "end": "2026-05-08", "amount": 1, "unit": "h/day" });
    let (status, problem) = api.ask("POST", "/bookings", Some(&booking));
    assert_eq!(status, 422, "{problem}");
    assert!(problem["detail"].as_str().unwrap().contains("There is a booking with “B01” already."));
    assert_eq!(api.ask("GET", "/ledger?actor=%00", None).0, 422);
    let mira = api.server.signed_in("mira");
    assert_eq!(mira.get(api.server.at("/setup/activity?q=%00")).send().unwrap().status().as_u16(), 422);
    let form = [("name", "Look\u{0}"), ("address", "/fit")];
    assert_eq!(mira.post(api.server.at("/looks/fit")).form(&form).send().unwrap().status().as_u16(), 422);
}

#[test]
fn the_same_request_twice_at_once_makes_one_record() {
    let database = Database::with_demo();
    let (api, other) = (Api::start(&database), Server::start(&database));
    let task = json!({ "project": "moon", "title": "Once" });
    let ask = |server: &Server, key: &str| {
        let request = Client::new().post(server.at("/api/v1/tasks")).bearer_auth(&api.token).json(&task);
        let answer = request.header("idempotency-key", key).send().unwrap();
        (answer.status().as_u16(), answer.json::<Value>().unwrap())
    };
    for round in 0..10 {
        let key = format!("round {round}");
        let answers: Vec<(u16, Value)> = std::thread::scope(|scope| {
            let asked = |at: usize| {
                scope.spawn({
                    let (ask, key, server) = (&ask, &key, [&api.server, &other][at % 2]);
                    move || ask(server, key)
                })
            };
            (0..6).map(asked).collect::<Vec<_>>().into_iter().map(|asked| asked.join().unwrap()).collect()
        });
        assert!(answers.iter().all(|answer| *answer == answers[0] && answer.0 == 201), "{answers:?}");
    }
    assert_eq!(database.query("SELECT count(*) FROM task WHERE title = 'Once'"), "10");
}

#[test]
fn later_patterns_and_rates_stay_when_a_program_changes_a_person() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let id = database.query("SELECT id FROM person WHERE jsonb_array_length(patterns) > 1 LIMIT 1");
    let (_, person) = api.ask("GET", &format!("/people/{id}"), None);
    let mut body = person.clone();
    body.as_object_mut().unwrap().remove("id");
    body["role"] = json!("another role");
    assert_eq!(api.ask("PUT", &format!("/people/{id}"), Some(&body)).0, 200);
    assert_eq!(
        database.query(&format!("SELECT role, jsonb_array_length(patterns) > 1 FROM person WHERE id = {id}")),
        "another role|t"
    );
}

#[test]
fn what_others_belong_to_is_not_removed() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let id = database.query("SELECT id FROM project WHERE code = 'moon'");
    let (status, problem) = api.ask("DELETE", &format!("/projects/{id}"), None);
    assert_eq!((status, problem["title"].as_str()), (409, Some("Conflict")));
    let detail = problem["detail"].as_str().unwrap();
    assert!(detail.contains("still belong to “Moon Garden”, so it stays. Close it instead."), "{detail}");
}

#[test]
fn the_network_is_the_command_lines_and_a_move_is_one_entry() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let folder = std::env::temp_dir().join(format!("snug-network-{}", std::process::id()));
    database.run(&["export", folder.to_str().unwrap()]);
    let line = |more: &[&str]| -> Value {
        let args = [&["network", folder.to_str().unwrap(), "--today", "2026-03-11", "--format", "json"], more].concat();
        serde_json::from_str(&database.run(&args)).unwrap()
    };
    let (_, table) = api.ask("GET", "/network", None);
    assert_eq!(table, line(&[]));
    assert!(table.as_array().unwrap().iter().any(|row| row["critical"] == "yes"));
    let asked = json!({ "moves": [{ "task": "T13", "to": "2026-03-30" }], "preview": true });
    let (_, would) = api.ask("POST", "/network/move", Some(&asked));
    assert_eq!(would, line(&["--move", "T13=2026-03-30"]));
    assert_eq!(api.ask("GET", "/network", None).1, table, "nothing was moved");
    let asked = json!({ "moves": [{ "task": "T13", "to": "2026-03-30" }] });
    let (status, done) = api.ask("POST", "/network/move", Some(&asked));
    assert_eq!((status, &done), (200, &would));
    let revision = database.query("SELECT max(revision) FROM ledger WHERE draft = 0");
    assert_eq!(api.ask("POST", &format!("/ledger/{revision}/undo"), None).0, 200);
    assert_eq!(api.ask("GET", "/network", None).1, table);
    // What is refused is refused in the words of every other door.
    let begun = json!({ "moves": [{ "task": "T02", "to": "2026-02-16" }] });
    let (status, problem) = api.ask("POST", "/network/move", Some(&begun));
    let detail = problem["detail"].as_str().unwrap();
    assert_eq!(status, 409, "{detail}");
    assert!(detail.contains("“Crater relief, milling” is begun"), "{detail}");
    for (body, words) in [
        (json!({ "moves": [] }), "between 1 and 200"),
        (json!({ "moves": [{ "task": "T99x", "to": "2026-03-30" }] }), "there is no task"),
        (json!({ "moves": [{ "task": "T13", "to": "tomorrow" }] }), "is no date"),
        (json!({ "moves": [{ "task": "T13", "to": "2026-03-30" }], "mode": "throw" }), "mode"),
    ] {
        let (status, problem) = api.ask("POST", "/network/move", Some(&body));
        assert_eq!(status, 422);
        assert!(problem["detail"].as_str().unwrap().contains(words), "{problem}");
    }
    std::fs::remove_dir_all(folder).unwrap();
}

#[test]
fn the_load_table_is_the_command_lines() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let folder = std::env::temp_dir().join(format!("snug-load-{}", std::process::id()));
    database.run(&["export", folder.to_str().unwrap()]);
    for (group, by, measure) in [
        ("person", "week", "minutes"),
        ("team", "month", "minutes"),
        ("role", "day", "percent"),
        ("project", "week", "tasks"),
    ] {
        let (_, table) = api.ask(
            "GET",
            &format!("/load?from=2026-03-09&to=2026-04-19&by={by}&group={group}&measure={measure}"),
            None,
        );
        let args = [
            "load",
            folder.to_str().unwrap(),
            "--from",
            "2026-03-09",
            "--to",
            "2026-04-19",
            "--today",
            support::TODAY,
            "--by",
            by,
            "--group",
            group,
            "--measure",
            measure,
            "--format",
            "json",
        ];
        let expected: Value = serde_json::from_str(&database.run(&args)).unwrap();
        assert_eq!(table, expected, "{group} by {by}, {measure}");
    }
    std::fs::remove_dir_all(folder).unwrap();
}

#[test]
fn the_description_is_of_openapi_3_1_and_says_what_each_answer_is() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let (_, doc) = api.ask("GET", "/openapi.json", None);
    assert!(doc["openapi"].as_str().unwrap().starts_with("3.1"));
    assert_eq!(doc["components"]["securitySchemes"]["token"]["scheme"], "bearer");
    let paths = doc["paths"].as_object().unwrap();
    for path in ["people", "projects", "tasks", "bookings", "time"] {
        assert!(
            paths.contains_key(&format!("/api/v1/{path}")) && paths.contains_key(&format!("/api/v1/{path}/{{id}}")),
            "{path}"
        );
    }
    assert!(paths.contains_key("/api/v1/load") && paths.contains_key("/api/v1/ledger"));
    for (path, operations) in paths {
        for (method, operation) in operations.as_object().unwrap() {
            let responses = operation["responses"].as_object().unwrap();
            assert!(responses.contains_key("401"), "{method} {path}");
            assert!(
                responses.values().all(|response| !response["description"].as_str().unwrap().is_empty()),
                "{method} {path}"
            );
            assert!(!operation["summary"].as_str().unwrap_or_default().is_empty(), "{method} {path} has no summary");
        }
    }
    assert!(
        doc["components"]["schemas"]["TaskBody"]["properties"]["ref"].is_object(),
        "columns are called as in files"
    );
}

#[test]
fn a_database_that_is_gone_is_told_and_comes_back() {
    let database = Database::with_demo();
    let api = Api::start(&database);
    let mira = api.server.signed_in("mira");
    assert_eq!(api.ask("GET", "/people", None).0, 200);
    let name = database.url.rsplit('/').next().unwrap().to_owned();
    let server = std::env::var("TEST_DATABASE_URL").unwrap();
    let psql = |sql: String| {
        let done = std::process::Command::new("psql").args([server.as_str(), "-qtAX", "-c", &sql]).output().unwrap();
        assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    };
    psql(format!("ALTER DATABASE {name} ALLOW_CONNECTIONS false"));
    psql(format!("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{name}'"));
    let task = json!({ "project": "moon", "title": "Lost" });
    let (status, problem) = api.ask("POST", "/tasks", Some(&task));
    assert_eq!(status, 503, "{problem}");
    assert_eq!(
        problem["detail"],
        "The database does not answer at this moment. Nothing was changed; try again in a while."
    );
    let page = mira.get(api.server.at("/tasks")).send().unwrap();
    assert_eq!(page.status().as_u16(), 503);
    let health = |of: &str| mira.get(api.server.at(&format!("/health/{of}"))).send().unwrap().status().as_u16();
    assert_eq!((health("live"), health("ready")), (200, 503));
    let page = page.text().unwrap();
    assert!(page.contains("Back in a while") && !page.to_lowercase().contains("sql"), "{page}");
    psql(format!("ALTER DATABASE {name} ALLOW_CONNECTIONS true"));
    let deadline = std::time::Instant::now() + std::time::Duration::from_secs(30);
    while api.ask("POST", "/tasks", Some(&task)).0 != 201 {
        assert!(std::time::Instant::now() < deadline, "the server does not recover");
    }
    assert_eq!(database.query("SELECT count(*) FROM task WHERE title = 'Lost'"), "1");
}
