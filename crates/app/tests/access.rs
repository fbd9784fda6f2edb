//! Who may open what: every route against every role, and the ways in.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::{
    StatusCode,
    blocking::{Client, Response},
    redirect::Policy,
};
use support::{Database, PASSWORD, Server};
use totp_rs::{Algorithm, Secret, TOTP};

const ROLES: [(&str, &str); 5] =
    [("guest", "viewer"), ("oona", "member"), ("teo", "lead"), ("mira", "manager"), ("ada", "administrator")];

/// What a route needs, as the place of the least role in `ROLES`.
const VIEWER: usize = 0;
const MEMBER: usize = 1;
const LEAD: usize = 2;
const MANAGER: usize = 3;
const ADMINISTRATOR: usize = 4;

type Form = Vec<(&'static str, String)>;

/// Every page that is read: all roles see all of them, and nobody who is not signed in does.
fn pages(person: &str, task: &str) -> Vec<String> {
    let mut pages: Vec<String> = [
        "/fit",
        "/fit/rows",
        "/fit/horizon",
        "/fit/alerts",
        "/fit/tray",
        "/fit/looks",
        "/fit/pocket",
        "/fit/table?angle=role",
        "/fit/head?angle=team&group=team%3Asparks",
        "/fit/export/csv",
        "/fit/export/xlsx",
        "/fit/export/svg?angle=project",
        "/schedule/gantt",
        "/schedule/gantt/rows?project=moon&offset=0",
        "/schedule/gantt/people",
        "/schedule/gantt/export/svg?project=moon",
        "/schedule/outline",
        "/schedule/baselines?baseline=B-moon",
        "/schedule/outline/rows",
        "/hours",
        "/hours/actuals",
        "/hours/actuals?by=project",
        "/hours/actuals?by=person",
        "/setup",
        "/setup/settings",
        "/setup/calendars",
        "/setup/import",
        "/setup/export.zip",
        "/setup/export/people.csv",
        "/setup/members",
        "/setup/activity",
        "/setup/activity/1",
        "/mailbox",
        "/me",
        "/me/two-step",
        "/start/people",
        "/start/projects",
        "/start/bookings",
        "/finder?q=mo",
        "/help",
        "/help/fit",
        "/styleguide",
        "/suggest?of=person&q=oo",
        "/suggest?of=task&q=cra",
        "/suggest?of=used&kind=person&column=role",
    ]
    .map(str::to_owned)
    .to_vec();
    for list in ["people", "teams", "projects", "tasks", "milestones", "time-off", "holidays", "fields"] {
        pages.extend(["", "/rows", "/new"].map(|rest| format!("/{list}{rest}")));
    }
    pages.push(format!("/fit/rows/{person}"));
    pages.push(format!("/fit/sheet?person={person}"));
    pages.push(format!("/fit/export/ics?person={person}"));
    pages.push(format!("/people/{person}"));
    pages.push(format!("/schedule/gantt/rows/{task}"));
    pages.push(format!("/schedule/gantt/sheet?row={task}"));
    pages.push(format!("/tasks/{task}"));
    pages.push(format!("/tasks/{task}?by=task"));
    pages.push("/tasks/bulk?column=stage".to_owned());
    pages
}

#[test]
fn every_route_against_every_role() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let one = |sql: &str| database.query(sql);
    let person = one("SELECT id FROM person WHERE email = 'oona@tidewater.test'");
    let task = one("SELECT id FROM task WHERE reference = 'T06'");
    let plain = Client::builder().redirect(Policy::none()).build().unwrap();
    let clients: Vec<Client> = ROLES.iter().map(|(who, _)| server.signed_in(who)).collect();
    let file = one("SELECT min(id) FROM attachment WHERE media LIKE 'image/%'");
    let files = [format!("/files/{file}"), format!("/files/{file}/small")];
    for path in pages(&person, &task).into_iter().chain(files) {
        let out = plain.get(server.at(&path)).send().unwrap();
        assert_eq!(out.status(), StatusCode::SEE_OTHER, "{path}, signed out");
        for ((_, role), client) in ROLES.iter().zip(&clients) {
            assert_eq!(client.get(server.at(&path)).send().unwrap().status(), StatusCode::OK, "{path}, {role}");
        }
    }

    for ((_, role), client) in ROLES.iter().zip(&clients) {
        let status = client.get(server.at("/setup/security")).send().unwrap().status();
        assert_eq!(status == StatusCode::OK, *role == "administrator", "the security log, {role}");
    }

    // What changes something: the address, the least role, and a form that would do, in which # is the role's number.
    let booking: Form =
        [("person", person.as_str()), ("start", "2026-03-16"), ("end", "2026-03-20"), ("amount", "0.25h/d")]
            .map(|(name, value)| (name, value.to_owned()))
            .to_vec();
    let form = |pairs: &[(&'static str, &str)]| -> Form { pairs.iter().map(|(n, v)| (*n, (*v).to_owned())).collect() };
    let email = "oona@tidewater.test";
    let writes: Vec<(&str, usize, Form)> = vec![
        ("/bookings", LEAD, booking),
        ("/bookings/move", LEAD, form(&[("seen", "{}"), ("shift", "1")])),
        ("/bookings/hand-over", LEAD, form(&[("seen", "{}"), ("to", &person)])),
        ("/bookings/drop", LEAD, form(&[("task", "{}"), ("to", &person), ("at", "2026-03-16")])),
        ("/bookings/preview", LEAD, form(&[("what", "remove"), ("seen", "{}")])),
        ("/fit/presence", VIEWER, form(&[("person", &person), ("tab", "t#")])),
        ("/fit/looks", VIEWER, form(&[("name", "Look #"), ("address", "/fit?zoom=month")])),
        ("/fit/looks/forget", VIEWER, form(&[("look", "9999")])),
        (
            "/setup/calendars/subscribe",
            MEMBER,
            form(&[
                ("name", "Own #"),
                ("address", "http://127.0.0.1:9/a.ics"),
                ("purpose", "meetings"),
                ("person", email),
            ]),
        ),
        (
            "/setup/calendars/subscribe",
            MANAGER,
            form(&[
                ("name", "All #"),
                ("address", "http://127.0.0.1:9/a.ics"),
                ("purpose", "holidays"),
                ("calendar", "harbour"),
            ]),
        ),
        ("/setup/calendars/own", MANAGER, form(&[("person", "mira@tidewater.test")])),
        (
            "/people",
            MANAGER,
            form(&[("email", "new#@tidewater.test"), ("name", "New #"), ("pattern", "8 8 8 8 8 0 0")]),
        ),
        ("/teams", MANAGER, form(&[("code", "new#"), ("name", "New #")])),
        ("/projects", MANAGER, form(&[("code", "new#"), ("name", "New #"), ("status", "active")])),
        (
            "/holidays",
            MANAGER,
            form(&[("calendar", "harbour"), ("date", "2026-12-0#"), ("name", "New"), ("fraction", "1")]),
        ),
        ("/fields", MANAGER, form(&[("of", "task"), ("name", "New #"), ("kind", "number")])),
        ("/tasks", LEAD, form(&[("title", "New #"), ("project", "moon")])),
        ("/milestones", LEAD, form(&[("name", "New #"), ("date", "2026-04-01")])),
        ("/schedule/baselines", LEAD, form(&[("project", "moon"), ("name", "")])),
        ("/schedule/tasks/add", LEAD, form(&[("to", "p9999"), ("title", "New #")])),
        ("/schedule/tasks/write", LEAD, form(&[("to", "p9999"), ("text", "New #")])),
        ("/schedule/tasks/push", LEAD, form(&[("seen", "{}"), ("shift", "1")])),
        ("/schedule/tasks/link", LEAD, form(&[("seen", "{}"), ("to", "T01")])),
        ("/schedule/tasks/unlink", LEAD, form(&[("seen", "{}")])),
        ("/schedule/tasks/preview", LEAD, form(&[("what", "push"), ("seen", "{}")])),
        ("/schedule/tasks/done", MEMBER, form(&[("seen", "{}")])),
        ("/schedule/tasks/check", MEMBER, form(&[("seen", "{}")])),
        ("/schedule/tasks/follow", MEMBER, form(&[("seen", "{}")])),
        ("/schedule/tasks/refer", LEAD, form(&[("to", "T06"), ("address", "nowhere")])),
        ("/tasks/bulk", LEAD, form(&[("seen", "{}"), ("column", "stage"), ("value", "done"), ("sure", "yes")])),
        ("/files/9998/remove", MEMBER, form(&[("seen", "{}")])),
        ("/time-off", MEMBER, form(&[("email", email), ("start", "2026-08-0#"), ("end", "2026-08-0#")])),
        (
            "/hours/log",
            MEMBER,
            form(&[
                ("person", &person),
                ("date", "2026-03-11"),
                ("duration", "0:05"),
                ("on", "moon"),
                ("back", "/hours"),
            ]),
        ),
        ("/setup/settings", ADMINISTRATOR, form(&[("seen", "{}")])),
        ("/setup/members/invite", ADMINISTRATOR, form(&[("email", "guest#@elsewhere.test"), ("role", "member")])),
        ("/setup/members/withdraw", ADMINISTRATOR, form(&[("hash", "none")])),
        ("/setup/members/9999/role", ADMINISTRATOR, form(&[("role", "member")])),
        ("/setup/members/9999/remove", ADMINISTRATOR, form(&[])),
        ("/setup/members/9999/end-sessions", ADMINISTRATOR, form(&[])),
        ("/me/two-step/begin", VIEWER, form(&[("password", "wrong"), ("code", "")])),
        ("/me/two-step/off", VIEWER, form(&[("password", "wrong"), ("code", "")])),
        ("/setup/import/none", MANAGER, form(&[])),
        ("/start/people", MANAGER, form(&[("name", "Someone #")])),
        ("/me/tokens", VIEWER, form(&[("name", "a script")])),
        ("/undo", VIEWER, form(&[])),
        ("/redo", VIEWER, form(&[])),
    ];
    for (path, least, form) in &writes {
        let status = |client: &Client, at: usize| {
            let form: Vec<(&str, String)> =
                form.iter().map(|(name, value)| (*name, value.replace('#', &(at + 1).to_string()))).collect();
            client.post(server.at(path)).form(&form).send().unwrap().status()
        };
        assert_eq!(status(&plain, 8), StatusCode::SEE_OTHER, "{path}, signed out");
        for (at, ((_, role), client)) in ROLES.iter().zip(&clients).enumerate() {
            let got = status(client, at);
            // What may be given is at most refused by a rule; logging that may not be leads back and says so in the page.
            assert_eq!(got != StatusCode::FORBIDDEN, at >= *least, "{path} as {role}: {got}");
            assert!(
                !got.is_server_error() || got == StatusCode::SERVICE_UNAVAILABLE && path.contains("9999"),
                "{path} as {role}: {got}"
            );
        }
    }
    // The members are who they were: nothing of the above got through the door by the way.
    assert_eq!(one("SELECT count(*) FROM booking WHERE amount = 15"), "3");
    assert_eq!(one("SELECT count(*) FROM person WHERE email LIKE 'new%'"), "2");
    assert_eq!(one("SELECT count(*) FROM task WHERE title LIKE 'New %'"), "3");
}

#[test]
fn programs_need_a_token_with_the_right_scope_and_an_account_with_the_right_role() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let client = Client::new();
    let task = serde_json::json!({ "project": "moon", "title": "By a program" });
    let post =
        |token: &str| client.post(server.at("/api/v1/tasks")).bearer_auth(token).json(&task).send().unwrap().status();
    let token = |who: &str, write: bool| {
        let email = format!("{who}@tidewater.test");
        let mut args = vec!["token", email.as_str()];
        args.extend(write.then_some("--write"));
        database.run(&args).trim().to_owned()
    };
    assert_eq!(post("nonsense"), StatusCode::UNAUTHORIZED);
    assert_eq!(post(&token("teo", false)), StatusCode::FORBIDDEN, "a token for reading");
    for (who, expected) in [("guest", 403), ("oona", 403), ("teo", 201), ("mira", 201), ("ada", 201)] {
        assert_eq!(post(&token(who, true)).as_u16(), expected, "{who}");
        for path in ["people", "projects", "tasks", "bookings", "time", "ledger", "load?from=2026-03-09&to=2026-03-15"]
        {
            let read = client.get(server.at(&format!("/api/v1/{path}"))).bearer_auth(token(who, false)).send().unwrap();
            assert_eq!(read.status(), StatusCode::OK, "{path} as {who}");
        }
    }
    let outside = client.get(server.at("/api/v1/people")).send().unwrap();
    assert_eq!(outside.headers()["content-type"], "application/problem+json");
    assert_eq!(client.get(server.at("/api/v1/openapi.json")).send().unwrap().status(), StatusCode::OK);
}

#[test]
fn what_comes_from_elsewhere_is_refused_and_whoever_guesses_waits() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let plain = Client::builder().redirect(Policy::none()).build().unwrap();
    let status = |path: &str| plain.get(server.at(path)).send().unwrap().status().as_u16();
    assert_eq!(status("/events"), 303);
    assert_eq!((status("/health/live"), status("/health/ready")), (200, 200));
    assert_eq!((status("/assets/../Cargo.toml"), status("/assets/%2e%2e/Cargo.toml")), (404, 404));
    // A form that comes from another site is refused, though the session is good; a program's request has no session.
    let client = server.signed_in("mira");
    for path in ["/undo", "/people", "/setup/settings", "/me/password"] {
        let foreign = client.post(server.at(path)).header("origin", "https://elsewhere.test").send().unwrap();
        assert_eq!(foreign.status(), StatusCode::FORBIDDEN, "{path}");
    }
    // A form leads back inside the application only.
    let away = client.post(server.at("/undo")).form(&[("back", "//elsewhere.test/")]).send().unwrap();
    assert_eq!(away.url().path(), "/fit");
    // The cookie is out of reach of scripts, and the policy allows nothing inline.
    let form = [("email", "mira@tidewater.test"), ("password", PASSWORD)];
    let answer = plain.post(server.at("/sign-in")).form(&form).send().unwrap();
    let cookie = answer.headers()["set-cookie"].to_str().unwrap().to_owned();
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Lax"), "{cookie}");
    let policy = answer.headers()["content-security-policy"].to_str().unwrap();
    assert!(policy.contains("default-src 'none'") && !policy.contains("unsafe"), "{policy}");
    // Whoever guesses is told to wait after ten attempts; on a slow machine one or two more may pass meanwhile.
    let guess = |_| {
        let form = [("email", "x@y.test"), ("password", "a guess")];
        plain.post(server.at("/sign-in")).form(&form).send().unwrap().status().as_u16()
    };
    let told = (0..20).map(guess).position(|status| status == 429);
    assert!(told.is_some_and(|attempts| attempts >= 10), "{told:?}");
}

