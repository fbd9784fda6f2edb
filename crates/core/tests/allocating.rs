//! What can be done with bookings in place, who could take them, what waits, what warns.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::prelude::*;
use snug_core::{
    BookingId, Command, Day, PersonId, Plan, ProjectId, RefusalCode, TaskId,
    alerts::{self, Alert},
    budget,
    cells::{Bucket, Grain},
    change::{Change, Edit},
    demand::{Counted, Window, person_load},
    kinds::{Assignees, Booking, Certainty, Person, Project, Task, Unit, Who},
    load::{Group, Groups, Measure, PersonCells, Query, RowKey},
    reshape::{self, Part, minutes_between},
    takers::{Due, Need, best_move, takers},
    tray::{self, Lacks, Waiting},
};
use support::{booking, day, entry, ground, logged, new_task, person, project, slow::Rows, task};

fn with(plan: &Plan, bookings: &[Booking]) -> Plan {
    let changes: Vec<Change> = bookings.iter().cloned().map(|b| Change::Booking(Edit::new(b))).collect();
    plan.with(&changes)
}

/// The plan after edits, decided as a command is.
fn after(plan: &Plan, edits: Vec<Edit<Booking>>) -> Plan {
    let command = Command::Rearrange { deed: "Done".into(), edits };
    plan.with(&plan.decide(&command, day(0)).unwrap())
}

fn minutes_of(plan: &Plan, who: i32) -> Vec<i32> {
    let window = Window::new(day(0), day(41), day(-30));
    person_load(plan, &plan.people[&PersonId(who)], &window, false).load.iter().collect()
}

fn total(plan: &Plan) -> i64 {
    plan.people.keys().map(|id| minutes_of(plan, id.0).iter().map(|m| i64::from(*m)).sum::<i64>()).sum()
}

#[test]
fn several_bookings_change_together_or_not_at_all() {
    let plan = with(&ground(), &[booking(50, 1, 0, 4, 60, Unit::PerDay), booking(51, 2, 0, 4, 60, Unit::PerDay)]);
    let seen = |id| plan.booking(BookingId(id)).unwrap();
    let later = |b: Booking| Edit::alter(b.clone(), Booking { start: b.start + 7, end: b.end + 7, ..b });
    let moved = after(&plan, vec![later(seen(50)), later(seen(51))]);
    assert_eq!(moved.booking(BookingId(51)).unwrap().start, day(7));
    let stale = Booking { note: "not what stands there".into(), ..seen(51) };
    let command = Command::Rearrange { deed: String::new(), edits: vec![later(seen(50)), later(stale)] };
    let refusal = plan.decide(&command, day(0)).unwrap_err();
    assert_eq!(refusal.code, RefusalCode::ChangedMeanwhile);
    assert!(refusal.standing.is_some(), "both values are there to choose from");
}

#[test]
fn new_pieces_get_identities_of_their_own() {
    let plan = with(&ground(), &[booking(50, 1, 0, 13, 60, Unit::PerDay)]);
    let seen = plan.booking(BookingId(50)).unwrap();
    let part = Part { from: day(2), to: day(3), minutes: Some(30) };
    let handed = after(&plan, reshape::hand_over(&plan, &seen, part, PersonId(2)).unwrap());
    assert_eq!(handed.booking_count(), 4, "before, what stays there, after, and what was given");
    assert_eq!(handed.booking(BookingId(50)).unwrap().end, day(1), "the first piece keeps the identity");
    assert_eq!((total(&plan), total(&handed)), (600, 600), "no minute is lost");
    assert_eq!(minutes_of(&handed, 2).iter().sum::<i32>(), 30);
}

