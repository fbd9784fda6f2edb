//! How budgets burn: on which line work lies, what is left, and the day on which a budget runs out.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{collection::vec, prelude::*};
use rust_decimal::Decimal;
use snug_core::reports::{Ask, By, Filter, Subject, Value, report};
use snug_core::{
    Eyes, Plan, ProjectId,
    cells::{Bucket, Grain},
    change::{Change, Edit},
    hours::{
        burn::{self, Budgeted, Burn, Standing},
        money,
    },
    kinds::{
        Booking, BudgetLine, BudgetLineId, DatedRate, Expense, ExpenseId, Person, Project, Record as _, Task,
        TimeEntry, Unit,
    },
};
use support::{booking, day, entry, ground, logged, new_task, project, slow::Rows, task};

/// Far enough for everything that a random plan holds.
const FAR: i32 = 120;

fn line(id: i32, project: i32, name: &str, hours: Option<i64>) -> Change {
    let minutes = hours.map(|hours| hours * 60);
    let line = BudgetLine { project: ProjectId(project), line: name.into(), minutes, ..BudgetLine::blank() };
    Change::BudgetLine(Edit::new(BudgetLine { id: BudgetLineId(id), ..line }))
}

fn expense(id: i32, project: i32, line: &str, date: i32, amount: i64) -> Change {
    let blank = Expense { project: ProjectId(project), line: line.into(), date: day(date), ..Expense::blank() };
    let amount = Some(Decimal::from(amount));
    Change::Expense(Edit::new(Expense { id: ExpenseId(id), what: "Oak".into(), amount, ..blank }))
}

/// Everybody costs 30 an hour.
fn rated(plan: &Plan) -> Plan {
    let rate = DatedRate { from: None, cost: Some(Decimal::from(30)), bill: None };
    let with_rate = |before: &Person| Person { rates: vec![rate.clone()], ..before.clone() };
    let changes =
        plan.people.values().map(|it| Change::Person(Edit::alter((*it.person).clone(), with_rate(&it.person))));
    plan.with(&changes.collect::<Vec<_>>())
}

fn standing(plan: &Plan, of: Budgeted, budget: Option<i64>, today: i32) -> Standing<i64> {
    burn::table(plan, day(today)).get(&of).cloned().unwrap_or_default().hours(budget, day(today))
}

/// Very many are added up in parts, on several threads: two hours were logged by each and two are booked.
#[test]
fn thousands_come_to_what_each_of_them_has() {
    let people = 1..=2_100;
    let of_one = |id: i32| {
        [
            Change::Person(Edit::new(support::person(id))),
            logged(TimeEntry { project: Some(ProjectId(11)), ..entry(10_000 + id, id, None, 120) }),
            Change::Booking(Edit::new(booking(20_000 + id, id, 1, 1, 120, Unit::PerDay))),
        ]
    };
    let project = Project { budget_minutes: Some(0), ..project(11) };
    let plan = Plan::empty().with(&[Change::Project(Edit::new(project))]);
    let plan = rated(&plan.with(&people.flat_map(of_one).collect::<Vec<_>>()));
    let standing = standing(&plan, Budgeted::Project(ProjectId(11)), Some(0), 1);
    assert_eq!((standing.used, standing.planned), (252_000, 252_000));
    let money = money::table(&plan, day(1))[&Some(ProjectId(11))];
    assert_eq!([money.cost(), money.planned_cost()].map(|sum| sum.to_string()), ["126000.00", "126000.00"]);
    let ask = Ask { subject: Subject::Time, from: day(0), to: day(0), by: vec![By::Week], filter: Filter::default() };
    let report = report(&Eyes::of_all(&plan), &ask, day(1)).unwrap();
    assert_eq!(report.rows.len(), 1);
    assert_eq!(report.rows[0][1..3], [Value::Count(2_100), Value::Minutes(252_000)]);
}

