//! Tuck in over random workspaces: what is proposed keeps the rules, by a checker that shares nothing with the search, and its reasons are
//! true.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{collection::vec, option, prelude::*, sample::select};
use snug_core::{
    Command, Day, HolidayId, LinkId, PersonId, Plan, RefusalCode, TaskId, TeamId,
    change::{Change, Edit},
    demand::{Window, person_load},
    kinds::{
        Booking, Constraint, DatedPattern, Holiday, Link, Pattern, Person, Priority, Project, Record as _, Task, Unit,
        Who, week_in_force,
    },
    tuck_in::{Ask, MayDate, MayGive, Obstacle, Proposal, Row, Scope, Score, Tucked, breaches, propose, with_needs},
};
use std::collections::BTreeSet;
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
            // A week that spills takes nothing more, whatever day of it is freed.
            let window = Window::new(ask.today, finish, ask.today);
            let spills = |id: &PersonId| {
                let weeks = person_load(&after, &after.people[id], &window, false).weeks;
                weeks.load.iter().zip(&weeks.limit).any(|(load, limit)| load > limit)
            };
            if row.why.iter().any(|it| matches!(it, Obstacle::DaysOff(people, ..) if people.iter().any(spills))) {
                continue;
            }
            let earlier = finish_in(without(&after, &row.why));
            prop_assert!(earlier.is_some_and(|day| day < finish), "{:?}: {:?}", row, earlier);
        }
    }
}

/// Every order of a few.
fn orders(of: &[TaskId]) -> Vec<Vec<TaskId>> {
    if of.is_empty() {
        return vec![Vec::new()];
    }
    let with_first = |at: usize| {
        let rest: Vec<TaskId> = of.iter().copied().filter(|id| *id != of[at]).collect();
        orders(&rest).into_iter().map(move |rest| std::iter::once(of[at]).chain(rest).collect())
    };
    (0..of.len()).flat_map(with_first).collect()
}

