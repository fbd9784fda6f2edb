//! Tuck in over random workspaces: what is proposed keeps the rules, by a checker that shares nothing with the search, and its reasons are
//! true.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{collection::vec, option, prelude::*, sample::select};
use snug_core::{
    Day, PersonId, Plan,
    change::{Change, Edit},
    kinds::{Constraint, DatedPattern, Pattern, Person, Priority, Task, Who, week_in_force},
    tuck_in::{Ask, MayDate, MayGive, Obstacle, Proposal, Scope, breaches, propose},
};
use support::{day, networks::networks};

const TODAY: i32 = 5;

/// Any workspace with links, where some of the work has no dates, and some asks for a role.
fn workspaces() -> impl Strategy<Value = Plan> {
    let more = (
        prop::bool::weighted(0.6),
        select(Priority::ALL),
        option::weighted(0.2, 0..3usize),
        option::weighted(0.4, 1..3i32),
    );
    (networks(), vec(more, 9)).prop_map(|(mut plan, more)| {
        let tasks: Vec<Task> = plan.tasks.values().map(|task| (**task).clone()).collect();
        let roles: Vec<String> = plan.people.values().map(|entry| entry.person.role.clone()).collect();
        for (before, (is_open, priority, needs, _)) in tasks.into_iter().zip(&more) {
            let dates = if *is_open { None } else { before.start.zip(before.finish) };
            let needs = needs.and_then(|at| roles.get(at)).cloned().unwrap_or_default();
            let after = Task {
                start: dates.map(|dates| dates.0),
                finish: dates.map(|dates| dates.1),
                priority: *priority,
                needs,
                ..before.clone()
            };
            plan.apply(&Change::Task(Edit::alter(before, after)));
        }
        let people: Vec<_> = plan.people.values().map(|entry| (*entry.person).clone()).collect();
        for (before, (.., most)) in people.into_iter().zip(&more) {
            let after = Person { max_tasks: *most, max_projects: *most, ..before.clone() };
            plan.apply(&Change::Person(Edit::alter(before, after)));
        }
        plan
    })
}

fn ask() -> impl Strategy<Value = Ask> {
    (select(MayDate::ALL), select(MayGive::ALL), 10..120i32).prop_map(|(dates, people, ahead)| Ask {
        dates,
        people,
        until: day(TODAY + ahead),
        ..Ask::new(day(TODAY))
    })
}

fn proposed(plan: &Plan, ask: &Ask, steps: u64) -> Proposal {
    propose(plan, ask, 7, &mut |progress| progress.steps < steps).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

    #[test]
    fn a_proposal_keeps_every_rule(plan in workspaces(), ask in ask()) {
        let found = proposed(&plan, &ask, 25);
        prop_assert_eq!(breaches(&plan, &ask, &found), []);
        prop_assert_eq!(&proposed(&plan, &ask, 25), &found, "the same question has the same answer");
        prop_assert!(found.score <= proposed(&plan, &ask, 1).score, "more steps are never worse");
    }

    #[test]
    fn without_what_is_named_it_would_be_earlier(plan in workspaces(), ask in ask()) {
        let ask = Ask { dates: MayDate::Empty, ..ask };
        let found = proposed(&plan, &ask, 5);
        let after = plan.with(&found.changes(&plan));
        for row in &found.rows {
            let Some((_, finish)) = row.dates.filter(|_| !row.is_wish(&plan)) else { continue };
            prop_assert_eq!(row.why.is_empty(), finish == ask.today, "{:?}", row);
            if finish == ask.today {
                continue;
            }
            // Everything else stands where it is proposed to be.
            let finish_in = |mut plan: Plan| {
                let before = (*plan.tasks[&row.task]).clone();
                plan.apply(&Change::Task(Edit::alter(before.clone(), Task { start: None, finish: None, ..before })));
                let scope = Scope { tasks: vec![row.task], ..Scope::default() };
                let again = Ask { scope, people: MayGive::Keep, ..ask.clone() };
                proposed(&plan, &again, 1).rows[0].dates.map(|dates| dates.1)
            };
            prop_assert_eq!(finish_in(after.clone()), Some(finish), "{:?}", row);
            let earlier = finish_in(without(&after, &row.why));
            prop_assert!(earlier.is_some_and(|day| day < finish), "{:?}: {:?}", row, earlier);
        }
    }
}

/// A plan without some obstacles: links are gone, and people work all day long on the days named, with no limit.
fn without(plan: &Plan, obstacles: &[Obstacle]) -> Plan {
    let mut plan = plan.clone();
    for obstacle in obstacles {
        match obstacle {
            Obstacle::Link(id, ..) => {
                if let Some(link) = plan.records.links.get(id).cloned() {
                    plan.apply(&Change::Link(Edit::remove((*link).clone())));
                }
            }
            Obstacle::NotBefore(day) => {
                let held =
                    |task: &&Task| task.constraint == Some(Constraint::NotBefore) && task.constraint_date == Some(*day);
                let tasks: Vec<Task> = plan.tasks.values().map(|task| &**task).filter(held).cloned().collect();
                for before in tasks {
                    plan.apply(&Change::Task(Edit::alter(
                        before.clone(),
                        Task { constraint: None, constraint_date: None, ..before },
                    )));
                }
            }
            Obstacle::DaysOff(people, from, to) => {
                for id in people {
                    // Bookings would be spread over these days, too, or fill the week.
                    let bookings: Vec<_> = plan.bookings().filter(|it| it.who == Who::Person(*id)).collect();
                    for booking in
                        bookings.into_iter().filter(|it| it.start <= to.monday() + 6 && it.end >= from.monday())
                    {
                        plan.apply(&Change::Booking(Edit::remove(booking)));
                    }
                    free(&mut plan, *id, *from, *to);
                }
            }
            Obstacle::Person(id, _, from, to) => free(&mut plan, *id, *from, *to),
            _ => {}
        }
    }
    plan
}

/// Somebody works all day long from a day to another one, without limits, time off and holidays.
fn free(plan: &mut Plan, id: PersonId, from: Day, to: Day) {
    let before = (*plan.people[&id].person).clone();
    for absence in plan.people[&id].absences.to_vec() {
        plan.apply(&Change::Absence(Edit::remove(absence)));
    }
    let back = week_in_force(&before.patterns, to + 1).copied().unwrap_or([0; 7]);
    // What is in force on other days stays so.
    let stays = |it: &&DatedPattern| it.from.is_none_or(|day| day < from || day > to + 1);
    let mut patterns: Vec<DatedPattern> = before.patterns.iter().filter(stays).cloned().collect();
    patterns.push(DatedPattern { from: Some(from), pattern: Pattern(vec![[1_440; 7]]) });
    patterns.push(DatedPattern { from: Some(to + 1), pattern: Pattern(vec![back]) });
    patterns.sort_by_key(|it| it.from);
    let (day_limit, week_limit, max_tasks, max_projects) = (None, None, None, None);
    let after =
        Person { patterns, day_limit, week_limit, max_tasks, max_projects, calendar: String::new(), ..before.clone() };
    plan.apply(&Change::Person(Edit::alter(before, after)));
}
