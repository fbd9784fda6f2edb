//! The way of a week from open to approved, corrections of it, and lines of budgets.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Actor, Command, PersonId, Plan, Role, TeamId,
    change::{Change, Edit},
    kinds::{
        BudgetLine, BudgetLineId, Expense, ExpenseId, Record as _, Task, TimeEntry, WeekSheet, WeekSheetId, WeekState,
    },
};
use support::{day, entry, ground, logged, new_task, task, team};

fn sheet(state: WeekState) -> WeekSheet {
    let note = if state == WeekState::SentBack { "Thursday?".to_owned() } else { String::new() };
    WeekSheet { id: WeekSheetId(70), person: PersonId(1), week: day(0), state, note, ..WeekSheet::blank() }
}

fn at(state: WeekState) -> Plan {
    ground().with(&[logged(entry(51, 1, None, 120)), Change::WeekSheet(Edit::new(sheet(state)))])
}

fn decided(plan: &Plan, change: Change) -> Result<Vec<Change>, String> {
    plan.decide(&Command::Edit { changes: vec![change] }, day(9)).map_err(|refusal| refusal.message)
}

#[test]
fn a_week_that_is_shut_keeps_its_hours_but_for_corrections_with_a_reason() {
    let more = TimeEntry { id: snug_core::TimeEntryId(0), date: day(3), ..entry(0, 1, None, 60) };
    let approved = at(WeekState::Approved);
    let told = "P1’s week of 2026-03-02 is approved and locked; a correction of it says its reason.";
    assert_eq!(decided(&approved, logged(more.clone())).unwrap_err(), told);
    let there = entry(51, 1, None, 120);
    let gone = Change::TimeEntry(Edit::remove(there.clone()));
    assert_eq!(decided(&approved, gone).unwrap_err(), told);
    let moved = Change::TimeEntry(Edit::alter(there.clone(), TimeEntry { date: day(7), ..there }));
    assert_eq!(decided(&approved, moved).unwrap_err(), told, "nor does it leave the week");
    let on = (PersonId(1), day(0));
    let typed = Command::LogDay { person: on.0, date: on.1, project: None, task: None, seen: 0, minutes: 30 };
    assert_eq!(approved.decide(&typed, day(9)).unwrap_err().message, told);
    let told = "P1’s week of 2026-03-02 is handed in; take it back to change it.";
    assert_eq!(decided(&at(WeekState::HandedIn), logged(more.clone())).unwrap_err(), told);
    for plan in [at(WeekState::SentBack), ground()] {
        decided(&plan, logged(more.clone())).unwrap();
    }
    let other = TimeEntry { person: PersonId(2), ..more.clone() };
    decided(&approved, logged(other)).unwrap();
    let later = TimeEntry { date: day(7), ..more.clone() };
    decided(&approved, logged(later)).unwrap();
    // A correction takes out no more than is there, and can itself be taken back.
    let less = |minutes| TimeEntry { minutes, reason: "The break".into(), ..entry(0, 1, None, 0) };
    let less = |minutes| logged(TimeEntry { id: snug_core::TimeEntryId(0), ..less(minutes) });
    let made = decided(&approved, less(-120)).unwrap();
    let corrected = approved.with(&made);
    assert_eq!(corrected.logged_on(PersonId(1), day(0)).map(|it| it.minutes).sum::<i32>(), 0);
    let undone = corrected.decide(&Command::Undo { revision: 1, changes: made }, day(9)).unwrap();
    assert_eq!(corrected.with(&undone).time_entries, approved.time_entries);
    let told = "P1 would have −0:01 hours there on 2026-03-02; take out no more than was logged.";
    assert_eq!(decided(&approved, less(-121)).unwrap_err(), told);
    let silent = Change::TimeEntry(Edit::new(TimeEntry { reason: String::new(), minutes: -5, ..more }));
    assert_eq!(decided(&ground(), silent).unwrap_err(), "Say why hours are taken out again.");
}

#[test]
fn taking_away_what_a_correction_needs_is_refused() {
    let less = TimeEntry { minutes: -60, reason: "The break".into(), ..entry(52, 1, None, 0) };
    let plan = ground().with(&[logged(entry(51, 1, None, 120)), logged(less.clone())]);
    let gone = Change::TimeEntry(Edit::remove(entry(51, 1, None, 120)));
    assert!(decided(&plan, gone).unwrap_err().contains("take out no more than was logged"));
    // The cell of the sheet counts both; what is typed there leaves the correction as it is.
    let typed = |seen, minutes| Command::LogDay {
        person: PersonId(1),
        date: day(0),
        project: Some(snug_core::ProjectId(11)),
        task: None,
        seen,
        minutes,
    };
    let left = |minutes| {
        let next = plan.with(&plan.decide(&typed(60, minutes), day(9)).unwrap());
        next.logged_on(PersonId(1), day(0)).map(|it| it.minutes).collect::<Vec<_>>()
    };
    assert_eq!((left(90), left(0), left(60)), (vec![150, -60], vec![60, -60], vec![120, -60]));
    assert!(plan.decide(&typed(120, 0), day(9)).unwrap_err().message.contains("Somebody else has logged time"));
}