/// What comes of placing one after the other, each where it finishes first, as a patient planner would by hand.
fn one_after_the_other(plan: &Plan, ask: &Ask, order: &[TaskId]) -> Score {
    let mut plan = plan.clone();
    let mut score = Score::default();
    for id in order {
        let alone = Ask { scope: Scope { tasks: vec![*id], ..Scope::default() }, ..ask.clone() };
        let found = proposed(&plan, &alone, 1);
        plan = plan.with(&found.changes(&plan));
        score.left_out += found.score.left_out;
        score.late += found.score.late;
        score.last = score.last.max(found.score.last);
        score.sum += found.score.sum;
        score.changed += found.score.changed;
    }
    score
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// However one would go about it by hand, the proposal is not worse: fewer left out, less late, earlier over, in this order.
    #[test]
    fn no_order_of_one_after_the_other_is_better(plan in workspaces(), people in select(MayGive::ALL)) {
        let ask = Ask { people, ..Ask::new(day(TODAY)) };
        let all = proposed(&plan, &ask, 1);
        let open = all.rows.iter().filter(|row| !row.is_sizeless && !row.is_wish(&plan)).map(|row| row.task);
        let few: Vec<TaskId> = open.take(4).collect();
        if few.is_empty() {
            return Ok(());
        }
        let together = Ask { scope: Scope { tasks: few.clone(), ..Scope::default() }, ..ask.clone() };
        let found = proposed(&plan, &together, 300);
        for order in orders(&few) {
            let by_hand = one_after_the_other(&plan, &ask, &order);
            prop_assert!(found.score <= by_hand, "{:?}: {:?} against {:?}", order, found.score, by_hand);
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
    let absences = plan.people[&id].absences.clone();
    for absence in absences.iter() {
        plan.apply(&Change::Absence(Edit::remove(absence.clone())));
    }
    let back = week_in_force(&before.patterns, to + 1).copied().unwrap_or([0; 7]);
    // What is in force on other days stays so.
    let stays = |it: &&DatedPattern| it.from.is_none_or(|day| day < from || day > to + 1);
    let mut patterns: Vec<DatedPattern> = before.patterns.iter().filter(stays).cloned().collect();
    patterns.push(DatedPattern { from: Some(from), pattern: Pattern(vec![[1_440; 7]]) });
    patterns.push(DatedPattern { from: Some(to + 1), pattern: Pattern(vec![back]) });
    patterns.sort_by_key(|it| it.from);
    let (day_limit, week_limit, max_tasks, max_projects) = (None, None, None, None);
    // Holidays of other days stay, as links count in working days.
    let calendar = format!("{} but {from}", before.calendar);
    for (date, _) in plan.holidays_of(&before).to_vec().into_iter().filter(|(day, _)| !(from..=to).contains(day)) {
        let of_day = plan.calendars[&before.calendar].holidays.iter().find(|it| it.date == date).cloned().unwrap();
        let id = HolidayId(plan.next_id());
        plan.apply(&Change::Holiday(Edit::new(Holiday { id, calendar: calendar.clone(), ..of_day })));
    }
    let after = Person { patterns, day_limit, week_limit, max_tasks, max_projects, calendar, ..before.clone() };
    plan.apply(&Change::Person(Edit::alter(before, after)));
}

/// Two people of one team, and three tasks of its project, the last two one after the other.
fn small() -> Plan {
    let team = support::team(1, vec![(PersonId(1), 10_000), (PersonId(2), 10_000)]);
    let project = Project { team: Some(TeamId(1)), ..support::project(11) };
    let task = |id: i32, people: &[i32]| {
        support::new_task(Task { start: None, finish: None, ..support::task(id, people, Some(960)) })
    };
    let link = Link { id: LinkId(900), from: TaskId(22), to: TaskId(23), ..Link::blank() };
    Plan::empty().with(&[
        Change::Person(Edit::new(support::person(1))),
        Change::Person(Edit::new(support::person(2))),
        Change::Team(Edit::new(team)),
        Change::Project(Edit::new(project)),
        task(21, &[1]),
        task(22, &[1]),
        task(23, &[]),
        Change::Link(Edit::new(link)),
    ])
}

fn tucked(plan: &Plan, found: &Proposal, which: &BTreeSet<TaskId>) -> Vec<Tucked> {
    let rows = found.rows.iter().filter(|row| which.contains(&row.task));
    let one = |row: &Row| {
        Some(Tucked { seen: (*plan.tasks[&row.task]).clone(), to: row.dates?, assignees: row.assignees.clone() })
    };
    rows.filter_map(one).collect()
}

#[test]
fn a_ticked_part_takes_what_it_needs_along_and_is_one_entry() {
    let plan = small();
    let found = proposed(&plan, &Ask::new(day(0)), 10);
    assert_eq!(found.score.left_out, 0);
    let offered = found.rows.iter().map(|row| row.task).collect();
    let which = with_needs(&plan, day(0), &offered, &BTreeSet::from([TaskId(23)]));
    assert_eq!(which, BTreeSet::from([TaskId(22), TaskId(23)]), "it is behind the other one");
    let command = Command::TuckIn { tasks: tucked(&plan, &found, &which) };
    let after = plan.with(&plan.decide(&command, day(0)).unwrap());
    let dates = |plan: &Plan, id: i32| plan.tasks[&TaskId(id)].start.zip(plan.tasks[&TaskId(id)].finish);
    for row in found.rows.iter().filter(|row| which.contains(&row.task)) {
        assert_eq!(dates(&after, row.task.0), row.dates);
    }
    assert_eq!(dates(&after, 21), None, "it was not ticked");
    assert_eq!(command.done(&plan), "2 tasks tucked in");
    // Without the one before it, it would stand behind work that has no dates.
    let alone = Command::TuckIn { tasks: tucked(&plan, &found, &BTreeSet::from([TaskId(23)])) };
    let refused = plan.decide(&alone, day(0)).unwrap_err();
    assert!(refused.message.contains("behind work that has no dates"), "{}", refused.message);
}

#[test]
fn what_no_longer_fits_or_was_changed_meanwhile_is_refused_whole() {
    let plan = small();
    let found = proposed(&plan, &Ask::new(day(0)), 10);
    let all = found.rows.iter().map(|row| row.task).collect();
    let command = Command::TuckIn { tasks: tucked(&plan, &found, &all) };
    // Somebody books the first of them in the meantime.
    let elsewhere = Booking { project: None, ..support::booking(500, 1, 0, 4, 480, Unit::PerDay) };
    let booked = plan.with(&[Change::Booking(Edit::new(elsewhere))]);
    let refused = booked.decide(&command, day(0)).unwrap_err();
    assert!(refused.message.starts_with("This no longer fits, so nothing was changed."), "{}", refused.message);
    let before = (*plan.tasks[&TaskId(22)]).clone();
    let other = Task { title: "Another title".into(), ..before.clone() };
    let renamed = plan.with(&[Change::Task(Edit::alter(before, other))]);
    assert_eq!(renamed.decide(&command, day(0)).unwrap_err().code, RefusalCode::ChangedMeanwhile);
}
