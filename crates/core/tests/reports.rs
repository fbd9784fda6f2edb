//! Reports: whatever they are put together by, they come to the same, and say no more than whoever asks may see.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{prelude::*, sample::select};
use rust_decimal::Decimal;
use snug_core::{
    Actor, Eyes, PersonId, Plan, ProjectId, Role, TaskId, TeamId,
    change::{Change, Edit},
    hours::{By as ActualsBy, Key, actuals},
    kinds::{DatedRate, Expense, ExpenseId, Person, Record as _, Task, TimeEntry},
    reports::{Ask, By, Filter, Range, Report, Subject, Value, report},
    trail,
};
use support::{day, entry, ground, logged, new_task, task, team};

fn ask(subject: Subject, from: i32, to: i32, by: &[By]) -> Ask {
    Ask { subject, from: day(from), to: day(to), by: by.to_vec(), filter: Filter::default() }
}

fn of_all(plan: &Plan, ask: &Ask, today: i32) -> Vec<(Vec<String>, Vec<String>)> {
    texts(&report(&Eyes::of_all(plan), ask, day(today)).unwrap())
}

/// Keys and figures of every row as words.
fn texts(report: &Report<'_>) -> Vec<(Vec<String>, Vec<String>)> {
    let word = |value: &Value<'_>| match value {
        Value::Nothing => String::new(),
        Value::Text(text) => text.to_string(),
        Value::Day(day) => day.to_string(),
        Value::Minutes(figure) | Value::Count(figure) | Value::PerMille(figure) => figure.to_string(),
        Value::Money(sum) => sum.to_string(),
    };
    let words = |row: &[Value<'_>]| row.iter().map(word).collect::<Vec<_>>();
    report.rows.iter().map(|row| (words(&row[..report.keys]), words(&row[report.keys..]))).collect()
}

/// A figure of each row by the name of its column.
fn minutes(report: &Report<'_>, name: &str) -> Vec<i64> {
    let at = report.columns.iter().position(|column| column.name == name).unwrap();
    let figure = |value: &Value<'_>| match value {
        Value::Minutes(figure) | Value::Count(figure) => *figure,
        _ => 0,
    };
    report.rows.iter().map(|row| figure(&row[at])).collect()
}

fn logs() -> impl Strategy<Value = Vec<(i32, i32, i32, i32, bool)>> {
    proptest::collection::vec((1..=3i32, 10..=14i32, -8..20i32, 1..600i32, any::<bool>()), 0..12)
}

