//! Projects as a whole: saved and started again, how they stand, what milestones hang on, what lies in a calendar.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Command, Day, LinkId, MilestoneId, PersonId, Plan, ProjectId, TaskId, TeamId,
    agenda::{Agenda, Scope},
    change::{Change, Edit},
    health::{Concern, concerns, dependants, standings},
    kinds::{
        Assignees, Kind, Link, LinkKind, Meeting, MeetingId, Milestone, Person, Project, ProjectStatus, Record as _,
        Risk, RiskId, Task, Template, TemplateId, TemplateTask, TemplateTaskId,
    },
    network::{Ground, leaves},
    templates::{follows, roles},
};
use std::collections::BTreeSet;
use support::{day, ground, new_task, person, project, task, team};

/// A project from Monday on: drawings of two carpenters for a week, then, two days later, painting for three days, which ends on the
/// opening; inside a whole of its own.
fn exhibit() -> Plan {
    let who = |id: i32, role: &str| Change::Person(Edit::new(Person { role: role.into(), ..person(id) }));
    let mut opening = Milestone::blank();
    (opening.id, opening.reference, opening.name) = (MilestoneId(700), "M".into(), "Opening".into());
    (opening.date, opening.projects) = (day(11), vec![ProjectId(11)]);
    let link = Link {
        id: LinkId(800),
        from: TaskId(202),
        to: TaskId(203),
        kind: LinkKind::FinishStart,
        lag_days: 1,
        note: String::new(),
    };
    ground().with(&[
        who(1, "carpenter"),
        who(2, "carpenter"),
        who(3, "painter"),
        Change::Milestone(Edit::new(opening)),
        new_task(Task { ..task(201, &[], Some(3_000)) }),
        new_task(Task { parent: Some(TaskId(201)), ..task(202, &[1, 2], Some(1_200)) }),
        new_task(Task {
            parent: Some(TaskId(201)),
            start: Some(day(8)),
            finish: Some(day(10)),
            milestones: vec![MilestoneId(700)],
            ..task(203, &[3], Some(900))
        }),
        Change::Link(Edit::new(link)),
    ])
}

fn saved(plan: &Plan) -> Plan {
    let command = Command::SaveTemplate { project: ProjectId(11), name: " Travelling ".into() };
    plan.with(&plan.decide(&command, day(0)).unwrap())
}

fn started(plan: &Plan, first: Day, stands: &[(&str, i32)]) -> (Plan, ProjectId) {
    let template = TemplateId(plan.find(Kind::Template, "A11").unwrap());
    let project = Project { code: "next".into(), name: "Next".into(), start: Some(first), ..Project::blank() };
    let stands = stands.iter().map(|(role, id)| ((*role).to_owned(), PersonId(*id))).collect();
    let command = Command::StartProject { template, project: Box::new(project), stands };
    let next = plan.with(&plan.decide(&command, day(0)).unwrap());
    let id = ProjectId(next.find(Kind::Project, "next").unwrap());
    (next, id)
}

#[test]
fn a_project_that_was_saved_is_started_on_another_day_by_other_people() {
    let plan = saved(&exhibit());
    let template = TemplateId(plan.find(Kind::Template, "A11").unwrap());
    assert_eq!(plan.records.templates[&template].name, "Travelling");
    assert_eq!(roles(&plan, template), ["carpenter", "carpenter 2", "painter"]);
    let rows: Vec<_> = plan.records.template_tasks.values().collect();
    let said: Vec<_> = rows
        .iter()
        .map(|row| (row.line.as_str(), row.parent.as_str(), row.begins, row.days, row.after.join(";")))
        .collect();
    // Day 8 is the second Tuesday: six working days after the first Monday. The opening is on the second Friday.
    assert_eq!(
        said,
        [
            ("1", "", Some(0), Some(5), String::new()),
            ("2", "1", Some(0), Some(5), String::new()),
            ("3", "1", Some(6), Some(3), "FS 2 +1".to_owned()),
            ("M1", "", Some(9), None, "FS 3".to_owned()),
        ]
    );

    // Started on a Wednesday: the first carpenter is the second person now, nobody paints yet.
    let (plan, id) = started(&plan, day(16), &[("carpenter", 2), ("carpenter 2", 1)]);
    let project = &plan.records.projects[&id];
    assert_eq!((project.status, project.start), (ProjectStatus::Active, Some(day(16))));
    let tasks: Vec<_> = plan.tasks.values().filter(|task| task.project == id).collect();
    let said: Vec<_> =
        tasks.iter().map(|task| (task.start.unwrap(), task.finish.unwrap(), task.needs.as_str())).collect();
    // Six working days after Wednesday the 18th is Thursday the 26th; three days of it go over the weekend to Monday.
    assert_eq!(said[1..], [(day(16), day(22), ""), (day(24), day(28), "painter")]);
    assert_eq!(tasks[1].assignees, Assignees::Even(vec![PersonId(2), PersonId(1)]));
    assert_eq!(
        (tasks[2].parent, tasks[2].estimate, tasks[2].assignees.is_empty()),
        (Some(tasks[0].id), Some(900), true)
    );
    let link = plan.records.links.values().find(|link| link.to == tasks[2].id).unwrap();
    assert_eq!((link.from, link.kind, link.lag_days), (tasks[1].id, LinkKind::FinishStart, 1));
    assert_eq!(Ground::new(&plan, day(0)).leaf(tasks[2].id).unwrap().dates, tasks[2].start.zip(tasks[2].finish));
    let milestone = plan.records.milestones.values().find(|it| it.projects == [id]).unwrap();
    assert_eq!(
        (milestone.name.as_str(), milestone.date, &tasks[2].milestones),
        ("Opening", day(29), &vec![milestone.id])
    );
    assert_eq!(leaves(&plan, tasks[0].id).len(), 2);
}

