//! The command line: the load table from a folder without server or database, import and export, accounts and tokens.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use std::{
    fs,
    io::Write as _,
    path::PathBuf,
    process::{Command, Stdio},
};
use support::{Database, root};

/// A folder of its own, gone when the test ends.
struct Folder(PathBuf);

impl Folder {
    fn new(name: &str) -> Self {
        let path = std::env::temp_dir().join(format!("snug-{name}-{}", std::process::id()));
        fs::create_dir_all(&path).unwrap();
        Self(path)
    }

    fn with(self, file: &str, text: &str) -> Self {
        fs::write(self.0.join(file), text).unwrap();
        self
    }

    fn path(&self) -> &str {
        self.0.to_str().unwrap()
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        let _ = fs::remove_dir_all(&self.0);
    }
}

/// Runs the program with no database at hand: whether it succeeded, what it printed, what it complained of.
fn run(args: &[&str]) -> (bool, String, String) {
    let output =
        Command::new(env!("CARGO_BIN_EXE_snug-roster")).args(args).env_remove("DATABASE_URL").output().unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    (output.status.success(), text(output.stdout), text(output.stderr))
}

const WORKED: [&str; 6] = ["--from", "2026-03-02", "--to", "2026-03-08", "--today", "2026-03-01"];

fn load(folder: &str, more: &[&str]) -> (bool, String, String) {
    run(&[&["load", folder], &WORKED[..], more].concat())
}

#[test]
fn the_worked_example_as_table_csv_and_json() {
    let folder = root().join("crates/exchange/tests/cases/worked");
    let folder = folder.to_str().unwrap();
    let (done, csv, _) = load(folder, &["--format", "csv"]);
    assert!(done);
    let expected =
        fs::read_to_string(root().join("crates/exchange/tests/cases/worked/expected-person-week.csv")).unwrap();
    let row = |text: &str| text.lines().find(|line| line.contains(",1440,")).map(str::to_owned);
    assert_eq!(row(&csv), row(&expected));
    let (_, json, _) = load(folder, &["--format", "json"]);
    let cells: serde_json::Value = serde_json::from_str(&json).unwrap();
    let cell = cells.as_array().unwrap().iter().find(|cell| cell["limit_min"] == 1_440).unwrap();
    assert_eq!(
        (&cell["load_min"], &cell["room_min"], &cell["peak_min"], &cell["band"]),
        (&1_380.into(), &60.into(), &120.into(), &"over".into())
    );
    let (_, table, _) = load(folder, &[]);
    assert!(
        table.lines().any(|line| line.contains("24 h") && line.contains("23 h") && line.ends_with("over (peak)")),
        "{table}"
    );
    let (_, days, _) = load(folder, &["--by", "day", "--measure", "percent"]);
    assert_eq!(days.lines().count() % 7, 1, "a head and seven days a row");
}

#[test]
fn what_is_wrong_with_a_folder_is_told_with_its_place() {
    let told = |folder: &Folder| {
        let (done, _, said) = load(folder.path(), &[]);
        assert!(!done, "{said}");
        said
    };
    let empty = Folder::new("empty");
    assert!(told(&empty).contains("holds none of the files of a workspace"));
    let lonely = Folder::new("lonely").with("projects.csv", "code,name\na,A\n");
    assert!(told(&lonely).contains("people.csv is missing"));
    let headless = Folder::new("headless").with("people.csv", "");
    assert!(told(&headless).contains("people.csv: is empty; a header row is expected"));
    let missing = Folder::new("missing").with("people.csv", "name\nAda\n");
    assert!(told(&missing).contains("people.csv, line 1, column email: is missing"));
    let twice = Folder::new("twice").with("people.csv", "email,name\na@x.test,A\nemail,name\n");
    assert!(told(&twice).contains("people.csv, line 3: repeats the header"));
    let short = Folder::new("short").with("people.csv", "email,name,role\na@x.test,A\n");
    assert!(told(&short).contains("line 2: has 2 columns where the header has 3"));
    let dated = Folder::new("dated")
        .with("people.csv", "email,name\na@x.test,A\n")
        .with("bookings.csv", "email,start,end,amount,unit\na@x.test,3/9/2026,2026-03-10,1,h\n");
    let said = told(&dated);
    assert!(
        said.contains("bookings.csv, line 2, column start: “3/9/2026” is no date; write it as 2026-03-23"),
        "{said}"
    );
    assert!(said.contains("One row cannot be taken; nothing was changed"));
    let unknown = Folder::new("unknown").with("people.csv", "email,name,shoe size\na@x.test,A,41\n");
    let (done, _, said) = load(unknown.path(), &[]);
    assert!(done && said.contains("the column “shoe size” is not known and was left out"));
    let (done, _, said) = run(&["load", unknown.path(), "--from", "2026-03-09", "--to", "2026-03-01"]);
    assert!(!done && said.contains("--to 2026-03-01 lies before --from 2026-03-09"));
    let (done, _, said) = run(&["load", unknown.path(), "--from", "2026-03-09", "--to", "2126-03-01"]);
    assert!(!done && said.contains("more than ten years"));
    let (done, _, said) = run(&["load", unknown.path(), "--from", "tomorrow", "--to", "2026-03-01"]);
    assert!(!done && said.contains("“tomorrow” is no date"));
    let (done, _, said) = load("/nowhere/at/all", &[]);
    assert!(!done && said.contains("/nowhere/at/all"));
}

