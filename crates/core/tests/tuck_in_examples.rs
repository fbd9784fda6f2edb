//! Tuck in, rule by rule, on workspaces so small that one sees what must come out.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    HolidayId, LinkId, MilestoneId, PersonId, Plan, ProjectId, TaskId, TeamId,
    change::{Change, Edit},
    kinds::{
        Assignees, Booking, Constraint, Contour, DatedPattern, Holiday, Link, LinkKind, Milestone, Pattern, Person,
        PersonKind, Priority, Project, ProjectStatus, Record as _, Task, Team, Unit,
    },
    settings::{Envelope, Settings},
    tuck_in::{Ask, Help, MayDate, MayGive, Obstacle, Proposal, Row, Scope, Why, breaches, elsewhere, helps, propose},
};
use std::{collections::BTreeSet, sync::Arc};
use support::day;

/// Two people who work from Monday to Friday, eight hours a day, in the team of the project; day 0 is a Monday.
fn plan(changes: impl IntoIterator<Item = Change>) -> Plan {
    let team = support::team(1, vec![(PersonId(1), 10_000), (PersonId(2), 10_000)]);
    let project = Project { team: Some(TeamId(1)), ..support::project(11) };
    let ground = [
        Change::Person(Edit::new(support::person(1))),
        Change::Person(Edit::new(support::person(2))),
        Change::Team(Edit::new(team)),
        Change::Project(Edit::new(project)),
    ];
    let mut plan = Plan::empty().with(&ground);
    changes.into_iter().for_each(|change| plan.apply(&change));
    plan
}

/// An undated task of so many hours for these people, with something else about it.
fn task(id: i32, people: &[i32], hours: i64, more: impl FnOnce(&mut Task)) -> Change {
    let mut task = Task { start: None, finish: None, ..support::task(id, people, Some(hours * 60)) };
    more(&mut task);
    support::new_task(task)
}

fn with_person(plan: &Plan, id: i32, alter: impl FnOnce(&mut Person)) -> Plan {
    let before = (*plan.people[&PersonId(id)].person).clone();
    let mut after = before.clone();
    alter(&mut after);
    plan.with(&[Change::Person(Edit::alter(before, after))])
}

fn link(id: i32, from: i32, to: i32, kind: LinkKind, lag_days: i32) -> Change {
    Change::Link(Edit::new(Link {
        id: LinkId(id),
        from: TaskId(from),
        to: TaskId(to),
        kind,
        lag_days,
        ..Link::blank()
    }))
}

fn asked(plan: &Plan, ask: &Ask) -> Proposal {
    let found = propose(plan, ask, 1, &mut |progress| progress.steps < 60).unwrap();
    assert_eq!(breaches(plan, ask, &found), []);
    found
}

fn found(plan: &Plan) -> Proposal {
    asked(plan, &Ask::new(day(0)))
}

fn row(found: &Proposal, id: i32) -> &Row {
    found.rows.iter().find(|row| row.task == TaskId(id)).unwrap()
}

/// First and last day, counted from day 0.
fn days(found: &Proposal, id: i32) -> Option<(i32, i32)> {
    row(found, id).dates.map(|(start, finish)| (start.since(day(0)), finish.since(day(0))))
}

fn who(found: &Proposal, id: i32) -> Vec<i32> {
    row(found, id).assignees.people().map(|id| id.0).collect()
}

