//! Links and the dates that they leave, through every door by which they could be broken: the same sentence at each.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Command, Day, LinkId, Plan, ProjectId, Refusal, TaskId,
    change::{Change, Edit},
    import::{Dataset, Preview, preview_beside},
    kinds::{Link, LinkKind, Record as _, Task},
    network::Mode,
};
use support::{day, entry, logged, new_task, project};

fn task(id: i32, from: i32, to: i32) -> Task {
    Task {
        reference: format!("T{id}"),
        project: ProjectId(11),
        start: Some(day(from)),
        finish: Some(day(to)),
        ..support::task(id, &[], None)
    }
}

fn inside(id: i32, parent: i32) -> Task {
    Task { parent: Some(TaskId(parent)), ..task(id, 0, 1) }
}

fn link(from: i32, to: i32, kind: LinkKind) -> Change {
    Change::Link(Edit::new(Link { id: LinkId(0), from: TaskId(from), to: TaskId(to), kind, ..Link::blank() }))
}

fn with(tasks: &[Task], links: &[Change]) -> Plan {
    let plan = Plan::empty().with(&[Change::Project(Edit::new(project(11)))]);
    let plan = plan.with(&tasks.iter().cloned().map(new_task).collect::<Vec<_>>());
    links.iter().fold(plan, |plan, link| done(&plan, std::slice::from_ref(link)))
}

fn edit(plan: &Plan, changes: &[Change]) -> Result<Vec<Change>, Refusal> {
    plan.decide(&Command::Edit { changes: changes.to_vec() }, day(0))
}

fn done(plan: &Plan, changes: &[Change]) -> Plan {
    plan.with(&edit(plan, changes).unwrap())
}

fn go(plan: &Plan, id: i32, to: i32, mode: Mode) -> Result<Vec<Change>, Refusal> {
    let task = (*plan.tasks[&TaskId(id)]).clone();
    plan.decide(&Command::MoveTasks { tasks: vec![(task, day(to))], mode }, day(0))
}

fn altered(plan: &Plan, id: i32, alter: impl FnOnce(&mut Task)) -> Change {
    let before = (*plan.tasks[&TaskId(id)]).clone();
    let mut after = before.clone();
    alter(&mut after);
    Change::Task(Edit::alter(before, after))
}

fn import(plan: &Plan, file: &str, rows: &[&[(&str, &str)]]) -> Preview {
    let mut data = Dataset::of_row(file, rows[0].iter().copied());
    for (line, row) in (3..).zip(&rows[1..]) {
        data.add_row(file, line, row.iter().copied());
    }
    preview_beside(plan, &data, &[], day(0))
}

/// First day and last, by task.
fn dates(changes: &[Change]) -> Vec<(i32, Day, Day)> {
    let dates = |change: &Change| match change {
        Change::Task(Edit { after: Some(task), .. }) => Some((task.id.0, task.start?, task.finish?)),
        _ => None,
    };
    changes.iter().filter_map(dates).collect()
}

#[test]
fn a_circle_gets_the_same_sentence_at_each_door() {
    // 3 is inside 2, which 1 holds; whatever comes from 3 to 1 closes the circle.
    let plan = with(&[task(1, 0, 1), task(2, 7, 8), inside(3, 2)], &[link(1, 2, LinkKind::FinishStart)]);
    let sentence = "This would close a circle: Task 1 → Task 2 → Task 3 → Task 1.";
    assert_eq!(edit(&plan, &[link(3, 1, LinkKind::FinishStart)]).unwrap_err().message, sentence);
    let file = import(&plan, "links.csv", &[&[("from", "T3"), ("to", "T1"), ("type", "SS")]]);
    assert_eq!((file.problems[0].line, file.problems[0].reason.as_str()), (2, sentence));
    // By hand and by file, a task is put where its links would close one.
    let apart = with(
        &[task(1, 0, 1), task(2, 7, 8), task(3, 7, 8)],
        &[link(1, 2, LinkKind::FinishStart), link(3, 1, LinkKind::HoldsUp)],
    );
    let moved = altered(&apart, 3, |task| task.parent = Some(TaskId(2)));
    assert_eq!(edit(&apart, &[moved]).unwrap_err().message, sentence);
    let row = [("ref", "T3"), ("project", "A11"), ("parent", "T2"), ("title", "Task 3")];
    assert_eq!(import(&apart, "tasks.csv", &[&row]).problems[0].reason, sentence);
    // Taking back what was taken away since closes none either.
    let gone = edit(&plan, &[Change::Link(Edit::remove((**plan.records.links.values().next().unwrap()).clone()))]);
    let gone = gone.unwrap();
    let other = done(&plan.with(&gone), &[link(3, 1, LinkKind::FinishStart)]);
    let refusal = other.decide(&Command::Undo { revision: 1, changes: gone }, day(0)).unwrap_err();
    assert!(refusal.message.contains("close a circle"), "{refusal}");
}

