//! Records by hand, by file and by program, on a real server.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::{
    StatusCode,
    blocking::{Client, multipart},
};
use serde_json::{Value, json};
use support::{Database, Server, root, unescaped};

/// The value of a hidden field of a page.
fn hidden(page: &str, name: &str) -> String {
    let mark = format!("name=\"{name}\" value=\"");
    let at = page.find(&mark).expect("the page has the field") + mark.len();
    unescaped(page[at..].split('"').next().unwrap())
}

fn project_form(seen: &str, name: &str, status: &str) -> Vec<(&'static str, String)> {
    vec![
        ("seen", seen.to_owned()),
        ("code", "moon".to_owned()),
        ("name", name.to_owned()),
        ("status", status.to_owned()),
    ]
}

#[test]
fn who_was_slower_is_shown_both_values_and_chooses() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let id = database.query("SELECT id FROM project WHERE code = 'moon'");
    let path = format!("/projects/{id}");
    let (mira, ada) = (server.signed_in("mira"), server.signed_in("ada"));
    let page = |client: &Client| client.get(server.at(&path)).send().unwrap().text().unwrap();
    let (seen_by_mira, seen_by_ada) = (hidden(&page(&mira), "seen"), hidden(&page(&ada), "seen"));
    let save = |client: &Client, seen: &str, name: &str, status: &str| {
        client.post(server.at(&path)).form(&project_form(seen, name, status)).send().unwrap()
    };
    let first = save(&ada, &seen_by_ada, "Moon Garden II", "paused");
    assert_eq!(first.status(), StatusCode::OK);
    assert!(first.text().unwrap().contains("Project “Moon Garden II” changed"));
    let second = save(&mira, &seen_by_mira, "Garden of the Moon", "active");
    assert_eq!(second.status(), StatusCode::UNPROCESSABLE_ENTITY);
    let second = second.text().unwrap();
    assert!(second.contains("Somebody else has changed this project since you opened it."));
    assert!(second.contains("value=\"Garden of the Moon\""), "what was typed stays");
    assert!(second.contains("Stands at Moon Garden II now."), "theirs is told beside it");
    // Saving again, now that theirs was seen, puts Mira's in its place.
    let third = save(&mira, &hidden(&second, "seen"), "Garden of the Moon", "active");
    assert!(third.text().unwrap().contains("Project “Garden of the Moon” changed"));
    assert_eq!(
        database.query("SELECT name || ' ' || status FROM project WHERE code = 'moon'"),
        "Garden of the Moon active"
    );
}

#[test]
fn a_cell_is_changed_or_refused_in_words() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let id = database.query("SELECT id FROM task WHERE reference = 'T05'");
    let teo = server.signed_in("teo");
    let rows = || teo.get(server.at("/tasks/rows?q=Crater+lighting")).send().unwrap().text().unwrap();
    let seen = |rows: &str| {
        let at = rows.find("data-seen=\"").unwrap() + 11;
        unescaped(rows[at..].split('"').next().unwrap())
    };
    let change = |seen: &str, column: &str, value: &str| {
        let form = [("column", column), ("value", value), ("seen", seen), ("room", "?q=Crater+lighting")];
        let asked = teo.post(server.at(&format!("/tasks/{id}/cell"))).header("x-requested-with", "test").form(&form);
        let answer = asked.send().unwrap();
        (answer.status().as_u16(), answer.json::<Value>().unwrap())
    };
    let stale = seen(&rows());
    let (status, refused) = change(&stale, "estimate_h", "twelve");
    assert_eq!((status, refused["field"].as_str()), (422, Some("value")));
    assert_eq!(refused["message"], "“twelve” is no number of hours; write it as 7.5");
    let (status, changed) = change(&stale, "estimate_h", "14.5");
    assert_eq!(status, 200, "{changed}");
    assert_eq!(changed["message"], "Task “Crater lighting test” changed");
    assert!(changed["row"].as_str().unwrap().contains("14.5 h"));
    let (status, late) = change(&stale, "priority", "urgent");
    assert_eq!(status, 409);
    assert!(late["standing"]["says"].as_str().unwrap().contains("Estimate 14.5 h"), "{late}");
    assert_eq!(change(&seen(&rows()), "priority", "urgent").0, 200);
    assert_eq!(change(&seen(&rows()), "no such column", "x").0, 400);
}

