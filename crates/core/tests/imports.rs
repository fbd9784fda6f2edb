//! What rows of files do to a plan: what is new, what alters, what stands already, and what nobody may say.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Command, Eyes, PersonId, Plan, TaskId,
    change::{Change, Edit},
    demand::{effort_of, remaining_of},
    import::{Dataset, preview},
    kinds::{Amount, Booking, Kind, Task, Unit, Who},
};
use support::day;

/// A row of a file, as column and value.
type Row = Vec<(&'static str, String)>;

/// Files with these rows, which begin on line 2.
fn files(files: &[(&str, Vec<Row>)]) -> Dataset {
    let mut data = Dataset::default();
    for (file, rows) in files {
        for (number, row) in (2..).zip(rows) {
            data.add_row(file, number, row.iter().map(|(column, value)| (*column, value.as_str())));
        }
    }
    data
}

fn row<const N: usize>(cells: [(&'static str, &str); N]) -> Row {
    cells.map(|(column, value)| (column, value.to_owned())).to_vec()
}

/// The same row with another value in a column, or with one more column.
#[allow(clippy::needless_pass_by_value)] // rows read better so
fn with(mut row: Row, column: &'static str, value: impl ToString) -> Row {
    row.retain(|(known, _)| *known != column);
    row.push((column, value.to_string()));
    row
}

fn person(email: &str) -> Row {
    row([("email", email), ("name", "Somebody"), ("role", "rigger")])
}

fn project(code: &str, parent: &str) -> Row {
    row([("code", code), ("name", &code.to_uppercase()), ("parent", parent)])
}

fn task(reference: &str, parent: &str) -> Row {
    let title = format!("Task {reference}");
    let row = row([
        ("ref", reference),
        ("project", "moon"),
        ("parent", parent),
        ("title", &title),
        ("assignees", "a@x.test"),
        ("estimate_h", "10"),
    ]);
    with(with(with(row, "start", day(0)), "finish", day(4)), "due", day(7))
}

fn booking(reference: &str, hours: &str) -> Row {
    let row =
        row([("ref", reference), ("email", "a@x.test"), ("project", "moon"), ("amount", hours), ("unit", "h/day")]);
    with(with(row, "start", day(0)), "end", day(4))
}

fn team(code: &str, parent: &str) -> Row {
    row([("code", code), ("name", &code.to_uppercase()), ("parent", parent)])
}

fn member(team: &str, email: &str, share: &str) -> Row {
    row([("team", team), ("email", email), ("share_percent", share)])
}

/// Two people, a project.
fn ground() -> Dataset {
    files(&[("people.csv", vec![person("a@x.test"), person("b@x.test")]), ("projects.csv", vec![project("moon", "")])])
}

fn plan() -> Plan {
    let found = preview(&Plan::empty(), &ground());
    assert_eq!(found.problems, []);
    Plan::empty().with(&found.changes)
}

/// New, changed, same and refused rows of a file.
fn tally(plan: &Plan, data: &Dataset, file: &str) -> [usize; 4] {
    let tally = preview(plan, data).files[file];
    [tally.new, tally.changed, tally.same, tally.refused]
}

#[test]
fn rows_are_new_changed_or_same_by_their_key() {
    let plan = plan();
    let renamed = with(person("b@x.test"), "name", "Bo");
    let data = files(&[("people.csv", vec![person("a@x.test"), renamed, person("c@x.test")])]);
    assert_eq!(tally(&plan, &data, "people.csv"), [1, 1, 1, 0]);
    let data = files(&[("bookings.csv", vec![booking("B1", "1"), booking("", "2"), booking("", "2")])]);
    assert_eq!(tally(&plan, &data, "bookings.csv"), [3, 0, 0, 0]);
    let after = plan.with(&preview(&plan, &data).changes);
    assert_eq!(tally(&after, &data, "bookings.csv"), [0, 0, 3, 0], "the same again");
    // A third row like the others is one more; a row with a known key and other hours alters it.
    let rows = vec![booking("B1", "1.5"), booking("", "2"), booking("", "2"), booking("", "2")];
    let more = files(&[("bookings.csv", rows)]);
    assert_eq!(tally(&after, &more, "bookings.csv"), [1, 1, 2, 0]);
    let altered = after.with(&preview(&after, &more).changes);
    assert_eq!(altered.booking_count(), 4);
    assert!(altered.bookings().any(|booking| booking.reference == "B1" && booking.amount.value == 90));
}

#[test]
fn a_key_stands_once_in_a_file() {
    let twice = [
        ("people.csv", person("c@x.test")),
        ("projects.csv", project("sun", "")),
        ("teams.csv", team("t", "")),
        ("tasks.csv", task("T1", "")),
        ("bookings.csv", booking("B1", "1")),
    ];
    for (file, row) in twice {
        let problems = preview(&plan(), &files(&[(file, vec![row.clone(), row])])).problems;
        assert_eq!(problems.len(), 1, "{file}");
        assert_eq!(
            (problems[0].file.as_str(), problems[0].line, problems[0].reason.as_str()),
            (file, 3, "stands on line 2 already")
        );
    }
}

#[test]
fn rows_may_refer_to_each_other_in_any_order() {
    let data = files(&[
        ("projects.csv", vec![project("dunes", "sun"), project("sun", "")]),
        ("tasks.csv", vec![task("T2", "T1"), task("T1", "")]),
        ("teams.csv", vec![team("inner", "outer"), team("outer", "")]),
    ]);
    let found = preview(&plan(), &data);
    assert_eq!(found.problems, []);
    let plan = plan().with(&found.changes);
    let (first, second) = (plan.find(Kind::Task, "T1").unwrap(), plan.find(Kind::Task, "T2").unwrap());
    assert_eq!(plan.tasks[&TaskId(second)].parent, Some(TaskId(first)));
    assert_eq!(plan.children[&TaskId(first)].as_slice(), [TaskId(second)]);
}

#[test]
fn nothing_in_files_stands_inside_itself() {
    let circles = [
        ("projects.csv", vec![project("sun", "sky"), project("sky", "sun")]),
        ("teams.csv", vec![team("t", "u"), team("u", "t")]),
        ("tasks.csv", vec![task("T1", "T2"), task("T2", "T1")]),
    ];
    for (file, rows) in circles {
        let problems = preview(&plan(), &files(&[(file, rows)])).problems;
        assert_eq!(problems.len(), 1, "{file}");
        assert_eq!(
            (problems[0].column.as_str(), problems[0].reason.as_str()),
            ("parent", "is inside itself"),
            "{file}"
        );
        assert!(problems[0].line > 0, "{file}");
    }
}

#[test]
fn later_patterns_and_rates_come_on_top_and_stay() {
    let dated = |at: i32, hours: i32| {
        with(row([("email", "a@x.test"), ("pattern", &format!("{hours} 0 0 0 0 0 0"))]), "from", day(at))
    };
    let rate = with(row([("email", "a@x.test"), ("cost_rate", "50")]), "from", day(10));
    let data = files(&[("patterns.csv", vec![dated(30, 6), dated(10, 4)]), ("rates.csv", vec![rate])]);
    let plan = plan().with(&preview(&plan(), &data).changes);
    let patterns = |plan: &Plan| {
        let person = &plan.person_by_email("a@x.test").unwrap().person;
        person.patterns.iter().map(|dated| (dated.from, dated.pattern.0[0][0])).collect::<Vec<_>>()
    };
    assert_eq!(patterns(&plan), [(None, 480), (Some(day(10)), 240), (Some(day(30)), 360)]);
    // The person's own row again leaves them; a row for a day that stands alters it.
    let again = files(&[("people.csv", vec![person("a@x.test")]), ("patterns.csv", vec![dated(10, 5)])]);
    assert_eq!(
        (tally(&plan, &again, "people.csv"), tally(&plan, &again, "patterns.csv")),
        ([0, 0, 1, 0], [0, 1, 0, 0])
    );
    assert_eq!(patterns(&plan.with(&preview(&plan, &again).changes))[1], (Some(day(10)), 300));
    let stranger = files(&[("patterns.csv", vec![with(dated(1, 1), "email", "z@x.test")])]);
    assert_eq!(preview(&plan, &stranger).problems[0].reason, "there is no person “z@x.test”");
    let twice = files(&[("patterns.csv", vec![dated(1, 1), dated(1, 2)])]);
    assert_eq!(preview(&plan, &twice).problems[0].reason, "stands on line 2 already");
}

#[test]
fn members_give_at_most_all_of_their_time() {
    let data = files(&[
        ("teams.csv", vec![team("t", ""), team("u", "")]),
        (
            "members.csv",
            vec![member("t", "a@x.test", "60"), member("u", "a@x.test", "40"), member("u", "b@x.test", "")],
        ),
    ]);
    let plan = plan();
    assert_eq!(preview(&plan, &data).problems, []);
    let after = plan.with(&preview(&plan, &data).changes);
    let more = files(&[("members.csv", vec![member("u", "a@x.test", "40.01")])]);
    let problems = preview(&after, &more).problems;
    assert_eq!(problems[0].reason, "a@x.test gives 100.01 % of their time to teams, more than there is");
    let less = files(&[("members.csv", vec![member("u", "a@x.test", "10")])]);
    assert_eq!(tally(&after, &less, "members.csv"), [0, 1, 0, 0]);
}

#[test]
fn every_date_moves_with_an_example_also_in_fields_of_ones_own() {
    let both = |row: Row| with(with(row, "field.Tried", day(2)), "field.Note", day(2));
    let mut data = files(&[
        ("people.csv", vec![person("a@x.test")]),
        ("projects.csv", vec![project("moon", "")]),
        (
            "fields.csv",
            vec![
                row([("of", "task"), ("name", "Tried"), ("kind", "date")]),
                row([("of", "task"), ("name", "Note"), ("kind", "text")]),
            ],
        ),
        ("tasks.csv", vec![both(task("T1", ""))]),
        ("absences.csv", vec![with(with(row([("email", "a@x.test")]), "start", day(1)), "end", day(2))]),
        ("holidays.csv", vec![with(row([("calendar", "c")]), "date", day(3))]),
        ("time.csv", vec![with(row([("email", "a@x.test"), ("hours", "1")]), "date", day(0))]),
        ("bookings.csv", vec![booking("", "1")]),
    ]);
    data.shift(70);
    let found = preview(&Plan::empty(), &data);
    assert_eq!(found.problems, []);
    let plan = Plan::empty().with(&found.changes);
    let moved = plan.tasks.values().next().unwrap();
    assert_eq!((moved.start, moved.finish, moved.due), (Some(day(70)), Some(day(74)), Some(day(77))));
    let own = |name: &str| {
        let field = plan.records.fields.values().find(|field| field.name == name).unwrap();
        moved.fields[&field.id].clone()
    };
    assert_eq!(own("Tried"), day(72).to_string());
    assert_eq!(own("Note"), day(2).to_string(), "a text that looks like a date is a text");
    let booking = plan.bookings().next().unwrap();
    let first = |kind: Kind, column: &str| kind.all(&plan)[0].cell(&Eyes::of_all(&plan), column);
    assert_eq!(
        [first(Kind::Absence, "start"), first(Kind::Holiday, "date"), first(Kind::TimeEntry, "date")],
        [71, 73, 70].map(|at| day(at).to_string())
    );
    assert_eq!((booking.start, booking.end), (day(70), day(74)));
}

#[test]
fn one_bad_row_keeps_everything_out() {
    let plan = plan();
    let stranger = with(booking("B2", "1"), "email", "z@x.test");
    let data = files(&[("bookings.csv", vec![booking("B1", "1"), stranger])]);
    let command = snug_core::Command::Import { source: "a file".into(), data: Box::new(data.clone()) };
    let refusal = plan.decide(&command, day(0)).unwrap_err();
    assert!(refusal.message.contains("bookings.csv, line 3, column email: there is no person “z@x.test”"), "{refusal}");
    assert_eq!(tally(&plan, &data, "bookings.csv"), [1, 0, 0, 1]);
    let good = files(&[("bookings.csv", vec![booking("B1", "1")])]);
    let command = snug_core::Command::Import { source: "a file".into(), data: Box::new(good) };
    let changes = plan.decide(&command, day(0)).unwrap();
    assert!(matches!(changes.as_slice(), [Change::Booking(_)]));
}

/// A row that others name is known though it cannot be taken itself: they are not told of what is wrong with it.
#[test]
fn what_is_wrong_with_a_row_is_told_once() {
    let data = files(&[
        ("projects.csv", vec![with(project("sun", ""), "status", "lost")]),
        ("tasks.csv", vec![with(task("T1", ""), "project", "sun")]),
    ]);
    let problems = preview(&plan(), &data).problems;
    let told: Vec<(&str, &str)> = problems.iter().map(|it| (it.file.as_str(), it.column.as_str())).collect();
    assert_eq!(told, [("projects.csv", "status")]);
}

/// What remains is said beside the log of the same files; read again it is the same, also after more was logged.
#[test]
fn what_remains_in_files_stands_beside_their_log() {
    let left_h = |hours: &str| with(task("T1", ""), "remaining_h", hours);
    let log = |reference: &str, on: &str, hours: &str| {
        with(row([("ref", reference), ("email", "b@x.test"), ("task", on), ("hours", hours)]), "date", day(0))
    };
    let both = |tasks: Vec<Row>, time: Vec<Row>| files(&[("tasks.csv", tasks), ("time.csv", time)]);
    let first = both(vec![left_h("5"), task("T2", "T1")], vec![log("L1", "T1", "1"), log("L2", "T2", "0.6667")]);
    let mut plan = plan().with(&preview(&plan(), &first).changes);
    let id = TaskId(plan.find(Kind::Task, "T1").unwrap());
    let left = |plan: &Plan| remaining_of(plan, &plan.tasks[&id]);
    assert_eq!(left(&plan), Some(300), "what is logged inside it was taken off already");
    assert_eq!(tally(&plan, &first, "tasks.csv"), [0, 0, 2, 0]);
    plan = plan.with(&preview(&plan, &both(vec![], vec![log("L3", "T2", "1.6667")])).changes);
    assert_eq!(left(&plan), Some(200), "what is logged later takes from it");
    let all = vec![log("L1", "T1", "1"), log("L2", "T2", "0.6667"), log("L3", "T2", "1.6667")];
    assert_eq!(
        tally(&plan, &both(vec![left_h("3.3333")], all), "tasks.csv"),
        [0, 0, 1, 0],
        "as it goes out, it comes in again"
    );
    assert_eq!(
        tally(&plan, &both(vec![left_h("4.1667")], vec![]), "tasks.csv"),
        [0, 1, 0, 0],
        "another figure is typed anew"
    );
}

/// Neither hangs nor ends anything: both are refused in a sentence.
#[test]
fn depth_and_sums_are_bounded() {
    let reasons = |data: &Dataset| {
        let problems = preview(&plan(), data).problems;
        problems.iter().map(|problem| format!("{}: {}", problem.file, problem.reason)).collect::<Vec<_>>()
    };
    let nested = |levels: i32| {
        let above = |at: i32| if at == 0 { String::new() } else { format!("T{}", at - 1) };
        files(&[("tasks.csv", (0..levels).map(|at| task(&format!("T{at}"), &above(at))).collect())])
    };
    assert_eq!(reasons(&nested(10_000)), ["tasks.csv: nests more than 1,000 levels deep"]);

    let heaped = (0..400).map(|at| with(with(booking(&format!("B{at}"), "100000"), "unit", "h"), "end", day(0)));
    let heaped = files(&[("bookings.csv", heaped.collect())]);
    let sentence = "bookings.csv: One row holds at most 10,000,000 hours of bookings and tasks in all; this one would hold 40,000,000.";
    assert_eq!(reasons(&heaped), [sentence]);

    // What is within the bounds is worked out at any depth, from the leaves up: the top has what is not in the one inside it.
    let plan = plan().with(&preview(&plan(), &nested(1_001)).changes);
    let effort =
        |key: &str| effort_of(&plan, &plan.tasks[&TaskId(plan.find(Kind::Task, key).unwrap())]).unwrap().minutes;
    assert_eq!((effort("T0"), effort("T1000")), (0, 600));
    let hand = plan.tasks[&TaskId(plan.find(Kind::Task, "T1000").unwrap())].clone();
    let inside = Task { id: TaskId(0), reference: String::new(), parent: Some(hand.id), ..(*hand).clone() };
    let command = Command::Edit { changes: vec![Change::Task(Edit::new(inside))] };
    assert_eq!(plan.decide(&command, day(0)).unwrap_err().message, "Nest tasks at most 1,000 levels deep.");
    let most = Booking {
        who: Who::Person(PersonId(plan.find(Kind::Person, "a@x.test").unwrap())),
        project: None,
        amount: Amount { value: 6_000_000, unit: Unit::Total },
        ..support::booking(0, 1, 0, 0, 1, Unit::PerDay)
    };
    let edits = (0..101).map(|_| Edit::new(most.clone())).collect();
    let refusal = plan.decide(&Command::Rearrange { deed: String::new(), edits }, day(0)).unwrap_err();
    assert!(refusal.message.starts_with("One row holds at most 10,000,000 hours"), "{refusal}");
}