#[test]
fn a_member_hands_in_their_own_week_and_a_lead_approves_those_of_their_teams() {
    use WeekState::{Approved, HandedIn, SentBack};
    let teams = [team(61, vec![(PersonId(1), 5_000), (PersonId(2), 5_000)]), team(62, vec![(PersonId(3), 5_000)])];
    let three = Change::Person(Edit::new(support::person(3)));
    let plan = ground().with(&[three]).with(&teams.map(|team| Change::Team(Edit::new(team))));
    assert!(plan.records.teams.contains_key(&TeamId(61)));
    let may = |role, email: &str, from: Option<WeekState>, to: Option<WeekState>| {
        let edit = Edit { before: from.map(sheet), after: to.map(sheet) };
        Actor { role, email }.may(&plan, &Command::Edit { changes: vec![Change::WeekSheet(edit)] })
    };
    let own = |from, to| may(Role::Member, "p1@example.test", from, to);
    assert!(own(None, Some(HandedIn)) && own(Some(SentBack), Some(HandedIn)) && own(Some(HandedIn), None));
    assert!(!own(None, Some(Approved)) && !own(Some(HandedIn), Some(Approved)) && !own(Some(Approved), None));
    assert!(!may(Role::Member, "p2@example.test", None, Some(HandedIn)), "nobody hands in another's");
    assert!(may(Role::Lead, "p2@example.test", Some(HandedIn), Some(Approved)));
    assert!(may(Role::Lead, "p2@example.test", Some(HandedIn), Some(SentBack)));
    assert!(!may(Role::Lead, "p3@example.test", Some(HandedIn), Some(Approved)), "of another team");
    assert!(may(Role::Manager, "x@example.test", Some(Approved), Some(SentBack)));
    assert!(!may(Role::Viewer, "p1@example.test", None, Some(HandedIn)));
}

#[test]
fn a_line_that_is_named_is_there_and_stays() {
    let line = BudgetLine {
        id: BudgetLineId(80),
        project: snug_core::ProjectId(11),
        line: "Build".into(),
        ..BudgetLine::blank()
    };
    let plan = ground().with(&[Change::BudgetLine(Edit::new(line.clone()))]);
    let on = |name: &str| new_task(Task { line: name.into(), ..task(0, &[1], None) });
    let no_such = "There is no budget line “Paint” in this project, nor in what it is inside.";
    assert_eq!(decided(&plan, on("Paint")).unwrap_err(), no_such);
    let plan = plan.with(&decided(&plan, on("Build")).unwrap());
    let spent = Expense {
        id: ExpenseId(0),
        project: snug_core::ProjectId(11),
        line: "Build".into(),
        date: day(0),
        what: "Oak".into(),
        amount: Some(12.into()),
        ..Expense::blank()
    };
    let plan = plan.with(&decided(&plan, Change::Expense(Edit::new(spent))).unwrap());
    let gone = Change::BudgetLine(Edit::remove(line.clone()));
    let told = "2 records still name “Build”; put such tasks, bookings and expenses on another line first.";
    assert_eq!(decided(&plan, gone).unwrap_err(), told);
    let renamed = BudgetLine { line: "Wood".into(), ..line.clone() };
    assert_eq!(decided(&plan, Change::BudgetLine(Edit::alter(line, renamed))).unwrap_err(), told);
}

