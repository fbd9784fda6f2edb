//! Even out (`rules/tuck-in.md`): unworked hours offered again in the room of the weeks to come, and weeks that spill flattened, held
//! against a search of every possibility on small plans.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::prelude::*;
use snug_core::{
    BookingId, Command, Day, LinkId, PersonId, Plan, ProjectId, TaskId,
    change::{Change, Edit},
    demand::{Window, person_load},
    even_out::{Evened, Flatten, Holder, Unworked, flatten, left_over, offered, spills, to_look_at, until},
    kinds::{Amount, Booking, Link, LinkKind, Record as _, Task, Unit},
    network::figures,
};
use std::collections::{BTreeMap, BTreeSet};
use support::{any, booking, day, entry, ground, new_task, task};

/// All people and bookings in so many weeks from day 0, which is a Monday and today.
fn everything(plan: &Plan, weeks: i32) -> Flatten {
    Flatten {
        today: day(0),
        people: plan.people.keys().copied().collect(),
        weeks: (day(0), day(7 * weeks - 1)),
        pinned: BTreeSet::new(),
        movable: plan.bookings().map(|booking| booking.id).collect(),
    }
}

/// Load and limit of the weeks of everybody, by person.
fn weeks(plan: &Plan, weeks: i32) -> BTreeMap<PersonId, Vec<(i64, i64)>> {
    let window = Window::new(day(0), day(7 * weeks - 1), day(0));
    let of = |(id, entry): (&PersonId, &snug_core::plan::Entry)| {
        let load = person_load(plan, entry, &window, false).weeks;
        (*id, load.load.iter().zip(&load.limit).map(|(load, limit)| (i64::from(*load), i64::from(*limit))).collect())
    };
    plan.people.iter().map(of).collect()
}

/// Σ spill², then Σ load², of the first weeks.
fn score(plan: &Plan, most: i32) -> (i128, i128) {
    let all = weeks(plan, most);
    let sum = |of: &dyn Fn(i64, i64) -> i64| {
        all.values().flatten().map(|(load, limit)| i128::from(of(*load, *limit)).pow(2)).sum::<i128>()
    };
    (sum(&|load, limit| (load - limit).max(0)), sum(&|load, _| load))
}

fn after(plan: &Plan, evened: &Evened) -> Plan {
    let command = Command::EvenOut { deed: "Evened out".into(), changes: evened.changes.clone() };
    plan.with(&plan.decide(&command, day(0)).unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(50))]

    /// Nobody who had no spill gets any, nothing is later than the network lets it be, what lies on bookings is as much as before, and
    /// the same question has the same answer.
    #[test]
    fn flattening_harms_nobody(plan in any::plan()) {
        let ask = everything(&plan, 8);
        let evened = flatten(&plan, &ask, 400);
        let after = plan.with(&to_look_at(&plan, &evened.changes));
        prop_assert!(score(&after, 8) <= score(&plan, 8));
        prop_assert_eq!(&evened, &flatten(&plan, &ask, 400));
        let (was, is) = (weeks(&plan, 60), weeks(&after, 60));
        for (person, weeks) in &is {
            for (at, ((load, limit), (before, _))) in weeks.iter().zip(&was[person]).enumerate() {
                let is_asked = at < 8 && before > limit;
                prop_assert!(is_asked || load <= limit || load <= before, "{person} in week {at}: {before} -> {load} of {limit}");
            }
        }
        let latest: BTreeMap<TaskId, _> = figures(&plan, day(0)).into_iter().map(|it| (it.task, it)).collect();
        let broken: usize = latest.values().map(|it| it.broken).sum();
        prop_assert!(figures(&after, day(0)).iter().map(|it| it.broken).sum::<usize>() <= broken, "links");
        for (task, before, dates) in &evened.moved {
            prop_assert!(dates.0 >= day(0) && dates.1 <= latest[task].latest.unwrap().1.max(before.1), "{task}: float");
        }
        let minutes = |plan: &Plan| -> i64 { weeks(plan, 60).values().flatten().map(|(load, _)| load).sum() };
        let is_covered = plan.tasks.values().any(|task| task.start.is_some());
        prop_assert!(is_covered || minutes(&plan) == minutes(&after), "what is booked is as much as before");
    }

    /// Held against every place of each task and every level of the booking, on plans of two people.
    #[test]
    fn flattening_comes_within_a_hundredth_of_the_best(
        tasks in prop::collection::vec((1..=2_i32, 1..=4_i64, 0..5_i32, 0..3_i32), 1..=3),
        holds in prop::collection::vec((1..=2_i32, 0..3_i32, 1..=9_i32), 0..=3),
        total in 0..=80_i32,
    ) {
        let mut plan = ground();
        for (at, (person, days, start, slack)) in (30..).zip(&tasks) {
            // Monday to Friday only, so that days and working days are one.
            let first = day(*start % 5 / 2);
            let finish = first + i32::try_from(*days).unwrap().min(4) - 1;
            let due = Some(finish + 7 * slack);
            let length = i64::from(finish.since(first) + 1);
            let made = Task { start: Some(first), finish: Some(finish), due, ..task(at, &[*person], Some(length * 480)) };
            plan.apply(&new_task(made));
        }
        for (at, (person, week, hours)) in (60..).zip(&holds) {
            let hold = Booking { project: None, ..booking(at, *person, 7 * week, 7 * week + 4, hours * 60, Unit::PerDay) };
            plan.apply(&Change::Booking(Edit::new(hold)));
        }
        let cut = Booking { amount: Amount { value: total * 60, unit: Unit::Total }, ..booking(90, 1, 0, 18, 0, Unit::Total) };
        // Its project has no tasks, so that what is booked is what lies there.
        let cut = Booking { project: Some(ProjectId(12)), ..cut };
        if total > 0 {
            plan.apply(&Change::Booking(Edit::new(cut.clone())));
        }
        let ask = Flatten { movable: BTreeSet::from([BookingId(90)]), ..everything(&plan, 4) };
        let found = score(&plan.with(&to_look_at(&plan, &flatten(&plan, &ask, 4_000).changes)), 4);
        let best = best_of(&plan, (total > 0).then_some(&cut));
        let near = |found: i128, best: i128| found * 100 <= best * 101 + 100;
        prop_assert!(near(found.0, best.0), "spill² {} against {}", found.0, best.0);
        prop_assert!(found.0 < best.0 || near(found.1, best.1), "load² {} against {}", found.1, best.1);
    }
}

