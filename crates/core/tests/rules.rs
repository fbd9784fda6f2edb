//! Properties that must hold for any plan, and the worked example.
#![allow(clippy::unwrap_used, clippy::type_complexity, clippy::needless_for_each)] // a test may fail where it stands

mod support;

use proptest::prelude::*;
use snug_core::{
    AbsenceId, Actor, BookingId, Command, HolidayId, PersonId, Plan, ProjectId, RefusalCode, Role, TeamId,
    cells::{Band, Grain},
    change::{Change, Edit, inverse_of},
    demand::{Window, person_load},
    kinds::{
        Absence, Amount, Booking, Certainty, Contour, DatedPattern, Holiday, Pattern, Person, Project, Record as _,
        Task, Team, Unit, Who,
    },
    load::{Group, Measure, Query, table},
    plan::{Batch, BatchBooking, Brick},
};
use support::day;

fn person(id: i32, pattern: [i32; 7], week_limit: Option<i32>) -> Change {
    Change::Person(Edit::new(Person {
        role: ["rigger", "writer"][usize::try_from(id % 2).unwrap()].into(),
        calendar: "c".into(),
        patterns: vec![DatedPattern { from: None, pattern: Pattern(vec![pattern]) }],
        week_limit,
        ..support::person(id)
    }))
}

fn project(id: i32, parent: Option<i32>) -> Change {
    Change::Project(Edit::new(Project { parent: parent.map(ProjectId), ..support::project(id) }))
}

fn booking(id: i32, who: i32, project: i32, range: (i32, i32), amount: (i32, Unit), certainty: Certainty) -> Booking {
    Booking {
        id: BookingId(id),
        reference: String::new(),
        who: Who::Person(PersonId(who)),
        project: Some(ProjectId(project)),
        start: day(range.0),
        end: day(range.1),
        amount: Amount { value: amount.0, unit: amount.1 },
        certainty,
        days_off: false,
        note: String::new(),
        line: String::new(),
    }
}

fn task(id: i32, project: i32, who: i32, range: (i32, i32), minutes: i64) -> Change {
    Change::Task(Edit::new(Task {
        project: ProjectId(project),
        contour: Contour::Bell,
        start: Some(day(range.0)),
        finish: Some(day(range.1)),
        ..support::task(id, &[who], Some(minutes))
    }))
}

fn holiday(id: i32, offset: i32, fraction: i32) -> Change {
    let name = String::new();
    Change::Holiday(Edit::new(Holiday { id: HolidayId(id), calendar: "c".into(), date: day(offset), name, fraction }))
}

const FOUR_DAYS: [i32; 7] = [480, 480, 480, 480, 0, 0, 0];

/// Two people, three projects (the third inside the first), a holiday, a half day, some time off.
fn ground() -> Plan {
    Plan::empty().with(&[
        person(1, FOUR_DAYS, Some(28 * 60)),
        person(2, [420, 450, 480, 300, 240, 0, 60], None),
        project(11, None),
        project(12, None),
        project(13, Some(11)),
        holiday(21, 0, 1_000_000),
        holiday(22, 8, 333_333),
        Change::Absence(Edit::new(Absence {
            id: AbsenceId(23),
            reference: String::new(),
            person: PersonId(2),
            start: day(3),
            end: day(9),
            kind: String::new(),
            minutes: Some(45),
            at: None,
        })),
    ])
}

fn query(grain: Grain, group: Group) -> Query {
    Query { window: Window::new(day(0), day(27), day(-30)), grain, group, measure: Measure::Minutes }
}

#[test]
fn the_worked_example() {
    let plan = ground().with(&[
        Change::Booking(Edit::new(booking(31, 1, 11, (1, 4), (300, Unit::PerDay), Certainty::Firm))),
        Change::Booking(Edit::new(booking(32, 1, 12, (1, 2), (5_000, Unit::Percent), Certainty::Firm))),
    ]);
    let week = table(&plan, &query(Grain::Week, Group::Person)).rows[0].band_cells[0];
    assert_eq!((week.limit, week.load, week.room, week.spill, week.peak), (Some(1_440), 1_380, 60, 0, 120));
    assert_eq!(week.band(80), Some(Band::Over));
}