#[test]
fn a_booking_is_split_trimmed_copied_and_repeated() {
    let plan = with(&ground(), &[booking(50, 1, 0, 11, 600, Unit::Total)]);
    let seen = plan.booking(BookingId(50)).unwrap();
    let split = after(&plan, reshape::split(&plan, &seen, day(7)).unwrap());
    assert_eq!(minutes_of(&plan, 1), minutes_of(&split, 1), "a split moves nothing");
    assert_eq!(split.booking(BookingId(50)).unwrap().amount.value, 300);
    assert_eq!(reshape::split(&plan, &seen, day(0)).unwrap_err().field, "day");

    let part = Part { from: day(0), to: day(4), minutes: Some(120) };
    let trimmed = after(&plan, reshape::trim(&plan, &seen, part).unwrap());
    assert_eq!((total(&plan), total(&trimmed)), (600, 480));
    let gone = after(&plan, reshape::trim(&plan, &seen, Part { from: day(0), to: day(11), minutes: None }).unwrap());
    assert_eq!(gone.booking_count(), 0);

    let copied = after(&plan, vec![reshape::copy(&seen, 14, Some(PersonId(2)))]);
    assert_eq!(minutes_of(&copied, 2).iter().sum::<i32>(), 600);
    let weekly = booking(50, 1, 1, 1, 120, Unit::PerDay);
    let repeated = reshape::repeat(&weekly, 2, day(30)).unwrap();
    let starts: Vec<Day> = repeated.iter().map(|edit| edit.after.as_ref().unwrap().start).collect();
    assert_eq!(starts, [day(15), day(29)], "every other week, as long as a copy begins in time");
    assert_eq!(reshape::repeat(&weekly, 1, day(3)).unwrap_err().field, "until");
    assert_eq!(reshape::repeat(&weekly, 1, day(3_000)).unwrap_err().field, "until");
}

#[test]
fn the_same_hours_are_said_in_another_unit() {
    let plan = with(&ground(), &[booking(50, 1, 0, 4, 1_200, Unit::Total)]);
    let seen = plan.booking(BookingId(50)).unwrap();
    let value = |unit| reshape::in_unit(&plan, &seen, unit).unwrap().value;
    assert_eq!(
        [value(Unit::PerDay), value(Unit::PerWeek), value(Unit::Percent), value(Unit::Total)],
        [240, 1_200, 5_000, 1_200]
    );
    let weekend = booking(51, 1, 5, 6, 60, Unit::Total);
    assert_eq!(reshape::in_unit(&plan, &weekend, Unit::PerDay), None, "what lands nowhere says nothing");
}

#[test]
fn who_could_take_it_is_ranked_by_skill_then_room_then_project() {
    let skilled = |id: i32, skills: &[&str]| Person {
        role: "smith".into(),
        skills: skills.iter().map(|s| (*s).to_owned()).collect(),
        ..person(id)
    };
    let people = [
        skilled(1, &["forge", "weld"]),
        skilled(2, &["weld"]),
        skilled(3, &["Forge", "weld"]),
        skilled(4, &["forge", "weld"]),
        Person { role: "cook".into(), ..person(5) },
    ];
    let mut changes: Vec<Change> = people.into_iter().map(|p| Change::Person(Edit::new(p))).collect();
    changes.push(Change::Project(Edit::new(project(11))));
    let plan = Plan::empty().with(&changes);
    // 3 has 2 h of room in the week, 4 all of it.
    let plan = with(&plan, &[booking(50, 1, 0, 4, 600, Unit::PerDay), booking(51, 3, 0, 4, 456, Unit::PerDay)]);
    let bucket = Bucket { from: day(0), to: day(6) };
    let need = Need::of_booking(&plan, &plan.booking(BookingId(50)).unwrap(), bucket, 600);
    let found = takers(&plan, &need, Grain::Week, day(0), 10);
    let order: Vec<(i32, i64)> = found.iter().map(|taker| (taker.person.0, taker.takes)).collect();
    assert_eq!(order, [(4, 600), (3, 120), (2, 600)], "both skills before one; a cook is no answer");
    assert!(found[1].on_project && !found[0].on_project);
    let seat = Booking { who: Who::Role("cook".into()), ..booking(52, 1, 0, 4, 60, Unit::PerDay) };
    let need = Need::of_booking(&plan, &seat, bucket, 300);
    assert_eq!(takers(&plan, &need, Grain::Week, day(0), 10)[0].person, PersonId(5));
}

#[test]
fn a_move_stays_within_the_due_date_and_out_of_the_past() {
    let full = booking(50, 1, 0, 4, 480, Unit::PerDay);
    let more = booking(51, 1, 0, 1, 240, Unit::PerDay);
    let plan = with(&ground(), &[full, more.clone()]);
    let found = best_move(&plan, &more, day(0)).unwrap();
    assert_eq!(
        (found.shift, found.left, found.latest),
        (7, 0, None),
        "to the next Monday and Tuesday: on a weekend the hours would be lost"
    );
    let due = Task { project: ProjectId(11), due: Some(day(4)), ..task(70, &[1], None) };
    let bound = plan.with(&[new_task(due)]);
    assert_eq!(best_move(&bound, &more, day(0)), None, "later breaks the due date, earlier lies in the past");
    let finish = Project { finish: Some(day(30)), ..project(11) };
    let bound = plan.with(&[Change::Project(Edit::alter(project(11), finish))]);
    assert_eq!(best_move(&bound, &more, day(0)).unwrap().latest, Some((day(30), Due::Project("A11".into()))));
}

