//! Drafts (`rules/tuck-in.md`): what was changed in one is laid over a plan that has gone on meanwhile, and nothing of either is lost unsaid.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{prelude::*, sample::Index};
use snug_core::{
    Command, PersonId, Plan, TaskId,
    change::{Change, Edit, inverse_of},
    demand::{Window, person_load},
    drafts::{COMPARED_WEEKS, Fate, Side, Take, differing, fate, merged, net},
    kinds::{Amount, Kind, Priority, Task, Unit},
    settings::Settings,
};
use std::collections::BTreeMap;
use support::{any::plan as any_plan, booking, day, ground, new_task, task};

/// What somebody does to a task or a booking.
#[derive(Clone, Debug)]
enum Deed {
    Title(Index, u8),
    Priority(Index, bool),
    Estimate(Index, i64),
    Hours(Index, i32),
    Remove(Index),
    Make(u8),
}

fn any_deed() -> impl Strategy<Value = Deed> {
    let at = any::<Index>;
    prop_oneof![
        3 => (at(), 0..3_u8).prop_map(|(at, to)| Deed::Title(at, to)),
        3 => (at(), any::<bool>()).prop_map(|(at, to)| Deed::Priority(at, to)),
        2 => (at(), 1..5_i64).prop_map(|(at, to)| Deed::Estimate(at, to)),
        3 => (at(), 1..4_i32).prop_map(|(at, to)| Deed::Hours(at, to)),
        1 => at().prop_map(Deed::Remove),
        1 => (0..3_u8).prop_map(Deed::Make),
    ]
}

/// The change that a deed is on a plan, where there is something to do it to.
fn change(plan: &Plan, deed: &Deed) -> Option<Change> {
    let tasks: Vec<&Task> = plan.tasks.values().map(|task| &**task).collect();
    let altered = |at: &Index, to: &dyn Fn(&mut Task)| {
        let before: Task = (*tasks.get(at.index(tasks.len().max(1)))?).clone();
        let mut after = before.clone();
        to(&mut after);
        Some(Change::Task(Edit::alter(before, after)))
    };
    match deed {
        Deed::Title(at, to) => altered(at, &|task| task.title = format!("called {to}")),
        Deed::Priority(at, to) => altered(at, &|task| task.priority = if *to { Priority::High } else { Priority::Low }),
        Deed::Estimate(at, to) => altered(at, &|task| task.estimate = Some(to * 60)),
        Deed::Hours(at, hours) => {
            let bookings: Vec<_> = plan.bookings().collect();
            let before = bookings.get(at.index(bookings.len().max(1)))?.clone();
            let mut after = before.clone();
            after.amount = Amount { unit: Unit::PerDay, value: hours * 60 };
            Some(Change::Booking(Edit::alter(before, after)))
        }
        Deed::Remove(at) => {
            let bookings: Vec<_> = plan.bookings().collect();
            Some(Change::Booking(Edit::remove(bookings.get(at.index(bookings.len().max(1)))?.clone())))
        }
        Deed::Make(to) => {
            let like = tasks.first()?;
            let new = Task { id: TaskId(0), reference: String::new(), title: format!("new {to}"), ..(*like).clone() };
            Some(Change::Task(Edit::new(new)))
        }
    }
}

/// Does what can be done of some deeds, one after the other.
fn done(plan: &Plan, deeds: &[Deed]) -> (Plan, Vec<Change>) {
    let (mut plan, mut made) = (plan.clone(), Vec::new());
    for deed in deeds {
        let Some(change) = change(&plan, deed) else { continue };
        let Ok(changes) = plan.decide(&Command::Edit { changes: vec![change] }, day(0)) else { continue };
        plan = plan.with(&changes);
        made.extend(changes);
    }
    (plan, made)
}

fn standing(plan: &Plan, about: &Change) -> Option<Change> {
    plan.standing(about).only_after()
}