#[test]
fn a_task_fills_the_booking_of_its_project_or_of_the_nearest_one_above() {
    let booked = booking(31, 2, 11, (14, 18), (120, Unit::PerDay), Certainty::Pencilled);
    let plan = ground().with(&[Change::Booking(Edit::new(booked)), task(41, 13, 2, (14, 18), 200)]);
    let load = person_load(&plan, &plan.people[&PersonId(2)], &query(Grain::Week, Group::Person).window, true);
    let week = load.days.indexes(day(14), day(18));
    let inside = load.slots.iter().find(|slot| slot.project == Some(ProjectId(11))).unwrap();
    assert_eq!(inside.load.sum(week.clone()), 600, "the booking holds the task");
    assert_eq!(inside.firm.sum(week), 200, "the task makes it firm");
    assert!(load.slots.iter().all(|slot| slot.project != Some(ProjectId(13))));
}

#[test]
fn a_late_task_fills_days_from_today_up_to_the_limit() {
    let plan = ground().with(&[task(41, 12, 1, (-10, -6), 1_000)]);
    let window = Window::new(day(0), day(6), day(1));
    let load = person_load(&plan, &plan.people[&PersonId(1)], &window, false);
    assert_eq!(load.load.iter().collect::<Vec<_>>(), [0, 480, 480, 40, 0, 0, 0]);
    assert!(load.tasks[0].late);
}

#[test]
fn commands_are_refused_in_words() {
    let plan = ground();
    let good = booking(0, 1, 11, (1, 4), (300, Unit::PerDay), Certainty::Firm);
    let refused = |change: &dyn Fn(&mut Booking)| {
        let mut booking = good.clone();
        change(&mut booking);
        plan.decide(&Command::PlaceBooking { booking }, day(0)).unwrap_err()
    };
    assert_eq!(refused(&|b| b.end = day(0)).field, "end");
    assert_eq!(refused(&|b| b.amount.value = 0).field, "amount");
    assert_eq!(refused(&|b| b.who = Who::Person(PersonId(99))).field, "who");
    assert_eq!(refused(&|b| b.project = Some(ProjectId(99))).field, "project");
    assert_eq!(refused(&|b| b.note = "x".repeat(2_001)).field, "note");
}

#[test]
fn a_command_that_saw_another_value_is_refused_with_the_one_that_stands() {
    let plan = ground();
    let place = |plan: &Plan, booking: Booking| plan.decide(&Command::PlaceBooking { booking }, day(0)).unwrap();
    let first = place(&plan, booking(0, 1, 11, (1, 4), (300, Unit::PerDay), Certainty::Firm));
    let plan = plan.with(&first);
    let seen = plan.bookings().next().unwrap();
    let to = Booking { end: day(8), ..seen.clone() };
    let moved = plan.decide(&Command::ChangeBooking { seen: seen.clone(), to: to.clone() }, day(0)).unwrap();
    let after = plan.with(&moved);
    let refusal = after.decide(&Command::RemoveBooking { seen: seen.clone() }, day(0)).unwrap_err();
    let standing = Change::Booking(Edit { before: None, after: Some(to.clone()) });
    assert_eq!((refusal.code, refusal.standing.as_deref()), (RefusalCode::ChangedMeanwhile, Some(&standing)));
    // The first entry cannot be taken back under the second; the second can, and then the first.
    let undo = |plan: &Plan, changes: &[Change]| {
        plan.decide(&Command::Undo { revision: 1, changes: changes.to_vec() }, day(0))
    };
    assert_eq!(undo(&after, &first).unwrap_err().code, RefusalCode::NotNow);
    let back = after.with(&undo(&after, &moved).unwrap());
    assert_eq!(back.bookings().collect::<Vec<_>>(), [seen]);
    assert_eq!(back.with(&undo(&back, &first).unwrap()).booking_count(), 0);
}

