//! Small records to build plans of.
#![allow(dead_code, clippy::unwrap_used)] // each test file uses a part of it

pub mod any;
pub mod networks;
pub mod slow;
pub mod slow_network;
pub mod small;

use snug_core::{
    AbsenceId, BookingId, Day, PersonId, Plan, ProjectId, TaskId, TeamId, TimeEntryId,
    change::{Change, Edit},
    kinds::{
        Absence, Amount, Assignees, Booking, Certainty, DatedPattern, Pattern, Person, PersonKind, Project,
        ProjectStatus, Record as _, Task, Team, TimeEntry, Unit, Who,
    },
};
use std::collections::BTreeMap;

/// Monday 2026-03-02 and the days after it.
pub fn day(offset: i32) -> Day {
    "2026-03-02".parse::<Day>().unwrap() + offset
}

pub fn person(id: i32) -> Person {
    Person {
        id: PersonId(id),
        email: format!("p{id}@example.test"),
        name: format!("P{id}"),
        role: "rigger".into(),
        kind: PersonKind::Person,
        calendar: String::new(),
        patterns: vec![DatedPattern { from: None, pattern: Pattern::full_time() }],
        day_limit: None,
        week_limit: None,
        max_projects: None,
        max_tasks: None,
        max_points: None,
        skills: vec![],
        rates: vec![],
        fields: BTreeMap::new(),
    }
}

pub fn project(id: i32) -> Project {
    Project {
        id: ProjectId(id),
        code: format!("A{id}"),
        name: format!("A{id}"),
        status: ProjectStatus::Active,
        parent: None,
        lead: None,
        team: None,
        start: None,
        finish: None,
        budget_minutes: None,
        budget_money: None,
        fields: BTreeMap::new(),
    }
}

pub fn team(id: i32, members: Vec<(PersonId, i32)>) -> Team {
    Team { id: TeamId(id), code: format!("t{id}"), name: format!("Team {id}"), members, ..Team::blank() }
}

/// A task of the first project for these people, cut evenly, over the first week.
pub fn task(id: i32, people: &[i32], estimate: Option<i64>) -> Task {
    Task {
        id: TaskId(id),
        reference: format!("R{id}"),
        project: ProjectId(11),
        title: format!("Task {id}"),
        assignees: Assignees::Even(people.iter().map(|id| PersonId(*id)).collect()),
        estimate,
        start: Some(day(0)),
        finish: Some(day(4)),
        ..Task::blank()
    }
}

pub fn entry(id: i32, who: i32, task: Option<i32>, minutes: i32) -> TimeEntry {
    TimeEntry {
        id: TimeEntryId(id),
        reference: String::new(),
        person: PersonId(who),
        date: day(0),
        project: task.is_none().then_some(ProjectId(11)),
        task: task.map(TaskId),
        minutes,
        billable: true,
        note: String::new(),
        reason: String::new(),
    }
}

/// Time off of somebody, on whole days or for some minutes of each.
pub fn absence(id: i32, who: i32, from: i32, to: i32, minutes: Option<i32>) -> Absence {
    Absence {
        id: AbsenceId(id),
        reference: String::new(),
        person: PersonId(who),
        start: day(from),
        end: day(to),
        kind: String::new(),
        minutes,
        at: None,
    }
}

pub fn new_task(task: Task) -> Change {
    Change::Task(Edit::new(task))
}

pub fn logged(entry: TimeEntry) -> Change {
    Change::TimeEntry(Edit::new(entry))
}

/// A firm booking of the first project.
pub fn booking(id: i32, who: i32, from: i32, to: i32, value: i32, unit: Unit) -> Booking {
    Booking {
        id: BookingId(id),
        reference: String::new(),
        who: Who::Person(PersonId(who)),
        project: Some(ProjectId(11)),
        start: day(from),
        end: day(to),
        amount: Amount { value, unit },
        certainty: Certainty::Firm,
        days_off: false,
        note: String::new(),
        line: String::new(),
    }
}

/// Two people, two projects.
pub fn ground() -> Plan {
    Plan::empty().with(&[
        Change::Person(Edit::new(person(1))),
        Change::Person(Edit::new(person(2))),
        Change::Project(Edit::new(project(11))),
        Change::Project(Edit::new(project(12))),
    ])
}