/// Every record that the changes are about, with what one plan and another one say of it.
fn values<'a>(plan: &'a Plan, about: &'a [Change]) -> impl Iterator<Item = ((Kind, i32), Option<Change>)> + 'a {
    about.iter().map(|change| (change.subject(), standing(plan, change)))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Beside nobody's changes the live plan becomes the draft; taken back, it is what it was.
    #[test]
    fn a_draft_that_nobody_crossed_goes_in_whole(plan in any_plan(), deeds in prop::collection::vec(any_deed(), 1..12)) {
        let (draft, changes) = done(&plan, &deeds);
        let net = net(changes.clone());
        prop_assert_eq!(plan.with(&net).tasks.len(), draft.tasks.len());
        let goes_in = merged(&plan, &[], &net, &BTreeMap::new());
        prop_assert_eq!(&goes_in, &net);
        if let Ok(decided) = plan.decide(&Command::Merge { name: "D".into(), changes: goes_in }, day(0)) {
            let after = plan.with(&decided);
            prop_assert!(differing(&after, &draft, &net).is_empty());
            prop_assert!(merged(&after, &[], &net, &BTreeMap::new()).is_empty(), "what went in stands");
            prop_assert!(differing(&after.with(&inverse_of(&decided)), &plan, &net).is_empty());
            prop_assert_eq!(Side::of(&after, day(0)), Side::of(&draft, day(0)));
        }
    }

    /// What differs between two plans leads from the one to the other and back, and is nothing once they are alike.
    #[test]
    fn what_differs_leads_from_one_plan_to_the_other(
        plan in any_plan(), own in prop::collection::vec(any_deed(), 0..10), others in prop::collection::vec(any_deed(), 0..10),
    ) {
        let (live, theirs) = done(&plan, &others);
        let mut base = plan.clone();
        base.reserve_ids(100_000);
        let (draft, ours) = done(&base, &own);
        let about = net(theirs.into_iter().chain(ours).collect());
        let differs = differing(&live, &draft, &about);
        for ((subject, here), (_, there)) in values(&live, &about).zip(values(&draft, &about)) {
            let told = differs.iter().filter(|change| change.subject() == subject).count();
            prop_assert_eq!(told, usize::from(here != there), "{:?} is told once where it differs", subject);
        }
        let back = differing(&draft, &live, &about);
        prop_assert_eq!(back.len(), differs.len());
        for (there, back) in differs.iter().zip(&back) {
            prop_assert_eq!(&there.clone().inverse(), back);
        }
    }

    /// Who is over is who has a week, or a day of it, over their limit, by all that it is over.
    #[test]
    fn over_is_whoever_has_a_week_or_a_day_over_the_limit(plan in any_plan(), deeds in prop::collection::vec(any_deed(), 0..6)) {
        // Their weeks begin on Mondays, as limits of the week do.
        let settings = Settings { first_weekday: 0, ..(*plan.settings).clone() };
        let (plan, _) = done(&plan.with(&[Change::Settings(Edit::new(settings))]), &deeds);
        let side = Side::of(&plan, day(3));
        let window = Window::new(day(0), day(0) + 7 * COMPARED_WEEKS - 1, day(3));
        let mut spilled = 0;
        for (id, entry) in &plan.people {
            let load = person_load(&plan, entry, &window, false);
            let week = |week: i32| {
                let days = load.days.indexes(day(0) + 7 * week, day(0) + 7 * week + 6);
                let minutes = || load.load.days(days.clone()).zip(load.days.limit().days(days.clone()));
                let of_days: i64 = minutes().map(|(load, limit)| i64::from((load - limit).max(0))).sum();
                let rims: i64 = load.days.rim().days(days.clone()).map(i64::from).sum();
                let of_week = minutes().map(|(load, _)| i64::from(load)).sum::<i64>() - rims;
                of_days.max(of_week).max(0)
            };
            let by_hand: i64 = (0..COMPARED_WEEKS).map(week).sum();
            prop_assert_eq!(side.over.get(id).copied().unwrap_or(0), by_hand, "{}", entry.person.name);
            spilled += by_hand;
        }
        prop_assert_eq!(side.spilled(), spilled);
    }

    /// Field by field: what one side alone has changed is taken from it; where both gave one field another value, somebody is asked, and
    /// each answer is kept to.
    #[test]
    fn both_sides_are_kept_or_asked_about(
        plan in any_plan(), own in prop::collection::vec(any_deed(), 1..10), others in prop::collection::vec(any_deed(), 0..10),
    ) {
        let (live, _) = done(&plan, &others);
        // New records of both would have one identity; the store gives each its own.
        let mut base = plan.clone();
        base.reserve_ids(100_000);
        let (draft, changes) = done(&base, &own);
        let net = net(changes);
        for ((subject, now), change) in values(&live, &net).zip(&net) {
            let (was, wanted) = (standing(&plan, change), standing(&draft, change));
            let fate = fate(&live, &[], change);
            match (&was, &now, &wanted) {
                _ if now == wanted => prop_assert_eq!(fate, Fate::Stands),
                _ if now == was => prop_assert_eq!(fate, Fate::GoesIn(change.clone())),
                (Some(Change::Task(was)), Some(Change::Task(now)), Some(Change::Task(wanted))) => {
                    let (was, now, wanted) = (was.after.as_ref().unwrap(), now.after.as_ref().unwrap(), wanted.after.as_ref().unwrap());
                    let crossed = |of: &dyn Fn(&Task) -> String| {
                        let (was, now, wanted) = (of(was), of(now), of(wanted));
                        was != now && was != wanted && now != wanted
                    };
                    let of: [&dyn Fn(&Task) -> String; 3] =
                        [&|task| task.title.clone(), &|task| task.priority.to_string(), &|task| format!("{:?}", task.estimate)];
                    let any = of.into_iter().any(crossed);
                    prop_assert_eq!(matches!(fate, Fate::Conflict(_)), any, "{:?}", subject);
                    for (take, crossed_is) in [(Take::Draft, wanted), (Take::Plan, now)] {
                        let takes = BTreeMap::from([(subject, take)]);
                        let after = live.with(&merged(&live, &[], std::slice::from_ref(change), &takes));
                        let after = &after.tasks[&was.id];
                        for of in of {
                            let right = if crossed(of) { of(crossed_is) } else if of(was) == of(wanted) { of(now) } else { of(wanted) };
                            prop_assert_eq!(of(after), right);
                        }
                    }
                }
                // Of a booking who, when and how much go together, and what is gone on one side alone is asked about.
                _ => prop_assert!(matches!(fate, Fate::Conflict(_)), "{:?}", fate),
            }
            let nothing = BTreeMap::from([(subject, Take::Nothing)]);
            prop_assert!(merged(&live, &[], std::slice::from_ref(change), &nothing).is_empty());
        }
    }
}

