//! What rows of files do to a plan: what is new, what alters, what stands already, and what nobody may say.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Command, PersonId, Plan, TaskId,
    change::{Change, Edit},
    demand::{effort_of, remaining_of},
    fields::{FieldKind, FieldOf},
    import::{
        AbsenceRow, AssigneesRow, BookingFileRow, Dataset, FieldRow, HolidayRow, Line, MemberRow, PatternRow,
        PersonRow, ProjectRow, RateRow, TaskRow, TeamRow, TimeRow, preview,
    },
    people::{Pattern, PersonKind},
    work::{Amount, Booking, Certainty, Contour, Priority, ProjectStatus, Task, Unit, Who},
};
use support::day;

fn lines<T>(rows: Vec<T>) -> Vec<Line<T>> {
    rows.into_iter().enumerate().map(|(at, row)| Line { line: u64::try_from(at).unwrap() + 2, row }).collect()
}

fn person(email: &str) -> PersonRow {
    PersonRow {
        email: email.into(),
        name: "Somebody".into(),
        role: "rigger".into(),
        kind: PersonKind::Person,
        holiday_calendar: String::new(),
        pattern: Pattern::full_time(),
        day_limit: None,
        week_limit: None,
        max_projects: None,
        max_tasks: None,
        max_points: None,
        skills: vec![],
        cost_rate: None,
        bill_rate: None,
        own: vec![],
    }
}

fn project(code: &str, parent: &str) -> ProjectRow {
    ProjectRow {
        code: code.into(),
        name: code.to_uppercase(),
        status: ProjectStatus::Active,
        parent: parent.into(),
        lead: String::new(),
        team: String::new(),
        start: None,
        finish: None,
        budget_minutes: None,
        budget_money: None,
        own: vec![],
    }
}

fn task(reference: &str, parent: &str) -> TaskRow {
    TaskRow {
        reference: reference.into(),
        project: "moon".into(),
        parent: parent.into(),
        title: format!("Task {reference}"),
        kind: String::new(),
        team: String::new(),
        assignees: AssigneesRow::Even(vec!["a@x.test".into()]),
        contour: Contour::Flat,
        estimate: Some(600),
        remaining: None,
        points: None,
        start: Some(day(0)),
        finish: Some(day(4)),
        due: Some(day(7)),
        priority: Priority::Normal,
        stage: "to do".into(),
        progress: None,
        tags: vec![],
        walk_in: false,
        requester: String::new(),
        sprint: String::new(),
        release: String::new(),
        own: vec![],
    }
}

fn booking(reference: &str, minutes: i32) -> BookingFileRow {
    BookingFileRow {
        reference: reference.into(),
        email: "a@x.test".into(),
        team: String::new(),
        role: String::new(),
        project: "moon".into(),
        start: day(0),
        end: day(4),
        amount: Amount { value: minutes, unit: Unit::PerDay },
        certainty: Certainty::Firm,
        days_off: false,
        note: String::new(),
    }
}

fn team(code: &str, parent: &str) -> TeamRow {
    TeamRow {
        code: code.into(),
        name: code.to_uppercase(),
        parent: parent.into(),
        owner: String::new(),
        week_capacity: None,
    }
}

fn member(team: &str, email: &str, share: i32) -> MemberRow {
    MemberRow { team: team.into(), email: email.into(), share }
}

/// Two people, a project.
fn ground() -> Dataset {
    Dataset {
        people: lines(vec![person("a@x.test"), person("b@x.test")]),
        projects: lines(vec![project("moon", "")]),
        ..Dataset::default()
    }
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
    let mut renamed = person("b@x.test");
    renamed.name = "Bo".into();
    let data = Dataset { people: lines(vec![person("a@x.test"), renamed, person("c@x.test")]), ..Dataset::default() };
    assert_eq!(tally(&plan, &data, "people.csv"), [1, 1, 1, 0]);
    let data =
        Dataset { bookings: lines(vec![booking("B1", 60), booking("", 120), booking("", 120)]), ..Dataset::default() };
    assert_eq!(tally(&plan, &data, "bookings.csv"), [3, 0, 0, 0]);
    let after = plan.with(&preview(&plan, &data).changes);
    assert_eq!(tally(&after, &data, "bookings.csv"), [0, 0, 3, 0], "the same again");
    // A third row like the others is one more; a row with a known key and other hours alters it.
    let more = Dataset {
        bookings: lines(vec![booking("B1", 90), booking("", 120), booking("", 120), booking("", 120)]),
        ..Dataset::default()
    };
    assert_eq!(tally(&after, &more, "bookings.csv"), [1, 1, 2, 0]);
    let altered = after.with(&preview(&after, &more).changes);
    assert_eq!(altered.booking_count(), 4);
    assert!(altered.bookings().any(|booking| booking.reference == "B1" && booking.amount.value == 90));
}

