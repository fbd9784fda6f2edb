//! What breaks beside the server, or on the way: it says so, loses nothing, and is back by itself.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::blocking::{Client, multipart};
use std::{
    io::{Read as _, Write as _},
    net::TcpStream,
    process::Command,
    thread,
    time::{Duration, Instant},
};
use support::{Database, Held, Server, post, root, signal, until};

/// Books somebody's hours with a note of its own; the status and what is said.
fn book(client: &Client, server: &Server, person: &str, note: &str) -> (u16, String) {
    let form =
        [("person", person), ("start", "2026-03-16"), ("end", "2026-03-20"), ("amount", "0.25h/d"), ("note", note)];
    let answer = post(client, server, "/bookings", &form);
    (answer.status().as_u16(), answer.text().unwrap())
}

fn person(database: &Database) -> String {
    database.query("SELECT id FROM person WHERE email = 'mira@tidewater.test'")
}

fn ready(server: &Server) -> (u16, String) {
    let answer = Client::new().get(server.at("/health/ready")).send().unwrap();
    (answer.status().as_u16(), answer.text().unwrap())
}

/// The revision of the plan that a server holds.
fn held(client: &Client, server: &Server) -> String {
    let answer = client.get(server.at("/help")).send().unwrap();
    answer.headers()["snug-revision"].to_str().unwrap().to_owned()
}

/// A process that does nothing until this is dropped.
struct Frozen(String);

impl Frozen {
    fn now(process: String) -> Self {
        signal("STOP", &process);
        Self(process)
    }
}

impl Drop for Frozen {
    fn drop(&mut self) {
        signal("CONT", &self.0);
    }
}

#[test]
fn a_server_that_is_told_nothing_any_more_knows_again_by_itself() {
    let database = Database::with_demo();
    let deaf = Server::start(&database);
    let listener = || {
        database.query(
            "SELECT pid FROM pg_stat_activity WHERE datname = current_database() AND query LIKE 'LISTEN%' ORDER BY pid",
        )
    };
    let frozen = until(|| Some(listener()).filter(|pid| !pid.is_empty()));
    let writer = Server::start(&database);
    until(|| (listener().lines().count() == 2).then_some(()));
    let frozen = Frozen::now(frozen);
    let (mira, teo) = (writer.signed_in("mira"), deaf.signed_in("teo"));
    assert_eq!(book(&mira, &writer, &person(&database), "not told").0, 200);
    let begun = Instant::now();
    assert_eq!(ready(&deaf).1.lines().nth(1).unwrap(), "entries behind: 1", "it says how far behind it is");
    until(|| (held(&teo, &deaf) == "2").then_some(()));
    let seconds = begun.elapsed().as_secs_f32();
    println!("a frozen listener: {seconds:.1} s until the server knew again");
    assert!(seconds < 20.0, "{seconds}");
    assert_eq!(ready(&deaf).1.lines().nth(1).unwrap(), "entries behind: 0");
    // It listens anew, beside the frozen one: the next news come at once.
    until(|| (listener().lines().count() == 3).then_some(()));
    assert_eq!(book(&mira, &writer, &person(&database), "told").0, 200);
    let begun = Instant::now();
    until(|| (held(&teo, &deaf) == "3").then_some(()));
    assert!(begun.elapsed() < Duration::from_secs(5));
    drop(frozen);
}

#[test]
fn whoever_holds_the_workspace_holds_up_writers_for_a_while_and_readers_not_at_all() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let person = person(&database);
    let held = Held::on(&database, "SELECT 1 FROM workspace FOR UPDATE");
    thread::scope(|scope| {
        let writing = scope.spawn(|| book(&mira, &server, &person, "held up"));
        let begun = Instant::now();
        assert!(mira.get(server.at("/fit")).send().unwrap().status().is_success());
        assert!(begun.elapsed() < Duration::from_secs(5));
        let (status, says) = writing.join().unwrap();
        assert_eq!(status, 503);
        assert!(says.contains("nothing was changed") && !says.to_lowercase().contains("lock"), "{says}");
    });
    drop(held);
    assert_eq!(database.query("SELECT count(*) FROM booking WHERE note = 'held up'"), "0");
    assert_eq!(book(&mira, &server, &person, "free again").0, 200);
}