#[test]
fn work_fills_what_is_left_of_days_and_bookings_of_its_project_cost_nothing() {
    let booking = |project: Option<i32>, minutes: i32| {
        let booking = support::booking(500, 1, 0, 4, minutes, Unit::PerDay);
        Change::Booking(Edit::new(Booking { project: project.map(ProjectId), ..booking }))
    };
    // Six of eight hours are taken by something else: two a day are left.
    let other = plan([task(21, &[1], 8, |_| {}), booking(None, 360)]);
    assert_eq!(days(&found(&other), 21), Some((0, 3)));
    assert_eq!(row(&found(&other), 21).why, [Obstacle::Person(PersonId(1), Why::Room(120), day(0), day(2))]);
    // A booking of its own project is filled.
    let own = plan([task(21, &[1], 8, |_| {}), booking(Some(11), 360)]);
    assert_eq!(days(&found(&own), 21), Some((0, 0)));
    // Under the setting that adds tasks to bookings it is not.
    let mut sum = own.clone();
    sum.settings = Arc::new(Settings { envelope: Envelope::Sum, ..(*own.settings).clone() });
    assert_eq!(days(&found(&sum), 21), Some((0, 3)));
    // What spills already stays, and nothing is added.
    let over = plan([task(21, &[1], 8, |_| {}), booking(None, 900)]);
    assert_eq!(days(&found(&over), 21), Some((7, 7)), "the week after");
}

#[test]
fn limits_of_the_week_and_of_tasks_and_projects_at_a_time_are_kept() {
    let two = || [task(21, &[1], 8, |_| {}), task(22, &[1], 8, |_| {})];
    let short = with_person(&plan(two()), 1, |person| person.week_limit = Some(600));
    let first = found(&short);
    let both: BTreeSet<_> = [days(&first, 21), days(&first, 22)].into();
    assert_eq!(both, BTreeSet::from([Some((0, 0)), Some((7, 7))]), "ten hours a week take one of eight");
    // One task at a time, though each would take half a day.
    let half = || [task(21, &[1], 4, |_| {}), task(22, &[1], 4, |_| {})];
    assert_eq!(found(&plan(half())).score.sum, 0, "both on the first day");
    let one = with_person(&plan(half()), 1, |person| person.max_tasks = Some(1));
    assert_eq!(found(&one).score.sum, 1);
    let elsewhere = [
        task(21, &[1], 4, |_| {}),
        task(22, &[1], 4, |task| task.project = ProjectId(12)),
        Change::Project(Edit::new(support::project(12))),
    ];
    let one = with_person(&plan(elsewhere), 1, |person| person.max_projects = Some(1));
    let first = found(&one);
    assert_eq!(first.score.sum, 1);
    let later = first.rows.iter().find(|row| !row.why.is_empty()).unwrap();
    assert_eq!(later.why, [Obstacle::Person(PersonId(1), Why::Projects(1), day(0), day(0))]);
}

#[test]
fn somebody_is_chosen_who_can_do_it_and_equipment_only_for_what_needs_it() {
    let lift = Person { kind: PersonKind::Equipment, role: "lift".into(), ..support::person(3) };
    let mut base = plan([
        Change::Person(Edit::new(lift)),
        task(21, &[], 8, |_| {}),
        task(22, &[], 8, |task| task.needs = " PAINTER ".into()),
        task(23, &[], 8, |task| task.needs = "lift".into()),
        task(24, &[], 8, |task| task.needs = "welder".into()),
        task(25, &[], 8, |task| task.project = ProjectId(12)),
        Change::Project(Edit::new(support::project(12))),
    ]);
    base = with_person(&base, 2, |person| person.skills = vec!["painter".into()]);
    let first = found(&base);
    assert_eq!((who(&first, 22), who(&first, 23)), (vec![2], vec![3]));
    assert_eq!(who(&first, 21), [1], "the painter has something else to do that day");
    assert_eq!(row(&first, 24).why, [Obstacle::Nobody]);
    assert_eq!(row(&first, 25).why, [Obstacle::Unsaid], "its project has no team");
    assert_eq!(first.score.left_out, 2);
    let keep = asked(&base, &Ask { people: MayGive::Keep, ..Ask::new(day(0)) });
    assert_eq!(row(&keep, 21).why, [Obstacle::Unnamed]);
    // Work of one goes to somebody else only where that is asked for.
    let busy = plan([task(31, &[1], 16, |_| {}), task(32, &[1], 16, |_| {})]);
    assert_eq!(found(&busy).score.sum, 1 + 3);
    let choose = asked(&busy, &Ask { people: MayGive::Choose, ..Ask::new(day(0)) });
    assert_eq!(choose.score.sum, 1 + 1);
    assert_eq!(choose.rows.iter().filter(|row| row.assignees == Assignees::Even(vec![PersonId(2)])).count(), 1);
}

