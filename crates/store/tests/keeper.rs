//! The plan in memory and the plan in the database are one: whatever is written is what is read, by whomever.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{prelude::*, strategy::ValueTree as _, test_runner::TestRunner};
use snug_core::{
    AbsenceId, Command, FieldId, HolidayId, LinkId, MilestoneId, PersonId, Plan, ProjectId, RefusalCode, TaskId,
    TeamId, TextId, TimeEntryId,
    change::{Change, Edit},
    fields::{FieldKind, FieldOf},
    import::{Dataset, record},
    kinds::{
        Absence, Assignees, Booking, Contour, DatedPattern, DatedRate, Field, Holiday, Kind, Link, LinkKind, Milestone,
        Pattern, PersonKind, Priority, ProjectStatus, Task, Team, TimeEntry, Who,
    },
    settings::{DateOrder, Settings},
    text::{Text, TextOn, TextSlot},
    trail,
};
use snug_store::{Error, Event, Keeper, News, ledger, load};
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
    time::Duration,
};
use support::{Database, edit, give, text_of, today};
use tokio::sync::broadcast::Receiver;

const MIRA: &str = "mira@tidewater.test";

/// Reads the tables anew.
async fn reread(keeper: &Keeper) -> Plan {
    load(keeper.db()).await.unwrap().unwrap().0
}

#[tokio::test]
async fn the_demo_is_read_as_it_was_written() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    assert_eq!(text_of(&reread(&keeper).await), text_of(&keeper.plan()));
    assert_eq!(reread(&keeper).await.revision, 1);
    assert_eq!(database.query("SELECT count(*) FROM ledger_change"), "683");
    // The same files again: nothing changes, and no entry is made.
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let data = Box::new(snug_exchange::csv::read_folder(&folder).unwrap());
    let again = give(&keeper, MIRA, Command::Import { source: "again".into(), data }).await;
    assert_eq!((again.revision, again.changes.len()), (1, 0));
}

