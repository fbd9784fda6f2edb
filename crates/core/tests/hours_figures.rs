//! Bias, money, planned against worked and earned value on random plans, against sums as plain as can be.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use num_rational::Ratio;
use proptest::{collection::vec, prelude::*};
use rust_decimal::Decimal;
use snug_core::{
    Command, Day, PersonId, Plan, ProjectId,
    cells::{Bucket, Grain},
    change::{Change, Edit},
    hours::{
        bias::{self, Of},
        earned::{earned, rounded},
        money::{self, Money, Rate, rate_on},
        worked,
    },
    kinds::{
        BaselineKind, Booking, Certainty, DatedRate, FIRST_STAGE, Person, Project, ProjectStatus, Task, TimeEntry,
    },
};
use std::collections::BTreeMap;
use support::{day, entry, person, slow::Rows};

/// Far enough for every booking and task of a random plan, late ones in their queues too.
const FAR: i32 = 120;

fn logs() -> impl Strategy<Value = Vec<(i32, i32, i32, i32, bool)>> {
    vec((1..=3i32, 10..=14i32, -8..4i32, 1..600i32, any::<bool>()), 0..8)
}

/// A plan with time on no task, some of it billable.
fn logged_plan() -> impl Strategy<Value = Plan> {
    (support::any::plan(), logs()).prop_map(|(plan, log)| {
        let made = (900..).zip(log).map(|(id, (who, on, date, minutes, billable))| {
            let project = (on > 10).then_some(ProjectId(on));
            Change::TimeEntry(Edit::new(TimeEntry {
                project,
                billable,
                date: day(date),
                ..entry(id, who, None, minutes)
            }))
        });
        plan.with(&made.collect::<Vec<_>>())
    })
}

/// The plan with other people.
fn with_people(plan: &Plan, alter: impl Fn(&Person) -> Person) -> Plan {
    let changes =
        plan.people.values().map(|entry| Change::Person(Edit::alter((*entry.person).clone(), alter(&entry.person))));
    plan.with(&changes.collect::<Vec<_>>())
}

fn rate(from: Option<i32>, cost: Option<i64>, bill: Option<i64>) -> DatedRate {
    DatedRate { from: from.map(day), cost: cost.map(Decimal::from), bill: bill.map(Decimal::from) }
}

/// The project of an entry and all that this is inside.
fn line(plan: &Plan, entry: &TimeEntry) -> Vec<ProjectId> {
    let own = entry.task.map(|id| plan.tasks[&id].project).or(entry.project);
    own.into_iter().flat_map(|id| plan.project_line(id)).map(|project| project.id).collect()
}