#[test]
fn links_wholes_and_holds_are_kept() {
    let inside = |id: i32| task(id, &[1], 8, |task| task.parent = Some(TaskId(30)));
    let chain = plan([
        task(30, &[], 0, |task| task.estimate = None),
        inside(21),
        inside(22),
        task(23, &[2], 8, |_| {}),
        task(24, &[2], 8, |_| {}),
        link(900, 30, 23, LinkKind::FinishStart, 1),
        link(901, 23, 24, LinkKind::StartStart, 2),
    ]);
    let first = found(&chain);
    assert_eq!(days(&first, 23), Some((3, 3)), "a working day after everything inside the whole is over");
    assert_eq!(days(&first, 24), Some((7, 7)), "two working days after that starts");
    assert!(matches!(row(&first, 23).why[..], [Obstacle::Link(LinkId(900), _, _)]), "{:?}", row(&first, 23).why);
    let held = plan([
        task(21, &[1], 8, |task| (task.constraint, task.constraint_date) = (Some(Constraint::NotBefore), Some(day(9)))),
        task(22, &[1], 40, |task| (task.constraint, task.constraint_date) = (Some(Constraint::NotAfter), Some(day(3)))),
        task(23, &[1], 8, |task| task.constraint = Some(Constraint::Fixed)),
    ]);
    let first = found(&held);
    assert_eq!((days(&first, 21), days(&first, 22)), (Some((9, 9)), None));
    assert_eq!(row(&first, 22).why, [Obstacle::NotAfter(day(3))]);
    assert!(first.rows.iter().all(|row| row.task != TaskId(23)), "what is fixed waits for a hand");
    // What stands and comes after must not be pushed.
    let mut stands = support::task(24, &[2], Some(480));
    (stands.start, stands.finish) = (Some(day(2)), Some(day(2)));
    let before =
        plan([support::new_task(stands), task(21, &[1], 24, |_| {}), link(900, 21, 24, LinkKind::FinishStart, 0)]);
    assert_eq!(days(&found(&before), 21), None, "three days do not fit before the third");
    assert!(row(&found(&before), 21).why.contains(&Obstacle::Before(LinkId(900), TaskId(24))));
}

#[test]
fn what_is_due_first_and_weighs_more_goes_first_and_wishes_to_be_late_are_heard() {
    let urgent = plan([
        task(21, &[1], 8, |task| (task.due, task.priority) = (Some(day(0)), Priority::Low)),
        task(22, &[1], 8, |task| (task.due, task.priority) = (Some(day(0)), Priority::Urgent)),
    ]);
    let first = found(&urgent);
    assert_eq!((days(&first, 22), days(&first, 21)), (Some((0, 0)), Some((1, 1))));
    assert_eq!((row(&first, 21).late_days, first.score.late), (1, 1));
    let late = plan([
        task(21, &[1], 8, |task| (task.constraint, task.due) = (Some(Constraint::Late), Some(day(6)))),
        task(22, &[1], 24, |_| {}),
    ]);
    let first = found(&late);
    assert_eq!(days(&first, 21), Some((4, 4)), "the Friday before the Sunday on which it is due");
    assert_eq!(first.score.last, Some(day(2)));
    assert_eq!(row(&first, 21).why[0], Obstacle::By(day(6)));
    let shaped = plan([task(21, &[1], 16, |task| task.contour = Contour::Front)]);
    assert_eq!(days(&found(&shaped), 21), Some((0, 3)), "most at the start, and no day over eight hours");
}