/// The link in a letter, as a path of the server.
fn link(letter: &str, path: &str) -> String {
    let at = letter.find(path).expect("the letter holds a link");
    letter[at..].split_whitespace().next().unwrap().to_owned()
}

/// The first letter to somebody, once it is there: mail goes out behind the answer.
fn mailed(server: &Server, to: &str) -> String {
    support::until(|| server.letters(to).into_iter().next())
}

fn browser() -> Client {
    Client::builder().cookie_store(true).build().unwrap()
}

fn sign_in(server: &Server, client: &Client, email: &str, password: &str) -> Response {
    client.post(server.at("/sign-in")).form(&[("email", email), ("password", password)]).send().unwrap()
}

#[test]
fn an_invitation_makes_an_account_once() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let ada = server.signed_in("ada");
    let invite = |email: &str| {
        ada.post(server.at("/setup/members/invite"))
            .form(&[("email", email), ("name", "Ruth"), ("role", "lead")])
            .send()
            .unwrap()
    };
    assert_eq!(invite("ruth@tidewater.test").url().path(), "/setup/members");
    assert_eq!(invite("teo@tidewater.test").status(), StatusCode::UNPROCESSABLE_ENTITY, "an account there is");
    assert_eq!(invite("no address").status(), StatusCode::UNPROCESSABLE_ENTITY);
    let letters = server.letters("ruth@tidewater.test");
    let path = link(&letters[0], "/join/");
    let ruth = browser();
    let page = ruth.get(server.at(&path)).send().unwrap().text().unwrap();
    assert!(page.contains("Join Tidewater Exhibits") && page.contains("as lead"));
    let short = ruth.post(server.at(&path)).form(&[("name", "Ruth Engel"), ("password", "short")]).send().unwrap();
    assert!(short.text().unwrap().contains("Use at least 10 characters"));
    let room =
        ruth.post(server.at(&path)).form(&[("name", "Ruth Engel"), ("password", "a long password")]).send().unwrap();
    assert_eq!(room.url().path(), "/fit");
    assert_eq!(database.query("SELECT role FROM account WHERE email = 'ruth@tidewater.test'"), "lead");
    assert_eq!(browser().get(server.at(&path)).send().unwrap().status(), StatusCode::BAD_REQUEST, "used up");
    // Withdrawn, a link opens nothing.
    invite("late@tidewater.test");
    let late = link(&server.letters("late@tidewater.test")[0], "/join/");
    let hash = database.query("SELECT hash FROM door_key WHERE email = 'late@tidewater.test'");
    ada.post(server.at("/setup/members/withdraw")).form(&[("hash", hash.as_str())]).send().unwrap();
    assert_eq!(browser().get(server.at(&late)).send().unwrap().status(), StatusCode::BAD_REQUEST);
    // The last administrator stays.
    let id = database.query("SELECT id FROM account WHERE email = 'ada@tidewater.test'");
    let page = ada.post(server.at(&format!("/setup/members/{id}/role"))).form(&[("role", "viewer")]).send().unwrap();
    assert!(page.text().unwrap().contains("Somebody must run the workspace"));
    assert_eq!(database.query("SELECT role FROM account WHERE email = 'ada@tidewater.test'"), "administrator");
}