/// One record of every kind with every field filled in.
fn everything(plan: &Plan) -> Vec<Change> {
    let (oona, teo) = (
        plan.find(Kind::Person, "oona@tidewater.test").unwrap(),
        plan.find(Kind::Person, "teo@tidewater.test").unwrap(),
    );
    let moon = ProjectId(plan.find(Kind::Project, "moon").unwrap());
    let (first, second) =
        (TaskId(plan.find(Kind::Task, "T06").unwrap()), TaskId(plan.find(Kind::Task, "T08").unwrap()));
    let field = FieldId(plan.find(Kind::Field, "task Bench").unwrap());
    let fields = BTreeMap::from([(field, "south".to_owned())]);
    let mut person = (*plan.people[&PersonId(oona)].person).clone();
    person.id = PersonId(0);
    person.email = "new@tidewater.test".into();
    person.kind = PersonKind::Equipment;
    person
        .patterns
        .push(DatedPattern { from: Some(today()), pattern: Pattern(vec![[60, 120, 180, 240, 300, 0, 0]; 2]) });
    person.rates.push(DatedRate { from: Some(today()), cost: Some("44.25".parse().unwrap()), bill: None });
    person.max_points = Some("8.5".parse().unwrap());
    let mut project = (*plan.records.projects[&moon]).clone();
    project.id = ProjectId(0);
    project.code = "lighthouse".into();
    project.status = ProjectStatus::Sketch;
    project.parent = Some(moon);
    let mut task = (*plan.tasks[&first]).clone();
    task.id = TaskId(0);
    task.reference = String::new();
    task.assignees = Assignees::Shares(vec![(PersonId(teo), 2_500), (PersonId(oona), 7_500)]);
    task.contour = Contour::Back;
    task.priority = Priority::Urgent;
    task.progress = Some("33.5".parse().unwrap());
    task.tags = vec!["a, b".into(), "c".into()];
    task.walk_in = true;
    task.fields = fields;
    vec![
        Change::Field(Edit::new(Field {
            id: FieldId(0),
            name: "Wood".into(),
            of: FieldOf::Task,
            kind: FieldKind::Choice,
            choices: vec!["oak".into()],
        })),
        Change::Person(Edit::new(person)),
        Change::Project(Edit::new(project)),
        Change::Task(Edit::new(task)),
        Change::Holiday(Edit::new(Holiday {
            id: HolidayId(0),
            calendar: "harbour".into(),
            date: today() + 3,
            name: "Regatta".into(),
            fraction: 333_333,
        })),
        Change::Absence(Edit::new(Absence {
            id: AbsenceId(0),
            reference: String::new(),
            person: PersonId(teo),
            start: today(),
            end: today() + 2,
            kind: "course".into(),
            minutes: Some(95),
            at: Some(570),
        })),
        Change::Team(Edit::new(Team {
            id: TeamId(0),
            code: "night".into(),
            name: "Night shift".into(),
            parent: None,
            owner: Some(PersonId(teo)),
            week_capacity: Some(1_234),
            walk_in_reserve: true,
            members: vec![],
        })),
        Change::Link(Edit::new(Link {
            id: LinkId(0),
            from: second,
            to: first,
            kind: LinkKind::Relates,
            lag_days: -3,
            note: "paint".into(),
        })),
        Change::TimeEntry(Edit::new(TimeEntry {
            id: TimeEntryId(0),
            reference: String::new(),
            person: PersonId(oona),
            date: today(),
            project: None,
            task: Some(first),
            minutes: 17,
            billable: true,
            note: "a note".into(),
            reason: String::new(),
        })),
        Change::Milestone(Edit::new(Milestone {
            id: MilestoneId(0),
            reference: "M9".into(),
            name: "Handover".into(),
            date: today() + 40,
            projects: vec![moon],
        })),
        Change::Text(Edit::new(Text {
            id: TextId(0),
            on: TextOn::Task,
            subject: first.0,
            slot: TextSlot::Description,
            author: MIRA.into(),
            day: today(),
            body: "Line one\n\nLine *two*".into(),
        })),
    ]
}

/// The record of a row of its kind's file.
fn row(plan: &Plan, kind: Kind, cells: &[(&str, &str)]) -> Change {
    let data = Dataset::of_row(kind.about().file, cells.iter().copied());
    record(plan, kind, &data, 0).unwrap()
}

/// What other records name: a sprint, a release, a list, a baseline.
fn named(plan: &Plan) -> Vec<Change> {
    let sprint = [
        ("code", "S1"),
        ("name", "One"),
        ("team", "sparks"),
        ("start", "2026-03-09"),
        ("finish", "2026-03-20"),
        ("state", "running"),
        ("goal", "The stars walk"),
    ];
    let baseline = [("code", "B1"), ("name", "Start"), ("kind", "sprint"), ("of", "S1"), ("date", "2026-03-09")];
    vec![
        row(plan, Kind::Sprint, &sprint),
        row(plan, Kind::Release, &[("code", "R1"), ("name", "First"), ("date", "2026-05-16"), ("state", "out")]),
        row(plan, Kind::List, &[("code", "next"), ("name", "Next"), ("teams", "sparks;design"), ("ideas", "behind")]),
        row(plan, Kind::Baseline, &baseline),
        row(plan, Kind::Template, &[("code", "hall"), ("name", "A hall"), ("says", "for small ones")]),
    ]
}