#[test]
fn work_is_tucked_in_from_a_folder_and_written_into_a_copy_of_it() {
    let case = root().join("crates/exchange/tests/cases/tuck-in-worked");
    let (case, to) = (case.to_str().unwrap(), Folder::new("tucked-in"));
    let asked = |more: &[&str]| {
        let given = ["tuck-in", case, "--today", "2026-03-18", "--steps", "20", "--format", "csv"];
        run(&[&given[..], more].concat())
    };
    let (done, printed, _) = asked(&["--write", to.path()]);
    assert!(done && printed.starts_with("ref,start,finish,assignees,late_days,reason\ncrate,2026-03-26,"), "{printed}");
    // What is written has dates by now: only what nobody can do is left to be placed.
    let (_, again, _) = run(&["tuck-in", to.path(), "--today", "2026-03-18", "--steps", "1", "--format", "csv"]);
    assert_eq!(again.lines().count(), 2, "{again}");
    assert!(again.contains("weld,,,,,left out: nobody"), "{again}");
    // A scope narrows it down; what cannot be asked is told.
    let (_, some, _) = asked(&["--scope", "project:OFFICE,task:cut"]);
    let refs: Vec<&str> = some.lines().skip(1).filter_map(|line| line.split(',').next()).collect();
    assert_eq!(refs, ["crate", "cut", "desk"]);
    for (more, says) in [
        (["--scope", "house"], "“house” is no scope"),
        (["--scope", "task:none"], "there is no task:none"),
        (["--until", "2026-03-01"], "is not within ten years from 2026-03-18 on"),
    ] {
        let (done, _, complaint) = asked(&more);
        assert!(!done && complaint.contains(says), "{complaint}");
    }
}

#[test]
fn a_preview_changes_nothing_and_an_import_tells_what_it_did() {
    let database = Database::new();
    let folder = Folder::new("import")
        .with("people.csv", "email,name\na@x.test,Ada\n")
        .with("projects.csv", "code,name\nmoon,Moon\n")
        .with(
            "bookings.csv",
            "ref,email,project,start,end,amount,unit\nB1,a@x.test,moon,2026-03-09,2026-03-13,6,h/day\n",
        );
    let shown = database.run(&["import", folder.path(), "--preview"]);
    assert!(shown.contains("bookings.csv") && !shown.contains("changes made"), "{shown}");
    assert_eq!(database.query("SELECT count(*) FROM booking"), "0");
    assert!(database.run(&["import", folder.path()]).contains("3 changes made, as entry 1 of the ledger."));
    assert!(database.run(&["import", folder.path()]).contains("nothing was changed"));
    let changed = folder
        .with("bookings.csv", "ref,email,project,start,end,amount,unit\nB1,a@x.test,moon,2026-03-09,2026-03-13,40,%\n");
    assert!(database.run(&["import", changed.path()]).contains("1 changes made, as entry 2"));
    assert_eq!(database.query("SELECT amount, unit FROM booking"), "4000|%");
    let out = Folder::new("export");
    database.run(&["export", out.path()]);
    assert!(
        fs::read_to_string(out.0.join("bookings.csv"))
            .unwrap()
            .contains("B1,a@x.test,,,moon,2026-03-09,2026-03-13,40,%,firm,,")
    );
    let nothing = Database::new();
    assert!(nothing.try_run(&["export", out.path()]).1.contains("There is no workspace to export yet."));
}