#[test]
fn a_whole_is_linked_as_a_whole() {
    let plan = with(&[task(1, 0, 1), task(2, 7, 8), inside(3, 2)], &[]);
    let says = |from, to, kind| edit(&plan, &[link(from, to, kind)]).map(drop).map_err(|refusal| refusal.message);
    let by_start = "“Task 2” is a whole, and a whole cannot bind by its start; link one of the tasks inside.";
    let by_finish = "“Task 2” is a whole, and a whole cannot be bound by its finish; link one of the tasks inside.";
    for kind in [LinkKind::StartStart, LinkKind::StartFinish] {
        assert_eq!(says(2, 1, kind), Err(by_start.to_owned()));
    }
    for kind in [LinkKind::FinishFinish, LinkKind::StartFinish] {
        assert_eq!(says(1, 2, kind), Err(by_finish.to_owned()));
    }
    let inner = "“Task 3” is inside “Task 2”, so the two cannot be linked.";
    assert_eq!(says(3, 2, LinkKind::FinishStart), Err(inner.to_owned()));
    for (from, to, kind) in [(2, 1, LinkKind::FinishFinish), (1, 2, LinkKind::StartStart), (1, 2, LinkKind::Relates)] {
        assert_eq!(says(from, to, kind), Ok(()));
    }
    // What becomes a whole may not have such a link either.
    let plan = with(&[task(1, 0, 1), task(2, 7, 8), task(3, 7, 8)], &[link(2, 1, LinkKind::StartStart)]);
    let moved = altered(&plan, 3, |task| task.parent = Some(TaskId(2)));
    assert_eq!(edit(&plan, &[moved]).unwrap_err().message, by_start);
}

#[test]
fn dates_that_a_link_does_not_allow_are_refused_with_the_day_that_it_does() {
    // Monday to Friday; 2 may start on the Wednesday.
    let plan = with(&[task(1, 0, 1), task(2, 2, 3)], &[link(1, 2, LinkKind::FinishStart)]);
    let sentence = "“Task 2” can start on 2026-03-04 at the earliest, by its link from “Task 1”.";
    let early = altered(&plan, 2, |task| task.start = Some(day(1)));
    let refusal = edit(&plan, &[early]).unwrap_err();
    assert_eq!((refusal.field, refusal.message.as_str()), ("start", sentence));
    let row =
        [("ref", "T2"), ("project", "A11"), ("title", "Task 2"), ("start", "2026-03-03"), ("finish", "2026-03-05")];
    let found = import(&plan, "tasks.csv", &[&row]);
    assert_eq!((found.problems[0].column.as_str(), found.problems[0].reason.as_str()), ("start", sentence));
    // A hand's bar stops there.
    assert_eq!(dates(&go(&plan, 2, -7, Mode::Push).unwrap()), []);
    assert_eq!(dates(&go(&plan, 2, 5, Mode::Push).unwrap()), [(2, day(7), day(8))]);
    let finish = with(&[task(1, 0, 3), task(2, 2, 4)], &[link(1, 2, LinkKind::FinishFinish)]);
    let early = altered(&finish, 2, |task| task.finish = Some(day(2)));
    let sentence = "“Task 2” can finish on 2026-03-05 at the earliest, by its link from “Task 1”.";
    assert_eq!(edit(&finish, &[early]).unwrap_err().message, sentence);
    let held = altered(&plan, 2, |task| {
        (task.start, task.finish) = (Some(day(2)), Some(day(4)));
        (task.constraint, task.constraint_date) = (Some(snug_core::kinds::Constraint::NotBefore), Some(day(3)));
    });
    let sentence = "“Task 2” can start on 2026-03-05 at the earliest, as its constraint says.";
    assert_eq!(edit(&plan, &[held]).unwrap_err().message, sentence);
}