/// What names them.
fn naming(plan: &Plan) -> Vec<Change> {
    let item = [("list", "next"), ("task", "T06"), ("rank", "1.0625"), ("parked_until", "2026-04-01")];
    let meant =
        [("baseline", "B1"), ("task", "T06"), ("effort_h", "7.5"), ("points", "2.5"), ("teams", "sparks=60;design=40")];
    let task = [
        ("project", "moon"),
        ("title", "Star hinges"),
        ("sprint", "S1"),
        ("release", "R1"),
        ("constraint", "not after"),
        ("constraint_date", "2026-04-30"),
        ("milestones", "M1"),
        ("needs", "soldering"),
        ("accountable", "juno@tidewater.test"),
        ("waiting_on", "the timber yard"),
        ("stuck", "no brass"),
        ("followers", "oona@tidewater.test;mira@tidewater.test"),
        ("colour", "rose"),
        ("place", "1.5"),
    ];
    let check = [("task", "T06"), ("text", "Seal the lids"), ("done", "yes"), ("place", "2.25")];
    let reference =
        [("task", "T06"), ("address", "https://x.test/6"), ("title", "Six"), ("state", "open"), ("count", "-3")];
    let sum = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";
    let file = [
        ("task", "T06"),
        ("name", "lids.pdf"),
        ("type", "application/pdf"),
        ("bytes", "0"),
        ("sum", sum),
        ("at", "2026-03-10"),
        ("by", MIRA),
    ];
    let meeting = [
        ("ref", "G9"),
        ("project", "moon"),
        ("title", "Monday round"),
        ("people", "oona@tidewater.test;mira@tidewater.test"),
        ("date", "2026-03-09"),
        ("at", "09:30"),
        ("hours", "0.75"),
        ("every_weeks", "2"),
        ("until", "2026-06-01"),
    ];
    let risk = [
        ("ref", "R9"),
        ("project", "moon"),
        ("title", "No brass in April"),
        ("owner", "juno@tidewater.test"),
        ("probability", "4"),
        ("impact", "2"),
        ("response", "mitigate"),
        ("state", "happened"),
        ("tasks", "T06;T07"),
        ("due", "2026-04-01"),
    ];
    let line = [
        ("template", "hall"),
        ("line", "A"),
        ("title", "Drawings"),
        ("kind", "design"),
        ("roles", "designer;writer"),
        ("team", "design"),
        ("estimate_h", "7.5"),
        ("points", "2.5"),
        ("begins", "3"),
        ("days", "5"),
        ("contour", "front"),
        ("after", "SS A +2"),
    ];
    let budget = [("project", "moon"), ("line", "Models"), ("hours", "12.5"), ("money", "940.25")];
    let week = [("email", "oona@tidewater.test"), ("week", "2026-01-05"), ("state", "sent back"), ("note", "Tuesday?")];
    let sum = "0123456789abcdef".repeat(4) + ".pdf";
    let expense = [
        ("project", "moon"),
        ("task", "T02"),
        ("email", "oona@tidewater.test"),
        ("date", "2026-03-09"),
        ("what", "Felt"),
        ("quantity", "2.5"),
        ("unit", "m"),
        ("unit_price", "8.4"),
        ("receipt", sum.as_str()),
    ];
    let rows = [
        (Kind::BudgetLine, &budget[..]),
        (Kind::WeekSheet, &week[..]),
        (Kind::Expense, &expense[..]),
        (Kind::Item, &item[..]),
        (Kind::Meeting, &meeting[..]),
        (Kind::Risk, &risk[..]),
        (Kind::TemplateTask, &line[..]),
        (Kind::BaselineItem, &meant[..]),
        (Kind::Task, &task[..]),
        (Kind::Check, &check[..]),
        (Kind::Reference, &reference[..]),
        (Kind::Attachment, &file[..]),
    ];
    rows.map(|(kind, cells)| row(plan, kind, cells)).to_vec()
}