proptest! {
    /// By whatever it is put together, a report of time comes to the minutes of the range, and a row of nothing hides none.
    #[test]
    fn groups_come_to_the_rows_that_they_are_made_of(
        plan in support::any::plan(), log in logs(), from in -8..10i32, length in 0..15i32,
        by in select(Subject::Time.groups()), then in select(Subject::Time.groups()), inner in any::<bool>()
    ) {
        let entries = (900..).zip(log).map(|(id, (who, on, date, minutes, billable))| {
            let project = (on > 10).then_some(ProjectId(on));
            logged(TimeEntry { project, billable, date: day(date), ..entry(id, who, None, minutes) })
        });
        let plan = plan.with(&entries.collect::<Vec<_>>());
        let (eyes, today) = (Eyes::of_all(&plan), day(5));
        let filter = Filter { project: inner.then_some(ProjectId(11)), ..Filter::default() };
        let within = |it: &&TimeEntry| (day(from)..=day(from + length)).contains(&it.date);
        let project = |it: &TimeEntry| it.task.and_then(|id| plan.tasks.get(&id)).map(|task| task.project).or(it.project);
        let inside = plan.project_and_inner(ProjectId(11));
        let counts = |it: &&TimeEntry| within(it) && (!inner || project(it).is_some_and(|id| inside.contains(&id)));
        let own: Vec<&TimeEntry> = plan.time_entries.values().map(|it| &**it).filter(counts).collect();
        let sum = |billable: bool| own.iter().filter(|it| !billable || it.billable).map(|it| i64::from(it.minutes)).sum::<i64>();
        for by in [vec![], vec![by], vec![by, then]] {
            let asked = Ask { filter: filter.clone(), ..ask(Subject::Time, from, from + length, &by) };
            let found = report(&eyes, &asked, today).unwrap();
            prop_assert_eq!(minutes(&found, "hours").iter().sum::<i64>(), sum(false));
            prop_assert_eq!(minutes(&found, "billable_hours").iter().sum::<i64>(), sum(true));
            let total = found.columns.iter().position(|column| column.name == "hours").unwrap();
            prop_assert_eq!(&found.totals[total], &Value::Minutes(sum(false)));
            if by.is_empty() {
                prop_assert_eq!(found.rows.len(), own.len());
            } else {
                let mut keys: Vec<_> = texts(&found).into_iter().map(|(keys, _)| keys).collect();
                prop_assert!(keys.len() <= own.len());
                prop_assert_eq!(minutes(&found, "number").iter().sum::<i64>(), i64::try_from(own.len()).unwrap());
                keys.sort();
                keys.dedup();
                prop_assert_eq!(keys.len(), found.rows.len(), "no group stands there twice");
            }
        }
    }

    /// The estimates are those of estimate against actual, whatever the range.
    #[test]
    fn estimates_are_those_of_the_table(plan in support::any::plan(), from in -8..10i32) {
        let found = report(&Eyes::of_all(&plan), &ask(Subject::Estimates, from, from + 3, &[By::Kind]), day(0)).unwrap();
        let table = actuals::table(&plan, ActualsBy::Kind, actuals::Asked::default());
        let mut expected: Vec<(String, i64, i64)> = table.iter().map(|(key, figures)| {
            let Key::Kind(word) = key else { unreachable!() };
            (word.clone(), figures.actual(), figures.projected())
        }).collect();
        expected.sort();
        let (actual, projected) = (minutes(&found, "actual"), minutes(&found, "projected"));
        let found: Vec<_> = texts(&found).into_iter().zip(actual.into_iter().zip(projected)).map(|((keys, _), (a, p))| (keys[0].clone(), a, p)).collect();
        prop_assert_eq!(found, expected);
    }
}

proptest! {
    /// Whatever they are put together by, the estimates of one person come to the row of that person.
    #[test]
    fn the_estimates_of_a_person_come_to_their_row(plan in support::any::plan(), who in 1..=3i32) {
        let person = PersonId(who);
        let asked = |by| {
            let filter = Filter { person: Some(person), ..Filter::default() };
            report(&Eyes::of_all(&plan), &Ask { filter, ..ask(Subject::Estimates, 0, 7, &[by]) }, day(0)).unwrap()
        };
        let row = actuals::table(&plan, ActualsBy::Person, actuals::Asked::default());
        let row = row.get(&Key::Person(Some(person))).copied().unwrap_or_default();
        let expected = (row.estimate(), row.actual(), row.remaining());
        for by in [By::Person, By::Role, By::Kind] {
            let found = asked(by);
            let sum = |name| minutes(&found, name).iter().sum::<i64>();
            prop_assert_eq!((sum("estimate"), sum("actual"), sum("remaining")), expected, "{:?}", by);
        }
        for by in [By::Task, By::Project] {
            let found = asked(by);
            let total = |name| found.totals[found.columns.iter().position(|column| column.name == name).unwrap()].clone();
            prop_assert_eq!(total("actual"), Value::Minutes(expected.1), "{:?}", by);
        }
    }
}

#[test]
fn estimates_of_a_team_are_those_of_its_tasks_and_of_its_people() {
    let plan = ground().with(&[
        Change::Team(Edit::new(team(61, vec![(PersonId(1), 10_000)]))),
        new_task(Task { team: Some(TeamId(61)), ..task(21, &[2], Some(60)) }),
        new_task(task(22, &[1, 2], Some(200))),
        new_task(task(23, &[2], Some(30))),
        logged(entry(901, 2, Some(22), 15)),
    ]);
    let filter = Filter { team: Some(TeamId(61)), ..Filter::default() };
    let asked = |by| Ask { filter: filter.clone(), ..ask(Subject::Estimates, 0, 7, &[by]) };
    let found = report(&Eyes::of_all(&plan), &asked(By::Task), day(0)).unwrap();
    assert_eq!(minutes(&found, "estimate"), [60, 100], "the task that names it, and half of the other");
    assert_eq!(minutes(&found, "actual"), [0, 0], "what was logged by somebody else is no part of it");
    let found = report(&Eyes::of_all(&plan), &asked(By::Team), day(0)).unwrap();
    assert_eq!(minutes(&found, "estimate"), [160]);
}