#[test]
fn a_key_stands_once_in_a_file() {
    let twice = [
        ("people.csv", Dataset { people: lines(vec![person("c@x.test"), person("c@x.test")]), ..Dataset::default() }),
        (
            "projects.csv",
            Dataset { projects: lines(vec![project("sun", ""), project("sun", "")]), ..Dataset::default() },
        ),
        ("teams.csv", Dataset { teams: lines(vec![team("t", ""), team("t", "")]), ..Dataset::default() }),
        ("tasks.csv", Dataset { tasks: lines(vec![task("T1", ""), task("T1", "")]), ..Dataset::default() }),
        ("bookings.csv", Dataset { bookings: lines(vec![booking("B1", 60), booking("B1", 60)]), ..Dataset::default() }),
    ];
    for (file, data) in twice {
        let problems = preview(&plan(), &data).problems;
        assert_eq!(problems.len(), 1, "{file}");
        assert_eq!(
            (problems[0].file.as_str(), problems[0].line, problems[0].reason.as_str()),
            (file, 3, "stands on line 2 already")
        );
    }
}

#[test]
fn rows_may_refer_to_each_other_in_any_order() {
    let data = Dataset {
        projects: lines(vec![project("dunes", "sun"), project("sun", "")]),
        tasks: lines(vec![task("T2", "T1"), task("T1", "")]),
        teams: lines(vec![team("inner", "outer"), team("outer", "")]),
        ..Dataset::default()
    };
    let found = preview(&plan(), &data);
    assert_eq!(found.problems, []);
    let plan = plan().with(&found.changes);
    let (first, second) = (plan.find("task", "T1").unwrap(), plan.find("task", "T2").unwrap());
    assert_eq!(plan.tasks[&TaskId(second)].parent, Some(TaskId(first)));
    assert_eq!(plan.children[&TaskId(first)].as_slice(), [TaskId(second)]);
}

#[test]
fn nothing_in_files_stands_inside_itself() {
    let circles = [
        (
            "projects.csv",
            Dataset { projects: lines(vec![project("sun", "sky"), project("sky", "sun")]), ..Dataset::default() },
        ),
        ("teams.csv", Dataset { teams: lines(vec![team("t", "u"), team("u", "t")]), ..Dataset::default() }),
        ("tasks.csv", Dataset { tasks: lines(vec![task("T1", "T2"), task("T2", "T1")]), ..Dataset::default() }),
    ];
    for (file, data) in circles {
        let problems = preview(&plan(), &data).problems;
        assert_eq!(problems.len(), 1, "{file}");
        assert_eq!(
            (problems[0].column.as_str(), problems[0].reason.as_str()),
            ("parent", "is inside itself"),
            "{file}"
        );
    }
}

#[test]
fn later_patterns_and_rates_come_on_top_and_stay() {
    let dated = |from, hours: i32| PatternRow {
        email: "a@x.test".into(),
        from,
        pattern: Pattern(vec![[hours * 60, 0, 0, 0, 0, 0, 0]]),
    };
    let rate =
        |from, cost: i32| RateRow { email: "a@x.test".into(), from, cost_rate: Some(cost.into()), bill_rate: None };
    let data = Dataset {
        patterns: lines(vec![dated(day(30), 6), dated(day(10), 4)]),
        rates: lines(vec![rate(day(10), 50)]),
        ..Dataset::default()
    };
    let plan = plan().with(&preview(&plan(), &data).changes);
    let patterns = |plan: &Plan| {
        let person = &plan.person_by_email("a@x.test").unwrap().person;
        person.patterns.iter().map(|dated| (dated.from, dated.pattern.0[0][0])).collect::<Vec<_>>()
    };
    assert_eq!(patterns(&plan), [(None, 480), (Some(day(10)), 240), (Some(day(30)), 360)]);
    // The person's own row again leaves them; a row for a day that stands alters it.
    let again = Dataset {
        people: lines(vec![person("a@x.test")]),
        patterns: lines(vec![dated(day(10), 5)]),
        ..Dataset::default()
    };
    assert_eq!(
        (tally(&plan, &again, "people.csv"), tally(&plan, &again, "patterns.csv")),
        ([0, 0, 1, 0], [0, 1, 0, 0])
    );
    assert_eq!(patterns(&plan.with(&preview(&plan, &again).changes))[1], (Some(day(10)), 300));
    let stranger = Dataset {
        patterns: lines(vec![PatternRow { email: "z@x.test".into(), ..dated(day(1), 1) }]),
        ..Dataset::default()
    };
    assert_eq!(preview(&plan, &stranger).problems[0].reason, "there is no person “z@x.test”");
}