#[tokio::test]
async fn every_kind_of_record_is_written_altered_taken_back_and_removed() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    let before = text_of(&keeper.plan());
    let all = |plan: &Plan| [everything(plan), named(plan)].concat();
    let made = edit(&keeper, MIRA, all(&keeper.plan())).await;
    assert_eq!(made.changes.len(), all(&made.before).len(), "an entry of the log alters no record but itself");
    assert_eq!(text_of(&reread(&keeper).await), text_of(&keeper.plan()));
    let hung = edit(&keeper, MIRA, naming(&keeper.plan())).await;
    assert_eq!(text_of(&reread(&keeper).await), text_of(&keeper.plan()));
    let kinds: BTreeSet<Kind> = made.changes.iter().chain(&hung.changes).map(|change| change.subject().0).collect();
    // Bookings are placed by commands of their own, settings are changed, and trails follow.
    let apart = [Kind::Settings, Kind::Booking, Kind::Trail];
    let others = Kind::ALL.iter().copied().filter(|kind| !apart.contains(kind));
    assert_eq!(kinds, others.collect::<BTreeSet<Kind>>());
    give(&keeper, MIRA, Command::Undo { revision: hung.revision, changes: hung.changes }).await;
    assert_eq!(text_of(&reread(&keeper).await), text_of(&keeper.plan()));
    let Some(Change::Text(text)) = made.changes.iter().find(|change| matches!(change, Change::Text(_))) else {
        panic!()
    };
    let subject = text.after.as_ref().unwrap().subject;
    assert_eq!(keeper.texts_of(TextOn::Task, subject).await.unwrap(), [text.after.clone().unwrap()]);
    let undo = Command::Undo { revision: made.revision, changes: made.changes };
    let undone = give(&keeper, MIRA, undo).await;
    assert_eq!(text_of(&keeper.plan()), before);
    assert_eq!(text_of(&reread(&keeper).await), before);
    assert!(keeper.texts_of(TextOn::Task, subject).await.unwrap().is_empty());
    let redo = Command::Undo { revision: undone.revision, changes: undone.changes };
    give(&keeper, MIRA, redo).await;
    assert_eq!(text_of(&reread(&keeper).await), text_of(&keeper.plan()));
}

#[tokio::test]
async fn settings_are_kept_whole() {
    let database = Database::new();
    let keeper = database.founded().await;
    let seen = (*keeper.plan().settings).clone();
    let to = Settings {
        snug_mark: 75,
        date_order: DateOrder::MonthDay,
        levels: vec!["programme".into(), "project".into()],
        currency: "CHF".into(),
        day_minutes: 450,
        ..seen.clone()
    };
    give(&keeper, MIRA, Command::ChangeSettings { seen: seen.clone(), to: to.clone() }).await;
    assert_eq!(*reread(&keeper).await.settings, to);
    assert_eq!((to.level(0), to.level(1), to.level(5), seen.level(0)), ("programme", "project", "project", "project"));
    assert!(matches!(keeper.found(Settings::default()).await, Err(Error::WorkspaceExists)));
}

/// A random deed on a task, a booking or the log, by position.
#[derive(Clone, Debug)]
enum Deed {
    Rename(usize, String),
    Estimate(usize, Option<i64>),
    Assign(usize, usize),
    Book(usize, i32, i32),
    Shift(usize, i32),
    Unbook(usize),
    Log(usize, i64),
}

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![
        (any::<usize>(), "[a-z]{1,12}").prop_map(|(at, title)| Deed::Rename(at, title)),
        (any::<usize>(), prop::option::of(0i64..10_000)).prop_map(|(at, minutes)| Deed::Estimate(at, minutes)),
        (any::<usize>(), any::<usize>()).prop_map(|(at, who)| Deed::Assign(at, who)),
        (any::<usize>(), 0i32..60, 1i32..600).prop_map(|(who, start, minutes)| Deed::Book(who, start, minutes)),
        (any::<usize>(), -20i32..20).prop_map(|(at, days)| Deed::Shift(at, days)),
        any::<usize>().prop_map(Deed::Unbook),
        (any::<usize>(), 0i64..300).prop_map(|(who, minutes)| Deed::Log(who, minutes)),
    ]
}