#[test]
fn other_dates_and_new_links_move_what_follows_in_the_same_entry() {
    let plan = with(&[task(1, 0, 1), task(2, 2, 3), task(3, 7, 8)], &[link(1, 2, LinkKind::FinishStart)]);
    let longer = edit(&plan, &[altered(&plan, 1, |task| task.finish = Some(day(2)))]).unwrap();
    assert_eq!(dates(&longer), [(1, day(0), day(2)), (2, day(3), day(4))]);
    let linked = edit(&plan, &[link(3, 2, LinkKind::StartStart)]).unwrap();
    assert_eq!(dates(&linked), [(2, day(7), day(8))]);
    // One entry, taken back as one.
    let after = plan.with(&longer);
    let back = after.with(&after.decide(&Command::Undo { revision: 1, changes: longer }, day(0)).unwrap());
    assert_eq!(back.tasks, plan.tasks);
    // A record that the same edit alters is altered once.
    let titled = altered(&plan, 2, |task| task.title = "Else".to_owned());
    let both = edit(&plan, &[altered(&plan, 1, |task| task.finish = Some(day(2))), titled]).unwrap();
    assert_eq!((both.len(), dates(&both)[1]), (2, (2, day(3), day(4))));
    // What is begun is not pushed, and the sentence says what would push it.
    let begun = done(&plan, &[altered(&plan, 2, |task| task.stage = "doing".to_owned())]);
    let sentence =
        "“Task 2” is begun and would have to start on 2026-03-05 by its link from “Task 1”, so nothing was moved.";
    let longer = altered(&begun, 1, |task| task.finish = Some(day(2)));
    assert_eq!(edit(&begun, &[longer]).unwrap_err().message, sentence);
    assert_eq!(go(&begun, 1, 1, Mode::Push).unwrap_err().message, sentence);
    let late = done(
        &plan,
        &[altered(&plan, 2, |task| {
            (task.constraint, task.constraint_date) = (Some(snug_core::kinds::Constraint::NotAfter), Some(day(3)));
        })],
    );
    let sentence = "“Task 2” would finish on 2026-03-06 by its link from “Task 1”, after 2026-03-05, its latest day, so nothing was moved.";
    assert_eq!(go(&late, 1, 1, Mode::Push).unwrap_err().message, sentence);
}

#[test]
fn a_file_that_brings_a_broken_link_is_taken_and_says_so() {
    let plan = with(&[task(1, 0, 1), task(2, 2, 3)], &[]);
    let found = import(&plan, "links.csv", &[&[("from", "T2"), ("to", "T1"), ("type", "FS")]]);
    assert_eq!((found.problems.len(), found.broken, found.changes.len()), (0, 1, 1), "nothing moves by a file");
    let kept = import(&plan, "links.csv", &[&[("from", "T1"), ("to", "T2"), ("type", "FS")]]);
    assert_eq!((kept.problems.len(), kept.broken), (0, 0));
}

#[test]
fn two_hundred_successors_move_by_one_command_and_back_by_one() {
    let mut tasks = vec![task(1, 0, 1)];
    tasks.extend((2..=201).map(|id| task(id, 2, 3)));
    let plan = with(&tasks, &[]);
    let links: Vec<Change> = (2..=201).map(|id| link(1, id, LinkKind::FinishStart)).collect();
    let plan = done(&plan, &links);
    let moved = go(&plan, 1, 1, Mode::Push).unwrap();
    assert_eq!(moved.len(), 201);
    assert!(dates(&moved)[1..].iter().all(|(_, start, finish)| (*start, *finish) == (day(3), day(4))));
    let after = plan.with(&moved);
    let back = after.with(&after.decide(&Command::Undo { revision: 1, changes: moved }, day(0)).unwrap());
    assert_eq!(back.tasks, plan.tasks);
}

#[test]
fn who_moves_what_somebody_else_has_moved_is_told() {
    let plan = with(&[task(1, 0, 1)], &[]);
    let stale = Task { finish: Some(day(3)), ..task(1, 0, 1) };
    let command = Command::MoveTasks { tasks: vec![(stale, day(7))], mode: Mode::Push };
    let refusal = plan.decide(&command, day(0)).unwrap_err();
    assert_eq!(refusal.code, snug_core::RefusalCode::ChangedMeanwhile);
    assert!(refusal.standing.is_some());
}

