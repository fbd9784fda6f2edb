//! Small plans with figures worked out by hand, one rule each.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    BookingId, PersonId, Plan, ProjectId, TaskId, TeamId, TimeEntryId,
    cells::{Band, Cell, Grain},
    change::{Change, Edit},
    demand::{Window, effort_of, person_load},
    effect::{Warning, warnings, week_effects},
    gesture::{self, Gesture},
    load::{Group, Measure, Query, table},
    people::Person,
    settings::{Envelope, Settings},
    work::{Amount, Assignees, Booking, Certainty, Task, Team, TimeEntry, Unit, Who},
};
use support::day;

fn person(id: i32) -> Person {
    Person { max_projects: Some(1), max_tasks: Some(2), ..support::person(id) }
}

fn project(id: i32) -> Change {
    Change::Project(Edit::new(support::project(id)))
}

fn plan() -> Plan {
    let people = [1, 2].map(|id| Change::Person(Edit::new(person(id))));
    Plan::empty().with(&people).with(&[project(11), project(12)])
}

fn booked(range: (i32, i32), value: i32, unit: Unit) -> Booking {
    Booking {
        id: BookingId(31),
        reference: String::new(),
        who: Who::Person(PersonId(1)),
        project: Some(ProjectId(11)),
        start: day(range.0),
        end: day(range.1),
        amount: Amount { value, unit },
        certainty: Certainty::Firm,
        days_off: false,
        note: String::new(),
    }
}

fn with_booking(plan: &Plan, booking: &Booking) -> Plan {
    plan.with(&[Change::Booking(Edit::new(booking.clone()))])
}

fn task(id: i32, assignees: Assignees, estimate: i64) -> Task {
    Task { assignees, ..support::task(id, &[], Some(estimate)) }
}

fn with_tasks(plan: &Plan, tasks: &[Task]) -> Plan {
    plan.with(&tasks.iter().cloned().map(|task| Change::Task(Edit::new(task))).collect::<Vec<_>>())
}

fn logged(id: i32, task: i32, who: i32, minutes: i32) -> Change {
    Change::TimeEntry(Edit::new(TimeEntry {
        id: TimeEntryId(id),
        reference: String::new(),
        person: PersonId(who),
        date: day(0),
        project: None,
        task: Some(TaskId(task)),
        minutes,
        billable: false,
        note: String::new(),
    }))
}

fn window() -> Window {
    Window::new(day(0), day(13), day(0))
}

/// The minutes of the first person's first week, Monday to Sunday.
fn week(plan: &Plan) -> Vec<i32> {
    person_load(plan, &plan.people[&PersonId(1)], &window(), false).load[..7].to_vec()
}

fn cells(plan: &Plan, grain: Grain, group: Group, measure: Measure) -> Vec<(String, Vec<Option<Cell>>)> {
    let table = table(plan, &Query { window: window(), grain, group, measure });
    table.rows.into_iter().map(|row| (row.key, row.cells)).collect()
}

#[test]
fn hours_a_week_are_cut_by_the_pattern_of_the_days_they_cover() {
    // Wednesday to Friday of the first week are three fifths of it.
    assert_eq!(week(&with_booking(&plan(), &booked((2, 13), 600, Unit::PerWeek))), [0, 0, 120, 120, 120, 0, 0]);
}

#[test]
fn total_hours_lose_no_minute_and_ties_go_to_the_earlier_day() {
    assert_eq!(week(&with_booking(&plan(), &booked((0, 6), 1_003, Unit::Total))), [201, 201, 201, 200, 200, 0, 0]);
}

#[test]
fn shares_that_add_up_to_the_whole_never_spill() {
    let mut someone = person(1);
    someone.day_limit = Some(437);
    let mut plan = plan().with(&[Change::Person(Edit::alter(person(1), someone))]);
    for (id, share) in [(31, 3_333), (32, 3_333), (33, 3_334)] {
        plan = with_booking(&plan, &Booking { id: BookingId(id), ..booked((0, 4), share, Unit::Percent) });
    }
    let row = &cells(&plan, Grain::Week, Group::Person, Measure::Minutes)[0].1;
    assert_eq!((row[0].unwrap().spill, row[0].unwrap().peak), (0, 0));
}

#[test]
fn a_booking_marked_for_days_off_counts_there_at_its_amount() {
    let marked = Booking { days_off: true, ..booked((4, 6), 180, Unit::PerDay) };
    let plan = with_booking(&plan(), &marked);
    assert_eq!(week(&plan), [0, 0, 0, 0, 180, 180, 180]);
    assert_eq!(warnings(&plan, &marked), [Warning::DaysOff(PersonId(1), 2)]);
}