/// The command of a deed on a plan as it stands.
fn command(plan: &Plan, deed: &Deed) -> Command {
    let task = |at: &usize| (**plan.tasks.values().nth(at % plan.tasks.len()).unwrap()).clone();
    let person = |at: &usize| *plan.people.keys().nth(at % plan.people.len()).unwrap();
    let booking = |at: &usize| plan.bookings().nth(at % plan.booking_count().max(1));
    let alter = |before: Task, after: Task| Command::Edit { changes: vec![Change::Task(Edit::alter(before, after))] };
    let book = |booking: Booking| Command::PlaceBooking { booking };
    match deed {
        Deed::Rename(at, title) => alter(task(at), Task { title: title.clone(), ..task(at) }),
        Deed::Estimate(at, estimate) => alter(task(at), Task { estimate: *estimate, ..task(at) }),
        Deed::Assign(at, who) => alter(task(at), Task { assignees: Assignees::Even(vec![person(who)]), ..task(at) }),
        Deed::Book(who, start, minutes) => {
            let mut fresh = booking(&0).unwrap();
            fresh.reference = String::new();
            fresh.who = Who::Person(person(who));
            fresh.start = today() + *start;
            fresh.end = today() + *start + 4;
            fresh.amount.value = *minutes;
            book(fresh)
        }
        Deed::Shift(at, days) => match booking(at) {
            Some(seen) => {
                let to = Booking { start: seen.start + *days, end: seen.end + *days, ..seen.clone() };
                Command::ChangeBooking { seen, to }
            }
            None => Command::Edit { changes: vec![] },
        },
        Deed::Unbook(at) => {
            booking(at).map_or(Command::Edit { changes: vec![] }, |seen| Command::RemoveBooking { seen })
        }
        Deed::Log(who, minutes) => {
            let (person, date) = (person(who), today());
            let logged = plan.logged_on(person, date).filter(|entry| entry.task.is_none() && entry.project.is_none());
            let seen = logged.map(|entry| i64::from(entry.minutes)).sum();
            Command::LogDay { person, date, project: None, task: None, seen, minutes: *minutes }
        }
    }
}

#[tokio::test]
async fn after_any_deeds_by_two_servers_all_three_plans_are_one() {
    let database = Database::new();
    let here = database.with_demo().await;
    let there = Keeper::start(database.open().await).await.unwrap();
    let mut runner = TestRunner::deterministic();
    let deeds = prop::collection::vec((any::<bool>(), deed()), 60).new_tree(&mut runner).unwrap().current();
    let (mut made, mut refused) = (0, 0);
    for (first, deed) in &deeds {
        let keeper = if *first { &here } else { &there };
        // A server that has not heard of the other's last entry yet decides on an older plan; it is told so and decides again.
        let wanted = command(&keeper.plan(), deed);
        match keeper.submit(MIRA, wanted, today()).await {
            Ok(_) => made += 1,
            Err(Error::Refused(refusal)) => {
                refused += 1;
                assert!(!refusal.message.is_empty());
            }
            Err(error) => panic!("{error}"),
        }
    }
    assert!(made > refused, "{made} made, {refused} refused");
    here.catch_up().await.unwrap();
    there.catch_up().await.unwrap();
    let read = reread(&here).await;
    assert_eq!(text_of(&here.plan()), text_of(&read));
    assert_eq!(text_of(&there.plan()), text_of(&read));
    // And all of it is what the ledger replays.
    let mut replayed = Plan::empty();
    for revision in 1..=read.revision {
        let changes = here.ledger().changes_of(revision).await.unwrap();
        replayed = replayed.with(&changes);
        replayed = replayed.with(&trail::edits(&replayed, &changes, today()));
    }
    assert_eq!(text_of(&replayed), text_of(&read));
    // Taken back one by one from the end, nothing is left of any of it.
    for revision in (1..=read.revision).rev() {
        let changes = here.ledger().changes_of(revision).await.unwrap();
        give(&here, MIRA, Command::Undo { revision, changes }).await;
    }
    assert_eq!(here.plan().people.len() + here.plan().tasks.len() + here.plan().booking_count(), 0);
}