#[test]
fn lines_become_tasks_inside_each_other_and_one_that_cannot_be_is_named() {
    let ana = snug_core::kinds::Person { name: "Ana Berg".into(), ..support::person(1) };
    let plan = with(&[task(1, 0, 1)], &[]).with(&[Change::Person(Edit::new(ana))]);
    let write = |text: &str| {
        let (project, parent) = (ProjectId(11), Some(TaskId(1)));
        plan.decide(&Command::WriteDown { project, parent, text: text.to_owned() }, day(0))
    };
    let made = write("Stage\n\tCut timber 8h\n\t\tSand\n\tPaint").unwrap();
    let made: Vec<Task> =
        made.iter().filter_map(|it| if let Change::Task(it) = it { it.after.clone() } else { None }).collect();
    let rows = made.iter().map(|it| (it.title.as_str(), it.parent.map(|id| id.0), it.estimate));
    let id = made[0].id.0;
    let expected = [
        ("Stage", Some(1), None),
        ("Cut timber", Some(id), Some(480)),
        ("Sand", Some(id + 1), None),
        ("Paint", Some(id), None),
    ];
    assert_eq!(rows.collect::<Vec<_>>(), expected);
    let cells = write("Title\tEstimate\tAssignees\tStart\tFinish\nCut\t1d\tana berg\t2026-03-09\t2026-03-10").unwrap();
    let Change::Task(Edit { after: Some(cut), .. }) = &cells[0] else { panic!("a task") };
    assert_eq!((cut.estimate, cut.start, cut.assignees.people().count()), (Some(480), Some(day(7)), 1));
    let refused = |text: &str| write(text).unwrap_err().message;
    assert_eq!(
        refused("Stage\nCut\tmany\n"),
        "Line 2, estimate: “many” is no duration; write 4, 1.5, 4h, 1d 2h, 90m, 1:30 or 2w."
    );
    assert_eq!(refused("Cut\t8\tnobody"), "Line 1, assignees: there is no person “nobody”.");
}

#[test]
fn a_baseline_keeps_what_was_meant_and_tells_what_became_of_it() {
    let sized = |id: i32, hours: i64| Task { estimate: Some(hours * 60), ..task(id, 0, 1) };
    let plan = with(&[sized(1, 4), sized(2, 8), sized(3, 2), inside(4, 3)], &[]);
    // What was worked already is meant as well, beyond the estimate too.
    let plan = plan.with(&[logged(entry(90, 1, Some(1), 300)), logged(entry(91, 1, Some(2), 60))]);
    let made = plan.decide(&Command::Freeze { project: ProjectId(11), name: " First ".into() }, day(0)).unwrap();
    let plan = plan.with(&made);
    let baseline = (**plan.records.baselines.values().next().unwrap()).clone();
    assert_eq!((baseline.code.as_str(), baseline.name.as_str(), baseline.date), ("B-A11-1", "First", day(0)));
    let mut items: Vec<(i32, Option<i64>)> =
        plan.records.baseline_items.values().map(|item| (item.task.0, item.effort)).collect();
    items.sort_unstable();
    // The third holds two hours that its only task does not cover.
    assert_eq!(items, [(1, Some(300)), (2, Some(480)), (3, Some(120)), (4, None)]);
    assert_eq!(snug_core::network::differences(&plan, &baseline), []);
    let other = Change::Project(Edit::new(project(12)));
    let after = plan.with(&[other, new_task(sized(5, 3))]);
    let later = altered(&after, 1, |task| task.finish = Some(day(3)));
    let larger = altered(&after, 2, |task| task.estimate = Some(600));
    let gone = altered(&after, 4, |task| (task.project, task.parent) = (ProjectId(12), None));
    let after = after.with(&[later, larger, gone]);
    let told = snug_core::network::differences(&after, &baseline);
    let told: Vec<_> = told.iter().map(|it| (it.task.0, it.added, it.dropped, it.slipped, it.grown)).collect();
    assert_eq!(
        told,
        [
            (1, false, false, Some(2), 0),
            (2, false, false, Some(0), 120),
            (4, false, true, None, 0),
            (5, true, false, None, 180),
        ]
    );
    // What was meant does not change when the work does; another baseline is made beside it.
    let second = after.decide(&Command::Freeze { project: ProjectId(11), name: "Second".into() }, day(7)).unwrap();
    assert_eq!(after.with(&second).records.baselines.len(), 2);
    let none = after.decide(&Command::Freeze { project: ProjectId(13), name: "None".into() }, day(7)).unwrap_err();
    assert_eq!(none.field, "project");
}