#[test]
fn members_give_at_most_all_of_their_time() {
    let data = Dataset {
        teams: lines(vec![team("t", ""), team("u", "")]),
        members: lines(vec![
            member("t", "a@x.test", 6_000),
            member("u", "a@x.test", 4_000),
            member("u", "b@x.test", 10_000),
        ]),
        ..Dataset::default()
    };
    let plan = plan();
    assert_eq!(preview(&plan, &data).problems, []);
    let after = plan.with(&preview(&plan, &data).changes);
    let more = Dataset { members: lines(vec![member("u", "a@x.test", 4_001)]), ..Dataset::default() };
    let problems = preview(&after, &more).problems;
    assert_eq!(problems[0].reason, "a@x.test gives 100.01 % of their time to teams, more than there is");
    let less = Dataset { members: lines(vec![member("u", "a@x.test", 1_000)]), ..Dataset::default() };
    assert_eq!(tally(&after, &less, "members.csv"), [0, 1, 0, 0]);
}

#[test]
fn every_date_moves_with_an_example_also_in_fields_of_ones_own() {
    let mut data = Dataset {
        fields: lines(vec![
            FieldRow { of: FieldOf::Task, name: "Tried".into(), kind: FieldKind::Date, choices: vec![] },
            FieldRow { of: FieldOf::Task, name: "Note".into(), kind: FieldKind::Text, choices: vec![] },
        ]),
        tasks: lines(vec![TaskRow {
            own: vec![("Tried".into(), day(2).to_string()), ("Note".into(), day(2).to_string())],
            ..task("T1", "")
        }]),
        absences: lines(vec![AbsenceRow {
            reference: String::new(),
            email: "a@x.test".into(),
            start: day(1),
            end: day(2),
            kind: String::new(),
            minutes: None,
            at: None,
        }]),
        holidays: lines(vec![HolidayRow {
            calendar: "c".into(),
            date: day(3),
            name: String::new(),
            fraction: 1_000_000,
        }]),
        time: lines(vec![TimeRow {
            reference: String::new(),
            email: "a@x.test".into(),
            date: day(0),
            project: String::new(),
            task: String::new(),
            minutes: 60,
            billable: false,
            note: String::new(),
        }]),
        bookings: lines(vec![booking("", 60)]),
        ..ground()
    };
    data.shift(70);
    let moved = &data.tasks[0].row;
    assert_eq!((moved.start, moved.finish, moved.due), (Some(day(70)), Some(day(74)), Some(day(77))));
    assert_eq!(moved.own[0].1, day(72).to_string());
    assert_eq!(moved.own[1].1, day(2).to_string(), "a text that looks like a date is a text");
    assert_eq!(
        (data.absences[0].row.start, data.holidays[0].row.date, data.time[0].row.date),
        (day(71), day(73), day(70))
    );
    assert_eq!((data.bookings[0].row.start, data.bookings[0].row.end), (day(70), day(74)));
    assert_eq!(preview(&Plan::empty(), &data).problems, []);
}

#[test]
fn one_bad_row_keeps_everything_out() {
    let plan = plan();
    let data = Dataset {
        bookings: lines(vec![booking("B1", 60), BookingFileRow { email: "z@x.test".into(), ..booking("B2", 60) }]),
        ..Dataset::default()
    };
    let command = snug_core::Command::Import { source: "a file".into(), data: Box::new(data.clone()) };
    let refusal = plan.decide(&command, day(0)).unwrap_err();
    assert!(refusal.message.contains("bookings.csv, line 3, column email: there is no person “z@x.test”"), "{refusal}");
    assert_eq!(tally(&plan, &data, "bookings.csv"), [1, 0, 0, 1]);
    let good = Dataset { bookings: lines(vec![booking("B1", 60)]), ..Dataset::default() };
    let command = snug_core::Command::Import { source: "a file".into(), data: Box::new(good) };
    let changes = plan.decide(&command, day(0)).unwrap();
    assert!(matches!(changes.as_slice(), [Change::Booking(_)]));
}