#[test]
fn a_forgotten_password_is_set_anew_and_ends_other_sessions() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let old = server.signed_in("teo");
    let ask =
        |email: &str| browser().post(server.at("/forgot")).form(&[("email", email)]).send().unwrap().text().unwrap();
    let (known, unknown) = (ask("teo@tidewater.test"), ask("nobody@tidewater.test"));
    assert_eq!(known.replace("teo@", ""), unknown.replace("nobody@", ""), "nobody learns who has an account");
    assert!(server.letters("nobody@tidewater.test").is_empty());
    let path = link(&mailed(&server, "teo@tidewater.test"), "/reset/");
    let fresh = browser();
    let room = fresh.post(server.at(&path)).form(&[("password", "another password")]).send().unwrap();
    assert_eq!(room.url().path(), "/fit");
    assert_eq!(old.get(server.at("/fit")).send().unwrap().url().path(), "/sign-in", "the old session has ended");
    assert_eq!(sign_in(&server, &browser(), "teo@tidewater.test", PASSWORD).status(), StatusCode::UNPROCESSABLE_ENTITY);
    // On one's own page the current password is asked for, and the session in which it is changed goes on.
    let change = |current: &str| {
        fresh.post(server.at("/me/password")).form(&[("current", current), ("new", "a third password")]).send().unwrap()
    };
    assert_eq!(change("wrong").status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(change("another password").url().path(), "/me");
    assert_eq!(fresh.get(server.at("/fit")).send().unwrap().url().path(), "/fit");
}

