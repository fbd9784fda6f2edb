//! What belongs to a task: who may say what of it, and who follows it because somebody mentions them.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use rust_decimal::Decimal;
use snug_core::{
    Actor, Command, PersonId, Plan, Role, TaskId, TextId,
    change::{Change, Edit},
    kinds::{Attachment, Awaited, Check, CheckId, Record as _, Task},
    text::{Text, TextOn, TextSlot},
};
use support::{day, person, project, task};

/// Persons 1 to 3; task 10 is done by person 1, task 11 by person 2.
fn plan() -> Plan {
    let people = (1..=3).map(|id| Change::Person(Edit::new(person(id))));
    let tasks = [task(10, &[1], Some(60)), task(11, &[2], Some(60))].map(|task| Change::Task(Edit::new(task)));
    let changes: Vec<Change> = people.chain([Change::Project(Edit::new(project(1)))]).chain(tasks).collect();
    Plan::empty().with(&changes)
}

fn of(plan: &Plan, id: i32) -> Task {
    (*plan.tasks[&TaskId(id)]).clone()
}

fn altered(before: &Task, after: Task) -> Command {
    Command::Edit { changes: vec![Change::Task(Edit::alter(before.clone(), after))] }
}

#[test]
fn a_member_says_whether_their_task_is_stuck_and_everybody_whether_they_follow() {
    let plan = plan();
    let member = Actor { role: Role::Member, email: "p1@example.test" };
    let (mine, other) = (of(&plan, 10), of(&plan, 11));
    let stuck = |task: &Task| {
        let waiting_on = Some(Awaited::Person(PersonId(2)));
        altered(task, Task { stuck: "no oak".into(), waiting_on, ..task.clone() })
    };
    assert!(member.may(&plan, &stuck(&mine)));
    assert!(!member.may(&plan, &stuck(&other)));
    let followed = |task: &Task, people: &[i32]| {
        altered(task, Task { followers: people.iter().map(|id| PersonId(*id)).collect(), ..task.clone() })
    };
    assert!(member.may(&plan, &followed(&other, &[1])), "one follows what others do");
    assert!(!member.may(&plan, &followed(&other, &[1, 3])), "and nobody else in their place");
    let both = altered(&other, Task { followers: vec![PersonId(1)], title: "Other".into(), ..other.clone() });
    assert!(!member.may(&plan, &both), "nor with anything besides");
    assert!(!Actor { role: Role::Viewer, email: "p1@example.test" }.may(&plan, &followed(&mine, &[1])));
}

#[test]
fn whoever_does_a_task_keeps_its_checklist_and_brings_files() {
    let plan = plan();
    let line =
        |task: i32| Check { id: CheckId(0), task: TaskId(task), text: "Sand".into(), done: false, place: Decimal::ONE };
    let file = |task: i32, author: &str| Attachment {
        task: Some(TaskId(task)),
        name: "a.pdf".into(),
        sum: "0".repeat(64),
        author: author.to_owned(),
        day: day(0),
        ..Attachment::blank()
    };
    let may = |change: Change| {
        Actor { role: Role::Member, email: "p1@example.test" }.may(&plan, &Command::Edit { changes: vec![change] })
    };
    assert!(may(Change::Check(Edit::new(line(10)))) && !may(Change::Check(Edit::new(line(11)))));
    assert!(may(Change::Attachment(Edit::new(file(10, "p1@example.test")))));
    assert!(!may(Change::Attachment(Edit::new(file(10, "p2@example.test")))), "in nobody else's name");
    assert!(!may(Change::Attachment(Edit::new(file(11, "p1@example.test")))));
    assert!(may(Change::Attachment(Edit::remove(file(11, "p1@example.test")))), "what one has brought one takes away");
    assert!(!may(Change::Attachment(Edit::remove(file(10, "p2@example.test")))));
}

#[test]
fn whoever_a_comment_mentions_follows_the_task_from_then_on() {
    let plan = plan();
    let comment = |body: &str| Text {
        id: TextId(0),
        on: TextOn::Task,
        subject: 10,
        slot: TextSlot::Comment,
        author: "p1@example.test".into(),
        day: day(0),
        body: body.into(),
    };
    let said = |plan: &Plan, body: &str| {
        let command = Command::Edit { changes: vec![Change::Text(Edit::new(comment(body)))] };
        plan.decide(&command, day(0)).unwrap()
    };
    let first = said(&plan, "@p2@example.test and @p3@example.test, look");
    let after = plan.with(&first);
    assert_eq!(of(&after, 10).followers, [PersonId(2), PersonId(3)]);
    assert_eq!(said(&after, "@p2@example.test again").len(), 1, "who follows already changes nothing");
    assert_eq!(said(&plan, "nobody").len(), 1);
}