#[test]
fn a_week_is_filled_with_what_was_planned_or_with_the_week_before() {
    use snug_core::{
        ProjectId,
        hours::{Cells, Filling},
        kinds::Unit,
    };
    let booked = support::booking(31, 1, 0, 4, 240, Unit::PerDay);
    let before = |id, at| logged(TimeEntry { date: day(at), billable: false, ..entry(id, 1, Some(41), 90) });
    // On Monday to Thursday the task was planned with its estimate, whatever is left of it, and today with what is left.
    let plan = ground().with(&[
        Change::Booking(Edit::new(booked)),
        new_task(task(41, &[1], Some(500))),
        before(51, -7),
        before(52, 1),
    ]);
    let fill = |with, cells| {
        let command = Command::FillWeek { person: PersonId(1), week: day(2), with, cells };
        plan.decide(&command, day(2)).map(|changes| {
            let entry = |change: &Change| match change {
                Change::TimeEntry(edit) => edit.after.clone(),
                _ => None,
            };
            let made = changes.iter().filter_map(entry);
            made.map(|it| (it.date.since(day(0)), it.task.map(|id| id.0), it.minutes, it.billable)).collect::<Vec<_>>()
        })
    };
    let all = fill(Filling::Planned, Cells::default()).unwrap();
    // What is there stays, and days to come are not logged.
    assert_eq!(
        all,
        [
            (0, None, 140, true),
            (1, None, 140, true),
            (2, None, 133, true),
            (0, Some(41), 100, false),
            (2, Some(41), 107, false),
        ]
    );
    let line = Some((Some(ProjectId(11)), Some(snug_core::TaskId(41))));
    assert_eq!(fill(Filling::Planned, Cells { line, day: Some(day(0)) }).unwrap(), [(0, Some(41), 100, false)]);
    assert_eq!(fill(Filling::LastWeek, Cells::default()).unwrap(), [(0, Some(41), 90, false)]);
    let told = "Nothing is planned there that is not logged yet; days to come are logged once they are worked.";
    assert_eq!(fill(Filling::Planned, Cells { line: None, day: Some(day(3)) }).unwrap_err().message, told);
}

#[test]
fn a_walk_in_is_made_and_logged_in_one_breath_by_who_takes_it_on() {
    let made = Task { requester: "Ada".into(), stage: "done".into(), ..task(0, &[1], None) };
    let command = Command::WalkIn { task: Box::new(made), entry: entry(0, 1, None, 45) };
    let plan = ground();
    let changes = plan.decide(&command, day(0)).unwrap();
    let after = plan.with(&changes);
    let task = after.tasks.values().find(|task| task.walk_in).unwrap();
    assert_eq!((task.requester.as_str(), after.logged[&task.id][0].minutes), ("Ada", 45));
    let may = |role, email: &str| Actor { role, email }.may(&plan, &command);
    assert!(may(Role::Member, "p1@example.test") && may(Role::Manager, "x@example.test"));
    assert!(!may(Role::Member, "p2@example.test") && !may(Role::Viewer, "p1@example.test"));
    let undo = Command::Undo { revision: 1, changes };
    let takes_back = |role, email: &str| Actor { role, email }.may(&after, &undo);
    assert!(takes_back(Role::Member, "p1@example.test") && !takes_back(Role::Member, "p2@example.test"));
    let undone = after.decide(&undo, day(0)).unwrap();
    assert_eq!(after.with(&undone).tasks, plan.tasks);
}

#[test]
fn time_is_logged_as_far_ahead_as_the_workspace_says() {
    let ahead = |days| logged(TimeEntry { date: day(9 + days), ..entry(0, 1, None, 60) });
    let plan = ground();
    assert!(decided(&plan, ahead(7)).is_ok());
    let told = "Time is logged once it is worked; this day is more than 7 days ahead.";
    assert_eq!(decided(&plan, ahead(8)).unwrap_err(), told);
    let settings = snug_core::settings::Settings { log_ahead: 0, ..(*plan.settings).clone() };
    let strict = plan.with(&[Change::Settings(Edit::alter((*plan.settings).clone(), settings))]);
    assert!(decided(&strict, ahead(0)).is_ok());
    let told = "Time is logged once it is worked; this day is still to come.";
    assert_eq!(decided(&strict, ahead(1)).unwrap_err(), told);
}

#[test]
fn what_remains_is_asked_anew_when_the_log_passes_the_estimate() {
    use snug_core::hours::asks_anew;
    let at = |minutes, changed: Task| {
        let plan = ground().with(&[new_task(changed), logged(entry(51, 1, Some(41), minutes))]);
        asks_anew(&plan, &plan.tasks[&snug_core::TaskId(41)])
    };
    assert!(!at(599, task(41, &[1], Some(600))), "there is something left");
    assert!(at(600, task(41, &[1], Some(600))));
    assert!(!at(700, Task { remaining: Some(60), logged_then: 700, ..task(41, &[1], Some(600)) }), "it was answered");
    assert!(!at(700, Task { stage: "done".into(), ..task(41, &[1], Some(600)) }));
    assert!(!at(700, task(41, &[1], None)), "nothing was thought");
}