#[test]
fn with_two_steps_a_password_alone_opens_nothing() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let oona = server.signed_in("oona");
    let begin = |password: &str, code: &str| {
        let form = [("password", password), ("code", code)];
        oona.post(server.at("/me/two-step/begin")).form(&form).send().unwrap()
    };
    assert_eq!(begin("a wrong password", "").status(), StatusCode::UNPROCESSABLE_ENTITY);
    let page = begin(PASSWORD, "").text().unwrap();
    let at = page.find("The key: <code>").unwrap() + "The key: <code>".len();
    let secret = page[at..].split('<').next().unwrap().to_owned();
    let bytes = Secret::Encoded(secret).to_bytes().unwrap();
    let totp = TOTP::new(Algorithm::SHA1, 6, 1, 30, bytes, None, "x".to_owned()).unwrap();
    // The code of the next half minute is good already.
    let next =
        || totp.generate(std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap().as_secs() + 30);
    let wrong = oona.post(server.at("/me/two-step")).form(&[("code", "000000")]).send().unwrap();
    assert_eq!(wrong.status(), StatusCode::UNPROCESSABLE_ENTITY);
    let proof = totp.generate_current().unwrap();
    let on = oona.post(server.at("/me/two-step")).form(&[("code", &proof)]).send().unwrap();
    let codes = on.text().unwrap();
    let recovery: Vec<&str> = codes.split("<li><code>").skip(1).map(|rest| rest.split('<').next().unwrap()).collect();
    assert_eq!(recovery.len(), 10);

    let half = browser();
    let asked = sign_in(&server, &half, "oona@tidewater.test", PASSWORD);
    assert_eq!(asked.url().path(), "/sign-in/code");
    assert_eq!(half.get(server.at("/fit")).send().unwrap().url().path(), "/sign-in", "half is not in");
    let code =
        |client: &Client, code: &str| client.post(server.at("/sign-in/code")).form(&[("code", code)]).send().unwrap();
    assert_eq!(code(&half, "123456").status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(code(&half, &proof).status(), StatusCode::UNPROCESSABLE_ENTITY, "used up by setting it up");
    let now = next();
    assert_eq!(code(&half, &now).url().path(), "/fit");
    // A code that was used is worth nothing; a recovery code works once.
    let second = browser();
    sign_in(&server, &second, "oona@tidewater.test", PASSWORD);
    assert_eq!(code(&second, &now).status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(code(&second, recovery[0]).url().path(), "/fit");
    let third = browser();
    sign_in(&server, &third, "oona@tidewater.test", PASSWORD);
    assert_eq!(code(&third, recovery[0]).status(), StatusCode::UNPROCESSABLE_ENTITY);
    // A new password by mail does not stand in for the second step.
    browser().post(server.at("/forgot")).form(&[("email", "oona@tidewater.test")]).send().unwrap();
    let path = link(&mailed(&server, "oona@tidewater.test"), "/reset/");
    let reset = browser().post(server.at(&path)).form(&[("password", "another password")]).send().unwrap();
    assert_eq!(reset.url().path(), "/sign-in");
    // Set up anew or taken away with the password and a code, not with one of them.
    let changed = |path: &str, client: &Client, code: &str| {
        let form = [("password", "another password"), ("code", code)];
        client.post(server.at(path)).form(&form).send().unwrap()
    };
    let fourth = browser();
    sign_in(&server, &fourth, "oona@tidewater.test", "another password");
    assert_eq!(code(&fourth, recovery[1]).url().path(), "/fit");
    for path in ["/me/two-step/begin", "/me/two-step/off"] {
        assert_eq!(changed(path, &fourth, "").status(), StatusCode::UNPROCESSABLE_ENTITY, "{path}");
    }
    assert!(changed("/me/two-step/begin", &fourth, recovery[2]).text().unwrap().contains("The key: <code>"));
    assert_eq!(changed("/me/two-step/off", &fourth, recovery[3]).url().path(), "/me");
    assert_eq!(sign_in(&server, &browser(), "oona@tidewater.test", "another password").url().path(), "/fit");
}

#[test]
fn a_flood_of_sign_ins_takes_no_memory_and_a_long_address_no_time() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    assert_eq!(sign_in(&server, &browser(), "ada@tidewater.test", "wrong").status(), StatusCode::UNPROCESSABLE_ENTITY);
    let before = server.peak_memory();
    std::thread::scope(|scope| {
        for at in 0..120 {
            let server = &server;
            scope.spawn(move || {
                let refused = sign_in(server, &browser(), &format!("n{at}@elsewhere.test"), "wrong").status();
                assert_eq!(refused, StatusCode::UNPROCESSABLE_ENTITY);
            });
        }
    });
    // 120 hashes at once would take 2.3 GB.
    let more = server.peak_memory() - before;
    assert!(more < 300, "{more} MB");
    let long = format!("{}@elsewhere.test", "a".repeat(300));
    assert_eq!(sign_in(&server, &browser(), &long, "wrong").status(), StatusCode::UNPROCESSABLE_ENTITY);
}