#[test]
fn what_others_build_on_cannot_be_taken_back() {
    let plan = ground();
    let brought = [project(50, None)];
    let plan = plan.with(&brought);
    let plan =
        plan.with(&[Change::Booking(Edit::new(booking(51, 1, 50, (1, 4), (60, Unit::PerDay), Certainty::Firm)))]);
    let undo = Command::Undo { revision: 1, changes: brought.to_vec() };
    assert_eq!(plan.decide(&undo, day(0)).unwrap_err().code, RefusalCode::NotNow);
}

#[test]
fn each_role_may_do_what_it_may() {
    let seen = booking(1, 1, 11, (0, 1), (60, Unit::PerDay), Certainty::Firm);
    let settings = snug_core::settings::Settings::default();
    let commands = [
        (Command::PlaceBooking { booking: seen.clone() }, Role::Lead),
        (Command::ChangeBooking { seen: seen.clone(), to: seen.clone() }, Role::Lead),
        (Command::RemoveBooking { seen: seen.clone() }, Role::Lead),
        (Command::Import { source: String::new(), data: Box::default() }, Role::Manager),
        (Command::ChangeSettings { seen: settings.clone(), to: settings.clone() }, Role::Administrator),
        (Command::Undo { revision: 1, changes: vec![Change::Booking(Edit::new(seen))] }, Role::Lead),
        (Command::Undo { revision: 1, changes: vec![project(9, None)] }, Role::Manager),
        (Command::Undo { revision: 1, changes: vec![Change::Settings(Edit::new(settings))] }, Role::Administrator),
    ];
    for (command, least) in &commands {
        for role in Role::ALL {
            let actor = Actor { role: *role, email: "nobody@example.test" };
            assert_eq!(actor.may(&ground(), command), role >= least, "{role} and {}", command.done(&ground()));
        }
    }
}

fn bookings() -> impl Strategy<Value = Vec<Booking>> {
    let amount = prop_oneof![
        (1..700).prop_map(|minutes| (minutes, Unit::PerDay)),
        (1..3_000).prop_map(|minutes| (minutes, Unit::PerWeek)),
        (1..6_000).prop_map(|minutes| (minutes, Unit::Total)),
        (1..12_000).prop_map(|share| (share, Unit::Percent)),
    ];
    let one = (1..=2, 11..=13, -20..30, 0..40, amount, prop::bool::ANY);
    prop::collection::vec(one, 0..8).prop_map(|list| {
        let make =
            |(at, (who, project, start, length, amount, firm)): (usize, (i32, i32, i32, i32, (i32, Unit), bool))| {
                let certainty = if firm { Certainty::Firm } else { Certainty::Pencilled };
                booking(100 + i32::try_from(at).unwrap(), who, project, (start, start + length), amount, certainty)
            };
        list.into_iter().enumerate().map(make).collect()
    })
}

fn placed(list: &[Booking]) -> Vec<Change> {
    list.iter().cloned().map(|booking| Change::Booking(Edit::new(booking))).collect()
}