#[test]
fn a_rate_holds_until_a_later_one_says_another() {
    let rates = vec![rate(None, Some(50), None), rate(Some(3), None, Some(90)), rate(Some(7), Some(60), None)];
    let somebody = Person { rates, ..person(1) };
    let cost = |at| rate_on(&somebody, Rate::Cost, day(at)).map(|rate| rate.to_string());
    assert_eq!([cost(-900), cost(3), cost(7), cost(900)], ["50", "50", "60", "60"].map(|it| Some(it.to_owned())));
    let bill = |at| rate_on(&somebody, Rate::Bill, day(at));
    assert_eq!((bill(2), bill(3), bill(9)), (None, Some(90.into()), Some(90.into())));
    // Cents are rounded half up once a sum: 3 × 5 minutes at 0.10 an hour are 2.5 cents.
    let cheap =
        Person { rates: vec![DatedRate { from: None, cost: Some("0.1".parse().unwrap()), bill: None }], ..person(1) };
    let mut sum = Money::default();
    (0..3).for_each(|at| sum.add(&Money::of_logged(Some(&cheap), day(at), 5, true)));
    assert_eq!((sum.cost().to_string(), sum.billed().to_string(), sum.unrated), ("0.03".into(), "0.00".into(), 0));
    sum.add(&Money::of_logged(None, day(0), 40, false));
    assert_eq!(sum.unrated, 40);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// Quartiles of what finished work took, counted on the fingers: sorted, and linear between the ranks.
    #[test]
    fn quartiles_lie_between_ranks(pairs in vec((1..900i64, 1..900i64), 1..14)) {
        let finished = (201..).zip(&pairs).flat_map(|(id, (estimate, took))| {
            let task = Task { estimate: Some(*estimate), stage: "done".into(), kind: "k".into(), ..support::task(id, &[1], None) };
            let log = entry(id + 500, 1, Some(id), i32::try_from(*took).unwrap());
            [support::new_task(task), support::logged(log)]
        });
        let plan = support::ground().with(&finished.collect::<Vec<_>>());
        let rows = bias::table(&plan, Of::Kind);
        let found = &rows[&bias::Key::Kind("k".into())];
        prop_assert_eq!(found.tasks(), pairs.len());
        let mut ratios: Vec<Ratio<i128>> = pairs.iter().map(|(e, a)| Ratio::new(i128::from(*a), i128::from(*e))).collect();
        ratios.sort();
        for fourths in 1..=3usize {
            let rank = Ratio::new(i128::try_from((pairs.len() - 1) * fourths).unwrap(), 4);
            let below = usize::try_from(rank.floor().to_integer()).unwrap();
            let above = (below + 1).min(pairs.len() - 1);
            let exact = ratios[below] + (ratios[above] - ratios[below]) * rank.fract();
            let quartile = found.quartile(fourths);
            prop_assert_eq!(Ratio::new(quartile.0, quartile.1), exact, "after {} fourths", fourths);
        }
        let (thought, took): (i64, i64) = pairs.iter().fold((0, 0), |sum, pair| (sum.0 + pair.0, sum.1 + pair.1));
        prop_assert_eq!((found.estimate(), found.actual()), (thought, took));
        prop_assert_eq!(found.says().is_some(), pairs.len() >= 5);
        let whole = Ratio::new(i128::from(2 * 600 * took + thought), i128::from(2 * thought)).floor().to_integer();
        let expected = (pairs.len() >= 5 && whole != 600 && whole > 0).then(|| i64::try_from(whole).unwrap());
        prop_assert_eq!(found.corrected(600), expected);
        // One person did all of it.
        let of_person = bias::table(&plan, Of::Person);
        prop_assert_eq!(&of_person[&bias::Key::Person(Some(PersonId(1)))], found);
    }

    /// Where everybody costs one a minute, the cost to come is the load of the Fit room from today on, and what nobody carries has no rate.
    #[test]
    fn what_is_to_come_is_the_load_of_the_fit_room(plan in logged_plan()) {
        let plan = with_people(&plan, |it| Person { rates: vec![rate(None, Some(60), Some(120))], ..it.clone() });
        let bare = with_people(&plan, |it| Person { rates: vec![rate(None, None, Some(120))], ..it.clone() });
        let (sums, unrated) = (money::table(&plan, day(0)), money::table(&bare, day(0)));
        let rows = Rows::new(&plan, Grain::Week, day(0), day(FAR) + 400);
        let bucket = Bucket { from: day(0), to: day(FAR) };
        for id in (11..=15).map(ProjectId) {
            let found = sums.get(&Some(id)).copied().unwrap_or_default();
            let bare = unrated.get(&Some(id)).copied().unwrap_or_default();
            let load: i64 = plan.project_and_inner(id).into_iter().map(|id| rows.of_project(Some(id), bucket).load).sum();
            prop_assert_eq!(bare.planned_unrated, load, "of {}", id);
            prop_assert_eq!(found.planned_cost() + Decimal::from(found.planned_unrated), Decimal::from(load));
            let on = |it: &&TimeEntry| line(&plan, it).contains(&id);
            let log: i64 = plan.time_entries.values().map(|it| &**it).filter(on).map(|it| i64::from(it.minutes)).sum();
            prop_assert_eq!((found.cost(), found.unrated, bare.unrated), (Decimal::from(log), 0, log));
            let billable = plan.time_entries.values().map(|it| &**it).filter(on).filter(|it| it.billable);
            prop_assert_eq!(found.billed(), Decimal::from(2 * billable.map(|it| i64::from(it.minutes)).sum::<i64>()));
        }
    }

    /// Where rates change on a day to come, what lies before it costs the one, and what lies after it the other.
    #[test]
    fn what_is_to_come_is_priced_by_its_day(plan in logged_plan(), turn in 1..20i32, before in 1..9i64, after in 1..9i64) {
        let rated = |rates: Vec<DatedRate>| money::table(&with_people(&plan, |it| Person { rates: rates.clone(), ..it.clone() }), day(0));
        let [both, late, always] = [
            vec![rate(None, Some(60 * before), None), rate(Some(turn), Some(60 * after), None)],
            vec![rate(Some(turn), Some(60), None)],
            vec![rate(None, Some(60), None)],
        ].map(rated);
        let rows = Rows::new(&plan, Grain::Week, day(0), day(FAR) + 400);
        for id in (11..=15).map(ProjectId) {
            let [both, late, always] = [&both, &late, &always].map(|sums| sums.get(&Some(id)).copied().unwrap_or_default());
            // Where only later work has a rate, of one a minute, that is the minutes of it, but for what nobody carries.
            let bucket = Bucket { from: day(turn), to: day(FAR) };
            let load: i64 = plan.project_and_inner(id).into_iter().map(|id| rows.of_project(Some(id), bucket).load).sum();
            let least = Decimal::from(load - always.planned_unrated);
            prop_assert!((least..=Decimal::from(load)).contains(&late.planned_cost()), "of {}: {} of {}", id, late.planned_cost(), load);
            let (later, all) = (late.planned_cost(), always.planned_cost());
            prop_assert_eq!(both.planned_cost(), Decimal::from(before) * (all - later) + Decimal::from(after) * later, "of {}", id);
            prop_assert_eq!(Decimal::from(late.planned_unrated - always.planned_unrated), all - later);
        }
    }

    /// Planned is the firm load of the plan as it was meant, on every past day; booked that of its bookings alone; and nothing that was
    /// logged is lost, whatever it stands under.
    #[test]
    fn worked_is_held_against_the_plan_as_it_was_meant(plan in logged_plan(), from in -12..2i32, length in 0..14i32, today in -3..12i32) {
        let (from, to) = (day(from), day(from + length));
        let last = to.min(day(today) - 1);
        let rows = worked::table(&plan, (from, to), day(today));
        let changes: Vec<Change> = plan.tasks.values().map(|task| {
            let after = Task { stage: FIRST_STAGE.into(), remaining: None, logged_then: 0, ..(**task).clone() };
            Change::Task(Edit::alter((**task).clone(), after))
        }).collect();
        let opened = plan.records.projects.values().filter(|it| it.status == ProjectStatus::Closed).map(|it| {
            Change::Project(Edit::alter((**it).clone(), Project { status: ProjectStatus::Active, ..(**it).clone() }))
        });
        let unlogged = plan.time_entries.values().map(|it| Change::TimeEntry(Edit::remove((**it).clone())));
        let left_out = plan.bookings().filter(|it| it.project.is_none() || it.certainty != Certainty::Firm);
        let left_out = left_out.map(|it: Booking| Change::Booking(Edit::remove(it)));
        let meant = plan.with(&changes).with(&opened.chain(unlogged).chain(left_out).collect::<Vec<_>>());
        let gone: Vec<Change> = meant.tasks.values().map(|task| Change::Task(Edit::remove((**task).clone()))).collect();
        let empty = meant.with(&gone);
        let long_ago = day(-400);
        let sums = |plan: &Plan, id: PersonId| -> i64 {
            let rows = Rows::new(plan, Grain::Day, long_ago, day(FAR));
            from.through(last).map(|at| rows.of_person(id, Bucket { from: at, to: at }).firm).sum()
        };
        for id in (1..=3).map(PersonId) {
            let own = || rows.iter().filter(|(who, ..)| *who == id).map(|(_, _, it)| it);
            prop_assert_eq!(own().map(|it| it.planned).sum::<i64>(), sums(&meant, id), "planned");
            prop_assert_eq!(own().map(|it| it.booked).sum::<i64>(), if plan.settings.envelope == snug_core::settings::Envelope::Tasks {
                own().map(|it| it.booked).sum::<i64>()
            } else { sums(&empty, id) }, "booked");
            let log = plan.log_of(id, from, last).iter().map(|it| i64::from(it.minutes));
            prop_assert_eq!(own().map(|it| it.logged).sum::<i64>(), log.sum::<i64>(), "logged");
            prop_assert!(own().all(|it| it.unworked() == (it.booked - it.logged).max(0)));
        }
    }

    /// Of a plan that is kept today: nothing is lost between what it took and what was added, PV comes to the whole, and EV is what is done
    /// of each item.
    #[test]
    fn what_is_earned_is_what_is_done_of_each_item(plan in logged_plan(), today in -4..30i32) {
        let today = day(today);
        let Ok(frozen) = plan.decide(&Command::Freeze { project: ProjectId(11), name: "Kept".into() }, today) else { return Ok(()) };
        let plan = plan.with(&frozen);
        let baseline = plan.records.baselines.values().find(|it| it.kind == BaselineKind::Project).unwrap();
        let found = earned(&plan, baseline, today);
        let items: Vec<_> = plan.records.baseline_items.values().collect();
        prop_assert_eq!(found.budget, items.iter().filter_map(|it| it.effort).sum::<i64>());
        let now = found.points.last().unwrap();
        prop_assert_eq!(now.date, today);
        let of_project = |it: &&TimeEntry| it.date <= today && line(&plan, it).contains(&ProjectId(11));
        // Tasks inside its own ones count with those, wherever they are; here all are of the day that was kept.
        let own: BTreeMap<_, _> = items.iter().map(|it| (it.task, it.effort.unwrap_or(0))).collect();
        let near = |it: &TimeEntry| {
            let mut line = std::iter::successors(it.task, |id| plan.tasks[id].parent);
            line.find(|id| own.contains_key(id))
        };
        let log = |of: &dyn Fn(&TimeEntry) -> bool| -> i64 {
            plan.time_entries.values().filter(|it| it.date <= today && of(it)).map(|it| i64::from(it.minutes)).sum()
        };
        prop_assert_eq!(now.actual, log(&|it| near(it).is_some()));
        prop_assert_eq!(now.added, log(&|it| near(it).is_none() && of_project(&it)));
        let last = found.ahead.last().unwrap_or(now);
        let ends: Vec<Day> = items.iter().filter_map(|it| it.start.and(it.finish)).collect();
        if ends.iter().all(|end| *end <= last.date) {
            prop_assert_eq!(rounded(&last.planned), found.budget, "all is planned at the end");
        }
        let done = items.iter().filter(|it| plan.tasks[&it.task].is_done()).filter_map(|it| it.effort).sum::<i64>();
        let earned = rounded(now.earned.as_ref().unwrap());
        prop_assert!(earned >= done && earned <= found.budget, "{} done, {} earned of {}", done, earned, found.budget);
        for (before, after) in found.points.iter().chain(&found.ahead).zip(found.points.iter().chain(&found.ahead).skip(1)) {
            prop_assert!(before.planned <= after.planned && before.actual <= after.actual && before.date < after.date);
        }
    }
}