#[test]
fn what_cannot_be_saved_or_started_says_why() {
    let plan = exhibit();
    let says = |plan: &Plan, command: Command| plan.decide(&command, day(0)).unwrap_err().message;
    let save = |id: i32| Command::SaveTemplate { project: ProjectId(id), name: "T".into() };
    assert_eq!(says(&plan, save(12)), "A12 has no task to save yet.");
    let with = |rows: &[(&str, &str)]| {
        let row = |(at, (line, after)): (usize, &(&str, &str))| {
            Change::TemplateTask(Edit::new(TemplateTask {
                id: TemplateTaskId(910 + i32::try_from(at).unwrap()),
                template: TemplateId(900),
                line: (*line).to_owned(),
                title: "T".into(),
                after: if after.is_empty() { vec![] } else { vec![(*after).to_owned()] },
                ..TemplateTask::blank()
            }))
        };
        let template = Template { id: TemplateId(900), code: "t".into(), name: "T".into(), says: String::new() };
        let changes: Vec<Change> =
            std::iter::once(Change::Template(Edit::new(template))).chain(rows.iter().enumerate().map(row)).collect();
        plan.with(&changes)
    };
    let start = |first: Option<Day>| {
        let project = Box::new(Project { code: "n".into(), name: "N".into(), start: first, ..Project::blank() });
        Command::StartProject { template: TemplateId(900), project, stands: vec![] }
    };
    assert_eq!(says(&with(&[]), start(Some(day(0)))), "There is nothing in this template yet.");
    assert_eq!(says(&with(&[("A", "")]), start(None)), "Say on which day it begins.");
    assert_eq!(says(&with(&[("A", "FS B")]), start(Some(day(0)))), "There is no line “B” in it.");
    let circle = with(&[("A", "FS B"), ("B", "FS A")]);
    assert!(says(&circle, start(Some(day(0)))).starts_with("This would close a circle"));
    assert_eq!(follows("SS A1 -2"), Ok((LinkKind::StartStart, "A1".into(), -2)));
    for wrong in ["A1", "FS", "FS A1 x", "FS A1 2 3", "FS A1 99999"] {
        assert_eq!(follows(wrong).unwrap_err(), format!("“{wrong}” is not understood; write a link as “FS A1 +2”"));
    }
}