#[test]
fn the_tray_holds_what_is_unplaced_and_a_drop_places_it_where_there_is_room() {
    let undated = Task { start: None, finish: None, ..task(70, &[], Some(960)) };
    let urgent =
        Task { priority: snug_core::kinds::Priority::Urgent, ..Task { start: None, ..task(71, &[1], Some(60)) } };
    let done = Task { stage: "done".into(), start: None, ..task(72, &[1], Some(60)) };
    let seat = Booking { who: Who::Role("rigger".into()), ..booking(50, 1, 0, 4, 60, Unit::PerDay) };
    let past = Booking { who: Who::Role("rigger".into()), ..booking(52, 1, -9, -7, 60, Unit::PerDay) };
    let plan = with(&ground(), &[seat, past, booking(51, 1, 0, 0, 240, Unit::PerDay)]);
    // What lacks only its size, and what lies on a weekend alone, wait too; late work does not, as it lies on the days from today on.
    let no_size = Task { points: Some(3.into()), ..task(73, &[1], None) };
    let weekend =
        |id: i32, from: i32| Task { start: Some(day(from)), finish: Some(day(from + 1)), ..task(id, &[1], Some(120)) };
    let plan = plan.with(&[new_task(undated.clone()), new_task(urgent), new_task(done), new_task(no_size)]);
    let plan = plan.with(&[new_task(weekend(74, 5)), new_task(weekend(75, -2))]);
    let waiting = tray::waiting(&plan, day(0));
    assert!(matches!(waiting[0], Waiting::Seat(BookingId(50))), "{waiting:?}");
    let waits = |id: i32, minutes, lacks| Waiting::Task { id: TaskId(id), minutes, lacks };
    let none = Lacks::default();
    assert_eq!(
        waiting[1..],
        [
            waits(71, Some(60), Lacks { dates: true, ..none }),
            waits(70, Some(960), Lacks { dates: true, people: true, ..none }),
            waits(73, None, Lacks { size: true, ..none }),
            waits(74, Some(120), Lacks { working_day: true, ..none }),
        ]
    );
    let placed = tray::dropped(&plan, &undated, PersonId(1), day(-3), day(0));
    assert_eq!(placed.assignees, Assignees::Even(vec![PersonId(1)]));
    assert_eq!(
        (placed.start, placed.finish),
        (Some(day(0)), Some(day(2))),
        "4 h of room on the first day, 8 h, then 4 h"
    );
}

#[test]
fn warnings_name_what_is_wrong() {
    let crowded = Person { max_projects: Some(1), ..person(1) };
    let mut off = booking(52, 2, 5, 6, 60, Unit::PerDay);
    off.days_off = true;
    let plan = Plan::empty().with(&[
        Change::Person(Edit::new(crowded)),
        Change::Person(Edit::new(person(2))),
        Change::Project(Edit::new(project(11))),
        Change::Project(Edit::new(project(12))),
        new_task(task(70, &[2], Some(600))),
    ]);
    let other = Booking { project: Some(ProjectId(12)), ..booking(51, 1, 0, 4, 300, Unit::PerDay) };
    let plan =
        with(&plan, &[booking(50, 1, 0, 4, 300, Unit::PerDay), other, off, booking(53, 2, 12, 13, 60, Unit::Total)]);
    let window = Window::new(day(0), day(13), day(0));
    let buckets = Grain::Week.buckets(window.from, window.to, &plan.settings);
    let of = |id: i32| alerts::of_person(&plan, &plan.people[&PersonId(id)], &window, Grain::Week, &buckets);
    let first = of(1);
    assert!(first.over && first.crowded);
    assert_eq!(first.count(Alert::Taskless), 2);
    let second = of(2);
    assert_eq!((second.stranded, second.days_off), (vec![BookingId(53)], vec![BookingId(52)]));
    assert!(second.taskless.is_empty() && !second.crowded);
    assert!(alerts::unbooked(&plan, day(0)).is_empty(), "somebody is booked on the project");
    assert_eq!(alerts::unbooked(&plan, day(20)).len(), 1, "nobody is from then on");
}