#[test]
fn dates_that_stand_move_only_where_that_is_asked_for_and_what_is_begun_stays() {
    let mut stands = support::task(21, &[1], Some(480));
    (stands.start, stands.finish) = (Some(day(14)), Some(day(14)));
    let mut begun = Task { id: TaskId(22), reference: "R22".into(), ..stands.clone() };
    begun.progress = Some(10.into());
    let base = plan([support::new_task(stands), support::new_task(begun)]);
    assert_eq!(found(&base).rows, []);
    let moved = asked(&base, &Ask { dates: MayDate::Unpinned, ..Ask::new(day(0)) });
    assert_eq!((moved.rows.len(), days(&moved, 21)), (1, Some((0, 0))));
    let pinned = Ask { dates: MayDate::Unpinned, pinned: BTreeSet::from([TaskId(21)]), ..Ask::new(day(0)) };
    assert_eq!(asked(&base, &pinned).rows, []);
    // Nothing that is out of scope is touched; what has no size is named.
    let two = plan([
        task(31, &[1], 8, |_| {}),
        task(32, &[1], 8, |task| task.project = ProjectId(12)),
        task(33, &[1], 0, |task| task.estimate = None),
        Change::Project(Edit::new(support::project(12))),
    ]);
    let scope = Scope { projects: vec![ProjectId(11)], ..Scope::default() };
    let some = asked(&two, &Ask { scope, ..Ask::new(day(0)) });
    assert_eq!(some.rows.iter().map(|row| row.task.0).collect::<Vec<_>>(), [31, 33]);
    assert!(row(&some, 33).is_sizeless && row(&some, 33).why == [Obstacle::Sizeless]);
    assert_eq!(some.score.left_out, 0, "it waits, and is not left out");
}

#[test]
fn behind_what_has_no_dates_nothing_is_placed_unless_that_is_done_or_its_project_closed() {
    let sizeless = |task: &mut Task| task.estimate = None;
    let behind = |more: fn(&mut Task), status: ProjectStatus| {
        let first = task(22, &[2], 0, |task| {
            sizeless(task);
            task.project = ProjectId(12);
            more(task);
        });
        let project = Project { status, ..support::project(12) };
        let link = link(41, 22, 21, LinkKind::FinishStart, 3);
        let found = found(&plan([Change::Project(Edit::new(project)), first, task(21, &[1], 8, |_| {}), link]));
        (days(&found, 21), row(&found, 21).why.clone())
    };
    let waits = vec![Obstacle::Waits(LinkId(41), TaskId(22))];
    assert_eq!(behind(|_| {}, ProjectStatus::Active), (None, waits));
    assert_eq!(behind(|task| task.stage = "done".into(), ProjectStatus::Active), (Some((0, 0)), vec![]));
    assert_eq!(behind(|_| {}, ProjectStatus::Closed), (Some((0, 0)), vec![]));
    // A whole chain of undated work is placed in its order.
    let chain = plan([
        task(21, &[1], 8, |_| {}),
        task(22, &[2], 8, |_| {}),
        task(23, &[1], 8, |_| {}),
        link(41, 22, 21, LinkKind::FinishStart, 0),
        link(42, 23, 22, LinkKind::FinishStart, 0),
    ]);
    let all = found(&chain);
    assert_eq!([23, 22, 21].map(|id| days(&all, id)), [Some((0, 0)), Some((1, 1)), Some((2, 2))]);
}

#[test]
fn what_is_begun_and_has_no_dates_is_given_days_for_what_remains() {
    let worked = |minutes: i32| {
        let log = support::logged(support::entry(1, 1, Some(21), minutes));
        days(&found(&plan([task(21, &[1], 16, |_| {}), log])), 21)
    };
    assert_eq!([worked(60), worked(480), worked(720)], [Some((0, 1)), Some((0, 0)), Some((0, 0))]);
    // Nothing remains: it takes no part.
    let done = plan([task(21, &[1], 16, |_| {}), support::logged(support::entry(1, 1, Some(21), 960))]);
    assert_eq!(found(&done).rows, []);
}