/// A task of two hours a day on “Paint” lies in a booking of six hours a day on “Build”: two hours burn the one, four the other.
#[test]
fn a_task_burns_its_own_line_and_what_it_does_not_fill_that_of_the_booking() {
    let plan = rated(&ground()).with(&[
        line(71, 11, "Build", Some(40)),
        line(72, 11, "Paint", Some(9)),
        Change::Booking(Edit::new(Booking { line: "Build".into(), ..booking(81, 1, 0, 4, 360, Unit::PerDay) })),
        new_task(Task {
            line: "Paint".into(),
            estimate: Some(600),
            start: Some(day(0)),
            finish: Some(day(4)),
            ..task(21, &[1], None)
        }),
    ]);
    let [build, paint] = [71, 72].map(|id| Budgeted::Line(BudgetLineId(id)));
    let found = standing(&plan, build, Some(1_200), 0);
    assert_eq!((found.used, found.planned, found.left, found.runs_out), (0, 1_200, Some(0), None), "just enough");
    let found = standing(&plan, paint, Some(540), 0);
    assert_eq!((found.planned, found.left), (600, Some(-60)));
    assert_eq!(found.runs_out, Some(day(4)), "on the fifth day it takes ten hours");

    // Logged work burns the line of its task, and no longer waits to be done; money is that of the rates, and of expenses.
    let more = [
        logged(TimeEntry { date: day(-1), ..entry(91, 1, Some(21), 300) }),
        expense(95, 11, "Paint", -1, 50),
        expense(96, 11, "Paint", 9, 20),
    ];
    let plan = plan.with(&more);
    let found = standing(&plan, paint, Some(540), 0);
    assert_eq!((found.used, found.planned, found.left, found.runs_out), (300, 300, Some(-60), Some(day(4))));
    let burn = burn::table(&plan, day(0)).remove(&paint).unwrap();
    let money = burn.money(Some(Decimal::from(360)), day(0));
    assert_eq!((money.used, money.planned, money.left), (200.into(), 170.into(), Some((-10).into())));
    assert_eq!(money.runs_out, Some(day(9)), "the expense to come is too much");
    assert_eq!(burn.hours(Some(299), day(0)).runs_out, Some(day(0)), "what is used exceeds it by itself");
}

/// Without a name work is on the only line, else on none; a project inside another one burns the lines of that, if it has none.
#[test]
fn work_that_names_no_line_is_on_the_only_one() {
    let inner = Change::Project(Edit::new(Project { parent: Some(ProjectId(11)), ..project(12) }));
    let log = |id, on: i32, minutes| logged(TimeEntry { project: Some(ProjectId(on)), ..entry(id, 1, None, minutes) });
    let plan = ground().with(&[inner, line(71, 11, "All", None), log(91, 11, 60), log(92, 12, 30)]);
    assert_eq!(standing(&plan, Budgeted::Line(BudgetLineId(71)), None, 0).used, 90);
    let plan = plan.with(&[line(72, 11, "More", None)]);
    assert_eq!(standing(&plan, Budgeted::Line(BudgetLineId(71)), None, 0).used, 0);
    assert_eq!(standing(&plan, Budgeted::NoLine(ProjectId(11)), None, 0).used, 90);
    let plan = plan.with(&[line(73, 12, "Own", Some(1))]);
    let found = standing(&plan, Budgeted::Line(BudgetLineId(73)), Some(60), 0);
    assert_eq!((found.used, found.left), (30, Some(30)), "its own line is nearer");
}

/// A random plan where project 11 has two lines, and all work of it and of those inside it names one of them or none.
fn lined_plan() -> impl Strategy<Value = Plan> {
    let names = vec(prop::sample::select(&["A", "B", ""][..]), 20);
    (support::any::plan(), names, 0..50i64).prop_map(|(plan, names, spent)| {
        let mut changes = vec![line(71, 11, "A", None), line(72, 11, "B", None), expense(95, 12, "B", 3, spent + 1)];
        let root = (**plan.records.projects.get(&ProjectId(11)).unwrap()).clone();
        changes.push(Change::Project(Edit::alter(root.clone(), Project { budget_minutes: Some(6_000), ..root })));
        let inside = plan.project_and_inner(ProjectId(11));
        let name = |id: i32, on: ProjectId| {
            let name = names[usize::try_from(id).unwrap() % names.len()];
            if inside.contains(&on) { name.to_owned() } else { String::new() }
        };
        for before in plan.tasks.values().map(|task| (**task).clone()) {
            let after = Task { line: name(before.id.0, before.project), ..before.clone() };
            changes.push(Change::Task(Edit::alter(before, after)));
        }
        for before in plan.bookings() {
            let Some(project) = before.project else { continue };
            let after = Booking { line: name(before.id.0, project), ..before.clone() };
            changes.push(Change::Booking(Edit::alter(before, after)));
        }
        rated(&plan).with(&changes.into_iter().filter(|change| !is_nothing(change)).collect::<Vec<_>>())
    })
}

