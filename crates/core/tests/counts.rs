//! What is counted rather than added up, what warns, and what is left of a budget, against plain readings of their rules: each day is
//! asked anew, by sets.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::prelude::*;
use snug_core::{
    Day, PersonId, Plan, ProjectId,
    alerts::{self, Alert},
    budget,
    cells::{Cell, Grain},
    change::{Change, Edit},
    demand::Window,
    kinds::Project,
    load::{Group, Groups, Measure, Query, made_of, row_of, table},
};
use std::collections::BTreeSet;
use support::{
    day, entry, logged, project,
    slow::Rows,
    small::{Booked, Work, booked, plan, work},
};

const WEEKS: i32 = 3;

fn window() -> Window {
    Window::new(day(0), day(7 * WEEKS - 1), day(0))
}

/// The key, first day and figures of every cell of the load table.
fn rows(plan: &Plan, window: Window, group: Group, measure: Measure) -> Vec<(String, Day, Cell)> {
    let table = table(plan, &Query { window, grain: Grain::Week, group, measure });
    let mut found = Vec::new();
    for row in table.rows {
        for (bucket, cell) in table.buckets.iter().zip(row.cells) {
            found.extend(cell.map(|cell| (row.key.clone(), bucket.from, cell)));
        }
    }
    found
}

fn works_on(date: Day) -> bool {
    date.weekday() < 5
}

/// The projects that somebody is on, on a day.
fn projects_on(who: i32, date: Day, bookings: &[Booked], tasks: &[Work]) -> BTreeSet<i32> {
    let booked = bookings.iter().filter(|(of, _, from, more, ..)| *of == who && covers(*from, *more, date));
    let worked = tasks.iter().filter(|(of, _, from, more, ..)| (*of == who || *of == 3) && covers(*from, *more, date));
    booked.map(|booking| booking.1).filter(|on| *on > 0).chain(worked.map(|task| task.1)).collect()
}

fn covers(from: i32, more: i32, date: Day) -> bool {
    works_on(date) && (day(from)..=day(from + more)).contains(&date)
}