/// What remains is said beside the log of the same files; read again it is the same, also after more was logged.
#[test]
fn what_remains_in_files_stands_beside_their_log() {
    let with = |remaining: i64| TaskRow { remaining: Some(remaining), ..task("T1", "") };
    let log = |reference: &str, on: &str, minutes: i32| TimeRow {
        reference: reference.into(),
        email: "b@x.test".into(),
        date: day(0),
        project: String::new(),
        task: on.into(),
        minutes,
        billable: true,
        note: String::new(),
    };
    let files = |tasks: Vec<TaskRow>, time: Vec<TimeRow>| Dataset {
        tasks: lines(tasks),
        time: lines(time),
        ..Dataset::default()
    };
    let first = files(vec![with(300), task("T2", "T1")], vec![log("L1", "T1", 60), log("L2", "T2", 40)]);
    let mut plan = plan().with(&preview(&plan(), &first).changes);
    let id = TaskId(plan.find("task", "T1").unwrap());
    let left = |plan: &Plan| remaining_of(plan, &plan.tasks[&id]);
    assert_eq!(left(&plan), Some(300), "what is logged inside it was taken off already");
    assert_eq!(tally(&plan, &first, "tasks.csv"), [0, 0, 2, 0]);
    plan = plan.with(&preview(&plan, &files(vec![], vec![log("L3", "T2", 100)])).changes);
    assert_eq!(left(&plan), Some(200), "what is logged later takes from it");
    let all = vec![log("L1", "T1", 60), log("L2", "T2", 40), log("L3", "T2", 100)];
    assert_eq!(
        tally(&plan, &files(vec![with(200)], all), "tasks.csv"),
        [0, 0, 1, 0],
        "as it goes out, it comes in again"
    );
    assert_eq!(
        tally(&plan, &files(vec![with(250)], vec![]), "tasks.csv"),
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
        lines((0..levels).map(|at| task(&format!("T{at}"), &above(at))).collect())
    };
    let deep = Dataset { tasks: nested(10_000), ..Dataset::default() };
    assert_eq!(reasons(&deep), ["tasks.csv: nests more than 1,000 levels deep"]);

    let heaped = (0..400).map(|at| {
        let amount = Amount { value: 6_000_000, unit: Unit::Total };
        BookingFileRow { end: day(0), amount, ..booking(&format!("B{at}"), 1) }
    });
    let heaped = Dataset { bookings: lines(heaped.collect()), ..Dataset::default() };
    let sentence = "bookings.csv: One row holds at most 10,000,000 hours of bookings and tasks in all; this one would hold 40,000,000.";
    assert_eq!(reasons(&heaped), [sentence]);

    // What is within the bounds is worked out at any depth, from the leaves up: the top has what is not in the one inside it.
    let data = Dataset { tasks: nested(1_001), ..Dataset::default() };
    let plan = plan().with(&preview(&plan(), &data).changes);
    let effort = |key: &str| effort_of(&plan, &plan.tasks[&TaskId(plan.find("task", key).unwrap())]).unwrap().minutes;
    assert_eq!((effort("T0"), effort("T1000")), (0, 600));
    let hand = plan.tasks[&TaskId(plan.find("task", "T1000").unwrap())].clone();
    let inside = Task { id: TaskId(0), reference: String::new(), parent: Some(hand.id), ..(*hand).clone() };
    let command = Command::Edit { changes: vec![Change::Task(Edit::new(inside))] };
    assert_eq!(plan.decide(&command, day(0)).unwrap_err().message, "Nest tasks at most 1,000 levels deep.");
    let most = Booking {
        who: Who::Person(PersonId(plan.find("person", "a@x.test").unwrap())),
        project: None,
        amount: Amount { value: 6_000_000, unit: Unit::Total },
        ..support::booking(0, 1, 0, 0, 1, Unit::PerDay)
    };
    let edits = (0..101).map(|_| Edit::new(most.clone())).collect();
    let refusal = plan.decide(&Command::Rearrange { deed: String::new(), edits }, day(0)).unwrap_err();
    assert!(refusal.message.starts_with("One row holds at most 10,000,000 hours"), "{refusal}");
}