#[test]
fn the_clock_may_go_a_day_forward_and_back() {
    let database = Database::with_demo();
    let person = person(&database);
    let table = |server: &Server| {
        let token = database.run(&["token", "mira@tidewater.test"]);
        let path = "/api/v1/load?from=2026-03-09&to=2026-04-19&by=day&group=person";
        Client::new().get(server.at(path)).bearer_auth(token.trim()).send().unwrap().text().unwrap()
    };
    for (today, note) in [("2026-03-11", "one"), ("2026-03-12", "two"), ("2026-03-10", "three"), ("2026-03-11", "four")]
    {
        let server = Server::start_on(&database, today);
        let mira = server.signed_in("mira");
        assert_eq!(book(&mira, &server, &person, note).0, 200, "{today}");
        let task = database.query("SELECT id FROM task WHERE reference = 'T13'");
        let page = mira.get(server.at(&format!("/tasks/{task}"))).send().unwrap().text().unwrap();
        let seen = page.split("name=\"seen\" value=\"").nth(1).unwrap().split_once('"').unwrap().0;
        let stage = if note == "two" { "done" } else { "doing" };
        let form = [("seen", support::unescaped(seen)), ("column", "stage".to_owned()), ("value", stage.to_owned())];
        let changed = mira.post(server.at("/tasks/bulk")).form(&form).form(&[("sure", "yes")]).send().unwrap();
        assert!(!changed.status().is_server_error(), "{today}");
        // What is held in memory is what a server that reads everything anew holds.
        assert_eq!(table(&server), table(&Server::start_on(&database, today)), "{today}");
        assert_eq!(ready(&server).0, 200);
    }
    assert_eq!(database.query("SELECT count(*) FROM booking WHERE note IN ('one', 'two', 'three', 'four')"), "4");
    let days = database.query(
        "SELECT string_agg(day::text, ' ' ORDER BY revision) FROM ledger WHERE draft = 0 AND title LIKE 'Booking%'",
    );
    assert_eq!(days, "2026-03-11 2026-03-12 2026-03-10 2026-03-11", "each entry has the day it was made on");
}

#[test]
fn several_that_bring_an_empty_database_up_to_date_at_once_all_succeed() {
    let database = Database::new();
    thread::scope(|scope| {
        let all: Vec<_> = (0..6).map(|_| scope.spawn(|| database.try_run(&["migrate"]))).collect();
        for one in all {
            let (done, said) = one.join().unwrap();
            assert!(done, "{said}");
        }
    });
    assert_eq!(
        database.query("SELECT count(*) = count(DISTINCT version) AND count(*) > 10 FROM seaql_migrations"),
        "t"
    );
}

/// Many bookings as a file, which takes a while to be written.
fn large_file(lines: usize) -> Vec<u8> {
    let line = |at: usize| format!("LB{at},oona@tidewater.test,moon,2026-05-04,2026-05-08,0.01,h/day,large\n");
    let lines: String = (0..lines).map(line).collect();
    format!("ref,email,project,start,end,amount,unit,note\n{lines}").into_bytes()
}

/// Brings a large file in and begins to take it over; returns where it is seen how far it is.
fn begin_import(client: &Client, server: &Server, lines: usize) -> String {
    let part = multipart::Part::bytes(large_file(lines)).file_name("bookings.csv");
    let form = multipart::Form::new().part("files", part);
    let shown = client.post(server.at("/setup/import")).multipart(form).send().unwrap();
    let path = shown.url().path().to_owned();
    assert!(shown.text().unwrap().contains("Take over"));
    let begun = client.post(server.at(&path)).send().unwrap();
    assert!(begun.text().unwrap().contains("Taking over bookings.csv"), "it goes on behind the page");
    format!("{path}/way")
}

/// What an import left: bookings, entries of the ledger besides the demo's, and their changes.
fn left(database: &Database) -> String {
    database.query(
        "SELECT (SELECT count(*) FROM booking WHERE note = 'large'), (SELECT count(*) FROM ledger WHERE draft = 0 AND revision > 1), \
         (SELECT count(*) FROM ledger_change WHERE draft = 0 AND revision > 1)",
    )
}

const LINES: usize = 40_000;

#[test]
fn an_import_goes_on_behind_the_page_while_others_work_and_can_be_stopped() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let (mira, ada) = (server.signed_in("mira"), server.signed_in("ada"));
    let way = begin_import(&mira, &server, LINES);
    // Another one's is not shown to others, and pages answer meanwhile.
    assert!(!ada.get(server.at(&way)).send().unwrap().text().unwrap().contains("Taking over"));
    let begun = Instant::now();
    assert!(ada.get(server.at("/fit")).send().unwrap().status().is_success());
    assert!(begun.elapsed() < Duration::from_secs(5));
    mira.post(server.at(&format!("{way}/stop"))).send().unwrap();
    let ended = until(|| {
        let page = mira.get(server.at(&way)).send().unwrap().text().unwrap();
        (!page.contains("Taking over")).then_some(page)
    });
    assert!(ended.contains("Stopped; nothing was taken over"), "{ended}");
    assert_eq!(left(&database), "0|0|0");
    // And once more, to its end: one entry, which can be taken back as one.
    let way = begin_import(&mira, &server, LINES);
    let begun = Instant::now();
    let ended = until(|| {
        let page = mira.get(server.at(&way)).send().unwrap().text().unwrap();
        (!page.contains("Taking over")).then_some(page)
    });
    println!("{LINES} bookings in {:.1} s", begun.elapsed().as_secs_f32());
    assert!(ended.contains(&format!("{LINES} records taken over from bookings.csv")), "{ended}");
    assert_eq!(left(&database), format!("{LINES}|1|{LINES}"));
}