/// A lock on a table, held by a connection of its own until it is dropped.
struct Held(std::process::Child);

impl Held {
    fn on(database: &Database, table: &str) -> Self {
        use std::io::Write as _;
        let mut child = std::process::Command::new("psql")
            .args([&database.url, "-qtAX"])
            .stdin(std::process::Stdio::piped())
            .spawn()
            .unwrap();
        writeln!(child.stdin.as_mut().unwrap(), "BEGIN; LOCK TABLE {table};").unwrap();
        let held = format!("SELECT count(*) FROM pg_locks WHERE relation = '{table}'::regclass AND granted");
        support::until(|| (database.query(&held) != "0").then_some(()));
        Self(child)
    }
}

impl Drop for Held {
    fn drop(&mut self) {
        drop(self.0.stdin.take());
        let _ = self.0.wait();
    }
}

#[test]
fn a_request_under_way_does_not_bring_back_a_session_that_was_ended() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let task = database.query("SELECT id FROM task WHERE reference = 'T06'");
    let held = Held::on(&database, "text_note");
    std::thread::scope(|scope| {
        let comment = || mira.post(server.at(&format!("/tasks/{task}/comments"))).form(&[("body", "Here")]).send();
        let under_way = scope.spawn(comment);
        // It has read its session and waits for the table.
        support::until(|| (database.query("SELECT count(*) FROM pg_locks WHERE NOT granted") != "0").then_some(()));
        database.query("DELETE FROM web_session");
        drop(held);
        under_way.join().unwrap().unwrap();
    });
    assert_eq!(database.query("SELECT count(*) FROM text_note WHERE body = 'Here'"), "1");
    assert_eq!(database.query("SELECT count(*) FROM web_session WHERE data ->> 'account' IS NOT NULL"), "0");
    assert_eq!(mira.get(server.at("/fit")).send().unwrap().url().path(), "/sign-in");
}

