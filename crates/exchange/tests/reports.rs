//! Reports as workbooks and as CSV, read back by a reader of its own.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use calamine::{Data, Range, Reader as _, Xlsx, open_workbook_from_rs};
use snug_core::{
    Day, Eyes, Plan,
    cell::hours_text,
    import::{Dataset, preview},
    reports::{Ask, By, Filter, Subject, report},
};
use snug_exchange::{csv::read_file, report as files};
use std::io::Cursor;

/// A plan from a few lines of files.
fn plan() -> Plan {
    let files = [
        ("people.csv", "email,name\nada@x.test,Ada\nbo@x.test,=1+1\n"),
        ("rates.csv", "email,from,cost_rate,bill_rate\nada@x.test,2026-01-01,40,90\n"),
        ("projects.csv", "code,name,parent\nm,Moon,\nd,Dunes,m\n"),
        (
            "tasks.csv",
            "ref,project,title,kind,assignees,estimate_h\nT1,m,Relief,build,ada@x.test,10\nT2,d,Frames,build,bo@x.test,4\n",
        ),
        (
            "time.csv",
            "email,date,task,hours,billable,note\nada@x.test,2026-03-02,T1,1.5,yes,cast\nada@x.test,2026-03-10,T1,0.35,,\nbo@x.test,2026-03-03,T2,5,yes,\n",
        ),
    ];
    let mut data = Dataset::default();
    for (name, text) in files {
        read_file(&mut data, name, text.as_bytes());
    }
    let found = preview(&Plan::empty(), &data);
    assert_eq!(found.problems, []);
    Plan::empty().with(&found.changes)
}

fn day(text: &str) -> Day {
    text.parse().unwrap()
}

fn ask(subject: Subject, by: &[By]) -> Ask {
    let (from, to) = (day("2026-03-01"), day("2026-03-31"));
    Ask { subject, from, to, by: by.to_vec(), filter: Filter::default() }
}

/// The values and the formulas of the sheet.
fn sheet(plan: &Plan, ask: &Ask) -> (Range<Data>, Range<String>) {
    let found = report(&Eyes::of_all(plan), ask, day("2026-03-11")).unwrap();
    let bytes = files::workbook(&found, "Time", "1 to 31 March").unwrap();
    let mut book: Xlsx<_> = open_workbook_from_rs(Cursor::new(bytes)).unwrap();
    (book.worksheet_range("Report").unwrap(), book.worksheet_formula("Report").unwrap())
}

#[test]
fn a_workbook_has_real_numbers_and_days_and_sums_as_formulas() {
    let plan = plan();
    let (cells, formulas) = sheet(&plan, &ask(Subject::Time, &[]));
    let cell = |row: u32, column: u32| cells.get_value((row, column)).cloned().unwrap_or(Data::Empty);
    assert_eq!(cell(0, 0), Data::String("Time".into()));
    let heads: Vec<String> = (0..10).map(|at| cell(3, at).to_string()).collect();
    assert_eq!(heads, ["Date", "Person", "Project", "Task", "Kind", "Note", "Hours", "Billable", "Cost", "Billed"]);
    let dates: Vec<_> = (4..7).map(|row| cell(row, 0)).collect();
    let is_day = |cell: &Data| matches!(cell, Data::DateTime(date) if date.is_datetime());
    assert!(dates.iter().all(is_day), "{dates:?}");
    let Data::DateTime(first) = &dates[0] else { unreachable!() };
    assert_eq!(first.to_ymd_hms_milli(), (2026, 3, 2, 0, 0, 0, 0));
    let hours: Vec<Data> = (4..7).map(|row| cell(row, 6)).collect();
    assert_eq!(hours, [1.5, 5.0, 0.35].map(Data::Float));
    assert_eq!(cell(4, 8), Data::Float(60.0), "what it cost");
    assert_eq!(cell(5, 1), Data::String("=1+1".into()), "a name is no formula");
    // The sums are formulas over the rows, and know their results.
    let sums: Vec<String> = (6..10).map(|at| formulas.get_value((7, at)).unwrap().clone()).collect();
    assert_eq!(sums, ["SUM(G5:G7)", "SUM(H5:H7)", "SUM(I5:I7)", "SUM(J5:J7)"]);
    let results: Vec<Data> = (6..10).map(|at| cell(7, at)).collect();
    assert_eq!(results, [6.85, 6.5, 74.0, 135.0].map(Data::Float));
    assert_eq!(cell(8, 0), Data::Empty, "nothing behind the sums");
}

#[test]
fn sums_of_rows_that_lie_in_others_leave_those_out() {
    let plan = plan();
    let (cells, formulas) = sheet(&plan, &ask(Subject::Estimates, &[By::Project]));
    let cell = |row: u32, column: u32| cells.get_value((row, column)).cloned().unwrap_or(Data::Empty);
    assert_eq!((cell(4, 0), cell(4, 1)), (Data::String("Dunes".into()), Data::String("Moon".into())));
    assert_eq!(formulas.get_value((6, 2)).unwrap(), "SUMIF(B5:B6,\"=\",C5:C6)");
    assert_eq!([2, 3].map(|at| cell(6, at)), [14.0, 6.85].map(Data::Float), "those of Moon, which has Dunes in it");
    let percent = cell(5, 7);
    assert_eq!(percent, Data::Float(0.071), "a percent is a hundredth");
}

#[test]
fn csv_and_letters_say_the_same_in_words() {
    let plan = plan();
    let found = report(&Eyes::of_all(&plan), &ask(Subject::Time, &[By::Week, By::Project]), day("2026-03-11")).unwrap();
    assert_eq!(
        files::csv(&found),
        "week,project,number,hours,billable_hours,cost,billed\n2026-03-02,Dunes,1,5,5,0.00,0.00\n\
         2026-03-02,Moon,1,1.5,1.5,60.00,135.00\n2026-03-09,Moon,1,0.35,0,14.00,0.00\n"
    );
    let letter = files::letter(&found, 1);
    let lines: Vec<&str> = letter.lines().collect();
    assert_eq!(lines.len(), 3, "head, one row, sums:\n{letter}");
    assert!(lines[2].ends_with("6.85       6.5  74.00  135.00"), "{letter}");
    assert_eq!([61, 1, 20, 0].map(hours_text), ["1.0167", "0.0167", "0.3333", "0"]);
}