#[test]
fn days_off_holidays_and_part_time_are_kept() {
    let two_days = || task(21, &[1], 16, |_| {});
    let pattern = |minutes: [i32; 7]| vec![DatedPattern { from: None, pattern: Pattern(vec![minutes]) }];
    let mornings = with_person(&plan([two_days()]), 1, |person| {
        person.patterns = pattern([240, 240, 0, 240, 240, 0, 0]);
    });
    assert_eq!(days(&found(&mornings), 21), Some((0, 4)), "four mornings of four hours, and Wednesdays off");
    let off = plan([two_days(), Change::Absence(Edit::new(support::absence(9, 1, 1, 1, None)))]);
    assert_eq!(days(&found(&off), 21), Some((0, 2)), "over a day off");
    let half = Change::Absence(Edit::new(support::absence(9, 1, 0, 0, Some(240))));
    let half = plan([task(21, &[1], 20, |_| {}), half]);
    assert_eq!(days(&found(&half), 21), Some((0, 2)), "four hours on the first day, eight on the others");
    let holiday =
        Holiday { id: HolidayId(7), calendar: "nl".into(), date: day(0), name: "Dike day".into(), ..Holiday::blank() };
    let shut = with_person(&plan([two_days(), Change::Holiday(Edit::new(holiday))]), 1, |person| {
        person.calendar = "nl".into();
    });
    assert_eq!(days(&found(&shut), 21), Some((1, 2)));
    let limit = Obstacle::Person(PersonId(1), Why::Limit(480), day(1), day(1));
    assert_eq!(row(&found(&shut), 21).why, [Obstacle::DaysOff(vec![PersonId(1)], day(0), day(0)), limit]);
}

#[test]
fn several_keep_their_parts_and_a_team_gives_somebody_of_its_own_or_of_an_inner_one() {
    // Each of two does half, on the same days: the one waits for the other.
    let both = plan([
        task(21, &[1, 2], 32, |_| {}),
        Change::Booking(Edit::new(Booking { project: None, ..support::booking(500, 2, 0, 1, 480, Unit::PerDay) })),
    ]);
    let choose = Ask { people: MayGive::Choose, ..Ask::new(day(0)) };
    let together = asked(&both, &choose);
    assert_eq!((who(&together, 21), days(&together, 21)), (vec![1, 2], Some((2, 3))));
    // Somebody of a team inside the one that is named, who has the skill.
    let inner =
        Team { parent: Some(TeamId(2)), ..support::team(3, vec![(PersonId(4), 10_000), (PersonId(5), 10_000)]) };
    let named = plan([
        Change::Person(Edit::new(Person { skills: vec!["rope".into()], ..support::person(3) })),
        Change::Person(Edit::new(support::person(4))),
        Change::Person(Edit::new(Person { skills: vec!["Rope".into()], ..support::person(5) })),
        Change::Team(Edit::new(support::team(2, vec![]))),
        Change::Team(Edit::new(inner)),
        task(21, &[], 8, |task| (task.team, task.needs) = (Some(TeamId(2)), "rope".into())),
        task(22, &[], 8, |task| task.team = Some(TeamId(2))),
    ]);
    let chosen = found(&named);
    assert_eq!((who(&chosen, 21), who(&chosen, 22)), (vec![5], vec![4]), "at once, each of the team");
    // Whom a person set stays, whatever the task needs.
    let set = plan([task(21, &[1], 8, |task| task.needs = "rope".into())]);
    assert_eq!(who(&found(&set), 21), [1]);
}

#[test]
fn the_earliest_of_due_days_and_milestones_counts_those_of_the_whole_too() {
    let opening = Milestone {
        id: MilestoneId(6),
        reference: "M6".into(),
        name: "Opening".into(),
        date: day(2),
        ..Milestone::blank()
    };
    let inside = |more: fn(&mut Task)| {
        let whole = task(30, &[], 0, |task| {
            task.estimate = None;
            more(task);
        });
        let leaf = task(21, &[1], 40, |task| (task.parent, task.due) = (Some(TaskId(30)), Some(day(3))));
        let found = found(&plan([Change::Milestone(Edit::new(opening.clone())), whole, leaf]));
        row(&found, 21).late_days
    };
    assert_eq!(inside(|_| {}), 1, "five days of work, due on the fourth");
    assert_eq!(inside(|whole| whole.due = Some(day(0))), 4);
    assert_eq!(inside(|whole| whole.milestones = vec![MilestoneId(6)]), 2);
    // What weighs eight times as much goes first, though it is longer.
    let due = |priority: Priority| move |task: &mut Task| (task.due, task.priority) = (Some(day(0)), priority);
    let two = plan([task(21, &[1], 16, due(Priority::Urgent)), task(22, &[1], 8, due(Priority::Normal))]);
    let first = found(&two);
    assert_eq!((days(&first, 21), days(&first, 22)), (Some((0, 1)), Some((2, 2))));
    assert_eq!(first.score.late, 8 + 2 * 2);
}

