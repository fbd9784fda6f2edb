//! Making, altering and removing records of every kind by one command.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Actor, Command, FieldId, LinkId, PersonId, Plan, ProjectId, Refusal, RefusalCode, Role, TaskId, TeamId, TextId,
    change::{Change, Edit},
    demand::remaining_of,
    fields::{FieldKind, FieldOf},
    kinds::{Assignees, Field, Kind, Link, LinkKind, Project, Task, TimeEntry},
    settings::Settings,
    text::{Text, TextOn, TextSlot},
};
use support::{day, entry, ground, logged, new_task, person, project, task, team};

fn edit(plan: &Plan, changes: &[Change]) -> Result<Vec<Change>, Refusal> {
    plan.decide(&Command::Edit { changes: changes.to_vec() }, day(0))
}

fn done(plan: &Plan, changes: &[Change]) -> Plan {
    plan.with(&edit(plan, changes).unwrap())
}

#[test]
fn a_new_record_gets_an_identity_and_a_task_a_reference() {
    let plan = ground();
    let fresh = Task { id: TaskId(0), reference: String::new(), title: "  Crate  ".into(), ..task(0, &[1], Some(60)) };
    let made = edit(&plan, &[new_task(fresh)]).unwrap();
    let Change::Task(Edit { before: None, after: Some(made) }) = &made[0] else { panic!("{made:?}") };
    assert_eq!((made.id, made.reference.as_str(), made.title.as_str()), (TaskId(13), "T13", "Crate"));
    let plan = plan.with(&[new_task(made.clone())]);
    assert_eq!(plan.find(Kind::Task, "T13"), Some(13));
    assert_eq!(plan.people[&PersonId(1)].tasks.as_slice(), [TaskId(13)]);
}

#[test]
fn who_saw_another_value_is_refused_with_the_one_that_stands() {
    let before = ground();
    let theirs = Project { name: "Theirs".into(), ..project(11) };
    let plan = done(&before, &[Change::Project(Edit::alter(project(11), theirs.clone()))]);
    let mine = Change::Project(Edit::alter(project(11), Project { name: "Mine".into(), ..project(11) }));
    let refusal = edit(&plan, &[mine]).unwrap_err();
    assert_eq!(refusal.code, RefusalCode::ChangedMeanwhile);
    assert_eq!(refusal.standing.as_deref(), Some(&Change::Project(Edit { before: None, after: Some(theirs.clone()) })));
    let gone = edit(&plan, &[Change::Project(Edit::remove(theirs))]).unwrap();
    let plan = plan.with(&gone);
    let late = edit(&plan, &[Change::Project(Edit::alter(project(11), project(11)))]).unwrap_err();
    assert_eq!(late.code, RefusalCode::NotFound);
    assert_eq!(
        edit(&before, &[Change::Project(Edit::alter(project(11), project(11)))]),
        Ok(vec![]),
        "nothing to change"
    );
}

