//! Estimate against actual, and the week sheet, on figures worked out by hand.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    BookingId, PersonId, Plan, ProjectId, TaskId,
    change::{Change, Edit},
    hours::{
        Actuals, By, Key,
        actuals::{Asked, table},
        of_person, of_project, of_task,
    },
    kinds::{Amount, Assignees, Booking, Certainty, Project, Task, TimeEntry, Unit, Who},
    week::week_sheet,
};
use support::{day, entry, ground, logged, new_task, project, task};

fn figures(actuals: &Actuals) -> (i64, i64, i64, i64, Option<i64>) {
    (actuals.estimate(), actuals.actual(), actuals.remaining(), actuals.projected(), actuals.variance())
}

fn of(plan: &Plan, id: i32) -> Actuals {
    of_task(plan, &plan.tasks[&TaskId(id)])
}

#[test]
fn a_task_is_compared_with_what_was_thought() {
    let plan = ground().with(&[new_task(task(41, &[1], Some(600))), logged(entry(51, 1, Some(41), 400))]);
    assert_eq!(figures(&of(&plan, 41)), (600, 400, 200, 600, Some(0)), "the rest of the estimate");
    let plan = plan.with(&[logged(entry(52, 1, Some(41), 300))]);
    assert_eq!(figures(&of(&plan, 41)), (600, 700, 0, 700, Some(100)), "never less than nothing is left");
    let typed = Task { remaining: Some(50), logged_then: 700, ..task(41, &[1], Some(600)) };
    let done = Task { stage: "done".into(), ..typed.clone() };
    let plan = plan.with(&[Change::Task(Edit::alter(task(41, &[1], Some(600)), typed.clone()))]);
    assert_eq!(of(&plan, 41).projected(), 750);
    let plan = plan.with(&[Change::Task(Edit::alter(typed, done))]);
    assert_eq!(of(&plan, 41).projected(), 700, "a done task has nothing left");
}

#[test]
fn full_effort_is_thought_for_every_one() {
    let both = Task { assignees: Assignees::Full(vec![PersonId(1), PersonId(2)]), ..task(41, &[], Some(300)) };
    let plan = ground().with(&[new_task(both), logged(entry(51, 1, Some(41), 100))]);
    assert_eq!(figures(&of(&plan, 41)), (600, 100, 500, 600, Some(0)));
    assert_eq!(figures(&of_person(&plan, PersonId(1))), (300, 100, 200, 300, Some(0)));
    assert_eq!(figures(&of_person(&plan, PersonId(2))), (300, 0, 300, 300, Some(0)));
}

#[test]
fn a_parent_holds_its_children_and_what_is_not_broken_down_yet() {
    let inside = |id, minutes| Task { parent: Some(TaskId(41)), ..task(id, &[1], minutes) };
    let plan = ground().with(&[
        new_task(task(41, &[1], Some(1_000))),
        new_task(inside(42, Some(300))),
        new_task(inside(43, None)),
        logged(entry(51, 1, Some(42), 250)),
        logged(entry(52, 2, Some(43), 100)),
    ]);
    // 1,000 were thought; 350 are worked, of the 300 inside 50 are left, the rest of the 1,000 is not broken down.
    let parent = of(&plan, 41);
    assert_eq!(figures(&parent), (1_000, 350, 650, 1_000, Some(0)));
    assert_eq!(parent.without_estimate, 1);
    let none = of(&plan, 43);
    assert_eq!((none.estimated, none.variance(), none.actual()), (false, None, 100));
}

#[test]
fn projects_hold_the_projects_inside_them_and_time_on_no_task() {
    let inner = Project { parent: Some(ProjectId(11)), ..project(13) };
    let plan = ground().with(&[
        Change::Project(Edit::new(inner)),
        new_task(task(41, &[1], Some(600))),
        new_task(Task { project: ProjectId(13), ..task(42, &[2], Some(120)) }),
        logged(entry(51, 1, Some(41), 100)),
        logged(entry(52, 1, None, 40)),
        logged(TimeEntry { project: None, ..entry(53, 2, None, 15) }),
    ]);
    let all = table(&plan, By::Project, Asked::default());
    let of = |id| &all[&Key::Project(Some(ProjectId(id)))];
    // The 40 minutes on no task were never thought of: they make no variance.
    assert_eq!(figures(of(11)), (720, 140, 620, 760, Some(0)));
    assert_eq!(of(11).unestimated(), 40);
    assert_eq!(figures(of(13)), (120, 0, 120, 120, Some(0)));
    assert_eq!(figures(&all[&Key::Project(None)]), (0, 15, 0, 15, None));
    assert!(!all.contains_key(&Key::Project(Some(ProjectId(12)))));
    let asked = Asked { project: Some(ProjectId(13)), ..Asked::default() };
    assert_eq!(table(&plan, By::Project, asked).len(), 1, "what a project is part of was not asked for");
    assert_eq!(of_project(&plan, ProjectId(11)), *of(11));
}

#[test]
fn a_week_sheet_shows_planned_and_logged_hours_under_the_limits() {
    let booking = Booking {
        id: BookingId(31),
        reference: String::new(),
        who: Who::Person(PersonId(1)),
        project: Some(ProjectId(11)),
        start: day(0),
        end: day(4),
        amount: Amount { value: 240, unit: Unit::PerDay },
        certainty: Certainty::Firm,
        days_off: false,
        note: String::new(),
        line: String::new(),
    };
    let plan = ground().with(&[
        Change::Booking(Edit::new(booking)),
        new_task(task(41, &[1], Some(500))),
        logged(TimeEntry { date: day(1), ..entry(51, 1, None, 90) }),
        logged(TimeEntry { date: day(1), project: None, ..entry(52, 1, Some(41), 30) }),
    ]);
    let sheet = week_sheet(&plan, PersonId(1), day(0), day(0)).unwrap();
    assert_eq!(sheet.limits, [480, 480, 480, 480, 480, 0, 0]);
    let line = |task: Option<i32>| {
        let found = sheet.lines.iter().find(|line| line.subject == (Some(ProjectId(11)), task.map(TaskId)));
        found.map(|line| (line.planned, line.logged)).unwrap()
    };
    // 470 minutes are left of the task over five days; the booking holds them, and the rest of it is the project's line.
    assert_eq!(line(Some(41)), ([94, 94, 94, 94, 94, 0, 0], [0, 30, 0, 0, 0, 0, 0]));
    assert_eq!(line(None), ([146, 146, 146, 146, 146, 0, 0], [0, 90, 0, 0, 0, 0, 0]));
    assert_eq!(sheet.logged(), [0, 120, 0, 0, 0, 0, 0]);
    assert_eq!(week_sheet(&plan, PersonId(9), day(0), day(0)), None);
}

#[test]
fn tasks_nested_deep_are_looked_at_once_each() {
    let nested = |id: i32| Task { parent: (id > 41).then(|| TaskId(id - 1)), ..task(id, &[1], Some(600)) };
    let plan = ground().with(&(41..=100).map(|id| new_task(nested(id))).collect::<Vec<_>>());
    let plan = plan.with(&[logged(entry(200, 1, Some(100), 90))]);
    assert_eq!(figures(&of(&plan, 41)), (600, 90, 510, 600, Some(0)), "sixty of one within the other");
    assert_eq!(of_project(&plan, ProjectId(11)), of(&plan, 41));
}