#[test]
fn the_last_day_holds_and_fewest_are_left_out() {
    // Three days of work in two, of which the long one would take both.
    let three = plan([
        task(21, &[1], 16, |task| task.priority = Priority::Urgent),
        task(22, &[1], 8, |_| {}),
        task(23, &[1], 8, |_| {}),
    ]);
    let found = asked(&three, &Ask { until: day(1), ..Ask::new(day(0)) });
    assert_eq!((days(&found, 21), found.score.left_out), (None, 1), "two of three are placed");
    assert_eq!(row(&found, 21).why, [Obstacle::NoRoom(day(1))]);
    assert_eq!(found.score.last, Some(day(1)));
}

/// What would help a task.
fn help(plan: &Plan, ask: &Ask, id: i32) -> Vec<Help> {
    let found = asked(plan, ask);
    helps(plan, ask, &found, row(&found, id))
}

#[test]
fn what_would_help_is_somebody_a_link_a_day_off_or_more_time() {
    let due = |task: &mut Task| task.due = Some(day(1));
    // Two days of work, due on the second one, and its own person is taken for a week.
    let hold =
        Change::Booking(Edit::new(Booking { project: None, ..support::booking(500, 1, 0, 4, 480, Unit::PerDay) }));
    let busy = plan([task(21, &[1], 16, due), hold]);
    assert_eq!(help(&busy, &Ask::new(day(0)), 21), [Help::Person(PersonId(2), day(1))]);
    // It waits for a day of other work, so that it ends a day late.
    let linked = plan([task(21, &[1], 16, due), task(22, &[2], 8, |_| {}), link(41, 22, 21, LinkKind::FinishStart, 0)]);
    let found = help(&linked, &Ask::new(day(0)), 21);
    assert!(found.contains(&Help::Link(LinkId(41), TaskId(22), day(1))), "{found:?}");
    // Its person is off on the first day.
    let off = plan([task(21, &[1], 16, due), Change::Absence(Edit::new(support::absence(9, 1, 0, 0, None)))]);
    let found = help(&off, &Ask::new(day(0)), 21);
    assert!(found.contains(&Help::DaysOff(PersonId(1), (day(0), day(0)), day(1))), "{found:?}");
    // What is in time needs no help, and of what does not fit at all it is said when it would.
    assert_eq!(help(&plan([task(21, &[1], 16, due)]), &Ask::new(day(0)), 21), []);
    let long = plan([task(21, &[1], 80, |_| {})]);
    let ask = Ask { until: day(4), ..Ask::new(day(0)) };
    assert_eq!(help(&long, &ask, 21), [Help::Later(day(11))], "ten days of eight hours");
}

#[test]
fn other_work_of_those_who_are_given_some_is_told_where_less_than_all_is_placed() {
    let dated = |task: &mut Task| (task.start, task.finish) = (Some(day(0)), Some(day(4)));
    let both = plan([task(21, &[1], 8, |_| {}), task(22, &[1], 10, dated), task(23, &[2], 10, dated)]);
    let ask = Ask { scope: Scope { tasks: vec![TaskId(21)], ..Scope::default() }, ..Ask::new(day(0)) };
    assert_eq!(elsewhere(&both, &ask, &asked(&both, &ask)).into_iter().collect::<Vec<_>>(), [(PersonId(1), 600)]);
    let all = Ask::new(day(0));
    assert!(elsewhere(&both, &all, &asked(&both, &all)).is_empty(), "everything is looked at");
}