#[test]
fn accounts_and_tokens_are_made_by_command() {
    let database = Database::with_demo();
    let make = |email: &str, password: &str| {
        let mut child = Command::new(env!("CARGO_BIN_EXE_snug-roster"))
            .args(["user", email, "--name", "New", "--role", "lead"])
            .env("DATABASE_URL", &database.url)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        child.stdin.take().unwrap().write_all(format!("{password}\n").as_bytes()).unwrap();
        let output = child.wait_with_output().unwrap();
        String::from_utf8([output.stdout, output.stderr].concat()).unwrap()
    };
    assert!(make("new@x.test", "short").contains("Use at least 10 characters."));
    assert!(make("New@x.test", "long enough now").contains("new@x.test can sign in as lead."));
    assert!(make("new@x.test", "long enough now").contains("there is an account with this e-mail address already"));
    assert!(database.run(&["token", "new@x.test"]).starts_with("snug_"));
    assert_eq!(database.query("SELECT scopes FROM api_token"), "read");
    assert!(
        database.try_run(&["token", "nobody@x.test"]).1.contains("There is no account with the address nobody@x.test.")
    );
    assert!(!database.try_run(&["user", "x@x.test", "--name", "X", "--role", "king"]).0, "no such role");
    assert!(database.run(&["demo", root().join("demo").to_str().unwrap()]).contains("The demo stands already"));
}

#[test]
fn the_demo_lies_around_today_whenever_it_starts() {
    let (now, later) = (Database::new(), Database::new());
    let demo = root().join("demo");
    let demo = demo.to_str().unwrap();
    now.run(&["demo", demo, "--today", "2026-03-11"]);
    later.run(&["demo", demo, "--today", "2031-08-20"]);
    // From a Wednesday in March 2026 to a Wednesday in August 2031 are 284 weeks.
    let first = |database: &Database, shift: i32| {
        database.query(&format!("SELECT min(start_day) + {shift}, max(end_day) + {shift} FROM booking"))
    };
    assert_eq!(first(&now, 284 * 7), first(&later, 0));
    assert_eq!(now.query("SELECT count(*) FROM task"), later.query("SELECT count(*) FROM task"));
}

#[test]
fn a_busy_port_and_a_database_that_is_not_there_are_told() {
    let database = Database::new();
    let busy = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = busy.local_addr().unwrap().port().to_string();
    let (done, said) = database.try_run(&["serve", "--port", &port]);
    assert!(
        !done
            && said.contains(&format!(
                "Port {port} is in use by another program. Choose another one: PORT=8081 make demo"
            )),
        "{said}"
    );
    let (done, _, said) = run(&["export", "/tmp/x", "--database", "postgres://nobody@127.0.0.1:1/none"]);
    assert!(!done && said.contains("the database does not answer"), "{said}");
    let (done, said) = database.try_run(&["serve", "--port", "0", "--mail", "smtp://"]);
    assert!(!done && said.contains("--mail"), "{said}");
}

#[test]
fn weeks_are_evened_out_from_a_folder() {
    let demo = root().join("demo");
    let asked = |more: &[&str]| {
        let given = ["even-out", demo.to_str().unwrap(), "--today", "2026-03-11", "--format", "csv"];
        run(&[&given[..], more].concat())
    };
    let sum = |table: &str, column: usize| -> i64 {
        table.lines().skip(1).map(|line| line.split(',').nth(column).unwrap().parse::<i64>().unwrap()).sum()
    };
    let (done, weeks, _) = asked(&["--table", "spill", "--cut", "all"]);
    assert!(done && weeks.starts_with("person,week,before_min,after_min\n"), "{weeks}");
    assert!(sum(&weeks, 3) < sum(&weeks, 2), "{weeks}");
    let (_, moves, _) = asked(&["--cut", "all"]);
    assert!(moves.starts_with("what,ref,start,finish,minutes\n") && moves.contains("\nbooking,"), "{moves}");
    let (_, again, _) = asked(&["--cut", "all"]);
    assert_eq!(moves, again, "the same question has the same answer");
    let (_, offered, _) = asked(&["--table", "unworked", "--people", "juno@tidewater.test"]);
    assert!(
        offered.starts_with("person,project,unworked_min,week,room_min,offered_min\njuno@tidewater.test,moon,"),
        "{offered}"
    );
    let (done, _, said) = asked(&["--people", "nobody@tidewater.test"]);
    assert!(!done && said.contains("there is no person nobody@tidewater.test"), "{said}");
}