#[test]
fn a_description_is_written_once_and_comments_follow_each_other() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let id = database.query("SELECT id FROM task WHERE reference = 'T06'");
    let (teo, oona) = (server.signed_in("teo"), server.signed_in("oona"));
    let path = format!("/tasks/{id}");
    let describe = |body: &str, seen: &str| {
        let form = [("body", body), ("seen_text", seen)];
        teo.post(server.at(&format!("{path}/description"))).form(&form).send().unwrap()
    };
    let page = describe("Use **sealed** housings.", "").text().unwrap();
    assert!(page.contains("<strong>sealed</strong>"));
    let seen = hidden(&page, "seen_text");
    let second = describe("Another first description", "");
    assert_eq!(second.status(), StatusCode::UNPROCESSABLE_ENTITY, "there is one by now");
    assert!(second.text().unwrap().contains("Another first description"), "what was typed stays");
    assert_eq!(describe("Use *ventilated* housings.", &seen).status(), StatusCode::OK);
    assert_eq!(describe("Late", &seen).status(), StatusCode::UNPROCESSABLE_ENTITY);
    let say = |client: &Client, body: &str| {
        client.post(server.at(&format!("{path}/comments"))).form(&[("body", body)]).send().unwrap().text().unwrap()
    };
    say(&oona, "Which supplier?");
    let page = say(&teo, "The one from <b>last</b> year<script>alert(1)</script>");
    assert!(page.contains("Oona Varga") && page.contains("Which supplier?") && page.contains("<b>last</b>"));
    assert!(!page.contains("<script>alert"));
    // It is in the history, and can be taken back like everything else.
    assert!(page.contains("Comment added"));
    teo.post(server.at("/undo")).form(&[("back", "/fit")]).send().unwrap();
    assert_eq!(
        database.query(&format!("SELECT count(*) FROM text_note WHERE slot = 'comment' AND subject = {id}")),
        "1"
    );
}

#[test]
fn the_activity_takes_an_entry_back_and_brings_it_again() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let form = [("code", "lighthouse"), ("name", "Lighthouse"), ("status", "active")];
    mira.post(server.at("/projects")).form(&form).send().unwrap();
    let revision = database.query("SELECT max(revision) FROM ledger WHERE draft = 0");
    let entry = mira.get(server.at(&format!("/setup/activity/{revision}"))).send().unwrap().text().unwrap();
    assert!(entry.contains("Project “Lighthouse” added") && entry.contains("lighthouse"));
    let there = || database.query("SELECT count(*) FROM project WHERE code = 'lighthouse'");
    let undo = |revision: &str| {
        mira.post(server.at(&format!("/setup/activity/{revision}/undo"))).send().unwrap().text().unwrap()
    };
    assert!(undo(&revision).contains("Taken back: Project “Lighthouse” added"));
    assert_eq!(there(), "0");
    assert!(undo(&revision).contains("has been taken back already"));
    let undone = database.query("SELECT max(revision) FROM ledger WHERE draft = 0");
    undo(&undone);
    assert_eq!(there(), "1");
    let filtered =
        mira.get(server.at("/setup/activity?q=lighthouse&kind=project&who=mira%40tidewater.test")).send().unwrap();
    let filtered = filtered.text().unwrap();
    assert!(filtered.contains("Project “Lighthouse” added") && !filtered.contains("Imported from"));
    // What others build on stays: the entry that brought the demo in.
    mira.post(server.at("/tasks")).form(&[("title", "Later"), ("project", "moon")]).send().unwrap();
    let said = undo("1");
    assert!(said.contains("cannot be taken back"), "{said}");
}