/// A task that was done on a day, as its trail keeps it.
fn finished(plan: &Plan, id: i32, on: i32) -> Plan {
    let before = plan.tasks.get(&TaskId(id)).unwrap();
    let done = Change::Task(Edit::alter((**before).clone(), Task { stage: "done".into(), ..(**before).clone() }));
    let after = plan.with(std::slice::from_ref(&done));
    after.with(&trail::edits(&after, &[done], day(on)))
}

#[test]
fn what_was_finished_is_told_with_its_day_and_whether_it_was_late() {
    let plan = ground().with(&[
        new_task(Task { due: Some(day(3)), ..task(21, &[1], Some(60)) }),
        new_task(Task { finish: Some(day(4)), ..task(22, &[1, 2], Some(120)) }),
        new_task(task(23, &[2], Some(30))),
    ]);
    let plan = finished(&finished(&plan, 21, 4), 22, 4);
    let found = of_all(&plan, &ask(Subject::Completion, 0, 7, &[By::Project]), 9);
    assert_eq!(found, [(vec!["A11".to_owned()], ["2", "1", "1", "180", "0"].map(str::to_owned).to_vec())]);
    let found = of_all(&plan, &ask(Subject::Completion, 5, 7, &[]), 9);
    assert_eq!(found, [], "on other days nothing was finished");
    // Taken up again it is not finished, and finished anew it is so since then.
    let open = |plan: &Plan| {
        let before = plan.tasks.get(&TaskId(21)).unwrap();
        let change =
            Change::Task(Edit::alter((**before).clone(), Task { stage: "doing".into(), ..(**before).clone() }));
        let after = plan.with(std::slice::from_ref(&change));
        after.with(&trail::edits(&after, &[change], day(5)))
    };
    let again = finished(&open(&plan), 21, 8);
    let days = |plan: &Plan| {
        let found = of_all(plan, &ask(Subject::Completion, 0, 12, &[By::Day, By::Week]), 9);
        found.into_iter().flat_map(|(keys, _)| keys).collect::<Vec<_>>()
    };
    assert_eq!(days(&open(&plan)).len(), 1);
    assert_eq!(
        days(&again),
        [day(4).monday().to_string(), day(8).monday().to_string()],
        "by the week alone: a day is no group of finished tasks"
    );
}

#[test]
fn what_is_due_in_the_range_or_overdue_is_told() {
    let due = |id, on: i32| new_task(Task { due: Some(day(on)), ..task(id, &[1], Some(60)) });
    let plan = ground().with(&[due(21, -3), due(22, 2), due(23, 9), due(24, 40)]);
    let plan = finished(&plan, 22, 1);
    let found = report(&Eyes::of_all(&plan), &ask(Subject::Due, 1, 10, &[]), day(0)).unwrap();
    let names: Vec<String> = texts(&found).into_iter().map(|(keys, _)| keys[0].clone()).collect();
    assert_eq!(names, ["Task 21", "Task 23"], "what is done is not due, what is overdue stays");
    assert_eq!(texts(&found)[0].0.last().unwrap(), "-3", "days left");
    let found = of_all(&plan, &ask(Subject::Due, 1, 10, &[By::Stage]), 0);
    assert_eq!(found[0].1, ["2", "1", "120"], "tasks, overdue, minutes that remain");
}

#[test]
fn money_is_cost_and_expenses_against_what_is_billed() {
    let rate = DatedRate { from: None, cost: Some(Decimal::from(40)), bill: Some(Decimal::from(90)) };
    let plan = ground();
    let before = (*plan.people.get(&PersonId(1)).unwrap().person).clone();
    let expense = Expense {
        id: ExpenseId(95),
        project: ProjectId(11),
        date: day(1),
        what: "Oak".into(),
        amount: Some(Decimal::from(25)),
        ..Expense::blank()
    };
    let plan = plan.with(&[
        Change::Person(Edit::alter(before.clone(), Person { rates: vec![rate], ..before })),
        logged(entry(91, 1, None, 90)),
        logged(TimeEntry { billable: false, ..entry(92, 1, None, 30) }),
        Change::Expense(Edit::new(expense)),
    ]);
    let asked = ask(Subject::Money, 0, 5, &[By::Project]);
    let found = of_all(&plan, &asked, 0);
    assert_eq!(found[0].1, ["80.00", "25.00", "135.00", "30.00"], "cost, expenses, billed, margin");
    // Whoever does not see money gets none of it, by no subject.
    let eyes = Actor { email: "p1@x.test", role: Role::Lead }.eyes(&plan);
    assert!(report(&eyes, &asked, day(0)).unwrap().columns.is_empty());
    for by in [vec![], vec![By::Project]] {
        let found = report(&eyes, &ask(Subject::Time, 0, 5, &by), day(0)).unwrap();
        assert!(found.columns.iter().all(|column| !column.is_money), "{by:?}");
        assert!(found.rows.iter().flatten().all(|value| !matches!(value, Value::Money(_))));
    }
}

