//! The views of the Schedule room say what the Fit room says: slips, the feet of a calendar and the rows of the long view add up to the
//! load table, on random plans of every setting. And what hands do between people and teams.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{prelude::*, sample::select};
use snug_core::{
    Command, PersonId, Plan, ProjectId, TaskId, TeamId,
    cells::{Bucket, Cell, Grain},
    change::{Change, Edit},
    demand::{Window, effort_of, left_of, person_load},
    handing::{OffDays, handed, off_days, redated, split_between_teams},
    horizon::days,
    kinds::{Assignees, Meeting, MeetingId, Record as _, Task},
    load::{Group, Groups, Measure, Query, table},
    long_view::{ItemOf, own_rim, resized, team_effects, team_row},
    network::Mode,
    slips::{SlipOf, slips},
};
use std::collections::BTreeMap;
use support::{absence, any, booking, day, entry, ground, logged, new_task, person, project, task, team};

fn query(window: Window, grain: Grain, group: Group) -> Query {
    Query { window, grain, group, measure: Measure::Minutes }
}

/// The load table by key.
fn rows(plan: &Plan, window: Window, grain: Grain, group: Group) -> (Vec<Bucket>, BTreeMap<String, Vec<Cell>>) {
    let table = table(plan, &query(window, grain, group));
    (table.buckets, table.rows.into_iter().map(|row| (row.key, row.band_cells)).collect())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// The slips of a day pile up to that day's load, whatever the setting says of bookings and tasks.
    #[test]
    fn the_slips_of_a_day_are_the_load_of_the_fit_room(plan in any::plan(), (from, length, today) in (-3..10i32, 0..30i32, -8..16i32)) {
        let window = Window::new(day(from), day(from + length), day(today));
        let (buckets, table) = rows(&plan, window, Grain::Day, Group::Person);
        for one in plan.people.values() {
            let load = person_load(&plan, one, &window, true);
            let all = slips(&plan, &load);
            for (bucket, cell) in buckets.iter().zip(&table[&one.person.email]) {
                let at = load.days.index(bucket.from).unwrap();
                prop_assert!(all.iter().all(|slip| slip.minutes[at] >= 0));
                let sum: i64 = all.iter().map(|slip| i64::from(slip.minutes[at])).sum();
                prop_assert_eq!(sum, cell.load, "{} on {}, {:?}", one.person.email, bucket.from, plan.settings.envelope);
            }
        }
    }

    /// The foot of a day adds up those whose days are seen: the cells of their rows.
    #[test]
    fn the_foot_of_a_calendars_day_is_the_load_of_the_fit_room(plan in any::plan(), (from, today) in (-3..10i32, -8..16i32), seen in prop::array::uniform3(prop::bool::ANY)) {
        let window = Window::new(day(from), day(from + 41), day(today));
        let (_, table) = rows(&plan, window, Grain::Day, Group::Person);
        let people = || plan.people.values().zip(seen).filter(|(_, seen)| *seen).map(|(entry, _)| entry);
        for (at, foot) in days(&plan, people(), &window).into_iter().enumerate() {
            let cells = || people().map(|entry| &table[&entry.person.email][at]);
            prop_assert_eq!(foot.load, cells().map(|cell| cell.load).sum::<i64>());
            prop_assert_eq!(foot.limit, cells().filter_map(|cell| cell.limit).sum::<i64>());
            prop_assert_eq!(foot.spill, cells().map(|cell| cell.spill.max(cell.peak)).sum::<i64>());
        }
    }

    /// A team's row in the long view has the figures of the load table; what is given to it and what is done besides add up to them, and
    /// what stands above the rim is what is more than the limit.
    #[test]
    fn the_rows_of_the_long_view_are_those_of_the_fit_room(plan in any::plan(), (from, length, today) in (-3..10i32, 0..45i32, -8..16i32), grain in select(&[Grain::Week, Grain::Month][..])) {
        let window = Window::new(day(from), day(from + length), day(today));
        let (buckets, table) = rows(&plan, window, grain, Group::Team);
        let groups = Groups::new(&plan, query(window, grain, Group::Team));
        for team in plan.records.teams.values() {
            let row = team_row(&groups, team.id);
            prop_assert_eq!(&row.cells, &table[&team.code]);
            for at in 0..buckets.len() {
                let (cell, other) = (&row.cells[at], row.other[at]);
                let given: i64 = row.items.iter().map(|item| item.minutes[at]).sum();
                prop_assert_eq!(other + given, cell.load);
                let limit = cell.limit.unwrap();
                let above: i64 = row.items.iter().map(|item| item.above[at]).sum();
                prop_assert_eq!(above + (other - limit).max(0), (cell.load - limit).max(0));
            }
        }
    }

    /// A task that is split between teams asks as much as before of the team around them, and of nobody else.
    #[test]
    fn a_split_between_teams_loses_no_minute(estimate in 1..6_000i64, share in 1..10_000i32, logged_before in 0..400i32) {
        let mut plan = ground().with(&[
            Change::Team(Edit::new(team(61, vec![]))),
            Change::Team(Edit::new(snug_core::kinds::Team { parent: Some(TeamId(61)), ..team(62, vec![(PersonId(1), 10_000)]) })),
            Change::Team(Edit::new(snug_core::kinds::Team { parent: Some(TeamId(61)), ..team(63, vec![(PersonId(2), 10_000)]) })),
            new_task(Task { team: Some(TeamId(62)), ..task(201, &[], Some(estimate)) }),
        ]);
        if logged_before > 0 {
            plan = plan.with(&[logged(entry(300, 1, Some(201), logged_before))]);
        }
        let all = plan.tasks[&TaskId(201)].clone();
        let (whole, parts) = split_between_teams(&plan, &all, &[(TeamId(62), share), (TeamId(63), 10_000 - share)]).unwrap();
        let left: i64 = parts.iter().map(|part| part.estimate.unwrap()).sum();
        prop_assert_eq!(left, left_of(&plan, &all).unwrap());
        let made = std::iter::once(Change::Task(Edit::alter((*all).clone(), whole))).chain(parts.into_iter().map(new_task));
        let after = plan.with(&plan.decide(&Command::Edit { changes: made.collect() }, day(0)).unwrap());
        let window = Window::new(day(0), day(13), day(0));
        let sums = |plan: &Plan| -> i64 {
            rows(plan, window, Grain::Week, Group::Team).1["t61"].iter().map(|cell| cell.load).sum()
        };
        prop_assert_eq!(sums(&after), sums(&plan));
    }

    /// What is said of a team whose work changes is the difference of its rows in the load table, over all weeks that differ.
    #[test]
    fn what_is_said_of_a_team_is_what_changes_in_its_row(
        before in any::plan(),
        at in 0..9usize,
        estimate in prop::option::of(0..5_000i64),
        (start, more) in (-12..40i32, 0..15i32),
        given in prop::option::of(61..=63i32),
    ) {
        let Some(task) = before.tasks.values().nth(at) else { return Ok(()) };
        let next = Task { estimate, start: Some(day(start)), finish: Some(day(start + more)), team: given.map(TeamId), ..(**task).clone() };
        let changes = [Change::Task(Edit::alter((**task).clone(), next))];
        let after = before.with(&changes);
        let first = Grain::Week.start_of(day(-200), &before.settings);
        let window = Window::new(first, first + 7 * 120 - 1, day(0));
        let (weeks, old) = rows(&before, window, Grain::Week, Group::Team);
        let (_, new) = rows(&after, window, Grain::Week, Group::Team);
        let said = team_effects(&before, &after, &changes, day(0));
        let over = |cell: &Cell| cell.spill.max(cell.peak);
        for effect in &said {
            let code = &before.records.teams[&effect.team].code;
            prop_assert_ne!(&old[code], &new[code]);
            let sum = |cells: &[Cell]| cells.iter().map(over).sum::<i64>();
            prop_assert_eq!(effect.spill.1 - effect.spill.0, sum(&new[code]) - sum(&old[code]));
            let worst = weeks.iter().position(|week| *week == effect.worst).unwrap();
            prop_assert_eq!(over(&new[code][worst]), effect.most);
        }
        let named = [task.team, given.map(TeamId)];
        let concerned = named.iter().flatten().flat_map(|team| before.team_line(*team)).filter(|team| old[&team.code] != new[&team.code]);
        for team in concerned {
            prop_assert!(said.iter().any(|effect| effect.team == team.id), "nothing is said of {}", team.code);
        }
    }

    /// A task that changes hands and days stands where it would if it were only moved, or is refused for the same reason.
    #[test]
    fn who_takes_a_task_takes_it_where_a_move_would_lay_it(plan in any::plan(), at in 0..9usize, to in -10..60i32, today in -10..20i32) {
        let Some(task) = plan.tasks.values().filter(|task| task.start.is_some()).nth(at) else { return Ok(()) };
        let only_moved = Command::MoveTasks { tasks: vec![((**task).clone(), day(to))], mode: Mode::Push };
        match (redated(&plan, task, day(to), day(today)), plan.decide(&only_moved, day(today))) {
            (Ok(taken), Ok(changes)) => {
                let moved = plan.with(&changes).tasks[&task.id].clone();
                prop_assert_eq!((taken.start, taken.finish), (moved.start, moved.finish));
                prop_assert_eq!(Task { start: task.start, finish: task.finish, ..taken }, (**task).clone());
            }
            (Err(one), Err(other)) => prop_assert_eq!(one.message, other.message),
            (one, other) => prop_assert!(false, "{:?} and {:?}", one.map(|it| it.start), other.map(|it| it.len())),
        }
    }

    /// Nobody is said to be off under a task who can work on all of its days; whoever works on none of them is said to.
    #[test]
    fn who_is_off_under_a_task_is_told(plan in any::plan()) {
        for task in plan.tasks.values().filter(|task| task.start.is_some() && !task.is_done()) {
            let (start, finish) = (task.start.unwrap(), task.finish.unwrap());
            let (_, table) = rows(&plan, Window::new(start, finish, start), Grain::Day, Group::Person);
            let told: BTreeMap<PersonId, OffDays> = off_days(&plan, task).into_iter().map(|it| (it.person, it)).collect();
            for id in task.assignees.people() {
                // A limit of the day is never above what is available, nor of nothing where something is.
                let can = |cell: &Cell| cell.limit.unwrap() > 0;
                let cells = &table[&plan.people[&id].person.email];
                if let Some(off) = told.get(&id) {
                    prop_assert!(off.off <= cells.iter().filter(|cell| !can(cell)).count());
                    prop_assert_eq!(off.all, !cells.iter().any(can));
                } else {
                    let has_part = effort_of(&plan, task).is_some_and(|it| it.parts.iter().any(|(who, part)| *who == id && *part > 0));
                    prop_assert!(!has_part || cells.iter().any(can));
                }
            }
        }
    }

    /// A meeting of a project takes what the same hours off would take, once where it overlaps with others.
    #[test]
    fn a_meeting_takes_its_time_as_time_off_does(who in any::somebody(1), first in 0..14i32, at in 0..1_200i32, minutes in 1..240i32, every in 0..3i32, weeks in 1..5i32) {
        let plan = Plan::empty().with(&who).with(&[Change::Project(Edit::new(project(11)))]);
        let until = (every > 0).then(|| day(first + 7 * weeks));
        let meeting = Meeting {
            id: MeetingId(500), project: ProjectId(11), title: "Round".into(), people: vec![PersonId(1)],
            date: day(first), at, minutes, every_weeks: every, until, ..Meeting::blank()
        };
        let off = meeting.days().enumerate().map(|(number, on)| {
            let days = on.since(day(0));
            let number = 600 + i32::try_from(number).unwrap();
            Change::Absence(Edit::new(snug_core::kinds::Absence { at: Some(at), ..absence(number, 1, days, days, Some(minutes)) }))
        });
        let as_off = plan.with(&off.collect::<Vec<_>>());
        let held = plan.with(&[Change::Meeting(Edit::new(meeting.clone()))]);
        let window = Window::new(day(-7), day(60), day(0));
        let table = |plan: &Plan| rows(plan, window, Grain::Day, Group::Person).1;
        prop_assert_eq!(table(&held), table(&as_off));
        // And gives it back.
        prop_assert_eq!(table(&held.with(&[Change::Meeting(Edit::remove(meeting))])), table(&plan));
    }
}

