//! Small plans made of numbers, for tests against a plain reading.

use super::{booking, day, new_task, person, project, task};
use proptest::prelude::*;
use snug_core::{
    Plan, ProjectId,
    change::{Change, Edit},
    kinds::{Booking, Certainty, Person, Task, Unit},
};

/// A booking: whose, on which project (0: a hold), from, how many days more, minutes a day, firm.
pub type Booked = (i32, i32, i32, i32, i32, bool);
/// A task: whose (3: of both), on which project, from, how many days more, its estimate, its points in hundredths.
pub type Work = (i32, i32, i32, i32, i64, i64);

pub fn booked() -> impl Strategy<Value = Booked> {
    (1..=2, 0..=3, -4..24, 0..9, 30..600, prop::bool::ANY)
}

pub fn work() -> impl Strategy<Value = Work> {
    (1..=3, 1..=3, 0..18, 0..6, 600i64..2_400, 1i64..2_000)
}

/// Two people with these limits of projects and tasks at a time, three projects, and what is said.
pub fn plan(most: [Option<i32>; 2], bookings: &[Booked], tasks: &[Work]) -> Plan {
    let who = |id: i32| Person { max_projects: most[0], max_tasks: most[1], ..person(id) };
    let mut changes: Vec<Change> = (1..=2).map(|id| Change::Person(Edit::new(who(id)))).collect();
    changes.extend((1..=3).map(|id| Change::Project(Edit::new(project(id)))));
    changes.extend((50..).zip(bookings).map(|(id, (who, on, from, more, minutes, firm))| {
        Change::Booking(Edit::new(Booking {
            project: (*on > 0).then_some(ProjectId(*on)),
            certainty: if *firm { Certainty::Firm } else { Certainty::Pencilled },
            ..booking(id, *who, *from, from + more, *minutes, Unit::PerDay)
        }))
    }));
    changes.extend((150..).zip(tasks).map(|(id, (who, on, from, more, estimate, points))| {
        new_task(Task {
            project: ProjectId(*on),
            start: Some(day(*from)),
            finish: Some(day(from + more)),
            points: Some(rust_decimal::Decimal::new(*points, 2)),
            ..task(id, if *who == 3 { &[1, 2] } else { std::slice::from_ref(who) }, Some(*estimate))
        })
    }));
    Plan::empty().with(&changes)
}