#[test]
fn ranges_by_name_are_those_around_today() {
    let days = |range: Range, today: &str| {
        let (from, to) = range.days(today.parse().unwrap());
        format!("{from} {to}")
    };
    let found: Vec<String> = Range::ALL.iter().map(|range| days(*range, "2026-03-11")).collect();
    assert_eq!(
        found,
        [
            "2026-03-09 2026-03-15",
            "2026-03-02 2026-03-08",
            "2026-02-12 2026-03-11",
            "2026-03-01 2026-03-31",
            "2026-02-01 2026-02-28",
            "2026-01-01 2026-12-31",
            "2026-03-11 2026-04-07"
        ]
    );
    assert_eq!(days(Range::LastMonth, "2026-01-31"), "2025-12-01 2025-12-31");
    assert_eq!(days(Range::ThisYear, "2027-01-01"), "2027-01-01 2027-12-31");
}

#[test]
fn time_of_others_is_for_those_who_know_it() {
    let plan = ground().with(&[logged(entry(91, 1, None, 60)), logged(entry(92, 2, None, 30))]);
    let email = plan.people.get(&PersonId(1)).unwrap().person.email.clone();
    let hours = |role| {
        let eyes = Actor { email: &email, role }.eyes(&plan);
        let found = report(&eyes, &ask(Subject::Time, 0, 0, &[By::Project]), day(0)).unwrap();
        minutes(&found, "hours").iter().sum::<i64>()
    };
    assert_eq!([Role::Member, Role::Viewer, Role::Manager].map(hours), [60, 60, 90]);
    let eyes = Actor { email: &email, role: Role::Member }.eyes(&plan);
    let filter = Filter { person: Some(PersonId(2)), ..Filter::default() };
    for subject in [Subject::Time, Subject::Estimates] {
        for by in [&[][..], &[By::Kind]] {
            let asked = Ask { filter: filter.clone(), ..ask(subject, 0, 0, by) };
            assert!(report(&eyes, &asked, day(0)).unwrap().rows.is_empty(), "{subject:?} {by:?}");
        }
    }
}

#[test]
fn more_entries_than_anybody_reads_are_told_in_groups_only() {
    let many = 100_000;
    let entries =
        (0..=many).map(|id| logged(TimeEntry { date: day(id % 300), ..entry(1_000 + id, 1 + id % 2, None, 1) }));
    let plan = ground().with(&entries.collect::<Vec<_>>());
    let eyes = Eyes::of_all(&plan);
    let refused = report(&eyes, &ask(Subject::Time, 0, 300, &[]), day(0)).unwrap_err();
    assert!(refused.message.contains("100,001 entries lie in these days"), "{}", refused.message);
    let rows = |asked: &Ask| report(&eyes, asked, day(0)).unwrap().rows.len();
    assert_eq!(rows(&ask(Subject::Time, 0, 300, &[By::Person])), 2);
    let email = plan.people.get(&PersonId(1)).unwrap().person.email.clone();
    let own = Actor { email: &email, role: Role::Member }.eyes(&plan);
    let seen = report(&own, &ask(Subject::Time, 0, 300, &[]), day(0)).unwrap();
    assert_eq!(seen.rows.len(), 50_001, "what one does not see is not counted against one");
    let filter = Filter { person: Some(PersonId(1)), ..Filter::default() };
    assert_eq!(rows(&Ask { filter, ..ask(Subject::Time, 0, 300, &[]) }), 50_001);
}