#[test]
fn a_server_that_is_stopped_or_killed_in_the_middle_of_an_import_leaves_nothing_by_half() {
    let database = Database::with_demo();
    let mut server = Server::start(&database);
    begin_import(&server.signed_in("mira"), &server, LINES);
    let writing = || database.query("SELECT count(*) FROM import_job WHERE state = 'running' AND step = 'Writing'");
    until(|| (writing() == "1").then_some(()));
    let begun = Instant::now();
    server.ask_to_stop();
    assert!(server.ended(), "it ends as it should");
    println!("told to stop in the middle of an import: {:.1} s", begun.elapsed().as_secs_f32());
    assert_eq!(left(&database), "0|0|0");
    assert_eq!(database.query("SELECT state FROM import_job"), "stopped");
    database.query("DELETE FROM import_job");

    let server = Server::start(&database);
    let way = begin_import(&server.signed_in("mira"), &server, LINES);
    until(|| (writing() == "1").then_some(()));
    server.kill();
    until(|| {
        (database.query("SELECT count(*) FROM pg_locks WHERE relation = 'booking'::regclass") == "0").then_some(())
    });
    assert_eq!(left(&database), "0|0|0");
    // Another server says so, as soon as the first one gave no sign of life for a while.
    let again = Server::start(&database);
    let mira = again.signed_in("mira");
    let page = until(|| {
        let page = mira.get(again.at(&way)).send().unwrap().text().unwrap();
        (!page.contains("Taking over")).then_some(page)
    });
    assert!(page.contains("The import did not come to its end") && page.contains("Nothing was taken over"), "{page}");
    assert_eq!(book(&mira, &again, &person(&database), "after it").0, 200);
}

#[test]
fn a_server_that_is_told_to_stop_ends_what_it_began_and_takes_nothing_new() {
    let database = Database::with_demo();
    let mut server = Server::start(&database);
    let mira = server.signed_in("mira");
    let mut news = support::News::of(&mira, &server);
    news.next("hello");
    let task = database.query("SELECT id FROM task WHERE reference = 'T06'");
    let held = Held::on(&database, "LOCK TABLE text_note");
    thread::scope(|scope| {
        let address = server.at(&format!("/tasks/{task}/comments"));
        let under_way = scope.spawn(|| mira.post(address).form(&[("body", "To the end")]).send().is_ok());
        until(|| (database.query("SELECT count(*) FROM pg_locks WHERE NOT granted") != "0").then_some(()));
        server.ask_to_stop();
        assert!(news.ends(), "streams have no end of their own, and are ended");
        let host = server.url.trim_start_matches("http://");
        until(|| TcpStream::connect(host).is_err().then_some(()));
        drop(held);
        // It leads on to the page, which nobody serves any more; what was asked is done.
        let _ = under_way.join();
    });
    assert!(server.ended());
    assert_eq!(database.query("SELECT count(*) FROM text_note WHERE body = 'To the end'"), "1");
}

#[test]
fn a_thousand_half_open_connections_hold_nobody_up_and_are_closed() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let before = server.peak_memory();
    let host = server.url.trim_start_matches("http://");
    let begun = Instant::now();
    let mut half: Vec<TcpStream> = (0..1_000)
        .map(|at| {
            let mut stream = TcpStream::connect(host).unwrap();
            // Half of them say nothing at all, the others half of what they want.
            if at % 2 == 0 {
                stream.write_all(b"GET /fit HTTP/1.1\r\nHost: roster.test\r\nX-Long: ").unwrap();
            }
            stream.set_read_timeout(Some(Duration::from_mins(1))).unwrap();
            stream
        })
        .collect();
    let asked = Instant::now();
    assert!(mira.get(server.at("/fit")).send().unwrap().status().is_success());
    let answered = asked.elapsed();
    assert!(answered < Duration::from_secs(5), "{answered:?}");
    for stream in &mut half {
        // A server that says why before it closes says it in a few bytes.
        let mut rest = Vec::new();
        let _ = stream.read_to_end(&mut rest);
        assert!(rest.len() < 1_000);
    }
    let (seconds, more) = (begun.elapsed().as_secs_f32(), server.peak_memory() - before);
    println!("1,000 half-open connections: a page in {answered:?}, all closed after {seconds:.1} s, {more} MB more");
    assert!(seconds < 40.0 && more < 200, "{seconds} s, {more} MB");
}

/// A folder of a few megabytes that is full or not, as one wishes; as root only, who alone may make one.
struct SmallDisk(std::path::PathBuf);

