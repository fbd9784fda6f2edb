//! What is logged, as it lies in the plan and as it is added up: whatever changes, against sums over the entries one by one.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{collection::vec, option, prelude::*, sample::select};
use rust_decimal::Decimal;
use snug_core::{
    Day, Eyes, PersonId, Plan, ProjectId, TaskId, TimeEntryId,
    change::{Change, Edit},
    hours::{By as ActualsBy, Key, actuals},
    hours::{
        entries_of,
        money::{self, Rate, rate_on},
    },
    kinds::{DatedRate, Expense, ExpenseId, Person, Record as _, TimeEntry},
    plan::LogRow,
    reports::{Ask, By, Filter, Subject, Value, report},
};
use std::collections::BTreeMap;
use support::{day, entry};

/// Who, on what, on which day, how long, billable.
type Log = (i32, i32, i32, i32, bool);

fn log() -> impl Strategy<Value = Log> {
    (1..=3i32, 10..=14i32, -20..20i32, 1..600i32, any::<bool>())
}

fn time_entry(id: i32, (who, on, date, minutes, billable): Log) -> TimeEntry {
    let project = (on > 10).then_some(ProjectId(on));
    TimeEntry { project, billable, date: day(date), ..entry(id, who, None, minutes) }
}

fn with_log(plan: &Plan, logs: &[Log]) -> Plan {
    let made = (900..).zip(logs).map(|(id, log)| Change::TimeEntry(Edit::new(time_entry(id, *log))));
    plan.with(&made.collect::<Vec<_>>())
}

fn entries(plan: &Plan) -> impl Iterator<Item = &TimeEntry> {
    plan.time_entries.values().map(|entry| &**entry)
}

/// A rate from the beginning, another one from a day on, and one for some days in between that says the cost alone.
fn rates() -> impl Strategy<Value = Vec<DatedRate>> {
    let money = || option::of((1..20_000i64).prop_map(|cents| Decimal::new(cents, 2)));
    let dated = |from: Option<i32>, cost, bill| DatedRate { from: from.map(day), cost, bill };
    (money(), money(), -18..0i32, money(), 1..18i32, money(), money()).prop_map(
        move |(cost, bill, second, only_cost, third, later_cost, later_bill)| {
            vec![
                dated(None, cost, bill),
                dated(Some(second), only_cost, None),
                dated(Some(third), later_cost, later_bill),
            ]
        },
    )
}

fn with_rates(plan: &Plan, rates: &[Vec<DatedRate>]) -> Plan {
    let people = plan.people.values().zip(rates.iter().cycle());
    let changes = people.map(|(entry, rates)| {
        let after = Person { rates: rates.clone(), ..(*entry.person).clone() };
        Change::Person(Edit::alter((*entry.person).clone(), after))
    });
    plan.with(&changes.collect::<Vec<_>>())
}

/// Minutes × rate of some entries, in cents.
fn priced<'a>(plan: &Plan, entries: impl Iterator<Item = &'a TimeEntry>, which: Rate) -> Decimal {
    let of_one = |entry: &TimeEntry| {
        let rate = rate_on(&plan.people[&entry.person].person, which, entry.date).unwrap_or_default();
        let counts = which == Rate::Cost || entry.billable;
        if counts { rate * Decimal::from(entry.minutes) } else { Decimal::ZERO }
    };
    let sum: Decimal = entries.map(of_one).sum();
    (sum / Decimal::from(60)).round_dp_with_strategy(2, rust_decimal::RoundingStrategy::MidpointAwayFromZero)
}

fn project_of(plan: &Plan, entry: &TimeEntry) -> Option<ProjectId> {
    entry.task.and_then(|id| plan.tasks.get(&id)).map(|task| task.project).or(entry.project)
}