#[test]
fn work_changes_hands_or_is_split() {
    let plan = ground().with(&[Change::Person(Edit::new(person(3)))]);
    let to = |assignees: &Assignees, from: i32, to: i32, split: bool| {
        handed(&plan, assignees, Some(PersonId(from)), PersonId(to), split).map_err(|refusal| refusal.message)
    };
    let ids = |ids: &[i32]| ids.iter().map(|id| PersonId(*id)).collect::<Vec<_>>();
    let even = |people: &[i32]| Assignees::Even(ids(people));
    assert_eq!(to(&even(&[1, 2]), 1, 3, false), Ok(even(&[3, 2])));
    assert_eq!(to(&even(&[1, 2]), 1, 2, false), Ok(even(&[2])), "who has a part already gets the other one’s, too");
    assert_eq!(to(&even(&[1]), 1, 3, true), Ok(even(&[1, 3])));
    assert_eq!(to(&even(&[]), 1, 3, false), Ok(even(&[3])), "what is nobody’s becomes theirs");
    assert_eq!(to(&even(&[1, 3]), 1, 3, true), Err("P3 has a part of it already.".to_owned()));
    assert_eq!(to(&Assignees::Full(ids(&[1])), 1, 2, true), Ok(Assignees::Full(ids(&[1, 2]))));
    let shares =
        |list: &[(i32, i32)]| Assignees::Shares(list.iter().map(|(id, share)| (PersonId(*id), *share)).collect());
    assert_eq!(to(&shares(&[(1, 7_001), (2, 2_999)]), 1, 3, true), Ok(shares(&[(1, 3_501), (3, 3_500), (2, 2_999)])));
    assert_eq!(to(&shares(&[(1, 7_000), (2, 3_000)]), 1, 2, false), Ok(shares(&[(2, 10_000)])));
    assert_eq!(to(&shares(&[(1, 7_000), (2, 3_000)]), 2, 3, false), Ok(shares(&[(1, 7_000), (3, 3_000)])));
    assert!(to(&shares(&[(1, 1), (2, 9_999)]), 1, 3, true).is_err(), "a share of nothing is none");

    // On the way to somebody else it may go to another day, too: five days of work from Wednesday on end on Tuesday.
    let plan = plan.with(&[new_task(Task { finish: Some(day(4)), ..task(201, &[1], Some(600)) })]);
    let there = redated(&plan, &plan.tasks[&TaskId(201)], day(2), day(0)).unwrap();
    assert_eq!((there.start, there.finish), (Some(day(2)), Some(day(8))));
}