#[test]
fn a_budget_leaves_what_is_neither_worked_nor_booked() {
    let budgeted = Project { budget_minutes: Some(6_000), ..project(11) };
    let plan = ground().with(&[Change::Project(Edit::alter(project(11), budgeted)), logged(entry(90, 1, None, 600))]);
    let pencilled = Booking { certainty: Certainty::Pencilled, ..booking(51, 2, 0, 4, 120, Unit::PerDay) };
    let plan = with(&plan, &[booking(50, 1, -7, 4, 60, Unit::PerDay), pencilled]);
    let (worked, ahead) = (budget::worked(&plan), budget::ahead(&plan, day(0)));
    let found = budget::of_project(&plan, ProjectId(11), &worked, &ahead);
    assert_eq!((found.worked, found.firm, found.pencilled, found.gap()), (600, 300, 600, Some(4_500)));
}

#[test]
fn points_and_fields_are_measures_with_limits() {
    let limited = Person { max_points: Some("10".parse().unwrap()), ..person(1) };
    let pointed = |id: i32, people: &[i32], points: &str| Task {
        points: Some(points.parse().unwrap()),
        ..task(id, people, None)
    };
    let plan = ground().with(&[
        Change::Person(Edit::alter(person(1), limited)),
        new_task(pointed(70, &[1], "4.5")),
        new_task(pointed(71, &[1, 2], "3")),
    ]);
    let query =
        |group, grain| Query { window: Window::new(day(0), day(13), day(0)), grain, group, measure: Measure::Points };
    let groups = Groups::new(&plan, query(Group::Person, Grain::Fortnight));
    assert_eq!(groups.buckets().len(), 2, "fortnights are counted from 2024, not from the window");
    let week = Groups::new(&plan, query(Group::Person, Grain::Week));
    let cells = snug_core::load::row_of(&week, &plan.people[&PersonId(1)]);
    assert_eq!(
        (cells[0].limit, cells[0].load, cells[0].spill),
        (Some(500), 600, 100),
        "4.5 + 1.5 of the 5 that a week has"
    );
    let of_project = Groups::new(&plan, query(Group::Project, Grain::Week)).row(&RowKey::Project(Some(ProjectId(11))));
    assert_eq!((of_project[0].load, of_project[0].limit), (750, None), "a project has every task once");
    assert!(Measure::read("field Wood", &plan).is_err());
}

#[test]
fn what_does_not_count_is_as_if_it_were_not_booked() {
    let pencilled = Booking { certainty: Certainty::Pencilled, ..booking(51, 1, 0, 4, 120, Unit::PerDay) };
    let hold = Booking { project: None, ..booking(52, 1, 0, 4, 30, Unit::PerDay) };
    let plan = with(&ground(), &[booking(50, 1, 0, 4, 60, Unit::PerDay), pencilled, hold]);
    let load = |counted| {
        let window = Window { counted, ..Window::new(day(0), day(6), day(0)) };
        PersonCells::of(&plan, &plan.people[&PersonId(1)], &window, Grain::Week, false)
            .cell(Bucket { from: day(0), to: day(6) })
            .load
    };
    assert_eq!(load(Counted::ALL), 1_050);
    assert_eq!(load(Counted { pencilled: false, ..Counted::ALL }), 450);
    assert_eq!(load(Counted { holds: false, ..Counted::ALL }), 900);
}

fn unit() -> impl Strategy<Value = Unit> {
    prop_oneof![Just(Unit::PerDay), Just(Unit::PerWeek), Just(Unit::Total), Just(Unit::Percent)]
}