proptest! {
    /// Whatever is logged, altered and taken away, everybody's rows are their entries in the order of days, and the sums by task are theirs.
    #[test]
    fn rows_are_the_entries_in_the_order_of_days(
        plan in support::any::plan(), logs in vec(log(), 1..12), deeds in vec((0..12usize, option::of(log())), 0..12), from in -22..20i32, length in 0..20i32
    ) {
        let mut plan = with_log(&plan, &logs);
        for (which, after) in deeds {
            let Some(before) = entries(&plan).nth(which).cloned() else { continue };
            let edit = match after {
                None => Edit::remove(before),
                Some(log) => Edit::alter(before.clone(), TimeEntry { id: before.id, ..time_entry(0, log) }),
            };
            plan.apply(&Change::TimeEntry(edit));
        }
        let mut whole: Vec<(PersonId, LogRow)> = Vec::new();
        for id in (1..=3).map(PersonId) {
            let own = |from: Day, to: Day| {
                let within = entries(&plan).filter(|it| it.person == id && (from..=to).contains(&it.date));
                let mut rows: Vec<LogRow> = within.map(LogRow::of).collect();
                rows.sort_by_key(|row| (row.date, row.id));
                rows
            };
            prop_assert_eq!(plan.log_of(id, Day::MIN, Day::MAX), own(Day::MIN, Day::MAX));
            prop_assert_eq!(plan.log_of(id, day(from), day(from + length)), own(day(from), day(from + length)));
            let ids: Vec<TimeEntryId> = plan.logged_on(id, day(from)).map(|it| it.id).collect();
            prop_assert_eq!(ids, own(day(from), day(from)).iter().map(|row| row.id).collect::<Vec<_>>());
            whole.extend(own(day(from), day(from + length)).into_iter().map(|row| (id, row)));
        }
        let walked = plan.whole_log(day(from), day(from + length)).flat_map(|(id, rows)| rows.iter().map(move |row| (id, *row)));
        prop_assert_eq!(walked.collect::<Vec<_>>(), whole);
        let mut by_task: BTreeMap<(TaskId, PersonId), i64> = BTreeMap::new();
        for entry in entries(&plan) {
            if let Some(task) = entry.task {
                *by_task.entry((task, entry.person)).or_default() += i64::from(entry.minutes);
            }
        }
        let kept = plan.logged.iter().flat_map(|(task, log)| log.iter().map(|it| ((*task, it.person), it.minutes)));
        prop_assert_eq!(kept.collect::<BTreeMap<_, _>>(), by_task);
    }

    /// Each entry is priced at the rate of its own day, however entries are put together.
    #[test]
    fn rates_that_change_price_each_entry_by_its_day(
        plan in support::any::plan(), logs in vec(log(), 0..14), rates in vec(rates(), 3), by in select(Subject::Money.groups()), from in -22..20i32, length in 0..30i32, spent in 0..900i64
    ) {
        let expense = Expense { id: ExpenseId(890), project: ProjectId(11), date: day(0), what: "Oak".into(), amount: Some(Decimal::new(spent, 2)), ..Expense::blank() };
        let plan = with_rates(&with_log(&plan, &logs), &rates).with(&[Change::Expense(Edit::new(expense))]);
        let sums = money::table(&plan, day(0));
        for id in (11..=15).map(ProjectId) {
            let inside = plan.project_and_inner(id);
            let own = || entries(&plan).filter(|it| project_of(&plan, it).is_some_and(|id| inside.contains(&id)));
            let found = sums.get(&Some(id)).copied().unwrap_or_default();
            prop_assert_eq!(found.cost(), priced(&plan, own(), Rate::Cost));
            prop_assert_eq!(found.billed(), priced(&plan, own(), Rate::Bill));
            let unrated = own().filter(|it| rate_on(&plan.people[&it.person].person, Rate::Cost, it.date).is_none());
            prop_assert_eq!(found.unrated, unrated.map(|it| i64::from(it.minutes)).sum::<i64>());
            let spent = if inside.contains(&ProjectId(11)) { Decimal::new(spent, 2) } else { Decimal::ZERO };
            prop_assert_eq!(found.margin(), found.billed() - found.cost() - spent);
        }
        let range = day(from)..=day(from + length);
        let ask = Ask { subject: Subject::Money, from: day(from), to: day(from + length), by: vec![by], filter: Filter::default() };
        let found = report(&Eyes::of_all(&plan), &ask, day(0)).unwrap();
        let total = |name: &str| found.totals[found.columns.iter().position(|column| column.name == name).unwrap()].clone();
        let within = || entries(&plan).filter(|it| range.contains(&it.date));
        prop_assert_eq!(total("cost"), Value::Money(priced(&plan, within(), Rate::Cost)), "by {:?}", by);
        prop_assert_eq!(total("billed"), Value::Money(priced(&plan, within(), Rate::Bill)), "by {:?}", by);
        if by == By::Week {
            let at = found.columns.iter().position(|column| column.name == "cost").unwrap();
            for row in &found.rows {
                let Value::Day(monday) = row[0] else { continue };
                let of_week = within().filter(|it| it.date.monday() == monday);
                prop_assert_eq!(&row[at], &Value::Money(priced(&plan, of_week, Rate::Cost)), "in the week of {}", monday);
            }
        }
    }

    /// A row of estimate against actual opens to the entries that it is made of: their minutes are its own.
    #[test]
    fn a_row_opens_to_the_entries_that_it_is_made_of(plan in support::any::plan(), logs in vec(log(), 0..12), from in -22..20i32, length in 0..30i32) {
        let plan = with_log(&plan, &logs);
        let cut = actuals::Asked { cut: snug_core::hours::Cut { from: Some(day(from)), to: Some(day(from + length)) }, project: None };
        for by in [ActualsBy::Task, ActualsBy::Project, ActualsBy::Person, ActualsBy::Role, ActualsBy::Kind, ActualsBy::Tag, ActualsBy::Level] {
            for asked in [actuals::Asked::default(), cut] {
                for (key, figures) in actuals::table(&plan, by, asked) {
                    let found = entries_of(&plan, &key, asked);
                    let sum: i64 = found.iter().map(|it| i64::from(it.minutes)).sum();
                    prop_assert_eq!(sum, figures.actual(), "of {:?}", key);
                    prop_assert!(found.is_sorted_by_key(|it| (std::cmp::Reverse(it.date), it.id)));
                }
            }
        }
        let mine = entries_of(&plan, &Key::Person(Some(PersonId(1))), cut);
        prop_assert!(mine.iter().all(|it| it.person == PersonId(1) && (day(from)..=day(from + length)).contains(&it.date)));
    }
}