#[test]
fn days_off_under_a_task_are_told() {
    let plan = ground().with(&[Change::Absence(Edit::new(absence(900, 1, 1, 2, None)))]);
    let with = |task: Task| plan.with(&[new_task(task.clone())]).tasks[&task.id].clone();
    // Tuesday and Wednesday are off; Saturday and Sunday are nobody’s days.
    let week = with(Task { finish: Some(day(6)), ..task(201, &[1, 2], Some(600)) });
    assert_eq!(
        off_days(&plan.with(&[new_task((*week).clone())]), &week),
        [OffDays { person: PersonId(1), off: 2, all: false }]
    );
    let tuesday = with(Task { start: Some(day(1)), finish: Some(day(2)), ..task(202, &[1], Some(600)) });
    assert_eq!(
        off_days(&plan.with(&[new_task((*tuesday).clone())]), &tuesday),
        [OffDays { person: PersonId(1), off: 2, all: true }]
    );
    let sunday = with(Task { start: Some(day(6)), finish: Some(day(6)), ..task(203, &[2], Some(600)) });
    assert_eq!(
        off_days(&plan.with(&[new_task((*sunday).clone())]), &sunday),
        [OffDays { person: PersonId(2), off: 0, all: true }]
    );
}

#[test]
fn what_cannot_be_split_between_teams_says_why() {
    let plan = ground().with(&[
        Change::Team(Edit::new(team(61, vec![]))),
        Change::Team(Edit::new(team(62, vec![]))),
        new_task(Task { team: Some(TeamId(61)), ..task(201, &[], Some(600)) }),
        new_task(Task { parent: Some(TaskId(201)), ..task(202, &[], Some(60)) }),
        new_task(task(203, &[1], Some(600))),
    ]);
    let says = |id: i32, shares: &[(i32, i32)]| {
        let shares: Vec<(TeamId, i32)> = shares.iter().map(|(team, share)| (TeamId(*team), *share)).collect();
        split_between_teams(&plan, &plan.tasks[&TaskId(id)], &shares).unwrap_err().message
    };
    let half = [(61, 5_000), (62, 5_000)];
    assert!(says(201, &half).contains("broken down already"));
    assert!(says(203, &half).contains("People are named"));
    let leaf = |shares: &[(i32, i32)]| says(202, shares);
    assert!(leaf(&[(61, 10_000)]).contains("at least two"));
    assert!(leaf(&[(61, 5_000), (61, 5_000)]).contains("twice"));
    assert!(leaf(&[(61, 5_000), (62, 4_000)]).contains("100 %"));
}