proptest! {
    /// Whatever is cut out of a booking in hours in all, and whoever gets it: every day's minutes of both people add up as before.
    #[test]
    fn handing_over_loses_no_minute(from in 0i32..20, length in 0i32..20, value in 1i32..6_000, a in 0i32..40, b in 0i32..12, minutes in prop::option::of(1i64..900)) {
        let plan = with(&ground(), &[booking(50, 1, from, from + length, value, Unit::Total)]);
        let seen = plan.booking(BookingId(50)).unwrap();
        let part = Part { from: day(a), to: day(a + b), minutes };
        if let Ok(edits) = reshape::hand_over(&plan, &seen, part, PersonId(2)) {
            let next = after(&plan, edits);
            prop_assert_eq!(total(&plan), total(&next));
            // Outside the part that is cut out nothing moves.
            let before = minutes_of(&plan, 1);
            for (at, minutes) in minutes_of(&next, 1).into_iter().enumerate() {
                let date = day(i32::try_from(at).unwrap());
                let is_cut = (part.from..=part.to).contains(&date);
                prop_assert!(if is_cut { minutes <= before[at] } else { (minutes - before[at]).abs() <= 1 }, "{date}");
            }
        }
    }

    /// A split moves no minute, in any unit, but for shares of a cut week that are rounded.
    #[test]
    fn splitting_moves_nothing(from in 0i32..20, length in 1i32..20, value in 1i32..1_200, unit in unit(), at in 1i32..20) {
        let plan = with(&ground(), &[booking(50, 1, from, from + length, value, unit)]);
        let seen = plan.booking(BookingId(50)).unwrap();
        if let Ok(edits) = reshape::split(&plan, &seen, day(from + at)) {
            // Day by day: a rest of a cut week, or of hours in all, may lie on another day of it, by a minute.
            let next = after(&plan, edits);
            let moved: Vec<i32> = minutes_of(&plan, 1).iter().zip(minutes_of(&next, 1)).map(|(old, new)| new - old).collect();
            let slack = i32::from(matches!(unit, Unit::PerWeek | Unit::Total));
            prop_assert!(moved.iter().all(|minutes| minutes.abs() <= slack), "{moved:?}");
            prop_assert!(moved.iter().sum::<i32>().abs() <= i32::from(unit == Unit::PerWeek), "{moved:?}");
        }
    }

    /// The same hours in another unit are the same hours, to the rounding of that unit.
    #[test]
    fn another_unit_says_the_same(from in 0i32..14, length in 0i32..20, value in 30i32..1_200, unit in unit(), to in unit()) {
        let plan = with(&ground(), &[booking(50, 1, from, from + length, value, unit)]);
        let seen = plan.booking(BookingId(50)).unwrap();
        if let Some(amount) = reshape::in_unit(&plan, &seen, to) {
            let next = Booking { amount, ..seen.clone() };
            let (old, new) = (minutes_between(&plan, &seen, seen.start, seen.end), minutes_between(&plan, &next, seen.start, seen.end));
            prop_assert!((old - new).abs() <= i64::from(length + 1), "{old} and {new} minutes");
        }
    }
}

/// A plan of a few people with some skills and some bookings each.
fn people_with(people: &[(u8, u8)], booked: &[(i32, i32, i32, i32)]) -> Plan {
    let skills = ["cut", "weld", "paint"];
    let mut changes = vec![Change::Project(Edit::new(project(11))), Change::Project(Edit::new(project(12)))];
    for ((mask, role), id) in people.iter().zip(1..) {
        let skills =
            skills.iter().zip(0..).filter(|(_, bit)| mask >> bit & 1 == 1).map(|(skill, _)| (*skill).to_owned());
        let role = ["smith", "painter", ""][usize::from(*role)].to_owned();
        changes.push(Change::Person(Edit::new(Person { role, skills: skills.collect(), ..person(id) })));
    }
    let count = i32::try_from(people.len()).unwrap();
    let list: Vec<Booking> = booked
        .iter()
        .zip(100..)
        .map(|((who, start, length, minutes), id)| Booking {
            project: Some(ProjectId(11 + id % 2)),
            ..booking(id, 1 + who % count, *start, start + length, *minutes, Unit::PerDay)
        })
        .collect();
    with(&Plan::empty().with(&changes), &list)
}

