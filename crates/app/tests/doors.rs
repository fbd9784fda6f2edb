//! The ways in: sign-in, invitations, new passwords, second steps, sessions, and what is noted of it.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::{
    StatusCode,
    blocking::{Client, Response},
    redirect::Policy,
};
use support::{Database, Held, News, PASSWORD, Server};
use totp_rs::{Algorithm, Secret, TOTP};

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
    let token = database.run(&["token", "teo@tidewater.test"]).trim().to_owned();
    let programs = || Client::new().get(server.at("/api/v1/people")).bearer_auth(&token).send().unwrap().status();
    assert_eq!(programs(), StatusCode::OK);
    let own = old.post(server.at("/setup/calendars/own")).form(&[("person", "teo@tidewater.test")]).send().unwrap();
    let own = own.text().unwrap();
    let calendar = link(&own[own.find("/calendar/").unwrap()..], "/calendar/").split('<').next().unwrap().to_owned();
    let calendar = || browser().get(server.at(&calendar)).send().unwrap().status();
    assert_eq!(calendar(), StatusCode::OK);
    let weak = fresh.post(server.at(&path)).form(&[("password", "teo@tidewater.test")]).send().unwrap();
    assert!(weak.text().unwrap().contains("among the first passwords"));
    let form = [("password", "another password"), ("calendar", "end")];
    let room = fresh.post(server.at(&path)).form(&form).send().unwrap();
    assert_eq!(room.url().path(), "/fit");
    assert_eq!((programs(), calendar()), (StatusCode::UNAUTHORIZED, StatusCode::NOT_FOUND), "both ended with it");
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
fn six_hundred_sign_ins_at_once_take_no_memory_and_a_long_address_no_time() {
    let database = Database::with_demo();
    // Behind a proxy, so that they come from as many places.
    let server = Server::start_with(&database, &["--proxy", "127.0.0.1"]);
    let attempt = |email: &str, from: &str| {
        let form = [("email", email), ("password", "wrong")];
        let request = Client::builder().timeout(None).build().unwrap().post(server.at("/sign-in")).form(&form);
        request.header("x-forwarded-for", from).send().unwrap().status()
    };
    assert_eq!(attempt("ada@tidewater.test", "192.0.2.1"), StatusCode::UNPROCESSABLE_ENTITY);
    let before = server.peak_memory();
    let begun = std::time::Instant::now();
    let told: Vec<StatusCode> = std::thread::scope(|scope| {
        let one = |at: u32| {
            let attempt = &attempt;
            scope.spawn(move || attempt(&format!("n{at}@elsewhere.test"), &format!("10.0.{}.{}", at / 250, at % 250)))
        };
        (0..600).map(one).collect::<Vec<_>>().into_iter().map(|attempt| attempt.join().unwrap()).collect()
    });
    // Who is not heard within what a request may take is told to come again.
    let late = told.iter().filter(|status| **status == StatusCode::SERVICE_UNAVAILABLE).count();
    let heard = told.iter().filter(|status| **status == StatusCode::UNPROCESSABLE_ENTITY).count();
    assert_eq!(heard + late, 600, "{told:?}");
    // 600 hashes at once would take 11 GB.
    let more = server.peak_memory() - before;
    println!("600 sign-ins: {:.1} s, {late} told to wait, {more} MB more", begun.elapsed().as_secs_f32());
    assert!(more < 300, "{more} MB");
    // One place alone is told to wait, and others are not.
    let from_one = (0..400).map(|at| attempt(&format!("m{at}@elsewhere.test"), "10.9.9.9"));
    let refused = from_one.into_iter().position(|status| status == StatusCode::TOO_MANY_REQUESTS);
    assert!(refused.is_some_and(|at| at >= 200), "{refused:?}");
    assert_eq!(attempt("m1@elsewhere.test", "10.9.9.8"), StatusCode::UNPROCESSABLE_ENTITY);
    let long = format!("{}@elsewhere.test", "a".repeat(300));
    assert_eq!(attempt(&long, "10.9.9.8"), StatusCode::UNPROCESSABLE_ENTITY);
}

#[test]
fn an_administrator_ends_sessions_and_the_stream_ends_with_them() {
    let database = Database::with_demo();
    let (server, other) = (Server::start(&database), Server::start(&database));
    let (ada, teo) = (server.signed_in("ada"), other.signed_in("teo"));
    let mut news = News::of(&teo, &other);
    news.next("hello");
    let id = database.query("SELECT id FROM account WHERE email = 'teo@tidewater.test'");
    let end = |client: &Client| client.post(server.at(&format!("/setup/members/{id}/end-sessions"))).send().unwrap();
    assert_eq!(end(&server.signed_in("mira")).status(), StatusCode::FORBIDDEN);
    assert!(end(&ada).text().unwrap().contains("Every session of teo@tidewater.test has ended"));
    // On another server, too, and without anything else happening there.
    assert!(news.ends());
    assert_eq!(teo.get(other.at("/fit")).send().unwrap().url().path(), "/sign-in");
    // The same where the account goes.
    let guest = other.signed_in("guest");
    let mut news = News::of(&guest, &other);
    news.next("hello");
    let id = database.query("SELECT id FROM account WHERE email = 'guest@tidewater.test'");
    ada.post(server.at(&format!("/setup/members/{id}/remove"))).send().unwrap();
    assert!(news.ends());
}

