//! Files in and out: nothing is lost on the way round, and what is wrong is told with its place.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use snug_core::{
    Eyes, Plan,
    import::{self, Dataset, Preview},
};
use snug_exchange::csv::{files_of, read_file, read_folder};
use std::{
    io::{self, Read},
    path::Path,
};

fn demo() -> Dataset {
    read_folder(&Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo")).unwrap()
}

fn reread(plan: &Plan) -> Dataset {
    let mut data = Dataset::default();
    for (name, text) in files_of(&Eyes::of_all(plan), &[]) {
        read_file(&mut data, name, text.as_bytes());
    }
    data
}

fn of(files: &[(&str, &str)]) -> Preview {
    let mut data = Dataset::default();
    for (name, text) in files {
        read_file(&mut data, name, text.as_bytes());
    }
    import::preview(&Plan::empty(), &data)
}

const PEOPLE: (&str, &str) = ("people.csv", "email,name\nada@x.test,Ada\nbo@x.test,Bo\n");
const PROJECTS: (&str, &str) = ("projects.csv", "code,name\nP,Pier\n");

#[test]
fn importing_what_was_exported_changes_nothing_and_a_second_export_is_the_same() {
    let first = import::preview(&Plan::empty(), &demo());
    assert_eq!(first.problems, []);
    let plan = Plan::empty().with(&first.changes);
    let again = import::preview(&plan, &reread(&plan));
    assert_eq!(again.problems, []);
    assert_eq!(again.changes, []);
    let elsewhere = Plan::empty().with(&import::preview(&Plan::empty(), &reread(&plan)).changes);
    for ((name, first), (_, second)) in
        files_of(&Eyes::of_all(&plan), &[]).into_iter().zip(files_of(&Eyes::of_all(&elsewhere), &[]))
    {
        assert_eq!(first, second, "{name}");
    }
}

#[test]
fn rows_without_a_ref_are_counted_as_a_multiset() {
    let row = "ada@x.test,P,2026-03-02,2026-03-06,4,h/day\n";
    let bookings = |count: usize| format!("email,project,start,end,amount,unit\n{}", row.repeat(count));
    let two = bookings(2);
    let plan = Plan::empty().with(&of(&[PEOPLE, PROJECTS, ("bookings.csv", &two)]).changes);
    assert_eq!(plan.booking_count(), 2);
    let mut data = Dataset::default();
    read_file(&mut data, "bookings.csv", bookings(3).as_bytes());
    let next = import::preview(&plan, &data);
    let tally = next.files["bookings.csv"];
    assert_eq!((tally.new, tally.changed, tally.same), (1, 0, 2));
}

#[test]
fn a_row_with_a_known_ref_alters_its_record() {
    let file = |amount: &str| {
        format!("ref,email,project,start,end,amount,unit\nB1,ada@x.test,P,2026-03-02,2026-03-06,{amount},h/day\n")
    };
    let plan = Plan::empty().with(&of(&[PEOPLE, PROJECTS, ("bookings.csv", &file("4"))]).changes);
    let mut data = Dataset::default();
    read_file(&mut data, "bookings.csv", file("5").as_bytes());
    let next = import::preview(&plan, &data);
    assert_eq!(next.files["bookings.csv"].changed, 1);
    assert_eq!(plan.with(&next.changes).booking_count(), 1);
}

/// Each wrong file with the place and words it is answered with.
#[test]
fn what_is_wrong_is_told_with_file_line_and_column() {
    let head = "email,project,start,end,amount,unit";
    let booking = |row: &str| format!("{head}\n{row}\n");
    let cases: &[(&str, String, &str)] = &[
        ("people.csv", String::new(), "people.csv: is empty; a header row is expected"),
        ("people.csv", "emial,name\na@x.test,A\n".into(), "people.csv, line 1, column email: is missing"),
        ("people.csv", "email,name,email\na@x.test,A,b\n".into(), "people.csv, line 1, column email: stands twice"),
        ("people.csv", "email,name\na@x.test,A\nemail,name\n".into(), "people.csv, line 3: repeats the header"),
        ("people.csv", "email,name\na@x.test\n".into(), "people.csv, line 2: has 1 columns where the header has 2"),
        (
            "people.csv",
            "email,name\na@x.test,A\na@x.test,B\n".into(),
            "people.csv, line 3, column email: stands on line 2 already",
        ),
        (
            "people.csv",
            "email,name,pattern\na@x.test,A,8 8 8\n".into(),
            "people.csv, line 2, column pattern: “8 8 8” is no week",
        ),
        (
            "bookings.csv",
            booking("ada@x.test,P,2026-02-30,2026-03-06,4,h/day"),
            "bookings.csv, line 2, column start: “2026-02-30” is no date",
        ),
        (
            "bookings.csv",
            booking("ada@x.test,P,2026-03-09,2026-03-06,4,h/day"),
            "bookings.csv, line 2, column end: ends on 2026-03-06, before it starts",
        ),
        (
            "bookings.csv",
            booking("eve@x.test,P,2026-03-02,2026-03-06,4,h/day"),
            "bookings.csv, line 2, column email: there is no person “eve@x.test”",
        ),
        (
            "bookings.csv",
            booking("ada@x.test,Q,2026-03-02,2026-03-06,4,h/day"),
            "bookings.csv, line 2, column project: there is no project “Q”",
        ),
        (
            "bookings.csv",
            booking("ada@x.test,P,2026-03-02,2026-03-06,four,h/day"),
            "bookings.csv, line 2, column amount: “four” is no number of hours",
        ),
        (
            "bookings.csv",
            booking("ada@x.test,P,2026-03-02,2026-03-06,25,h/day"),
            "bookings.csv, line 2, column amount: hours a day lie between 0 and 24",
        ),
        (
            "bookings.csv",
            booking("ada@x.test,P,2026-03-02,2026-03-06,4,hours"),
            "bookings.csv, line 2, column unit: “hours” is not one of h/day, h/week, h, %",
        ),
        ("projects.csv", "code,name,parent\nA,A,B\nB,B,A\n".into(), "column parent: is inside itself"),
        (
            "tasks.csv",
            "project,title,assignees\nP,T,ada@x.test=60;bo@x.test=60\n".into(),
            "tasks.csv, line 2, column assignees: the shares add up to 120 %",
        ),
    ];
    for (name, text, says) in cases {
        let mut files = vec![PEOPLE, PROJECTS];
        files.retain(|(known, _)| known != name);
        files.push((name, text));
        let told: Vec<String> = of(&files).problems.iter().map(ToString::to_string).collect();
        assert!(told.iter().any(|told| told.contains(says)), "{says}\n  told: {told:?}");
    }
}

/// A wrong file has as many wrong lines as it has lines; nobody reads more than some of them, but how many there are is told.
#[test]
fn of_very_many_wrong_lines_some_are_told_and_the_rest_counted() {
    let wrong = |row: &str| format!("email,name,max_tasks\n{}", row.repeat(250));
    for row in ["a@x.test,A,many\n", "a@x.test\n"] {
        let problems = of(&[("people.csv", &wrong(row))]).problems;
        assert_eq!(problems.len(), 201, "{row}");
        assert!(
            problems.iter().any(|it| it.to_string() == "people.csv: has 50 more lines that cannot be read"),
            "{row}"
        );
    }
}

#[test]
fn bytes_that_are_no_text_are_told() {
    let mut data = Dataset::default();
    read_file(&mut data, "people.csv", &b"email,name\na@x.test,\xff\xfe\n"[..]);
    assert!(data.problems[0].to_string().contains("line 2, column name: is no UTF-8"), "{:?}", data.problems);
}

#[test]
fn unknown_columns_are_reported_not_refused() {
    let preview = of(&[("people.csv", "email,name,shoe_size\na@x.test,A,44\n")]);
    assert_eq!(preview.problems, []);
    assert_eq!(preview.unknown_columns, [("people.csv".to_owned(), "shoe_size".to_owned())]);
}

/// 300 MB without a line break, made while it is read.
struct LongLine(u64);

impl Read for LongLine {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = buffer.len().min(usize::try_from(self.0).unwrap());
        buffer[..count].fill(b'x');
        self.0 -= count as u64;
        Ok(count)
    }
}

#[test]
fn a_line_of_300_mb_is_given_up_early() {
    let mut data = Dataset::default();
    let mut bytes = "email,name\n".as_bytes().chain(LongLine(300 << 20));
    read_file(&mut data, "people.csv", &mut bytes);
    assert!(data.problems[0].to_string().contains("line 2: is longer than 1024 kB"), "{:?}", data.problems);
    assert!(bytes.into_inner().1.0 > 290 << 20, "it was read to the end");
}