#[test]
fn a_booking_with_no_day_to_land_on_is_stranded_not_zero() {
    for unit in Unit::ALL {
        let lost = booked((5, 6), 600, *unit);
        let plan = with_booking(&plan(), &lost);
        let load = person_load(&plan, &plan.people[&PersonId(1)], &window(), false);
        assert_eq!(load.stranded, [BookingId(31)], "{unit}");
        assert_eq!(warnings(&plan, &lost), [Warning::Stranded(PersonId(1))], "{unit}");
    }
}

#[test]
fn the_envelope_is_a_setting() {
    let plan = with_tasks(
        &with_booking(&plan(), &booked((0, 4), 60, Unit::PerDay)),
        &[task(41, Assignees::Even(vec![PersonId(1)]), 500)],
    );
    let monday = |envelope| {
        let settings = Settings { envelope, ..Settings::default() };
        week(&plan.with(&[Change::Settings(Edit::new(settings))]))[0]
    };
    let all = [Envelope::Larger, Envelope::Bookings, Envelope::Tasks, Envelope::Sum].map(monday);
    assert_eq!(all, [100, 60, 100, 160]);
}

#[test]
fn effort_is_cut_by_shares_less_what_each_has_logged() {
    let (one, two) = (PersonId(1), PersonId(2));
    let parts = |task: Task, log: &[Change]| {
        let plan = with_tasks(&plan(), &[task]).with(log);
        effort_of(&plan, &plan.tasks[&TaskId(41)]).unwrap().parts.into_iter().map(|(_, m)| m).collect::<Vec<_>>()
    };
    let log = [logged(51, 41, 1, 100)];
    assert_eq!(parts(task(41, Assignees::Even(vec![one, two]), 601), &[]), [301, 300]);
    assert_eq!(parts(task(41, Assignees::Shares(vec![(one, 7_000), (two, 3_000)]), 600), &log), [320, 180]);
    assert_eq!(parts(task(41, Assignees::Full(vec![one, two]), 600), &log), [500, 600]);
    let typed = Task { remaining: Some(250), ..task(41, Assignees::Even(vec![one, two]), 600) };
    assert_eq!(parts(typed, &log), [100, 150], "scaled to what was typed");
    let done = with_tasks(&plan(), &[Task { stage: "done".into(), ..task(41, Assignees::Even(vec![one]), 600) }]);
    assert_eq!(effort_of(&done, &done.tasks[&TaskId(41)]), None);
}

#[test]
fn a_parent_carries_what_is_not_broken_down_yet() {
    let one = || Assignees::Even(vec![PersonId(1)]);
    let inside =
        |id, estimate, stage: &str| Task { parent: Some(TaskId(41)), stage: stage.into(), ..task(id, one(), estimate) };
    let plan = with_tasks(&plan(), &[task(41, one(), 1_000), inside(42, 300, "to do"), inside(43, 500, "done")]);
    assert_eq!(effort_of(&plan, &plan.tasks[&TaskId(41)]).unwrap().minutes, 700);
    assert_eq!(week(&plan).iter().sum::<i32>(), 1_000);
}

#[test]
fn percent_has_no_figure_at_no_limit_and_counts_have_limits_of_their_own() {
    let plan = with_tasks(
        &with_booking(&plan(), &Booking { project: Some(ProjectId(12)), ..booked((0, 4), 240, Unit::PerDay) }),
        &[task(41, Assignees::Even(vec![PersonId(1)]), 300)],
    );
    let percent = &cells(&plan, Grain::Day, Group::Person, Measure::Percent)[0].1;
    assert_eq!(percent[0].unwrap().load, 63, "300 of 480 minutes, half up");
    assert_eq!(percent[5], None, "a Saturday");
    let projects = cells(&plan, Grain::Week, Group::Person, Measure::Projects)[0].1[0].unwrap();
    assert_eq!((projects.load, projects.limit, projects.spill), (2, Some(1), 1));
    let tasks = cells(&plan, Grain::Week, Group::Person, Measure::Tasks)[0].1[0].unwrap();
    assert_eq!((tasks.load, tasks.limit, tasks.room), (1, Some(2), 1));
}