#[test]
fn time_is_logged_by_duration_and_by_cell() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let person = database.query("SELECT id FROM person WHERE email = 'oona@tidewater.test'");
    let project = database.query("SELECT id FROM project WHERE code = 'trains'");
    let oona = server.signed_in("oona");
    let log = |duration: &str, on: &str| {
        let form = [
            ("person", person.as_str()),
            ("date", "2026-03-11"),
            ("duration", duration),
            ("on", on),
            ("note", "bench"),
            ("back", "/hours"),
        ];
        oona.post(server.at("/hours/log")).form(&form).send().unwrap().text().unwrap()
    };
    let refused = log("four", "T06");
    assert!(refused.contains("“four” is no duration; write 4h, 1d 2h, 90m, 1.5h, 1:30 or 2w"));
    assert!(refused.contains("value=\"four\"") && refused.contains("value=\"bench\""), "what was typed stays");
    assert!(log("1h 15m", "T06").contains("Time logged"));
    assert!(log("3d", "T06").contains("a day has 24"));
    let minutes = || {
        database.query("SELECT sum(minutes) FROM time_entry WHERE date = '2026-03-11' AND person_id = (SELECT id FROM person WHERE email = 'oona@tidewater.test')")
    };
    assert_eq!(minutes(), "75");
    let cell = |typed: &str, seen: &str| {
        let key = format!("{project}..2026-03-11");
        let form = [
            ("person", person.clone()),
            ("week", "2026-03-09".to_owned()),
            (&*format!("m.{key}"), typed.to_owned()),
            (&*format!("s.{key}"), seen.to_owned()),
        ];
        let answer = oona.post(server.at("/hours")).header("x-requested-with", "test").form(&form).send().unwrap();
        (answer.status().as_u16(), answer.json::<Value>().unwrap()["message"].as_str().unwrap().to_owned())
    };
    assert_eq!(cell("1.5", "0"), (200, "Time logged".to_owned()));
    assert_eq!(minutes(), "165");
    assert_eq!(cell("2", "0").0, 409, "it holds something else by now");
    assert_eq!(cell("", "90"), (200, "Time logged".to_owned()));
    assert_eq!(minutes(), "75");
    assert!(cell("soon", "0").1.contains("is no duration; write 4, 1.5"));
    // Nobody logs in another's name unless they lead.
    let ruth = database.query("SELECT id FROM person WHERE email = 'ruth@tidewater.test'");
    let form = [("person", ruth.as_str()), ("date", "2026-03-11"), ("duration", "1h"), ("on", "")];
    assert_eq!(oona.post(server.at("/hours/log")).form(&form).send().unwrap().status(), StatusCode::FORBIDDEN);
}

fn upload(client: &Client, server: &Server, files: &[(&str, Vec<u8>)]) -> reqwest::blocking::Response {
    let form = files.iter().fold(multipart::Form::new(), |form, (name, bytes)| {
        form.part("files", multipart::Part::bytes(bytes.clone()).file_name((*name).to_owned()))
    });
    client.post(server.at("/setup/import")).multipart(form).send().unwrap()
}

#[test]
fn files_are_shown_first_and_taken_over_whole() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let bad = b"email,name,role\nnew@tidewater.test,New Person,rigger\nno address,X,\n".to_vec();
    let page = upload(&mira, &server, &[("people.csv", bad)]).text().unwrap();
    assert!(page.contains("people.csv, line 3, column email: “no address” is no e-mail address"), "{page}");
    assert!(!page.contains("Take over"));
    // A file by another name is known by its header.
    let good = b"email,name,role,shoe size\nnew@tidewater.test,New Person,rigger,44\n".to_vec();
    let shown = upload(&mira, &server, &[("Crew of spring.csv", good.clone())]);
    let path = shown.url().path().to_owned();
    let page = shown.text().unwrap();
    assert!(page.contains("Take over 1 records") && page.contains("shoe size"), "{page}");
    let count = || database.query("SELECT count(*) FROM person WHERE email = 'new@tidewater.test'");
    assert_eq!(count(), "0", "a preview changes nothing");
    // Somebody else cannot take it over, and it is taken over once.
    assert_eq!(server.signed_in("ada").post(server.at(&path)).send().unwrap().status(), StatusCode::CONFLICT);
    assert!(
        mira.post(server.at(&path))
            .send()
            .unwrap()
            .text()
            .unwrap()
            .contains("One record taken over from Crew of spring.csv")
    );
    assert_eq!(count(), "1");
    assert_eq!(mira.post(server.at(&path)).send().unwrap().status(), StatusCode::CONFLICT);
    assert!(upload(&mira, &server, &[("again.csv", good)]).text().unwrap().contains("There is nothing to take over"));
    let strange = upload(&mira, &server, &[("picture.png", vec![137, 80, 78, 71])]).text().unwrap();
    assert!(strange.contains("picture.png: is none of the files of a workspace"));
    let broken = upload(&mira, &server, &[("all.zip", b"PK\x03\x04 nonsense".to_vec())]).text().unwrap();
    assert!(broken.contains("all.zip: cannot be unpacked"));
    assert_eq!(upload(&mira, &server, &[]).status(), StatusCode::UNPROCESSABLE_ENTITY);
}