/// A team of one person with 40 h a week, and work without a name: 60 h in the first week, 30 h over both weeks.
fn crowded() -> Plan {
    ground().with(&[
        Change::Team(Edit::new(team(61, vec![(PersonId(1), 10_000)]))),
        new_task(Task { team: Some(TeamId(61)), ..task(201, &[], Some(3_600)) }),
        new_task(Task { team: Some(TeamId(61)), finish: Some(day(11)), ..task(202, &[], Some(1_800)) }),
    ])
}

#[test]
fn what_comes_last_is_what_spills() {
    let plan = crowded();
    let window = Window::new(day(0), day(13), day(0));
    let row = team_row(&Groups::new(&plan, query(window, Grain::Week, Group::Team)), TeamId(61));
    let said: Vec<_> = row.items.iter().map(|item| (item.of, item.minutes.clone(), item.above.clone())).collect();
    // Both begin on Monday; 60 h in a week of 40 h leave 20 h above, and all 15 h of the other one.
    assert_eq!(
        said,
        [
            (ItemOf::Task(TaskId(201)), vec![3_600, 0], vec![1_200, 0]),
            (ItemOf::Task(TaskId(202)), vec![900, 900], vec![900, 0]),
        ]
    );
    assert_eq!((row.cells[0].spill, row.other[0]), (2_100, 0));
}