#[test]
fn a_project_says_how_it_stands_and_what_is_wrong() {
    let mut plan = exhibit();
    let change = |plan: &Plan, id: i32, alter: &dyn Fn(&mut Task)| {
        let before = (*plan.tasks[&TaskId(id)]).clone();
        let mut after = before.clone();
        alter(&mut after);
        plan.with(&[Change::Task(Edit::alter(before, after))])
    };
    let own = Project { finish: Some(day(9)), budget_minutes: Some(2_000), ..project(11) };
    plan = plan.with(&[Change::Project(Edit::alter(project(11), own))]);
    // The drawings are half done and should have been finished; the painting is stuck and moves behind the opening.
    plan = change(&plan, 202, &|task| task.progress = Some(50.into()));
    plan = change(&plan, 203, &|task| {
        (task.stuck, task.start, task.finish) = ("no paint".into(), Some(day(14)), Some(day(16)));
    });
    plan = plan.with(&[new_task(Task { start: None, finish: None, ..task(204, &[1], Some(60)) })]);
    let today = day(7);
    let standing = &standings(&plan, today)[&ProjectId(11)];
    // Of 1,200 + 900 + 60 minutes 600 are done.
    assert_eq!((standing.tasks, standing.done, standing.percent()), (3, 0, Some(28)));
    assert_eq!(standing.dates, Some((day(0), day(16))));
    // What nothing inside the whole covers is left, too: 3,000 − 2,100.
    assert_eq!(standing.left, 1_200 + 900 + 900 + 60);
    let hangs = dependants(&plan);
    assert_eq!(
        concerns(&plan, ProjectId(11), standing, &hangs, today),
        [
            Concern::Late(1),
            Concern::Stuck(1),
            Concern::EndsAfter(7),
            Concern::Misses(MilestoneId(700), 5),
            Concern::OverBudget(1_060),
            Concern::Undated(1),
        ]
    );
    let opening = &hangs[&MilestoneId(700)];
    assert_eq!((opening.tasks.as_slice(), opening.done, opening.last), (&[TaskId(203)][..], 0, Some(day(16))));
    assert_eq!(opening.people, BTreeSet::from([PersonId(3)]));
    // An active project without a task should have some; a sketch need not.
    let idle = &standings(&plan, today)[&ProjectId(12)];
    assert_eq!(concerns(&plan, ProjectId(12), idle, &hangs, today), [Concern::NoTasks]);
    assert_eq!(idle.percent(), None);
}

#[test]
fn a_calendar_shows_what_one_asks_for() {
    let other = Milestone {
        id: MilestoneId(701),
        reference: "N".into(),
        name: "Other".into(),
        date: day(3),
        projects: vec![ProjectId(12)],
    };
    let plan = exhibit().with(&[
        Change::Team(Edit::new(team(61, vec![(PersonId(3), 10_000)]))),
        Change::Team(Edit::new(team(62, vec![(PersonId(1), 10_000)]))),
        Change::Milestone(Edit::new(other)),
        new_task(Task { project: ProjectId(12), milestones: vec![MilestoneId(701)], ..task(205, &[1], Some(60)) }),
        Change::Meeting(Edit::new(Meeting {
            id: MeetingId(750),
            project: ProjectId(12),
            title: "Round".into(),
            people: vec![PersonId(3)],
            date: day(1),
            every_weeks: 1,
            until: Some(day(8)),
            ..Meeting::blank()
        })),
    ]);
    let seen = |scope: Scope| {
        let agenda = Agenda::new(&plan, &scope, day(0), day(13));
        let tasks: Vec<i32> = agenda.tasks.iter().map(|task| task.id.0).collect();
        let people: Vec<i32> = agenda.people.iter().map(|id| id.0).collect();
        let milestones: Vec<i32> = agenda.milestones.iter().map(|it| it.id.0).collect();
        let meetings: Vec<Day> = agenda.project_meetings(&scope).into_iter().map(|(on, _)| on).collect();
        (tasks, people, milestones, meetings)
    };
    // Wholes are not in it, what is inside them is.
    assert_eq!(seen(Scope::default()), (vec![202, 205, 203], vec![1, 2, 3], vec![701, 700], vec![day(1), day(8)]));
    let one = Scope { projects: Some(BTreeSet::from([ProjectId(12)])), ..Scope::default() };
    assert_eq!(seen(one), (vec![205], vec![1], vec![701], vec![day(1), day(8)]));
    // A team sees what its members do, their days, and the milestones that they work towards.
    let ours = Scope { team: Some(TeamId(61)), ..Scope::default() };
    assert_eq!(seen(ours.clone()), (vec![203], vec![3], vec![700], vec![day(1), day(8)]));
    // And those of another team, if it asks for them.
    assert_eq!(seen(Scope { also: vec![TeamId(62)], ..ours }).2, [701, 700]);
}

#[test]
fn a_risk_weighs_what_it_is_likely_to_do() {
    let risk = Risk {
        id: RiskId(1),
        project: ProjectId(11),
        title: "R".into(),
        probability: 4,
        impact: 5,
        due: Some(day(2)),
        ..Risk::blank()
    };
    assert_eq!((risk.weight(), risk.is_overdue(day(2)), risk.is_overdue(day(3))), (20, false, true));
    let refuse = |risk: Risk| {
        ground().decide(&Command::Edit { changes: vec![Change::Risk(Edit::new(risk))] }, day(0)).unwrap_err().field
    };
    assert_eq!(refuse(Risk { probability: 6, ..risk.clone() }), "probability");
    assert_eq!(refuse(Risk { impact: 0, ..risk.clone() }), "impact");
    assert_eq!(refuse(Risk { tasks: vec![TaskId(5)], ..risk }), "tasks");
}