proptest! {
    /// Takers against a plain reading of the rule: everybody asked one by one, compared by pairs.
    #[test]
    fn takers_are_all_who_can_and_the_best_come_first(
        people in prop::collection::vec((0u8..8, 0u8..3), 2..7),
        booked in prop::collection::vec((0i32..7, -2i32..6, 0i32..6, 30i32..600), 1..9),
    ) {
        let plan = people_with(&people, &booked);
        let seen = plan.booking(BookingId(100)).unwrap();
        let bucket = Bucket { from: day(0), to: day(6) };
        let minutes = minutes_between(&plan, &seen, day(0), day(6)).max(60);
        let need = Need::of_booking(&plan, &seen, bucket, minutes);
        let found = takers(&plan, &need, Grain::Week, day(0), 100);
        let Who::Person(owner) = seen.who else { unreachable!() };
        let owner = &plan.people[&owner].person;
        let slow = Rows::new(&plan, Grain::Week, day(0), day(6));
        for entry in plan.people.values() {
            let one = &entry.person;
            let shared = one.skills.iter().filter(|skill| owner.skills.contains(skill)).count();
            let same_role = !owner.role.is_empty() && one.role == owner.role;
            let asks = !owner.role.is_empty() || !owner.skills.is_empty();
            let room = slow.of_person(one.id, bucket).room;
            let can = one.id != owner.id && room > 0 && (!asks || shared > 0 || same_role);
            let taker = found.iter().find(|taker| taker.person == one.id);
            prop_assert_eq!(taker.is_some(), can, "{}", one.name);
            if let Some(taker) = taker {
                let on_project = booked.iter().zip(100..).any(|((who, ..), id)| {
                    1 + who % i32::try_from(people.len()).unwrap() == one.id.0 && Some(ProjectId(11 + id % 2)) == seen.project
                });
                prop_assert_eq!((taker.room, taker.takes, taker.on_project), (room, room.min(minutes), on_project));
                prop_assert_eq!((taker.skills.len(), taker.same_role), (shared, same_role));
            }
        }
        for pair in found.windows(2) {
            let fit = |taker: &snug_core::takers::Taker| taker.skills.len() + usize::from(taker.same_role);
            let rank = |taker: &snug_core::takers::Taker| (fit(taker), taker.takes, taker.on_project, taker.room);
            prop_assert!(rank(&pair[0]) >= rank(&pair[1]));
        }
    }

    /// Every group's row, asked for alone, is the row of the whole table; a project's people are those whose load it holds.
    #[test]
    fn a_row_alone_is_the_row_of_the_table(
        people in prop::collection::vec((0u8..8, 0u8..3), 2..7),
        booked in prop::collection::vec((0i32..7, -2i32..20, 0i32..9, 30i32..600), 1..9),
        counts in prop::bool::ANY,
    ) {
        let plan = people_with(&people, &booked);
        let measure = if counts { Measure::Projects } else { Measure::Minutes };
        let query = |group| Query { window: Window::new(day(0), day(20), day(0)), grain: Grain::Week, group, measure };
        let keys = [
            (Group::Role, RowKey::Role("smith".into())),
            (Group::Role, RowKey::Role(String::new())),
            (Group::Skill, RowKey::Skill("weld".into())),
            (Group::Skill, RowKey::Skill(String::new())),
            (Group::Project, RowKey::Project(Some(ProjectId(11)))),
            (Group::Project, RowKey::Project(Some(ProjectId(12)))),
        ];
        for (group, key) in keys {
            let whole = snug_core::load::table(&plan, &query(group));
            let row = whole.rows.iter().find(|row| row.key == key.text(&plan));
            let alone = Groups::for_one(&plan, query(group)).row(&key);
            let among = Groups::new(&plan, query(group)).row(&key);
            prop_assert_eq!(&alone, &among);
            match row {
                Some(row) => prop_assert_eq!(&alone, &row.band_cells),
                None => prop_assert!(alone.iter().all(|cell| cell.load == 0)),
            }
        }
    }

    /// Where a task is dropped it finishes on the first day by which the room holds it, reckoned day by day.
    #[test]
    fn a_drop_finishes_when_the_room_holds_it(
        booked in prop::collection::vec((0i32..1, -2i32..20, 0i32..9, 30i32..480), 0..6),
        effort in 1i64..4_000,
        at in 0i32..10,
    ) {
        let plan = people_with(&[(1, 0)], &booked);
        let waits = Task { start: None, finish: None, ..task(70, &[1], Some(effort)) };
        let plan = plan.with(&[new_task(waits.clone())]);
        let placed = tray::dropped(&plan, &waits, PersonId(1), day(at), day(0));
        let slow = Rows::new(&plan, Grain::Day, day(0), day(0));
        let mut left = effort;
        let holds = |date: &snug_core::Day| {
            left -= slow.room_on(PersonId(1), *date);
            left <= 0
        };
        prop_assert_eq!((placed.start, placed.finish), (Some(day(at)), day(at).through(day(at + 300)).find(holds)));
    }
}