/// The least score of all places of the tasks, each with the best levels of the booking, which a week at a time is poured where it is lowest.
fn best_of(plan: &Plan, cut: Option<&Booking>) -> (i128, i128) {
    let free: Vec<(TaskId, Day, i32)> = figures(plan, day(0))
        .into_iter()
        .filter_map(|it| {
            let (latest, (start, finish)) = (it.latest?, it.dates?);
            Some((it.task, latest.1, finish.since(start)))
        })
        .collect();
    let was = weeks(plan, 60);
    let mut plans = vec![match cut {
        Some(cut) => plan.with(&[Change::Booking(Edit::remove(cut.clone()))]),
        None => plan.clone(),
    }];
    for (id, latest, _) in free {
        let next = plans.iter().flat_map(|plan| {
            let before = (*plan.tasks[&id]).clone();
            let work = before.finish.unwrap().since(before.start.unwrap()) + 1;
            let starts = (0..=latest.since(day(0))).map(day).filter(|start| start.weekday() < 5);
            let place = move |start: Day| {
                let mut finish = start;
                let mut left = work - 1;
                while left > 0 {
                    finish = finish + 1;
                    left -= i32::from(finish.weekday() < 5);
                }
                (finish <= latest).then_some((start, finish))
            };
            starts.filter_map(place).map(move |(start, finish)| {
                let after = Task { start: Some(start), finish: Some(finish), ..before.clone() };
                plan.with(&[Change::Task(Edit::alter(before.clone(), after))])
            })
        });
        plans = next.collect();
    }
    let harms_nobody =
        |plan: &Plan| {
            weeks(plan, 60).iter().all(|(person, weeks)| {
                weeks.iter().zip(&was[person]).enumerate().all(|(at, ((load, limit), (before, _)))| {
                    load <= limit || load <= before || at < 4 && before > limit
                })
            })
        };
    let with_cut = |plan: Plan| -> Option<Plan> {
        let Some(cut) = cut else { return Some(plan) };
        let mut levels: Vec<i64> = weeks(&plan, 3)[&PersonId(1)].iter().map(|(load, _)| *load).collect();
        let mut parts = [0_i32; 3];
        for _ in 0..cut.amount.value {
            // All weeks have one limit, so that the lowest is the one that has the least over it, too.
            let lowest = (0..3).min_by_key(|at| levels[*at]).unwrap();
            levels[lowest] += 1;
            parts[lowest] += 1;
        }
        let pieces = (0..3_usize).filter(|at| parts[*at] > 0).map(|at| {
            let week = i32::try_from(at).unwrap() * 7;
            let amount = Amount { value: parts[at], unit: Unit::Total };
            let id = BookingId(900 + i32::try_from(at).unwrap());
            Change::Booking(Edit::new(Booking { id, start: day(week), end: day(week + 4), amount, ..cut.clone() }))
        });
        Some(plan.with(&pieces.collect::<Vec<_>>()))
    };
    plans
        .into_iter()
        .filter_map(with_cut)
        .filter(harms_nobody)
        .map(|plan| score(&plan, 4))
        .min()
        .unwrap_or_else(|| score(plan, 4))
}