impl SmallDisk {
    fn of(megabytes: u32, name: &str) -> Option<Self> {
        let folder = std::path::PathBuf::from(format!("/tmp/snug-{name}-{}", std::process::id()));
        std::fs::create_dir_all(&folder).unwrap();
        let size = format!("size={megabytes}m,mode=0777");
        let made = Command::new("mount").args(["-t", "tmpfs", "-o", &size, "tmpfs"]).arg(&folder).output().unwrap();
        if made.status.success() {
            return Some(Self(folder));
        }
        println!("not run: {}", String::from_utf8_lossy(&made.stderr));
        std::fs::remove_dir(&folder).unwrap();
        None
    }

    fn fill(&self, leaving: u64) {
        let filler = std::fs::File::create(self.0.join("filler")).unwrap();
        let mut filler = std::io::BufWriter::new(filler);
        // Until there is no more.
        while filler.write_all(&[0; 4_096]).and_then(|()| filler.flush()).is_ok() {}
        let file = filler.into_parts().0;
        file.set_len(file.metadata().unwrap().len().saturating_sub(leaving)).unwrap();
    }

    fn clear(&self) {
        std::fs::remove_file(self.0.join("filler")).unwrap();
    }
}

impl Drop for SmallDisk {
    fn drop(&mut self) {
        let _ = Command::new("umount").arg(&self.0).status();
        let _ = std::fs::remove_dir(&self.0);
    }
}

#[test]
fn a_full_disk_for_mail_is_told_and_what_was_typed_stays() {
    let Some(disk) = SmallDisk::of(2, "mail") else { return };
    let database = Database::with_demo();
    let mail = disk.0.join("letters");
    std::fs::create_dir(&mail).unwrap();
    let server = Server::start_with_mail(&database, &mail);
    let ada = server.signed_in("ada");
    disk.fill(0);
    let form = [("email", "ruth@elsewhere.test"), ("name", "Ruth"), ("role", "lead")];
    let invite = || ada.post(server.at("/setup/members/invite")).form(&form).send().unwrap();
    let answer = invite();
    assert_eq!(answer.status().as_u16(), 502);
    let says = answer.text().unwrap();
    assert!(says.contains("The mail server does not take the letter") && !says.contains("os error"), "{says}");
    disk.clear();
    assert!(invite().status().is_success());
}

/// Starts or stops a cluster of its own.
fn cluster(action: &str, folder: &std::path::Path) -> String {
    let script = root().join("scripts/postgres.sh");
    let done = Command::new(script).arg(action).arg(folder).output().unwrap();
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    String::from_utf8(done.stdout).unwrap().trim().to_owned()
}

/// Starts a cluster again that may have given up, at its old address.
fn start_again(folder: &std::path::Path, database: &Database) {
    let port = database.url.rsplit_once('/').unwrap().0.rsplit_once(':').unwrap().1;
    let script = root().join("scripts/postgres.sh");
    Command::new(script).arg("start").arg(folder).env("SNUG_PG_PORT", port).output().unwrap();
}

#[test]
fn a_full_disk_for_the_database_loses_nothing_that_was_acknowledged() {
    let Some(disk) = SmallDisk::of(160, "database") else { return };
    let folder = disk.0.join("pg");
    let database = Database::on(&cluster("start", &folder));
    database.run(&["demo", root().join("demo").to_str().unwrap(), "--today", support::TODAY]);
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let person = person(&database);
    disk.fill(1 << 20);
    let mut acknowledged = Vec::new();
    let refused = (0..4_000).find_map(|at| {
        let note = format!("full {at} {}", "x".repeat(1_500));
        match book(&mira, &server, &person, &note) {
            (200, _) => {
                acknowledged.push(note);
                None
            }
            other => Some(other),
        }
    });
    let (status, says) = refused.expect("the disk is full at some time");
    assert_eq!(status, 503);
    assert!(says.contains("nothing was changed") && !says.contains("No space"), "{says}");
    println!("a full disk: {} acknowledged before it", acknowledged.len());
    disk.clear();
    // The database may have given up; whoever runs it starts it again, at the same address.
    let begun = Instant::now();
    while book(&mira, &server, &person, "after it").0 != 200 {
        assert!(begun.elapsed() < Duration::from_mins(1), "the server is not back");
        start_again(&folder, &database);
    }
    let kept = database.query("SELECT note FROM booking WHERE note LIKE 'full %'");
    let kept: std::collections::HashSet<&str> = kept.lines().collect();
    assert!(acknowledged.iter().all(|note| kept.contains(note.as_str())));
    assert_eq!(
        database.query("SELECT revision FROM workspace"),
        database.query("SELECT max(revision) FROM ledger WHERE draft = 0")
    );
    drop(server);
    drop(database);
    cluster("stop", &folder);
}