#[test]
fn one_signs_in_anew_after_thirty_days_however_often_one_comes() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let begun = |days: u32| {
        let since = format!("to_jsonb(to_char(now() - interval '{days} days', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"'))");
        database.query(&format!("UPDATE web_session SET data = jsonb_set(data, '{{since}}', {since})"));
    };
    begun(29);
    assert_eq!(mira.get(server.at("/fit")).send().unwrap().url().path(), "/fit");
    begun(31);
    assert_eq!(mira.get(server.at("/fit")).send().unwrap().url().path(), "/sign-in");
}

#[test]
fn sessions_are_listed_and_can_be_ended_from_elsewhere() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let (here, there) = (server.signed_in("mira"), server.signed_in("mira"));
    let page = here.get(server.at("/me")).send().unwrap().text().unwrap();
    assert_eq!(page.matches("name=\"handle\"").count(), 2);
    assert_eq!(page.matches("(this one)").count(), 1);
    let handles: Vec<&str> =
        page.split("name=\"handle\" value=\"").skip(1).map(|rest| rest.split('"').next().unwrap()).collect();
    // Somebody else's session cannot be ended.
    let teo = server.signed_in("teo");
    for handle in &handles {
        teo.post(server.at("/me/sessions/end")).form(&[("handle", handle)]).send().unwrap();
    }
    assert_eq!(there.get(server.at("/fit")).send().unwrap().url().path(), "/fit");
    here.post(server.at("/me/sessions/end-others")).send().unwrap();
    assert_eq!(there.get(server.at("/fit")).send().unwrap().url().path(), "/sign-in");
    assert_eq!(here.get(server.at("/fit")).send().unwrap().url().path(), "/fit");
}