#[test]
fn what_cannot_be_is_refused_at_its_field() {
    let plan = ground();
    let field = |change: Change| edit(&plan, &[change]).unwrap_err().field;
    let someone = |alter: fn(&mut snug_core::kinds::Person)| {
        let mut one = person(0);
        one.email = "new@example.test".into();
        alter(&mut one);
        Change::Person(Edit::new(one))
    };
    assert_eq!(field(someone(|p| p.name = " ".into())), "name");
    assert_eq!(field(someone(|p| p.email = "no address".into())), "email");
    assert_eq!(field(someone(|p| p.email = "P1@Example.test".into())), "email", "taken already");
    assert_eq!(field(someone(|p| p.day_limit = Some(1_441))), "day_limit_h");
    assert_eq!(field(someone(|p| p.max_projects = Some(-1))), "max_projects");
    assert_eq!(field(someone(|p| p.patterns.clear())), "pattern");
    let work = |alter: fn(&mut Task)| {
        let mut one = task(0, &[1], None);
        one.reference = String::new();
        alter(&mut one);
        new_task(one)
    };
    assert_eq!(field(work(|t| t.title = String::new())), "title");
    assert_eq!(field(work(|t| t.finish = Some(day(-1)))), "finish");
    assert_eq!(field(work(|t| t.estimate = Some(-1))), "estimate_h");
    assert_eq!(field(work(|t| t.project = ProjectId(99))), "project");
    assert_eq!(field(work(|t| t.parent = Some(TaskId(99)))), "parent");
    assert_eq!(field(work(|t| t.assignees = Assignees::Even(vec![PersonId(9)]))), "assignees");
    assert_eq!(field(work(|t| t.assignees = Assignees::Shares(vec![(PersonId(1), 5_000)]))), "assignees");
    assert_eq!(field(work(|t| t.progress = Some(101.into()))), "progress");
    assert_eq!(field(Change::Project(Edit::new(Project { id: ProjectId(0), ..project(11) }))), "code");
    let late = TimeEntry { date: day(8), ..entry(0, 1, None, 60) };
    assert_eq!(field(logged(late)), "date", "more than a week ahead");
    assert_eq!(field(Change::Team(Edit::new(team(0, vec![(PersonId(1), 5_000), (PersonId(1), 1_000)])))), "members");
}

#[test]
fn nothing_is_booked_on_a_closed_project_however_it_is_asked() {
    let closed = Project { status: snug_core::kinds::ProjectStatus::Closed, ..project(12) };
    let plan = ground().with(&[Change::Project(Edit::alter(project(12), closed))]);
    let booking = snug_core::kinds::Booking {
        id: snug_core::BookingId(0),
        reference: String::new(),
        who: snug_core::kinds::Who::Person(PersonId(1)),
        project: Some(ProjectId(12)),
        start: day(0),
        end: day(4),
        amount: snug_core::kinds::Amount { value: 60, unit: snug_core::kinds::Unit::PerDay },
        certainty: snug_core::kinds::Certainty::Firm,
        days_off: false,
        note: String::new(),
        line: String::new(),
    };
    let by_edit = edit(&plan, &[Change::Booking(Edit::new(booking.clone()))]).unwrap_err();
    let by_place = plan.decide(&Command::PlaceBooking { booking }, day(0)).unwrap_err();
    assert_eq!((by_edit.message.as_str(), &by_edit), ("A12 is closed; open it again before booking on it.", &by_place));
}

#[test]
fn nothing_is_inside_itself() {
    let plan = done(
        &ground(),
        &[Change::Project(Edit::alter(project(12), Project { parent: Some(ProjectId(11)), ..project(12) }))],
    );
    let turned = Change::Project(Edit::alter(project(11), Project { parent: Some(ProjectId(12)), ..project(11) }));
    assert_eq!(edit(&plan, &[turned]).unwrap_err().message, "A project cannot be inside itself.");
    let plan = ground()
        .with(&[new_task(task(41, &[], None)), new_task(Task { parent: Some(TaskId(41)), ..task(42, &[], None) })]);
    let turned =
        Change::Task(Edit::alter(task(41, &[], None), Task { parent: Some(TaskId(42)), ..task(41, &[], None) }));
    assert_eq!(edit(&plan, &[turned]).unwrap_err().message, "A task cannot be inside itself.");
}

#[test]
fn a_circle_of_links_is_refused_and_named() {
    let tasks = [41, 42, 43].map(|id| new_task(task(id, &[], None)));
    let link = |from, to, kind| {
        let (from, to) = (TaskId(from), TaskId(to));
        Change::Link(Edit::new(Link { id: LinkId(0), from, to, kind, lag_days: 0, note: String::new() }))
    };
    let plan = ground().with(&tasks);
    let plan = done(&plan, &[link(41, 42, LinkKind::FinishStart), link(42, 43, LinkKind::HoldsUp)]);
    let refusal = edit(&plan, &[link(43, 41, LinkKind::StartStart)]).unwrap_err();
    assert_eq!(refusal.message, "This would close a circle: Task 41 → Task 42 → Task 43 → Task 41.");
    assert!(edit(&plan, &[link(43, 41, LinkKind::Relates)]).is_ok(), "relating closes nothing");
}