#[test]
fn everything_goes_out_and_in_again_and_out_as_the_same_bytes() {
    let (first, second) = (Database::with_demo(), Database::new());
    let server = Server::start(&first);
    let mira = server.signed_in("mira");
    // Something made by hand, so that it has no key from a file.
    mira.post(server.at("/tasks"))
        .form(&[("title", "By hand"), ("project", "moon"), ("field.Bench", "north")])
        .send()
        .unwrap();
    let zip = mira.get(server.at("/setup/export.zip")).send().unwrap().bytes().unwrap();
    let single = mira.get(server.at("/setup/export/tasks.csv")).send().unwrap().text().unwrap();
    assert!(single.contains("By hand") && single.contains("field.Bench"));
    // For a spreadsheet what it would take for a formula is text; the file for importing again is exact.
    mira.post(server.at("/tasks")).form(&[("title", "=HYPERLINK(1)"), ("project", "moon")]).send().unwrap();
    let tasks =
        |query: &str| mira.get(server.at(&format!("/setup/export/tasks.csv{query}"))).send().unwrap().text().unwrap();
    assert!(tasks("").contains(",=HYPERLINK(1),") && tasks("?for=spreadsheet").contains(",'=HYPERLINK(1),"));
    mira.post(server.at("/undo")).send().unwrap();
    // An empty workspace, founded by hand, takes the very file that was given out.
    let other = Server::start(&second);
    let founder = Client::builder().cookie_store(true).build().unwrap();
    let key = other.next_line().rsplit_once("key=").unwrap().1.to_owned();
    let founding = [
        ("key", key.as_str()),
        ("workspace", "Copy"),
        ("zone", "UTC"),
        ("name", "Mira"),
        ("email", "mira@x.test"),
        ("password", "a long password"),
    ];
    founder.post(other.at("/welcome")).form(&founding).send().unwrap();
    let shown = upload(&founder, &other, &[("export.zip", zip.to_vec())]);
    let path = shown.url().path().to_owned();
    assert!(shown.text().unwrap().contains("Take over"));
    founder.post(other.at(&path)).send().unwrap();
    let again = founder.get(other.at("/setup/export.zip")).send().unwrap().bytes().unwrap();
    assert!(zip == again, "the second export differs from the first");
    let folder = root().join("demo");
    assert!(
        second.run(&["import", folder.to_str().unwrap(), "--preview"]).contains("people.csv              0"),
        "the demo is in it"
    );
}

struct Program<'a> {
    server: &'a Server,
    token: String,
    client: Client,
}

impl Program<'_> {
    fn call(&self, method: &str, path: &str, body: Option<&Value>, headers: &[(&str, &str)]) -> (u16, Value, String) {
        let method = method.parse().unwrap();
        let mut request =
            self.client.request(method, self.server.at(&format!("/api/v1{path}"))).bearer_auth(&self.token);
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        if let Some(body) = body {
            request = request.json(body);
        }
        let answer = request.send().unwrap();
        let tag = answer.headers().get("etag").map(|tag| tag.to_str().unwrap().to_owned()).unwrap_or_default();
        let kind =
            answer.headers().get("content-type").map(|kind| kind.to_str().unwrap().to_owned()).unwrap_or_default();
        let status = answer.status().as_u16();
        assert!(status < 400 || kind == "application/problem+json", "{path}: {status} {kind}");
        (status, answer.json().unwrap_or(Value::Null), tag)
    }
}