#[test]
fn what_is_odd_about_a_week_is_said() {
    use snug_core::{
        ProjectId,
        hours::{Odd, oddities},
        week::week_sheet,
    };
    let planned = Task { finish: Some(day(3)), ..task(41, &[1], Some(960)) };
    let on = |id, at, on, minutes| logged(TimeEntry { date: day(at), ..entry(id, 1, on, minutes) });
    let plan = ground().with(&[
        new_task(planned),
        on(51, 0, Some(41), 500),
        on(52, 1, Some(41), 480),
        on(53, 3, None, 30),
        on(54, 5, Some(41), 60),
    ]);
    let sheet = week_sheet(&plan, PersonId(1), day(0), day(4)).unwrap();
    let expected = [
        Odd::Over(day(0), 20),
        Odd::Missing(day(2)),
        Odd::OnDayOff(day(5), 60),
        Odd::Unplanned((Some(ProjectId(11)), None), 30),
    ];
    assert_eq!(oddities(&sheet, day(4)), expected, "today may still be logged");
}

/// The example of the rules: 100 h to give, the last three sprints 24, 30 and 36 h of walk-ins: 30 h are held back.
#[test]
fn the_reserve_is_the_mean_of_the_last_three_finished_sprints() {
    use snug_core::{
        hours::walk_ins::WalkIns,
        kinds::{Sprint, SprintId, SprintState},
    };
    // Five days a week of 480 minutes, by halves of two people: 40 h a week, so that a hundred are two weeks and a half.
    let members = vec![(PersonId(1), 5_000), (PersonId(2), 5_000)];
    let sprint = |id: i32, week: i32, state| {
        Change::Sprint(Edit::new(Sprint {
            id: SprintId(id),
            code: format!("s{id}"),
            team: TeamId(61),
            start: day(7 * week),
            finish: day(7 * week + 16),
            state,
            ..Sprint::blank()
        }))
    };
    let finished = [(80, -15), (81, -12), (82, -9), (83, -6)];
    let walk_in = |id, who: &[i32], team: Option<i32>| {
        new_task(Task { walk_in: true, requester: format!("R{id}"), team: team.map(TeamId), ..task(id, who, None) })
    };
    let mut plan = ground().with(&[
        Change::Team(Edit::new(team(61, members))),
        Change::Team(Edit::new(team(62, vec![]))),
        walk_in(41, &[1], None),
        walk_in(42, &[1], Some(61)),
        walk_in(43, &[1], Some(62)),
        new_task(task(44, &[1], None)),
    ]);
    plan = plan.with(&finished.map(|(id, week)| sprint(id, week, SprintState::Finished)));
    plan = plan.with(&[sprint(84, 0, SprintState::Running)]);
    let mut id = 100;
    let mut log = |week: i32, on: i32, hours: i32| {
        (0..hours / 4).for_each(|at| {
            id += 1;
            let date = day(7 * week + at % 12);
            plan.apply(&logged(TimeEntry { date, ..entry(id, 1 + at % 2, Some(on), 240) }));
        });
    };
    // The oldest does not count; of a task of the team all does, of others the half, of another team's nothing, of no walk-in nothing.
    for (week, on, hours) in [(-15, 41, 400), (-12, 41, 48), (-9, 42, 28), (-9, 41, 4), (-6, 41, 72)] {
        log(week, on, hours);
    }
    for (week, on, hours) in [(-6, 43, 40), (-6, 44, 40)] {
        log(week, on, hours);
    }
    let walk_ins = WalkIns::of(&plan, TeamId(61));
    let reserve = walk_ins.reserve(day(0), day(16), day(0));
    let hours = |minutes: i64| minutes / 60;
    let sprints: Vec<_> = reserve.sprints.iter().map(|(id, took, had)| (id.0, hours(*took), hours(*had))).collect();
    assert_eq!(sprints, [(83, 36, 104), (82, 30, 104), (81, 24, 104)]);
    assert_eq!((hours(reserve.mean), hours(reserve.available), hours(reserve.minutes)), (30, 104, 30));
    let next = walk_ins.reserve(day(14), day(20), day(14)).minutes;
    assert_eq!(walk_ins.reserve(day(17), day(23), day(0)).minutes, 30 * 60 * 40 / 104, "other days are in proportion");
    assert_eq!(walk_ins.reserve(day(0), day(16), day(7)).minutes, 1_800, "days to come share what is left");
    assert_eq!(walk_ins.reserve(day(0), day(6), day(7)).minutes, 0);
    assert_eq!(next, 1_800 + 30 * 60 * 16 / 104 + 1, "what is left of the sprint, and half up two days beyond it");
    // Ten hours were logged in the sprint that runs and five remain: fifteen are left, and its second week has five of its eight days.
    let open = Task { walk_in: true, sprint: Some(SprintId(84)), team: Some(TeamId(61)), ..task(45, &[1], Some(900)) };
    let plan = plan.with(&[new_task(open), logged(entry(990, 1, Some(45), 600))]);
    let reserve = WalkIns::of(&plan, TeamId(61)).reserve(day(7), day(13), day(7));
    let running = reserve.running.unwrap();
    assert_eq!((hours(running.whole), hours(running.taken), hours(running.open)), (30, 10, 5));
    assert_eq!(reserve.minutes, 563, "900 × 40 / 64, half up");
    let walk_ins = WalkIns::of(&plan, TeamId(61));
    let taken = walk_ins.taken(day(-63), day(-47));
    assert_eq!(
        taken.by_requester.iter().map(|(who, it)| (who.as_str(), hours(*it))).collect::<Vec<_>>(),
        [("R41", 2), ("R42", 28)]
    );
    assert_eq!((hours(taken.minutes), taken.by_stage.len()), (30, 1));
    // Nothing is known of a team without finished sprints.
    assert_eq!(WalkIns::of(&plan, TeamId(62)).reserve(day(0), day(16), day(0)).minutes, 0);
}

