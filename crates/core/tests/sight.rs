//! Who sees what is private to somebody, and so may change it.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Actor, Command, Eyes, PersonId, Plan, Role, TeamId,
    change::{Change, Edit},
    kinds::{Absence, Kind, TimeEntry},
};
use support::{absence, day, entry, person, team};

/// Person 1 owns team 1; 2 and 3 are in team 2, which is in team 1; 4 is in team 3 with 5; 6 is in none.
fn plan() -> Plan {
    let mut changes: Vec<Change> = (1..=6).map(|id| Change::Person(Edit::new(person(id)))).collect();
    let mut first = team(1, vec![]);
    first.owner = Some(PersonId(1));
    let mut second = team(2, vec![(PersonId(2), 10_000), (PersonId(3), 5_000)]);
    second.parent = Some(TeamId(1));
    let third = team(3, vec![(PersonId(4), 10_000), (PersonId(5), 10_000)]);
    changes.extend([first, second, third].map(|team| Change::Team(Edit::new(team))));
    let off = |id| Absence { kind: "course".to_owned(), ..absence(10 + id, id, 0, 4, None) };
    changes.extend((1..=6).map(|id| Change::Absence(Edit::new(off(id)))));
    Plan::empty().with(&changes)
}

fn actor(role: Role, email: &str) -> Actor<'_> {
    Actor { role, email }
}

#[test]
fn what_is_private_is_for_oneself_for_leads_of_ones_teams_and_for_managers() {
    let plan = plan();
    let known = |role: Role, email: &str| -> Vec<i32> {
        let eyes = actor(role, email).eyes(&plan);
        (1..=6).filter(|id| eyes.knows(PersonId(*id))).collect()
    };
    assert_eq!(known(Role::Manager, "nobody@example.test"), [1, 2, 3, 4, 5, 6]);
    assert_eq!(known(Role::Administrator, "p6@example.test"), [1, 2, 3, 4, 5, 6]);
    assert_eq!(known(Role::Lead, "p1@example.test"), [1, 2, 3], "who answers for a team, of all inside it");
    assert_eq!(known(Role::Lead, "P2@Example.test"), [2, 3], "a lead who is in a team; not of the team above");
    assert_eq!(known(Role::Lead, "p4@example.test"), [4, 5]);
    assert_eq!(known(Role::Lead, "p6@example.test"), [6], "a lead of nobody");
    assert_eq!(known(Role::Member, "p1@example.test"), [1], "to answer for a team does not make a lead");
    assert_eq!(known(Role::Viewer, "p2@example.test"), [2]);
    assert_eq!(known(Role::Lead, "nobody@example.test"), [0; 0]);
    assert!((1..=6).all(|id| !Eyes::of_none(&plan).knows(PersonId(id))));
}

#[test]
fn a_kind_of_time_off_is_blank_to_others_and_others_logs_are_not_there() {
    let log = TimeEntry { project: None, ..entry(1, 4, None, 60) };
    let plan = plan().with(&[Change::TimeEntry(Edit::new(log))]);
    let kind = |eyes: &Eyes<'_>, id: i32| Kind::Absence.one(&plan, id).unwrap().cell(eyes, "kind");
    let all = Eyes::of_all(&plan);
    let lead = actor(Role::Lead, "p1@example.test").eyes(&plan);
    assert_eq!((kind(&lead, 12), kind(&lead, 14)), ("course".to_owned(), String::new()));
    let off = Kind::Absence.one(&plan, 14).unwrap();
    assert_eq!(off.cell(&lead, "start"), off.cell(&all, "start"), "when somebody is away is for everybody");
    assert!(lead.tag(&*off).is_none() && all.tag(&*off).is_some(), "the tag would tell by guessing");
    assert_eq!((lead.all(Kind::TimeEntry).len(), all.all(Kind::TimeEntry).len()), (0, 1));
    assert!(lead.one(Kind::TimeEntry, 1).is_none());
    assert_eq!(Kind::TimeEntry.one(&plan, 1).unwrap().cell(&lead, "hours"), "", "not even where it is at hand");
    assert_eq!(actor(Role::Lead, "p5@example.test").eyes(&plan).all(Kind::TimeEntry).len(), 1);
}

#[test]
fn nobody_changes_what_they_do_not_see() {
    let plan = plan();
    let off = |id: i32| {
        let standing = Kind::Absence.one(&plan, id).unwrap().as_new();
        Command::Edit { changes: vec![standing.inverse()] }
    };
    let log = |person: i32| {
        let (project, task) = (None, None);
        Command::LogDay { person: PersonId(person), date: day(0), project, task, seen: 0, minutes: 60 }
    };
    for (role, email, own, known, other) in [
        (Role::Manager, "p1@example.test", true, true, true),
        (Role::Lead, "p1@example.test", true, true, false),
        (Role::Member, "p1@example.test", true, false, false),
        (Role::Viewer, "p1@example.test", false, false, false),
    ] {
        let actor = actor(role, email);
        let may = |id: i32| (actor.may(&plan, &off(10 + id)), actor.may(&plan, &log(id)));
        assert_eq!([may(1), may(2), may(4)], [own, known, other].map(|it| (it, it)), "{role}");
    }
    // Nor is it handed to somebody else out of sight.
    let before = Absence { kind: "course".to_owned(), ..absence(12, 2, 0, 4, None) };
    let after = Absence { person: PersonId(4), ..before.clone() };
    let moved = Command::Edit { changes: vec![Change::Absence(Edit::alter(before, after))] };
    assert!(!actor(Role::Lead, "p1@example.test").may(&plan, &moved));
}

#[test]
fn the_ledger_says_whose_time_off_it_is_and_not_what_for() {
    let plan = plan();
    let off = Kind::Absence.one(&plan, 12).unwrap().as_new();
    assert_eq!(off.says(&plan), "Time off of P2 added");
    assert_eq!(off.inverse().says(&plan), "Time off of P2 removed");
}