fn is_nothing(change: &Change) -> bool {
    match change {
        Change::Task(edit) => edit.before == edit.after,
        Change::Booking(edit) => edit.before == edit.after,
        _ => false,
    }
}

proptest! {
    /// Nothing is lost between the lines: they and what is on none of them come to the project, whose money is that of the table of
    /// money with its expenses; and a budget runs out on the first day on which the sum up to it exceeds it.
    #[test]
    fn the_lines_of_a_project_come_to_the_project(plan in lined_plan(), today in -5..20i32, budget in 0..20_000i64) {
        let today = day(today);
        let table = burn::table(&plan, today);
        let whole = table.get(&Budgeted::Project(ProjectId(11))).cloned().unwrap_or_default();
        let lines = [Budgeted::Line(BudgetLineId(71)), Budgeted::Line(BudgetLineId(72)), Budgeted::NoLine(ProjectId(11))];
        let parts: Vec<Burn> = lines.iter().filter_map(|of| table.get(of).cloned()).collect();
        let sums = |of: &dyn Fn(&Burn) -> i64| parts.iter().map(of).sum::<i64>();
        prop_assert_eq!(sums(&|it| it.hours(None, today).used), whole.hours(None, today).used);
        prop_assert_eq!(sums(&|it| it.hours(None, today).planned), whole.hours(None, today).planned);
        prop_assert_eq!(sums(&Burn::unrated), whole.unrated());

        let sum = money::table(&plan, today).get(&Some(ProjectId(11))).copied().unwrap_or_default();
        let spent: Decimal = plan.records.expenses.values().map(|it| it.sum()).sum();
        let found = whole.money(None, today);
        prop_assert_eq!(found.used + found.planned, sum.cost() + sum.planned_cost() + spent);
        prop_assert_eq!(whole.unrated(), sum.unrated + sum.planned_unrated);

        // By the slow sum of every day's load.
        let found = whole.hours(Some(budget), today);
        prop_assert_eq!(found.runs_out.is_some(), found.used + found.planned > budget);
        let rows = Rows::new(&plan, Grain::Day, today, today + FAR);
        let inside = plan.project_and_inner(ProjectId(11));
        let load = |day| inside.iter().map(|id| rows.of_project(Some(*id), Bucket { from: day, to: day }).load).sum::<i64>();
        let slow = found.used + today.through(today + FAR).map(load).sum::<i64>();
        prop_assert_eq!(found.used + found.planned, slow);
        if let Some(out) = found.runs_out {
            let before = found.used + today.through(out - 1).map(load).sum::<i64>();
            prop_assert!(found.used > budget || before <= budget && before + load(out) > budget);
        }
    }

    /// A plan whose tasks are done and that books nothing has nothing to come.
    #[test]
    fn what_is_done_plans_nothing(plan in lined_plan()) {
        let done = plan.tasks.values().map(|task| {
            let after = Task { stage: "done".into(), ..(**task).clone() };
            Change::Task(Edit::alter((**task).clone(), after))
        });
        let gone = plan.bookings().map(|it| Change::Booking(Edit::remove(it)));
        let plan = plan.with(&done.chain(gone).filter(|change| !is_nothing(change)).collect::<Vec<_>>());
        let table = burn::table(&plan, day(4));
        prop_assert!(table.values().all(|it| it.hours(None, day(4)).planned == 0));
    }
}