proptest! {
    /// Projects and tasks at a time are the most on any day of a week, beside the person's own limits.
    #[test]
    fn at_a_time_is_the_most_on_any_day(
        most in prop::array::uniform2(prop::option::of(1..4)),
        bookings in prop::collection::vec(booked(), 0..10),
        tasks in prop::collection::vec(work(), 0..8),
    ) {
        let plan = plan(most, &bookings, &tasks);
        for (at, measure) in [Measure::Projects, Measure::Tasks].into_iter().enumerate() {
            for (key, start, cell) in rows(&plan, window(), Group::Person, measure) {
                let who: i32 = key[1..2].parse().unwrap();
                let count = |date: Day| match measure {
                    Measure::Projects => projects_on(who, date, &bookings, &tasks).len(),
                    _ => tasks.iter().filter(|(of, _, from, more, ..)| (*of == who || *of == 3) && covers(*from, *more, date)).count(),
                };
                let load = start.through(start + 6).map(count).max().unwrap();
                let (load, limit) = (i64::try_from(load).unwrap(), most[at].map(i64::from));
                let spill = limit.map_or(0, |limit| (load - limit).max(0));
                prop_assert_eq!((cell.load, cell.limit, cell.spill), (load, limit, spill), "{} {}", key, start);
            }
        }
    }

    /// What a figure is made of is what it counts: the tasks of its busiest day, or those that finish, with their parts.
    #[test]
    fn a_count_is_made_of_what_it_counts(
        bookings in prop::collection::vec(booked(), 0..6),
        tasks in prop::collection::vec(work(), 0..8),
    ) {
        let plan = plan([Some(2), Some(2)], &bookings, &tasks);
        for measure in [Measure::Projects, Measure::Tasks, Measure::Points] {
            let groups = Groups::new(&plan, Query { window: window(), grain: Grain::Week, group: Group::Person, measure });
            for (id, entry) in &plan.people {
                for (bucket, cell) in groups.buckets().iter().zip(row_of(&groups, entry)) {
                    let made = made_of(&groups, entry, *bucket).unwrap();
                    let count = i64::try_from(made.tasks.len()).unwrap();
                    prop_assert_eq!(made.cell, cell);
                    match measure {
                        Measure::Points => {
                            prop_assert_eq!(made.tasks.iter().map(|(_, size)| size.unwrap()).sum::<i64>(), cell.load);
                        }
                        Measure::Tasks => prop_assert_eq!((count, made.day.is_some()), (cell.load, cell.load > 0)),
                        _ => {
                            let on = made.day.map_or(0, |day| projects_on(id.0, day, &bookings, &tasks).len());
                            prop_assert_eq!(i64::try_from(on).unwrap(), cell.load);
                        }
                    }
                }
            }
        }
    }

    /// No point is lost or told twice: everybody's parts are what the projects have, and a week has what finishes in it.
    #[test]
    fn points_of_people_are_the_points_of_projects(tasks in prop::collection::vec(work(), 0..10)) {
        let plan = plan([None, None], &[], &tasks);
        let by = |group, week: i32| -> i64 {
            let all = rows(&plan, window(), group, Measure::Points);
            all.iter().filter(|(_, start, _)| *start == day(7 * week)).map(|(.., cell)| cell.load).sum()
        };
        for week in 0..WEEKS {
            let finishing = tasks.iter().filter(|(_, _, from, more, ..)| (from + more) / 7 == week);
            let plain: i64 = finishing.map(|task| task.5).sum();
            prop_assert_eq!((by(Group::Person, week), by(Group::Project, week)), (plain, plain), "week {}", week);
        }
    }

    /// Warnings name those, and only those, whom a plain look at every day and every booking finds.
    #[test]
    fn warnings_are_what_a_plain_look_finds(
        most in prop::option::of(1..3),
        bookings in prop::collection::vec(booked(), 0..10),
        tasks in prop::collection::vec(work(), 0..6),
        today in 0i32..14,
    ) {
        let plan = plan([most, None], &bookings, &tasks);
        let window = Window { today: day(today), ..window() };
        let buckets = Grain::Week.buckets(window.from, window.to, &plan.settings);
        let slow = Rows::new(&plan, Grain::Week, day(today), window.to + 6);
        let over = |who: i32| {
            let mut to_come = buckets.iter().filter(|bucket| bucket.to >= day(today));
            to_come.any(|bucket| slow.of_person(PersonId(who), *bucket).over > 0)
        };
        for who in 1..=2 {
            let found = alerts::of_person(&plan, &plan.people[&PersonId(who)], &window, Grain::Week, &buckets);
            let crowded = most.is_some_and(|most| {
                let at_a_time = |d| slow.projects_on(PersonId(who), d) > usize::try_from(most).unwrap();
                day(today).through(window.to).any(at_a_time)
            });
            prop_assert_eq!(found.crowded, crowded);
            prop_assert_eq!(found.over, over(who));
            let taskless = bookings.iter().filter(|(of, on, from, more, ..)| {
                let seen = *from < 7 * WEEKS && from + more >= today;
                *of == who && *on > 0 && seen && !tasks.iter().any(|task| (task.0 == who || task.0 == 3) && task.1 == *on)
            });
            prop_assert_eq!(found.count(Alert::Taskless), taskless.count());
            let stranded = bookings.iter().filter(|(of, _, from, more, ..)| {
                let seen = *from < 7 * WEEKS && from + more >= 0;
                *of == who && seen && !day(*from).through(day(from + more)).any(works_on)
            });
            prop_assert_eq!(found.count(Alert::Stranded), stranded.count());
        }
        let booked: BTreeSet<i32> = bookings.iter().filter(|b| b.2 + b.3 >= today).map(|b| b.1).collect();
        let bare: BTreeSet<i32> = tasks.iter().map(|task| task.1).filter(|on| !booked.contains(on)).collect();
        let found: BTreeSet<i32> = alerts::unbooked(&plan, day(today)).into_iter().map(|id| id.0).collect();
        prop_assert_eq!(found, bare);
    }

    /// Budget, worked, firm, pencilled and gap of a project, each added up by itself.
    #[test]
    fn a_budget_is_cut_into_worked_booked_and_left(
        bookings in prop::collection::vec(booked(), 0..12),
        hours in prop::collection::vec((1i32..=3, 1i32..480), 0..6),
        size in prop::option::of(0i64..20_000),
        today in 0i32..10,
    ) {
        let budgeted = |id: i32| Project { budget_minutes: size, ..project(id) };
        let mut changes: Vec<Change> =
            (1..=3).map(|id| Change::Project(Edit::alter(project(id), budgeted(id)))).collect();
        changes.extend((900..).zip(&hours).map(|(id, (on, minutes))| {
            logged(snug_core::kinds::TimeEntry { project: Some(ProjectId(*on)), ..entry(id, 1, None, *minutes) })
        }));
        let plan = plan([None, None], &bookings, &[]).with(&changes);
        let (worked, ahead) = (budget::worked(&plan), budget::ahead(&plan, day(today)));
        for id in 1..=3 {
            let found = budget::of_project(&plan, ProjectId(id), &worked, &ahead);
            let booked = |firm: bool| -> i64 {
                let of = bookings.iter().filter(|b| b.1 == id && b.5 == firm);
                of.map(|b| {
                    let days = day(b.2).through(day(b.2 + b.3)).filter(|d| works_on(*d) && *d >= day(today)).count();
                    i64::from(b.4) * i64::try_from(days).unwrap()
                })
                .sum()
            };
            let spent: i64 = hours.iter().filter(|(on, _)| *on == id).map(|(_, minutes)| i64::from(*minutes)).sum();
            prop_assert_eq!((found.worked, found.firm, found.pencilled), (spent, booked(true), booked(false)));
            prop_assert_eq!(found.gap(), size.map(|size| size - spent - booked(true) - booked(false)));
        }
    }
}