#[test]
fn a_batch_is_a_change_for_each_record() {
    let ground = support::ground().with(&[Change::Person(Edit::new(support::person(4)))]);
    let one = |who: i32, value: i32, project: Option<i32>| {
        let booking =
            Booking { project: project.map(ProjectId), ..support::booking(0, who, 0, 4, value, Unit::PerDay) };
        BatchBooking { person: PersonId(who), project: booking.project, brick: Brick::of(&booking) }
    };
    let pieces = vec![vec![one(4, 60, Some(11)), one(1, 30, None)], vec![one(4, 90, Some(12))]];
    let off = support::absence(29, 1, 0, 4, None);
    let mut taken = ground.clone();
    taken.take_in(Batch { absences: vec![vec![off.clone()]], bookings: pieces, first: 29 });
    let told =
        |plan: &Plan| plan.bookings().map(|it| (it.id.0, it.who, it.amount.value, it.project)).collect::<Vec<_>>();
    assert_eq!(told(&taken).iter().map(|it| (it.0, it.2)).collect::<Vec<_>>(), [(31, 30), (30, 60), (32, 90)]);
    assert_eq!((taken.next_id(), taken.booking_count()), (33, 3));
    let mut changed = ground.with(&[Change::Absence(Edit::new(off))]);
    for booking in taken.bookings().collect::<Vec<_>>() {
        changed.apply(&Change::Booking(Edit::new(booking)));
    }
    assert_eq!((told(&taken), taken.booking(BookingId(32))), (told(&changed), changed.booking(BookingId(32))));
    for group in [Group::Person, Group::Project] {
        assert_eq!(table(&taken, &query(Grain::Day, group)), table(&changed, &query(Grain::Day, group)));
    }
}

proptest! {
    #[test]
    fn the_order_of_bookings_does_not_matter(list in bookings()) {
        let forward = ground().with(&placed(&list));
        let mut reversed = placed(&list);
        reversed.reverse();
        let backward = ground().with(&reversed);
        for group in [Group::Person, Group::Role, Group::Project] {
            prop_assert_eq!(table(&forward, &query(Grain::Week, group)), table(&backward, &query(Grain::Week, group)));
        }
    }

    #[test]
    fn applying_and_undoing_leaves_everything_as_it_was(kept in bookings(), more in bookings()) {
        let before = ground().with(&placed(&kept));
        let shifted: Vec<Booking> = more.into_iter().map(|booking| Booking { id: BookingId(booking.id.0 + 500), ..booking }).collect();
        let mut changes = placed(&shifted);
        changes.extend(kept.iter().map(|booking| Change::Booking(Edit::alter(booking.clone(), Booking { end: booking.end + 1, ..booking.clone() }))));
        let after = before.with(&changes).with(&inverse_of(&changes));
        prop_assert_eq!(before.bookings().collect::<Vec<_>>(), after.bookings().collect::<Vec<_>>());
        for group in [Group::Person, Group::Project] {
            prop_assert_eq!(table(&before, &query(Grain::Day, group)), table(&after, &query(Grain::Day, group)));
        }
    }

    /// With shares that add up to the whole, the rows of all teams hold everyone's figures, but for a minute of rounding a row.
    #[test]
    fn team_rows_add_up(list in bookings(), share in 1i32..9_999) {
        let team = |id: i32, code: &str, members: Vec<(PersonId, i32)>| Change::Team(Edit::new(Team {
            id: TeamId(id), code: code.into(), name: code.into(), members, ..Team::blank()
        }));
        let mut changes = placed(&list);
        changes.push(team(61, "east", vec![(PersonId(1), share), (PersonId(2), 5_000)]));
        changes.push(team(62, "west", vec![(PersonId(1), 10_000 - share)]));
        let plan = ground().with(&changes);
        let sum = |group| {
            let rows = table(&plan, &query(Grain::Week, group)).rows;
            let mut sums = [[0; 5]; 4];
            for row in rows {
                for (sum, cell) in sums.iter_mut().zip(&row.band_cells) {
                    let figures = [cell.limit.unwrap(), cell.load, cell.room, cell.spill, cell.peak];
                    sum.iter_mut().zip(figures).for_each(|(sum, figure)| *sum += figure);
                }
            }
            sums
        };
        for (people, teams) in sum(Group::Person).into_iter().zip(sum(Group::Team)) {
            for (people, teams) in people.into_iter().zip(teams) {
                prop_assert!((people - teams).abs() <= 3, "{people} and {teams}");
            }
        }
    }
}