#[test]
fn another_size_or_length_of_an_item_says_what_spills() {
    let plan = crowded();
    let item = plan.tasks[&TaskId(201)].clone();
    let effect = |after: Task| {
        let changes = vec![Change::Task(Edit::alter((*item).clone(), after))];
        let next = plan.with(&changes);
        team_effects(&plan, &next, &changes, day(0))
            .into_iter()
            .map(|it| (it.team, it.spill, it.worst.from, it.most))
            .collect::<Vec<_>>()
    };
    // 60 h → 20 h: 20 + 15 h fit under 40.
    assert_eq!(effect(resized(&plan, &item, 1_200)), [(TeamId(61), (2_100, 0), day(0), 0)]);
    // Over both weeks: 30 + 15 h in each, 5 h too much twice.
    assert_eq!(effect(Task { finish: Some(day(11)), ..(*item).clone() }), [(TeamId(61), (2_100, 600), day(0), 300)]);
    // What was logged stays; what is typed as left is typed anew.
    let worked = plan.with(&[logged(entry(300, 1, Some(201), 600))]);
    let after = resized(&worked, &worked.tasks[&TaskId(201)], 1_200);
    assert_eq!((after.estimate, after.remaining), (Some(1_800), None));
    let typed = Task { remaining: Some(900), logged_then: 0, ..(*item).clone() };
    assert_eq!(resized(&plan.with(&[new_task(typed.clone())]), &typed, 300).remaining, Some(300));
}

#[test]
fn an_estimate_is_the_rim_of_what_is_inside_it() {
    let plan = ground().with(&[
        new_task(task(201, &[], Some(600))),
        new_task(Task { parent: Some(TaskId(201)), ..task(202, &[1], Some(400)) }),
        new_task(Task { parent: Some(TaskId(201)), ..task(203, &[2], Some(350)) }),
    ]);
    let own = own_rim(&plan, &plan.tasks[&TaskId(201)]).unwrap();
    assert_eq!((own.estimate, own.inside, own.spill()), (600, 750, 150));
    assert_eq!(own_rim(&plan, &plan.tasks[&TaskId(202)]), None);
}

#[test]
fn what_is_booked_and_what_tasks_fill_are_slips_of_their_own() {
    let plan = ground().with(&[
        Change::Booking(Edit::new(booking(100, 1, 0, 4, 360, snug_core::kinds::Unit::PerDay))),
        new_task(task(201, &[1], Some(600))),
    ]);
    let one = &plan.people[&PersonId(1)];
    let load = person_load(&plan, one, &Window::new(day(0), day(4), day(0)), true);
    let found: Vec<_> = slips(&plan, &load).into_iter().map(|slip| (slip.of, slip.minutes[0])).collect();
    // 6 h are booked; 10 h over five days are 2 h of them.
    assert_eq!(found, [(SlipOf::Task(TaskId(201)), 120), (SlipOf::Booked(Some(ProjectId(11))), 240)]);
}