#[test]
fn nobody_gives_more_time_to_teams_than_there_is() {
    let plan = done(&ground(), &[Change::Team(Edit::new(team(0, vec![(PersonId(1), 6_000)])))]);
    let second =
        Change::Team(Edit::new(snug_core::kinds::Team { code: "b".into(), ..team(0, vec![(PersonId(1), 5_000)]) }));
    assert_eq!(edit(&plan, &[second]).unwrap_err().message, "P1 would give 110 % of their time to teams.");
}

#[test]
fn what_others_belong_to_stays_and_says_who_they_are() {
    let plan = ground().with(&[new_task(task(41, &[1], Some(60))), logged(entry(51, 1, Some(41), 30))]);
    let refusal = edit(&plan, &[Change::Task(Edit::remove(task(41, &[1], Some(60))))]).unwrap_err();
    assert_eq!(refusal.code, RefusalCode::NotNow);
    assert_eq!(refusal.message, "1 time entry still belongs to “Task 41”, so it stays. Set its stage to done instead.");
    let refusal = edit(&plan, &[Change::Person(Edit::remove(person(1)))]).unwrap_err();
    assert!(refusal.message.starts_with("1 task and 1 time entry still belong to “P1”"), "{}", refusal.message);
    assert!(edit(&plan, &[Change::Person(Edit::remove(person(2)))]).is_ok());
    // What goes together may go.
    let both = [
        Change::TimeEntry(Edit::remove(entry(51, 1, Some(41), 30))),
        Change::Task(Edit::remove(task(41, &[1], Some(60)))),
    ];
    assert!(edit(&plan, &both).is_ok());
}

#[test]
fn keys_follow_their_records() {
    let plan = ground();
    let (one, two) = (Project { code: "A12".into(), ..project(11) }, Project { code: "A11".into(), ..project(12) });
    let swapped =
        plan.with(&[Change::Project(Edit::alter(project(11), one)), Change::Project(Edit::alter(project(12), two))]);
    assert_eq!((swapped.find(Kind::Project, "A12"), swapped.find(Kind::Project, "A11")), (Some(11), Some(12)));
    let renamed = done(
        &plan,
        &[Change::Person(Edit::alter(
            person(1),
            snug_core::kinds::Person { email: "New@Example.test".into(), ..person(1) },
        ))],
    );
    assert!(renamed.person_by_email("p1@example.test").is_none());
    assert_eq!(renamed.person_by_email("new@example.TEST").unwrap().person.id, PersonId(1));
}

#[test]
fn own_fields_take_values_of_their_kind_only() {
    let field = Field {
        id: FieldId(31),
        name: "Bench".into(),
        of: FieldOf::Task,
        kind: FieldKind::Choice,
        choices: vec!["north".into()],
    };
    let plan = ground().with(&[Change::Field(Edit::new(field.clone()))]);
    let with = |value: &str| {
        let mut one = Task { reference: String::new(), ..task(0, &[], None) };
        one.fields.insert(FieldId(31), value.into());
        new_task(one)
    };
    let plan_with = done(&plan, &[with("north")]);
    assert_eq!(edit(&plan, &[with("west")]).unwrap_err().message, "Bench: “west” is not one of north");
    let refusal = edit(&plan_with, &[Change::Field(Edit::remove(field))]).unwrap_err();
    assert!(refusal.message.starts_with("1 task still belongs to “Bench”"), "{}", refusal.message);
}