#[tokio::test]
async fn who_wrote_on_an_old_plan_is_told_what_stands() {
    let database = Database::new();
    let here = database.with_demo().await;
    let there = Keeper::start(database.open().await).await.unwrap();
    let task = (**here.plan().tasks.values().next().unwrap()).clone();
    let to = |title: &str| Change::Task(Edit::alter(task.clone(), Task { title: title.into(), ..task.clone() }));
    edit(&here, MIRA, vec![to("First")]).await;
    // The other server may not have heard of it; what counts is what stands in the database.
    let refused = there.submit("teo@tidewater.test", Command::Edit { changes: vec![to("Second")] }, today()).await;
    let Err(Error::Refused(refusal)) = refused else { panic!() };
    assert_eq!(refusal.code, RefusalCode::ChangedMeanwhile);
    let Some(Change::Task(standing)) = refusal.standing.as_deref() else { panic!() };
    assert_eq!(standing.after.as_ref().unwrap().title, "First");
}

#[tokio::test]
async fn news_reach_the_other_server_by_themselves() {
    let database = Database::new();
    let here = database.with_demo().await;
    let there = Keeper::start(database.open().await).await.unwrap();
    let mut news = there.events();
    let booking = here.plan().bookings().next().unwrap();
    give(&here, MIRA, Command::RemoveBooking { seen: booking }).await;
    let heard = entry(&mut news).await;
    assert_eq!((heard.revision, heard.actor.as_str(), heard.title.as_str()), (2, MIRA, "Booking removed"));
    assert_eq!(heard.people.as_ref().map(Vec::len), Some(1), "one person's bookings were touched");
    assert_eq!(there.plan().revision, 2);
    let settings = (*here.plan().settings).clone();
    let to = Settings { snug_mark: 70, ..settings.clone() };
    give(&here, MIRA, Command::ChangeSettings { seen: settings, to }).await;
    assert_eq!(entry(&mut news).await.people, None, "everything may look different");
}

/// The next entry that is told.
async fn entry(news: &mut Receiver<Arc<News>>) -> Event {
    let heard = tokio::time::timeout(Duration::from_secs(20), news.recv()).await.unwrap().unwrap();
    let News::Entry(event) = &*heard else { panic!("{heard:?}") };
    event.clone()
}

#[tokio::test]
async fn a_database_that_lost_entries_is_believed_and_nothing_is_written_on_what_it_lost() {
    let database = Database::new();
    let here = database.with_demo().await;
    let there = Keeper::start(database.open().await).await.unwrap();
    let mut news = here.events();
    let booking = here.plan().bookings().next().unwrap();
    let place = |note: &str| {
        let (id, reference) = (snug_core::BookingId(0), String::new());
        let placed = Booking { id, reference, note: note.into(), ..booking.clone() };
        Command::Edit { changes: vec![Change::Booking(Edit::new(placed))] }
    };
    give(&here, MIRA, place("lost")).await;
    entry(&mut news).await;
    // The database is set up anew from a copy of a moment ago: the last entry is gone, and its number is given away again.
    database.query(
        "DELETE FROM booking WHERE note = 'lost'; DELETE FROM ledger_change WHERE revision = 2; \
         DELETE FROM ledger WHERE revision = 2; UPDATE workspace SET revision = 1",
    );
    let after = Keeper::start(database.open().await).await.unwrap();
    give(&after, MIRA, place("kept")).await;
    let notes = |keeper: &Keeper| {
        let all: BTreeSet<String> = keeper.plan().bookings().map(|booking| booking.note.clone()).collect();
        [all.contains("lost"), all.contains("kept"), all.contains("more")]
    };
    // Both had an entry 2; the one held in memory is not the one that stands, whether that was heard of meanwhile or not.
    let done = give(&here, MIRA, place("more")).await;
    assert_eq!((done.revision, notes(&here)), (3, [false, true, true]));
    // Pages are told to read everything again.
    let told = async { while !matches!(*news.recv().await.unwrap(), News::StartedOver(1 | 2)) {} };
    tokio::time::timeout(Duration::from_secs(20), told).await.unwrap();
    there.catch_up().await.unwrap();
    let read = text_of(&reread(&here).await);
    assert!(text_of(&here.plan()) == read && text_of(&there.plan()) == read);
}