#[test]
fn what_was_not_worked_is_offered_in_the_room_of_the_weeks_to_come_each_filled_alike() {
    // Ten hours a week were booked on two past weeks, eight of them were worked; the booking ends with the second week to come.
    let own = booking(40, 1, -14, 13, 600, Unit::PerWeek);
    let hold = Booking { project: None, ..booking(41, 1, 7, 11, 240, Unit::PerDay) };
    let plan = ground().with(&[
        Change::Booking(Edit::new(own)),
        Change::Booking(Edit::new(hold)),
        support::logged(entry(50, 1, None, 480)),
    ]);
    let mine = Unworked::of(&plan, PersonId(1), (day(-14), day(-1)), day(0));
    let worked: i64 = plan.log_of(PersonId(1), day(-14), day(-1)).iter().map(|row| i64::from(row.minutes)).sum();
    let found = *mine.iter().find(|it| it.project == ProjectId(11)).unwrap();
    assert_eq!(found.minutes, 1_200 - worked);
    assert_eq!(until(&plan, found, day(0)), Some(day(13)));
    let offer = offered(&plan, found, day(13), day(0));
    // 40 h a week: 30 h of room in the first, 10 h in the second.
    assert_eq!(offer.weeks.iter().map(|week| week.2).collect::<Vec<_>>(), [1_800, 600]);
    let parts: Vec<i64> = offer.weeks.iter().map(|week| week.3).collect();
    assert_eq!((parts.iter().sum::<i64>(), offer.left), (found.minutes, 0));
    assert_eq!(parts[0], parts[1] * 3, "the same share of each week’s room");
    let command = Command::EvenOut { deed: "Offered".into(), changes: offer.changes(found) };
    let after = plan.with(&plan.decide(&command, day(0)).unwrap());
    let window = Window::new(day(0), day(13), day(0));
    assert!(spills(&after, [PersonId(1)], &window).is_empty());
    // What does not fit is said.
    let much = Unworked { minutes: 3_000, ..found };
    assert_eq!(offered(&plan, much, day(13), day(0)).left, 600);
}

#[test]
fn tasks_move_inside_their_links_and_what_stays_over_says_why() {
    let dated = |id: i32, from: i32, to: i32, hours: i64| {
        new_task(Task { start: Some(day(from)), finish: Some(day(to)), ..task(id, &[1], Some(hours * 60)) })
    };
    // Two tasks of 40 h in one week, the second one free for a week more.
    let plan = ground().with(&[dated(21, 0, 4, 40), dated(22, 0, 4, 40), dated(23, 7, 11, 1)]);
    let ask = Flatten { movable: BTreeSet::new(), ..everything(&plan, 2) };
    let evened = flatten(&plan, &ask, 500);
    assert_eq!(evened.before.values().sum::<i64>(), 2_400);
    assert!(evened.after.values().sum::<i64>() < 2_400);
    assert_eq!(score(&after(&plan, &evened), 2), score(&plan.with(&to_look_at(&plan, &evened.changes)), 2));
    // Where one holds the other, and both are to stay, nothing can be mended.
    let link = Link { id: LinkId(60), from: TaskId(22), to: TaskId(23), kind: LinkKind::FinishStart, ..Link::blank() };
    let held = plan.with(&[Change::Link(Edit::new(link))]);
    let ask = Flatten { pinned: BTreeSet::from([TaskId(21)]), ..everything(&held, 1) };
    let evened = flatten(&held, &ask, 500);
    assert_eq!((evened.moved.len(), evened.after.values().sum::<i64>()), (0, 2_400));
    let left = left_over(&held, &ask, &evened.after);
    assert_eq!(left[0].minutes, 2_400);
    let holders: BTreeSet<String> = left[0].holders.iter().map(|holder| format!("{holder:?}")).collect();
    let expected = [Holder::Pinned(TaskId(21)), Holder::Link(TaskId(22), TaskId(23))];
    assert_eq!(holders, expected.iter().map(|holder| format!("{holder:?}")).collect());
    assert_eq!(left[0].others, [PersonId(2)], "who has the same role, and room");
}