#[test]
fn logging_lowers_what_is_left_and_taking_back_raises_it() {
    let typed = Task { remaining: Some(100), ..task(41, &[1], Some(200)) };
    let plan = ground().with(&[new_task(typed.clone())]);
    let remaining = |plan: &Plan| remaining_of(plan, &plan.tasks[&TaskId(41)]);
    let fresh = logged(TimeEntry { id: snug_core::TimeEntryId(0), ..entry(0, 1, Some(41), 70) });
    let first = edit(&plan, std::slice::from_ref(&fresh)).unwrap();
    assert_eq!(first.len(), 1, "the task itself does not change");
    let after = plan.with(&first);
    assert_eq!(remaining(&after), Some(30));
    assert_eq!(after.time_entries.values().next().unwrap().project, Some(ProjectId(11)), "that of its task");
    let over = done(&after, &[fresh]);
    assert_eq!(remaining(&over), Some(0), "never under nothing");
    let last = (**over.time_entries.values().next_back().unwrap()).clone();
    assert_eq!(
        remaining(&done(&over, &[Change::TimeEntry(Edit::remove(last))])),
        Some(30),
        "as if it had never been logged"
    );
    let undone = after.decide(&Command::Undo { revision: 1, changes: first }, day(0)).unwrap();
    assert_eq!(remaining(&after.with(&undone)), Some(100));
    let standing = (**after.time_entries.values().next().unwrap()).clone();
    assert_eq!(remaining(&done(&after, &[Change::TimeEntry(Edit::remove(standing))])), Some(100));
    // Where each has the full effort, what was typed is each one's.
    let full = Task { assignees: Assignees::Full(vec![PersonId(1), PersonId(2)]), ..typed };
    let plan = ground().with(&[new_task(full)]);
    assert_eq!(remaining(&done(&plan, &[logged(entry(0, 1, Some(41), 40))])), Some(80));
}

#[test]
fn a_day_has_twenty_four_hours() {
    let plan = ground().with(&[logged(entry(51, 1, None, 1_000))]);
    let refusal = edit(&plan, &[logged(entry(0, 1, None, 441))]).unwrap_err();
    assert_eq!(refusal.message, "P1 would have 24:01 hours on 2026-03-02; a day has 24.");
    assert!(edit(&plan, &[logged(entry(0, 1, None, 440))]).is_ok());
    assert!(edit(&plan, &[logged(entry(0, 2, None, 1_440))]).is_ok(), "another person");
}

#[test]
fn a_cell_of_the_week_sheet_is_set_to_its_minutes() {
    let log = |plan: &Plan, seen: i64, minutes: i64| {
        let command =
            Command::LogDay { person: PersonId(1), date: day(0), project: None, task: Some(TaskId(41)), seen, minutes };
        plan.decide(&command, day(0)).map(|changes| plan.with(&changes))
    };
    let there = |plan: &Plan| plan.logged_on(PersonId(1), day(0)).map(|entry| entry.minutes).collect::<Vec<_>>();
    let plan = ground().with(&[new_task(task(41, &[1], Some(600)))]);
    let plan = log(&plan, 0, 90).unwrap();
    assert_eq!(there(&plan), [90]);
    assert_eq!(there(&log(&plan, 90, 120).unwrap()), [120]);
    assert_eq!(there(&log(&plan, 90, 0).unwrap()), [] as [i32; 0]);
    let refusal = log(&plan, 0, 60).unwrap_err();
    assert_eq!((refusal.code, log(&plan, 90, 1_441).unwrap_err().field), (RefusalCode::ChangedMeanwhile, "minutes"));
    // Several entries: the last one gives way first.
    let two = plan.with(&[logged(entry(52, 1, Some(41), 60))]);
    assert_eq!(there(&log(&two, 150, 200).unwrap()), [90, 110]);
    assert_eq!(there(&log(&two, 150, 80).unwrap()), [80]);
    assert_eq!(there(&log(&two, 150, 150).unwrap()), [90, 60]);
}

#[test]
fn texts_are_decided_with_the_text_that_stands() {
    let text = |body: &str| Text {
        id: TextId(61),
        on: TextOn::Task,
        subject: 41,
        slot: TextSlot::Description,
        author: "p1@example.test".into(),
        day: day(0),
        body: body.into(),
    };
    let command = Command::Edit { changes: vec![Change::Text(Edit::alter(text("old"), text("new")))] };
    let plan = ground();
    assert!(plan.decide_with(&command, day(0), &[text("old")]).is_ok());
    let refusal = plan.decide_with(&command, day(0), &[text("theirs")]).unwrap_err();
    assert_eq!(refusal.code, RefusalCode::ChangedMeanwhile);
    assert_eq!(plan.decide(&command, day(0)).unwrap_err().code, RefusalCode::NotFound);
    let long = Change::Text(Edit::new(Text { body: "x".repeat(20_001), ..text("") }));
    assert_eq!(edit(&plan, &[long]).unwrap_err().field, "body");
}