#[tokio::test]
async fn the_ledger_is_asked_by_author_kind_and_words() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    let plan = keeper.plan();
    let project = (**plan.records.projects.values().next().unwrap()).clone();
    let named = |name: &str| snug_core::kinds::Project { name: name.into(), ..project.clone() };
    edit(&keeper, "ada@tidewater.test", vec![Change::Project(Edit::alter(project.clone(), named("100% Moon")))]).await;
    let booking = plan.bookings().next().unwrap();
    let removed = give(&keeper, MIRA, Command::RemoveBooking { seen: booking }).await;
    give(&keeper, MIRA, Command::Undo { revision: removed.revision, changes: removed.changes }).await;
    let ask = async |filter: ledger::Filter| {
        let found = keeper.ledger().entries(&ledger::Filter { limit: 10, ..filter }).await.unwrap();
        found.into_iter().map(|entry| entry.revision).collect::<Vec<_>>()
    };
    let none = ledger::Filter::default;
    assert_eq!(ask(none()).await, [4, 3, 2, 1]);
    assert_eq!(ask(ledger::Filter { before: Some(3), ..none() }).await, [2, 1]);
    assert_eq!(ask(ledger::Filter { actor: Some("ada@tidewater.test".into()), ..none() }).await, [2]);
    assert_eq!(
        ask(ledger::Filter { words: Some("100%".into()), ..none() }).await,
        [2],
        "a percent sign is a percent sign"
    );
    assert_eq!(ask(ledger::Filter { words: Some("%".into()), ..none() }).await, [2]);
    assert_eq!(ask(ledger::Filter { subject: Some((Kind::Project, Some(project.id.0))), ..none() }).await, [2, 1]);
    assert_eq!(ask(ledger::Filter { subject: Some((Kind::Text, None)), ..none() }).await, [1]);
    let text = |body: &str| {
        Change::Text(Edit::new(Text {
            id: TextId(0),
            on: TextOn::Project,
            subject: project.id.0,
            slot: TextSlot::Comment,
            author: MIRA.into(),
            day: today(),
            body: body.into(),
        }))
    };
    let written = give(&keeper, MIRA, Command::Edit { changes: vec![text("The moon is round.")] }).await;
    give(&keeper, MIRA, Command::Undo { revision: written.revision, changes: written.changes }).await;
    let of = |kind: Kind, id| ledger::Filter { subject: Some((kind, id)), ..none() };
    assert_eq!(
        ask(of(Kind::Project, Some(project.id.0))).await,
        [6, 5, 2, 1],
        "what is written on it is part of its past"
    );
    assert_eq!(ask(of(Kind::Task, Some(project.id.0))).await, [] as [i64; 0]);
    assert_eq!(ask(of(Kind::Text, None)).await, [6, 5, 1], "the demo came with some");
    assert_eq!(keeper.ledger().taken_back(&[1, 2, 3]).await.unwrap(), [(3, 4)]);
    assert_eq!(keeper.ledger().actors().await.unwrap(), ["ada@tidewater.test", MIRA]);
    let (undo, redo) = keeper.ledger().undo_and_redo(MIRA).await.unwrap();
    assert_eq!((undo.map(|entry| entry.revision), redo.map(|entry| entry.revision)), (Some(1), Some(6)));
}
