//! Small plans with figures worked out by hand, one rule each.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    BookingId, PersonId, Plan, ProjectId, TaskId, TeamId, TimeEntryId,
    cells::{Band, Cell, Grain},
    change::{Change, Edit},
    demand::{Window, effort_of, is_stranded, person_load},
    effect::{Warning, warnings, week_effects},
    gesture::{self, Gesture},
    kinds::{Amount, Assignees, Booking, Certainty, Person, Project, ProjectStatus, Task, Team, TimeEntry, Unit, Who},
    load::{Group, Measure, Query, table},
    settings::{Envelope, Settings},
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
        line: String::new(),
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
        reason: String::new(),
    }))
}

fn window() -> Window {
    Window::new(day(0), day(13), day(0))
}

/// The minutes of the first person's first week, Monday to Sunday.
fn week(plan: &Plan) -> Vec<i32> {
    person_load(plan, &plan.people[&PersonId(1)], &window(), false).load.days(0..7).collect()
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

/// The first person's stranded bookings, looked at through a window.
fn stranded(plan: &Plan, (from, to): (i32, i32)) -> Vec<BookingId> {
    let entry = &plan.people[&PersonId(1)];
    let load = person_load(plan, entry, &Window::new(day(from), day(to), day(0)), false);
    entry.bookings().filter(|row| is_stranded(plan, entry, &load.days, row)).map(|row| row.id).collect()
}

#[test]
fn stranded_is_told_by_the_bookings_own_range_whatever_window_is_looked_at() {
    let off = |from: i32, to: i32| Change::Absence(Edit::new(support::absence(71, 1, from, to, None)));
    // Two weeks off in a booking of three: by the day it lands in the third.
    let away = plan().with(&[off(0, 13)]);
    let three_weeks = |unit| with_booking(&away, &booked((0, 20), 600, unit));
    for unit in [Unit::PerDay, Unit::Total, Unit::Percent] {
        assert_eq!(stranded(&three_weeks(unit), (0, 6)), [], "{unit}: its first weeks alone tell nothing");
    }
    // By the week two weeks of it find no day, also where only the third is seen.
    assert_eq!(stranded(&three_weeks(Unit::PerWeek), (14, 20)), [BookingId(31)]);
    assert_eq!(stranded(&with_booking(&away, &booked((0, 13), 600, Unit::PerDay)), (7, 34)), [BookingId(31)]);
}

#[test]
fn hours_lost_to_time_off_are_told_whole_days_too() {
    let off = |id: i32, at: i32, minutes| Change::Absence(Edit::new(support::absence(id, 1, at, at, minutes)));
    let plan = plan().with(&[off(71, 1, Some(240)), off(72, 2, None)]);
    let five_days = booked((0, 6), 300, Unit::PerDay);
    // Tuesday takes half of the five hours, Wednesday nothing; a weekend loses nothing.
    assert_eq!(warnings(&plan, &five_days), [Warning::Lost(PersonId(1), 150 + 300)]);
    assert_eq!(warnings(&plan, &booked((0, 6), 1_500, Unit::PerWeek)), [], "a week keeps its amount");
}

#[test]
fn a_hold_counts_under_every_setting() {
    for envelope in Envelope::ALL {
        let settings = Settings { envelope: *envelope, ..Settings::default() };
        let hold = Booking { project: None, ..booked((0, 0), 120, Unit::PerDay) };
        let plan = with_booking(&plan(), &hold).with(&[Change::Settings(Edit::new(settings))]);
        assert_eq!(week(&plan)[0], 120, "{envelope}, nothing beside it");
        let plan = with_tasks(&plan, &[task(41, Assignees::Even(vec![PersonId(1)]), 500)]);
        let tasks = if *envelope == Envelope::Bookings { 0 } else { 100 };
        assert_eq!(week(&plan)[0], 120 + tasks, "{envelope}, with a task");
    }
}

#[test]
fn a_task_of_a_closed_project_has_nothing_left() {
    let plan = with_tasks(&plan(), &[task(41, Assignees::Even(vec![PersonId(1)]), 500)]);
    let open = support::project(11);
    let closed = Project { status: ProjectStatus::Closed, ..open.clone() };
    let plan = plan.with(&[Change::Project(Edit::alter(open, closed))]);
    assert_eq!(effort_of(&plan, &plan.tasks[&TaskId(41)]).unwrap().minutes, 0);
    assert_eq!(week(&plan), [0; 7]);
}

#[test]
fn work_of_a_team_fills_its_booking_of_a_project_above() {
    let (outer, inner) = (support::project(11), Project { parent: Some(ProjectId(11)), ..support::project(13) });
    let team = Change::Team(Edit::new(support::team(61, vec![(PersonId(1), 10_000)])));
    let seat = Booking { who: Who::Team(TeamId(61)), ..booked((0, 4), 240, Unit::PerDay) };
    let work = Task { team: Some(TeamId(61)), project: inner.id, ..task(41, Assignees::Even(vec![]), 600) };
    let plan = plan().with(&[Change::Project(Edit::new(inner)), team]);
    let plan = with_tasks(&with_booking(&plan, &seat), &[work]);
    let rows = cells(&plan, Grain::Week, Group::Project, Measure::Minutes);
    let of = |key: &str| rows.iter().find(|(known, _)| known == key).unwrap().1[0].unwrap().load;
    assert_eq!(
        (of(&outer.code), of("A13")),
        (1_200, 0),
        "two hours a day of tasks lie inside the four that are booked"
    );
}

#[test]
fn points_of_inner_teams_stand_in_outer_ones_and_a_share_is_a_share() {
    let points = |id: i32, team, assignees| Task { points: Some(4.into()), team, ..task(id, assignees, 60) };
    let inner = Team { parent: Some(TeamId(61)), ..support::team(62, vec![(PersonId(2), 5_000)]) };
    let plan = plan().with(&[
        Change::Team(Edit::new(support::team(61, vec![(PersonId(1), 10_000)]))),
        Change::Team(Edit::new(inner)),
    ]);
    let plan = with_tasks(
        &plan,
        &[
            points(41, Some(TeamId(62)), Assignees::Even(vec![])),
            points(42, None, Assignees::Even(vec![PersonId(2)])),
            points(43, Some(TeamId(61)), Assignees::Even(vec![PersonId(2)])),
            points(44, Some(TeamId(62)), Assignees::Even(vec![PersonId(2)])),
        ],
    );
    let rows = cells(&plan, Grain::Week, Group::Team, Measure::Points);
    let of = |key: &str| rows.iter().find(|(known, _)| known == key).unwrap().1[0].unwrap().load;
    // The inner team: its own two, one without a person, and half of what its member does for nobody's team. The outer one: that, and
    // its own.
    assert_eq!((of("t62"), of("t61"), of("(no team)")), (1_000, 1_400, 200));
}

#[test]
fn roles_and_skills_are_told_apart_by_their_letters_alone() {
    let like = |id: i32, role: &str, skills: &[&str]| {
        let skills = skills.iter().map(|skill| (*skill).to_owned()).collect();
        Change::Person(Edit::alter(person(id), Person { role: role.into(), skills, ..person(id) }))
    };
    let plan = plan().with(&[like(1, "welder ", &["MIG", "mig", " Mig"]), like(2, "Welder", &["tig"])]);
    let seat = Booking { who: Who::Role("WELDER".into()), ..booked((0, 4), 60, Unit::PerDay) };
    let plan = with_booking(&plan, &seat);
    let told = |group| {
        let rows = cells(&plan, Grain::Week, group, Measure::Minutes);
        rows.into_iter().map(|(key, row)| (key, row[0].unwrap().limit, row[0].unwrap().load)).collect::<Vec<_>>()
    };
    assert_eq!(told(Group::Role), [("WELDER".to_owned(), Some(4_800), 300)], "the first spelling in text order");
    assert_eq!(
        told(Group::Skill),
        [("MIG".to_owned(), Some(2_400), 0), ("tig".to_owned(), Some(2_400), 0)],
        "three spellings are one skill, counted once"
    );
    let shown = |plan: &Plan| [plan.spellings().role("welder"), plan.spellings().skill("MIG")];
    assert_eq!(shown(&plan), ["WELDER", "MIG"]);
    let unsaid = |plan: Plan, change| shown(&plan.with(&[change]));
    assert_eq!(unsaid(plan.clone(), Change::Booking(Edit::remove(seat))), ["Welder", "MIG"], "the seat is gone");
    assert_eq!(unsaid(plan.clone(), like(1, "welder", &["mig"])), ["WELDER", "mig"], "the person says it otherwise");
    assert_eq!(shown(&plan), ["WELDER", "MIG"], "another plan keeps its own");
}

#[test]
fn a_booking_with_no_day_to_land_on_is_stranded_not_zero() {
    for unit in Unit::ALL {
        let lost = booked((5, 6), 600, *unit);
        let plan = with_booking(&plan(), &lost);
        assert_eq!(stranded(&plan, (0, 13)), [BookingId(31)], "{unit}");
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
    let typed = Task { remaining: Some(250), logged_then: 100, ..task(41, Assignees::Even(vec![one, two]), 600) };
    assert_eq!(parts(typed.clone(), &log), [75, 175], "350 planned, 175 each, of which the first has done 100");
    assert_eq!(
        parts(typed, &[logged(51, 41, 1, 100), logged(52, 41, 2, 250)]),
        [0, 0].map(|_| 0),
        "never below nothing"
    );
    let done = with_tasks(&plan(), &[Task { stage: "done".into(), ..task(41, Assignees::Even(vec![one]), 600) }]);
    assert_eq!(effort_of(&done, &done.tasks[&TaskId(41)]), None);
}

#[test]
fn a_parent_carries_what_is_not_broken_down_yet() {
    let one = || Assignees::Even(vec![PersonId(1)]);
    let inside =
        |id, estimate, stage: &str| Task { parent: Some(TaskId(41)), stage: stage.into(), ..task(id, one(), estimate) };
    let plan = with_tasks(&plan(), &[task(41, one(), 1_000), inside(42, 300, "to do"), inside(43, 500, "done")]);
    // What is done was 500 of it all the same, however long it took.
    assert_eq!(effort_of(&plan, &plan.tasks[&TaskId(41)]).unwrap().minutes, 200);
    assert_eq!(week(&plan).iter().sum::<i32>(), 200 + 300);
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
        walk_in_reserve: false,
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

/// A capacity of 50 h a week, of two people of whom one is off for two days and has a week limit: the limit does not touch it.
#[test]
fn a_typed_capacity_goes_with_its_members_days_in_every_grain() {
    let team =
        Team { week_capacity: Some(3_000), ..support::team(61, vec![(PersonId(1), 10_000), (PersonId(2), 5_000)]) };
    let limited = Person { week_limit: Some(600), ..person(2) };
    let plan = plan().with(&[
        Change::Team(Edit::new(team)),
        Change::Person(Edit::alter(person(2), limited)),
        Change::Absence(Edit::new(support::absence(71, 1, 3, 4, None))),
        Change::Settings(Edit::new(Settings { fiscal_start: 4, ..Settings::default() })),
    ]);
    let limits = |grain, to: i32| {
        let window = Window::new(day(0), day(to), day(0));
        let table = table(&plan, &Query { window, grain, group: Group::Team, measure: Measure::Minutes });
        let row = table.rows.into_iter().find(|row| row.key == "t61").unwrap();
        row.band_cells.iter().map(|cell| cell.limit.unwrap()).collect::<Vec<_>>()
    };
    // Eight of ten days are worked in the first week: 3,000 × 8 / 10. A day is a tenth of two people's week, once for each who works.
    assert_eq!(limits(Grain::Week, 13), [2_400, 3_000]);
    assert_eq!(limits(Grain::Day, 6), [600, 600, 600, 300, 300, 0, 0]);
    assert_eq!(limits(Grain::Fortnight, 27), [2_400, 6_000, 3_000], "2 March begins the second week of a fortnight");
    // From 2 March to the end of the month there are four weeks and two days; then the quarter of the fiscal year that starts in April.
    assert_eq!(limits(Grain::Quarter, 60)[0], 2_400 + 3 * 3_000 + 2 * 600);
    assert_eq!(limits(Grain::FiscalYear, 60)[0], limits(Grain::Month, 60)[0]);
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

#[test]
fn an_effect_reaches_as_far_as_the_change_does() {
    let long = booked((0, 7 * 60 - 1), 600, Unit::PerDay);
    let before = with_booking(&plan(), &long);
    let changes = [Change::Booking(Edit::remove(long))];
    assert_eq!(
        week_effects(&before, &before.with(&changes), &changes, day(0)).len(),
        60,
        "every week of more than a year"
    );

    // Late work waits in a queue: what is done first is work for the weeks to come, and whatever stands behind moves.
    let late = |id: i32, finish: i32| Task {
        start: Some(day(-20)),
        finish: Some(day(finish)),
        ..task(id, Assignees::Even(vec![PersonId(1)]), 4_800)
    };
    let before = with_tasks(&plan(), &[late(41, -9), late(42, -8)]);
    let changes = [Change::Task(Edit::alter(late(41, -9), Task { stage: "done".into(), ..late(41, -9) }))];
    let effects = week_effects(&before, &before.with(&changes), &changes, day(0));
    let told: Vec<_> = effects.iter().map(|e| (e.week.from, e.before.load, e.after.load)).collect();
    assert_eq!(told, [(day(14), 2_400, 0), (day(21), 2_400, 0)], "weeks after both its own days and today");

    // What is not broken down of a parent follows from what is inside it, whoever does that.
    let inside = Task { parent: Some(TaskId(41)), ..task(42, Assignees::Even(vec![PersonId(2)]), 500) };
    let before = with_tasks(&plan(), &[task(41, Assignees::Even(vec![PersonId(1)]), 1_000), inside.clone()]);
    let changes = [Change::Task(Edit::alter(inside.clone(), Task { estimate: Some(900), ..inside }))];
    let effects = week_effects(&before, &before.with(&changes), &changes, day(0));
    let told: Vec<_> = effects.iter().map(|e| (e.person, e.after.load - e.before.load)).collect();
    assert_eq!(told, [(PersonId(1), -400), (PersonId(2), 400)]);
}

#[test]
fn a_role_that_is_called_like_those_without_one_has_a_row_of_its_own() {
    let with_role = |id: i32, role: &str| Change::Person(Edit::new(Person { role: role.to_owned(), ..person(id) }));
    let plan = Plan::empty().with(&[with_role(1, "(no role)"), with_role(2, ""), with_role(3, "")]);
    let window = Window::new(day(0), day(6), day(0));
    let query = Query { window, grain: Grain::Week, group: Group::Role, measure: Measure::Minutes };
    let rows: Vec<(String, Option<i64>)> =
        table(&plan, &query).rows.into_iter().map(|row| (row.key, row.band_cells[0].limit)).collect();
    let alone = rows.iter().filter_map(|(_, limit)| *limit).min().unwrap();
    assert_eq!(rows.len(), 2, "{rows:?}");
    assert!(alone > 0 && rows.iter().all(|(key, _)| key == "(no role)"), "{rows:?}");
    assert_eq!(rows.iter().filter_map(|(_, limit)| *limit).sum::<i64>(), 3 * alone);
}
