//! What a change is said to do, against the whole load table before and after it.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::prelude::*;
use snug_core::{
    BookingId, Command, Day, PersonId, Plan,
    cells::{Cell, Grain},
    change::{Change, Edit},
    demand::Window,
    effect::{only_rows_of, week_effects},
    gesture::{self, Gesture},
    kinds::Task,
    load::{Group, Measure, Query, table},
    settings::Settings,
};
use std::collections::{BTreeMap, BTreeSet};
use support::{
    any, day, entry, logged,
    small::{booked, plan, work},
};

/// Everybody's weeks, far to both sides of what the plans speak of.
fn weeks(plan: &Plan) -> BTreeMap<(PersonId, Day), Cell> {
    let window = Window::new(day(-70), day(139), day(0));
    let query = Query { window, grain: Grain::Week, group: Group::Person, measure: Measure::Minutes };
    let table = table(plan, &query);
    let mut found = BTreeMap::new();
    for row in &table.rows {
        let person = plan.person_by_email(&row.key).unwrap().person.id;
        for (bucket, cell) in table.buckets.iter().zip(&row.cells) {
            found.insert((person, bucket.from), cell.unwrap());
        }
    }
    found
}

proptest! {
    /// A hand moves, stretches, thickens a booking or gives it to somebody: exactly the weeks that are told have changed, and of nobody
    /// but those whose rows are read again.
    #[test]
    fn what_is_told_is_all_that_changes(
        bookings in prop::collection::vec(booked(), 1..8),
        tasks in prop::collection::vec(work(), 0..5),
        at in 0usize..8,
        shift in -20i32..30,
        ends in (-6i32..6, -6i32..6),
        to in prop::option::of(1i32..=2),
        minutes in prop::option::of(15i32..600),
    ) {
        let before = plan([None, None], &bookings, &tasks);
        let seen = before.booking(BookingId(50 + i32::try_from(at % bookings.len()).unwrap())).unwrap();
        let thickness = minutes.map(|minutes| (seen.start, minutes));
        let hand = Gesture { shift, start_shift: ends.0, end_shift: ends.1, to: to.map(PersonId), thickness };
        let next = gesture::after(&before, &seen, &hand.checked().unwrap());
        let Ok(changes) = before.decide(&Command::ChangeBooking { seen: seen.clone(), to: next }, day(0)) else {
            return Ok(());
        };
        let after = before.with(&changes);
        let (old, new) = (weeks(&before), weeks(&after));
        let changed: BTreeSet<(PersonId, Day)> =
            old.iter().filter(|(key, cell)| new[*key] != **cell).map(|(key, _)| *key).collect();
        let effects = week_effects(&before, &after, &changes, day(0));
        let told: BTreeSet<(PersonId, Day)> = effects.iter().map(|effect| (effect.person, effect.week.from)).collect();
        prop_assert_eq!(&told, &changed);
        for effect in effects {
            let key = (effect.person, effect.week.from);
            prop_assert_eq!((effect.before, effect.after), (old[&key], new[&key]));
        }
        let rows = only_rows_of(&changes).unwrap();
        prop_assert!(changed.iter().all(|(person, _)| rows.contains(person)));
    }
    /// A task is changed, or logged on: exactly the weeks that are told have changed, of whomever, however far, also of those who have
    /// what is not broken down of its parents, and of those whose late work waits behind it.
    #[test]
    fn what_is_told_of_a_task_is_all_that_changes(
        before in any::plan(),
        at in 0usize..9,
        estimate in prop::option::of(0i64..5_000),
        (start, more) in (-12i32..40, 0i32..15),
        done in prop::bool::weighted(0.2),
        minutes in prop::option::of(1i32..600),
    ) {
        // Effects are told by ISO weeks.
        let monday = Settings { first_weekday: 0, ..(*before.settings).clone() };
        let before = before.with(&[Change::Settings(Edit::new(monday))]);
        let Some(task) = before.tasks.values().nth(at) else { return Ok(()) };
        let change = match minutes {
            Some(minutes) => logged(entry(900, 1, Some(task.id.0), minutes)),
            None => Change::Task(Edit::alter((**task).clone(), Task {
                estimate,
                start: Some(day(start)),
                finish: Some(day(start + more)),
                stage: if done { "done".into() } else { "to do".into() },
                ..(**task).clone()
            })),
        };
        let after = before.with(std::slice::from_ref(&change));
        let (old, new) = (weeks(&before), weeks(&after));
        let changed: BTreeSet<(PersonId, Day)> =
            old.iter().filter(|(key, cell)| new[*key] != **cell).map(|(key, _)| *key).collect();
        let effects = week_effects(&before, &after, &[change], day(0));
        let told: BTreeSet<(PersonId, Day)> = effects.iter().map(|effect| (effect.person, effect.week.from)).collect();
        prop_assert_eq!(&told, &changed);
    }
}