#[test]
fn a_typed_team_capacity_replaces_the_shares() {
    let team = Team {
        id: TeamId(61),
        code: "east".into(),
        name: "East".into(),
        parent: None,
        owner: None,
        week_capacity: Some(3_000),
        members: vec![(PersonId(1), 10_000), (PersonId(2), 5_000)],
    };
    let plan = with_booking(&plan(), &booked((0, 4), 480, Unit::PerDay)).with(&[Change::Team(Edit::new(team))]);
    let rows = cells(&plan, Grain::Week, Group::Team, Measure::Minutes);
    let east = rows.iter().find(|(key, _)| key == "east").unwrap().1[0].unwrap();
    assert_eq!((east.limit, east.load, east.room), (Some(3_000), 2_400, 600));
    let rest = rows.iter().find(|(key, _)| key == "(no team)").unwrap().1[0].unwrap();
    assert_eq!(rest.limit, Some(1_200), "the other half of the second");
}

#[test]
fn work_with_no_person_takes_the_room_first_and_then_spills() {
    let seat = Booking { who: Who::Role("rigger".into()), ..booked((0, 4), 1_200, Unit::PerDay) };
    let busy = Booking { id: BookingId(32), ..booked((0, 4), 600, Unit::PerDay) };
    let plan = with_booking(&with_booking(&plan(), &busy), &seat);
    let row = cells(&plan, Grain::Week, Group::Role, Measure::Minutes)[0].1[0].unwrap();
    // 4,800 of limit; one is 600 over, the other has 2,400 of room, which the seat's 6,000 fill and exceed by 3,600.
    assert_eq!((row.limit, row.load, row.room, row.spill, row.peak), (Some(4_800), 9_000, 0, 4_200, 600));
    assert_eq!(row.over, 1);
}

#[test]
fn buckets_follow_the_first_weekday_and_the_fiscal_start() {
    let settings = Settings { first_weekday: 6, fiscal_start: 4, ..Settings::default() };
    let starts = |grain: Grain, to: i32| {
        let buckets = grain.buckets(day(0), day(to), &settings);
        buckets.iter().map(|bucket| bucket.from.to_string()).collect::<Vec<_>>()
    };
    assert_eq!(starts(Grain::Week, 13), ["2026-03-02", "2026-03-08", "2026-03-15"]);
    assert_eq!(starts(Grain::Quarter, 150), ["2026-03-02", "2026-04-01", "2026-07-01"]);
    assert_eq!(starts(Grain::FiscalYear, 400), ["2026-03-02", "2026-04-01", "2027-04-01"]);
}

#[test]
fn bands_are_told_by_the_figures() {
    use Band::{Away, Brim, Open, Over, Snug};
    let cell = |limit, load, peak| Cell { limit: Some(limit), load, peak, ..Cell::default() };
    let bands = [(0, 0, 0), (100, 79, 0), (100, 80, 0), (100, 100, 0), (100, 101, 0), (100, 10, 5), (0, 5, 5)]
        .map(|(limit, load, peak)| cell(limit, load, peak).band(80).unwrap());
    assert_eq!(bands, [Away, Open, Snug, Brim, Over, Over, Over]);
    assert_eq!(Cell::default().band(80), None);
}

#[test]
fn a_hand_moves_stretches_and_thickens() {
    let booking = booked((0, 4), 240, Unit::PerDay);
    let plan = with_booking(&plan(), &booking);
    let by = |gesture| gesture::after(&plan, &booking, &gesture);
    let moved = by(Gesture { shift: 7, to: Some(PersonId(2)), ..Gesture::default() });
    assert_eq!((moved.start, moved.end, moved.who), (day(7), day(11), Who::Person(PersonId(2))));
    let stretched = by(Gesture { end_shift: -9, ..Gesture::default() });
    assert_eq!((stretched.start, stretched.end), (day(0), day(0)), "an end never passes the other");
    let thicker = by(Gesture { thickness: Some((day(1), 367)), ..Gesture::default() });
    assert_eq!(thicker.amount.value, 360, "snapped to a quarter of an hour");
    let total = booked((0, 4), 600, Unit::Total);
    let plan = with_booking(&plan, &Booking { id: BookingId(32), ..total.clone() });
    let double = gesture::after(&plan, &total, &Gesture { thickness: Some((day(1), 240)), ..Gesture::default() });
    assert_eq!(double.amount, Amount { value: 1_200, unit: Unit::Total });
}

#[test]
fn the_effect_names_the_weeks_that_change() {
    let booking = booked((0, 4), 600, Unit::PerDay);
    let before = with_booking(&plan(), &booking);
    let moved = Booking { start: day(7), end: day(11), ..booking.clone() };
    let changes = [Change::Booking(Edit::alter(booking, moved))];
    let effects = week_effects(&before, &before.with(&changes), &changes, day(0));
    let told: Vec<_> = effects.iter().map(|e| (e.week.from, e.before.spill, e.after.spill)).collect();
    assert_eq!(told, [(day(0), 600, 0), (day(7), 0, 600)]);
}