#[test]
fn what_was_changed_back_and_forth_comes_to_nothing() {
    let before = task(9, &[1], Some(600));
    let after = Task { title: "called otherwise".into(), ..before.clone() };
    let there = Change::Task(Edit::alter(before, after));
    assert!(net(vec![there.clone(), there.clone().inverse()]).is_empty());
    assert_eq!(net(vec![there.clone(), there.clone().inverse(), there.clone()]), [there]);
}

#[test]
fn who_is_over_and_what_is_late_is_told_of_a_plan() {
    let late = Task { start: Some(day(0)), finish: Some(day(4)), due: Some(day(2)), ..task(9, &[1], Some(600)) };
    let plan = ground().with(&[new_task(late)]);
    let over = plan.with(&[Change::Booking(Edit::new(booking(20, 1, 0, 4, 600, Unit::PerDay)))]);
    let (side, worse) = (Side::of(&plan, day(0)), Side::of(&over, day(0)));
    assert_eq!(side.late, BTreeMap::from([(TaskId(9), 2)]), "it ends two working days after its due day");
    assert_eq!(side.spilled(), 0);
    // Five days of 10 h against five of 8 h.
    assert_eq!(worse.over, BTreeMap::from([(PersonId(1), 10 * 60)]));
    assert_eq!(worse.projects[&plan.tasks[&TaskId(9)].project], Some(day(4)));
}