#[test]
fn settings_keep_to_their_ranges() {
    let field = |alter: fn(&mut Settings)| {
        let mut to = Settings::default();
        alter(&mut to);
        ground().decide(&Command::ChangeSettings { seen: Settings::default(), to }, day(0)).unwrap_err().field
    };
    assert_eq!(field(|s| s.name = String::new()), "name");
    assert_eq!(field(|s| s.snug_mark = 0), "snug_mark");
    assert_eq!(field(|s| s.first_weekday = 7), "first_weekday");
    assert_eq!(field(|s| s.fiscal_start = 13), "fiscal_start");
    assert_eq!(field(|s| s.day_minutes = 30), "day_minutes");
    assert_eq!(field(|s| s.time_zone = "Mars/Olympus".into()), "time_zone");
    assert_eq!(field(|s| s.currency = "euro".into()), "currency");
    assert_eq!(field(|s| s.levels = vec![" ".into()]), "levels");
    let stale = Settings { name: "Old".into(), ..Settings::default() };
    let refusal =
        ground().decide(&Command::ChangeSettings { seen: stale, to: Settings::default() }, day(0)).unwrap_err();
    assert_eq!(refusal.code, RefusalCode::ChangedMeanwhile);
}

#[test]
fn each_role_changes_what_it_may() {
    let teams = [team(61, vec![]), team(62, vec![(PersonId(1), 5_000), (PersonId(2), 5_000)])];
    let plan = ground().with(&[new_task(task(41, &[1], Some(60)))]);
    let plan = plan.with(&teams.map(|team| Change::Team(Edit::new(team))));
    let may = |role, email, change: Change| Actor { role, email }.may(&plan, &Command::Edit { changes: vec![change] });
    let mine = "P1@example.test";
    let own = task(41, &[1], Some(60));
    let moved =
        Change::Task(Edit::alter(own.clone(), Task { stage: "done".into(), remaining: Some(0), ..own.clone() }));
    let retitled = Change::Task(Edit::alter(own.clone(), Task { title: "Else".into(), ..own }));
    let time = |who| logged(entry(0, who, None, 60));
    let remark = |author: &str| {
        let (id, on, slot) = (TextId(0), TextOn::Task, TextSlot::Comment);
        Change::Text(Edit::new(Text {
            id,
            on,
            subject: 41,
            slot,
            author: author.into(),
            day: day(0),
            body: "Yes".into(),
        }))
    };
    let named = Change::Person(Edit::alter(person(1), person(1)));
    let crew = Change::Team(Edit::alter(team(61, vec![]), team(61, vec![])));
    // change, a viewer, a member who is the first person, another member, a lead who is the second person, a manager
    let table: [(&str, Change, [bool; 5]); 7] = [
        ("moves a task of the first person", moved, [false, true, false, true, true]),
        ("retitles a task", retitled, [false, false, false, true, true]),
        ("logs time of the first person", time(1), [false, true, false, true, true]),
        ("logs time of the second person", time(2), [false, false, false, true, true]),
        ("comments as the first person", remark("p1@example.test"), [false, true, false, false, false]),
        ("changes a person", named, [false, false, false, false, true]),
        ("changes a team", crew, [false, false, false, false, true]),
    ];
    for (what, change, expected) in table {
        let got = [
            may(Role::Viewer, mine, change.clone()),
            may(Role::Member, mine, change.clone()),
            may(Role::Member, "stranger@example.test", change.clone()),
            may(Role::Lead, "p2@example.test", change.clone()),
            may(Role::Manager, "boss@example.test", change),
        ];
        assert_eq!(got, expected, "{what}");
    }
    assert_eq!(plan.records.teams[&TeamId(61)].members, []);
}