#[test]
fn who_came_in_and_what_was_done_about_who_may_is_noted_for_administrators() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let ada = server.signed_in("ada");
    sign_in(&server, &browser(), "teo@tidewater.test", "wrong");
    let teo = server.signed_in("teo");
    teo.post(server.at("/me/tokens")).form(&[("name", "a script")]).send().unwrap();
    teo.get(server.at("/setup/export.zip")).send().unwrap();
    teo.post(server.at("/sign-out")).send().unwrap();
    let id = database.query("SELECT id FROM account WHERE email = 'oona@tidewater.test'");
    ada.post(server.at(&format!("/setup/members/{id}/role"))).form(&[("role", "lead")]).send().unwrap();
    // Somebody else's calendar address: a manager may, it is noted, and whose it is is told.
    let mira = server.signed_in("mira");
    mira.post(server.at("/setup/calendars/own")).form(&[("person", "oona@tidewater.test")]).send().unwrap();
    assert!(mailed(&server, "oona@tidewater.test").contains("made a new secret address for your calendar"));
    let log = |query: &str| ada.get(server.at(&format!("/setup/security{query}"))).send().unwrap().text().unwrap();
    let all = log("");
    for noted in [
        "Signed in",
        "Sign-in refused",
        "Token made",
        "a script",
        "Export",
        "Signed out",
        "Role changed",
        "oona@tidewater.test is lead",
        "Calendar address made",
        "127.0.0.1",
    ] {
        assert!(all.contains(noted), "{noted}");
    }
    assert!(!all.contains("wrong"), "no password, not even a wrong one");
    let of_teo = log("?q=teo%40&deed=sign-in+refused");
    assert_eq!(of_teo.matches("<th scope=\"row\">").count(), 1, "{of_teo}");
    assert!(log("?q=nobody-at-all").contains("No entry fits this filter"));
}

#[test]
fn wrong_codes_are_told_by_mail_and_slow_down() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    // A second step whose codes nobody knows.
    database.query("UPDATE account SET totp_secret = 'JBSWY3DPEHPK3PXPJBSWY3DPEHPK3PXP' WHERE email LIKE 'oona%'");
    let half = browser();
    sign_in(&server, &half, "oona@tidewater.test", PASSWORD);
    let code = || {
        let tried = half.post(server.at("/sign-in/code")).form(&[("code", "no code")]).send().unwrap();
        tried.text().unwrap()
    };
    for _ in 0..5 {
        assert!(code().contains("This code does not fit"));
    }
    assert!(code().contains("Too many wrong codes. The next can be tried at"));
    assert!(mailed(&server, "oona@tidewater.test").contains("has sent 5 wrong codes"));
    assert_eq!(database.query("SELECT wrong_codes FROM account WHERE email LIKE 'oona%'"), "5");
}

#[test]
fn behind_https_cookies_and_browsers_are_bound_to_it() {
    let database = Database::with_demo();
    let plain = Client::builder().redirect(Policy::none()).build().unwrap();
    let cookie = |server: &Server| {
        let form = [("email", "mira@tidewater.test"), ("password", PASSWORD)];
        let answer = plain.post(server.at("/sign-in")).form(&form).send().unwrap();
        let strict = answer.headers().get("strict-transport-security").map(|value| value.to_str().unwrap().to_owned());
        (answer.headers()["set-cookie"].to_str().unwrap().to_owned(), strict)
    };
    let (set, strict) = cookie(&Server::start_with(&database, &["--base-url", "https://roster.test"]));
    assert!(set.starts_with("__Host-snug_session=") && set.contains("Secure") && set.contains("Path=/"), "{set}");
    assert!(!set.contains("Domain") && strict.unwrap().starts_with("max-age="));
    let (set, strict) = cookie(&Server::start(&database));
    assert!(set.starts_with("snug_session=") && !set.contains("Secure") && strict.is_none(), "{set}");
    // Beyond this machine the demo is not served, and what is secret is in no help and in no log.
    let (done, said) = database.try_run(&["serve", "--demo", "--address", "0.0.0.0", "--port", "0"]);
    assert!(!done && said.contains("Everybody knows the demo's passwords"), "{said}");
    let (_, help) = database.try_run(&["serve", "--help"]);
    assert!(help.contains("DATABASE_URL") && !help.contains(&database.url), "{help}");
    let logged = Server::logged(&database, |server| {
        plain.get(server.at("/reset/a-key-that-was-mailed")).send().unwrap();
        plain.get(server.at("/calendar/a-secret-of-somebody.ics")).send().unwrap();
        plain.get(server.at("/welcome?key=a-key-of-the-start")).send().unwrap();
        sign_in(server, &plain, "mira@tidewater.test", PASSWORD);
    });
    assert!(logged.contains("\"/reset/{key}\""), "{logged}");
    for secret in ["a-key", "a-secret", PASSWORD, &database.url] {
        assert!(!logged.contains(secret), "{secret}");
    }
    let (done, said) = database.try_run(&["serve", "--mail", "smtp://me:hush-hush@[", "--port", "0"]);
    assert!(!done && !said.contains("hush-hush"), "{said}");
}

#[test]
fn a_request_under_way_does_not_bring_back_a_session_that_was_ended() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let task = database.query("SELECT id FROM task WHERE reference = 'T06'");
    let held = Held::on(&database, "LOCK TABLE text_note");
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