/// Where the team had nothing to give in its finished sprints there is no proportion, and nothing is held back.
#[test]
fn walk_ins_on_days_off_alone_hold_nothing_back() {
    use snug_core::{
        hours::walk_ins::WalkIns,
        kinds::{Sprint, SprintId, SprintState},
    };
    let weekend = Sprint {
        id: SprintId(81),
        code: "s81".into(),
        team: TeamId(61),
        start: day(-2),
        finish: day(-1),
        state: SprintState::Finished,
        ..Sprint::blank()
    };
    let plan = ground().with(&[
        Change::Team(Edit::new(team(61, vec![(PersonId(1), 10_000)]))),
        Change::Sprint(Edit::new(weekend)),
        new_task(Task { walk_in: true, ..task(41, &[1], None) }),
        logged(TimeEntry { date: day(-2), ..entry(900, 1, Some(41), 60) }),
    ]);
    let reserve = WalkIns::of(&plan, TeamId(61)).reserve(day(0), day(4), day(0));
    assert_eq!((reserve.mean, reserve.available, reserve.minutes), (60, 2_400, 0));
}

/// Two days of eight hours were booked on each of two projects; ten hours went to a walk-in, and those are what it took away of the
/// thirty that were not worked, in proportion. Who had no walk-in is not looked at.
#[test]
fn a_walk_in_displaces_what_was_booked_in_its_week_as_far_as_it_reaches() {
    use snug_core::{
        ProjectId,
        hours::walk_ins::WalkIns,
        kinds::{Booking, Unit},
    };
    use std::collections::BTreeMap;
    use support::{booking, project};
    let members = vec![(PersonId(1), 10_000), (PersonId(2), 10_000)];
    let book = |id, who, on: i32, from, to| {
        let booking = Booking { project: Some(ProjectId(on)), ..booking(id, who, from, to, 480, Unit::PerDay) };
        Change::Booking(Edit::new(booking))
    };
    let log = |id, who, task: Option<i32>, on: i32, date, minutes| {
        let project = task.is_none().then_some(ProjectId(on));
        logged(TimeEntry { project, date: day(date), ..entry(id, who, task, minutes) })
    };
    let plan = ground().with(&[
        Change::Project(Edit::new(project(13))),
        Change::Team(Edit::new(team(61, members))),
        new_task(Task { walk_in: true, project: ProjectId(13), start: None, finish: None, ..task(41, &[1], None) }),
        book(81, 1, 11, -7, -6),
        book(82, 1, 12, -5, -4),
        book(83, 2, 12, -7, -3),
        log(91, 1, Some(41), 0, -6, 600),
        log(92, 1, None, 11, -7, 120),
    ]);
    let of = WalkIns::of(&plan, TeamId(61));
    let found = of.displaced(day(-7), day(0), day(0));
    // 14 h and 16 h were not worked of the two.
    assert_eq!(found, BTreeMap::from([(ProjectId(11), 280), (ProjectId(12), 320)]));
    assert_eq!(of.displaced(day(-14), day(-8), day(0)), BTreeMap::new(), "in another week nothing");
    let plan = plan.with(&[log(93, 1, None, 11, -7, 720), log(94, 1, None, 12, -5, 840)]);
    let found = WalkIns::of(&plan, TeamId(61)).displaced(day(-7), day(0), day(0));
    assert_eq!(found, BTreeMap::from([(ProjectId(11), 120), (ProjectId(12), 120)]), "no more than was not worked");
}