#[test]
fn a_program_makes_reads_changes_and_removes_records() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let token = database.run(&["token", "mira@tidewater.test", "--write"]).trim().to_owned();
    let api = Program { server: &server, token, client: Client::new() };
    let booking = json!({ "email": "oona@tidewater.test", "project": "moon", "start": "2026-05-04", "end": "2026-05-08", "amount": 6.5, "unit": "h/day" });
    // The same request with the same key is done once.
    let key = [("idempotency-key", "first")];
    let (status, made, _) = api.call("POST", "/bookings", Some(&booking), &key);
    assert_eq!((status, made["amount"].as_f64()), (201, Some(6.5)));
    let (status, again, _) = api.call("POST", "/bookings", Some(&booking), &key);
    assert_eq!((status, &again["id"]), (201, &made["id"]));
    let other = json!({ "email": "oona@tidewater.test", "start": "2026-05-04", "end": "2026-05-08", "amount": 1, "unit": "h/day" });
    assert_eq!(api.call("POST", "/bookings", Some(&other), &key).0, 422, "another request with the key");
    let path = format!("/bookings/{}", made["id"]);
    let (_, read, tag) = api.call("GET", &path, None, &[]);
    assert_eq!(read, made);
    let mut changed = booking.clone();
    changed["amount"] = json!(4);
    let (status, now, new_tag) = api.call("PUT", &path, Some(&changed), &[("if-match", &tag)]);
    assert_eq!((status, now["amount"].as_f64()), (200, Some(4.0)));
    assert_ne!(tag, new_tag);
    assert_eq!(api.call("PUT", &path, Some(&booking), &[("if-match", &tag)]).0, 412, "an old version");
    let revision = database.query("SELECT max(revision) FROM ledger WHERE draft = 0");
    let (status, entry, _) = api.call("POST", &format!("/ledger/{revision}/undo"), None, &[]);
    assert_eq!((status, entry["undoes"].to_string()), (200, revision.clone()));
    assert_eq!(api.call("POST", &format!("/ledger/{revision}/undo"), None, &[]).0, 409);
    assert_eq!(api.call("DELETE", &path, None, &[]).0, 204);
    assert_eq!(api.call("GET", &path, None, &[]).0, 404);
}

#[test]
fn a_program_is_told_what_is_wrong_and_where() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let token = database.run(&["token", "mira@tidewater.test", "--write"]).trim().to_owned();
    let api = Program { server: &server, token, client: Client::new() };
    let problem = |path: &str, body: Value| {
        let (status, problem, _) = api.call("POST", path, Some(&body), &[]);
        (
            status,
            problem["field"].as_str().unwrap_or_default().to_owned(),
            problem["detail"].as_str().unwrap().to_owned(),
        )
    };
    let (status, field, detail) = problem("/tasks", json!({ "project": "nowhere", "title": "T" }));
    assert_eq!((status, field.as_str(), detail.as_str()), (422, "project", "project: there is no project “nowhere”"));
    assert_eq!(problem("/tasks", json!({ "project": "moon" })).0, 422, "a title is missing");
    assert_eq!(problem("/tasks", json!({ "project": "moon", "title": "T", "colour": "red" })).0, 422, "no such column");
    assert_eq!(problem("/people", json!({ "email": "oona@tidewater.test", "name": "X" })).1, "email");
    assert_eq!(problem("/people", json!({ "email": "x@x.test", "name": "two\nlines" })).1, "name");
    assert_eq!(
        problem("/time", json!({ "email": "oona@tidewater.test", "date": "2026-03-09", "hours": -30 })).1,
        "hours"
    );
    assert_eq!(
        problem(
            "/bookings",
            json!({ "email": "oona@tidewater.test", "start": "x", "end": "x", "amount": 1, "unit": "h" })
        )
        .1,
        "start"
    );
    let own = problem("/tasks", json!({ "project": "moon", "title": "T", "fields": { "Bench": "west" } }));
    assert!(own.2.contains("“west” is not one of north"), "{}", own.2);
    let (status, page, _) = api.call("GET", "/people?limit=2", None, &[]);
    assert_eq!((status, page["items"].as_array().unwrap().len()), (200, 2));
    let (_, next, _) = api.call("GET", &format!("/people?limit=2&after={}", page["next"]), None, &[]);
    assert_ne!(page["items"][1]["id"], next["items"][0]["id"]);
    for (path, status) in [
        ("/people?limit=0", 422),
        ("/people?limit=x", 400),
        ("/people?colour=red", 400),
        ("/people/x", 404),
        ("/nowhere", 404),
        ("/load?from=x&to=y", 422),
    ] {
        assert_eq!(api.call("GET", path, None, &[]).0, status, "{path}");
    }
    assert_eq!(api.call("PATCH", "/people", None, &[]).0, 405);
    let plain = api.client.post(server.at("/api/v1/tasks")).bearer_auth(&api.token).body("title=T").send().unwrap();
    assert_eq!(plain.status(), StatusCode::UNSUPPORTED_MEDIA_TYPE);
}
