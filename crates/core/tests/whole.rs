//! Projects as a whole on random plans: what they come to against a plain sum, what is saved and started again, what lies in a calendar
//! and in its lanes, who has what part once work changes hands, and who hangs on a milestone.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{collection::vec, prelude::*};
use snug_core::{
    Command, Day, MilestoneId, PersonId, Plan, ProjectId, TaskId, TeamId,
    agenda::{Agenda, InLane, Scope, lanes, members, milestones_of},
    change::{Change, Edit},
    demand::left_of,
    handing::handed,
    health::{dependants, standings},
    kinds::{Assignees, Kind, Milestone, Project, ProjectStatus, Record as _, Task, TemplateId, TemplateTask},
    long_view::resized,
    templates::{roles, rows},
};
use std::collections::BTreeSet;
use support::{any, day, task};

/// Whether a task lies in another one, however deep.
fn is_inside(plan: &Plan, task: &Task, of: TaskId) -> bool {
    let mut at = task.parent;
    while let Some(parent) = at {
        if parent == of {
            return true;
        }
        at = plan.tasks[&parent].parent;
    }
    false
}

fn is_leaf(plan: &Plan, task: &Task) -> bool {
    !plan.tasks.values().any(|other| other.parent == Some(task.id))
}

/// Projects 12 and 13 lie in 11, one in the other.
fn is_of(project: ProjectId, whole: i32) -> bool {
    match whole {
        11 => (11..=13).contains(&project.0),
        12 => (12..=13).contains(&project.0),
        other => project.0 == other,
    }
}

fn all(plan: &Plan) -> impl Iterator<Item = &Task> {
    plan.tasks.values().map(|task| &**task)
}

fn milestone(id: i32, date: i32, projects: &[i32]) -> Milestone {
    Milestone {
        id: MilestoneId(id),
        reference: format!("M{id}"),
        name: format!("M{id}"),
        date: day(date),
        projects: projects.iter().map(|id| ProjectId(*id)).collect(),
    }
}

/// A plan with three milestones, for which any of its tasks may be needed.
fn with_milestones() -> impl Strategy<Value = Plan> {
    let needs = vec(vec(700..=702i32, 0..3), 9);
    (any::plan(), needs, prop::array::uniform3(0..40i32)).prop_map(|(plan, needs, dates)| {
        let made = [&[11][..], &[12, 14], &[]].into_iter().zip(700..).zip(dates);
        let made = made.map(|((projects, id), date)| Change::Milestone(Edit::new(milestone(id, date, projects))));
        let needed = all(&plan).zip(needs).map(|(task, needs)| {
            let milestones: BTreeSet<MilestoneId> = needs.into_iter().map(MilestoneId).collect();
            let after = Task { milestones: milestones.into_iter().collect(), ..task.clone() };
            Change::Task(Edit::alter(task.clone(), after))
        });
        plan.with(&made.chain(needed).collect::<Vec<_>>())
    })
}

/// What stands in the lines of a template, but for who does it and what tells one template from another.
fn lines(plan: &Plan, template: TemplateId) -> Vec<TemplateTask> {
    let blank = TemplateTask::blank();
    let bare =
        |row: &TemplateTask| TemplateTask { id: blank.id, template: blank.template, roles: vec![], ..row.clone() };
    rows(plan, template).into_iter().map(bare).collect()
}

fn saved(plan: &Plan, project: ProjectId) -> Option<(Plan, TemplateId)> {
    let changes = plan.decide(&Command::SaveTemplate { project, name: "Again".into() }, day(0)).ok()?;
    let next = plan.with(&changes);
    let id = next.records.templates.keys().copied().find(|id| !plan.records.templates.contains_key(id))?;
    Some((next, id))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// What a project comes to is the plain sum over its tasks and those of the projects inside it.
    #[test]
    fn a_project_comes_to_what_is_in_it_and_in_what_lies_inside(plan in any::plan(), today in -10..40i32) {
        let found = standings(&plan, day(today));
        for id in 11..=15 {
            let standing = &found[&ProjectId(id)];
            let own: Vec<&Task> = all(&plan).filter(|task| is_of(task.project, id)).collect();
            let leaves = || own.iter().filter(|task| is_leaf(&plan, task));
            prop_assert_eq!(standing.tasks, leaves().count());
            prop_assert_eq!(standing.done, leaves().filter(|task| task.is_done()).count());
            prop_assert_eq!(standing.left, own.iter().filter_map(|task| left_of(&plan, task)).sum::<i64>());
            let logged = plan.time_entries.values().filter(|entry| own.iter().any(|task| entry.task == Some(task.id)));
            let logged: i32 = logged.map(|entry| entry.minutes).sum();
            prop_assert_eq!(standing.worked, i64::from(logged));
            let days = || leaves().filter_map(|task| task.start.zip(task.finish));
            prop_assert_eq!(standing.dates, days().map(|it| it.0).min().zip(days().map(|it| it.1).max()));
            let has_left = |task: &Task| left_of(&plan, task).is_some_and(|left| left > 0);
            let is_late = |task: &&&Task| task.finish.is_some_and(|finish| finish < day(today)) && has_left(task);
            prop_assert_eq!(standing.late, leaves().filter(is_late).count());
            prop_assert_eq!(standing.undated, leaves().filter(|task| !task.is_done() && task.start.is_none()).count());
            prop_assert_eq!(standing.percent().is_none(), standing.tasks == 0);
            prop_assert!(standing.percent().is_none_or(|percent| (0..=100).contains(&percent)));
            if standing.tasks > 0 && standing.done == standing.tasks {
                prop_assert_eq!(standing.percent(), Some(100));
            }
        }
    }

    /// A project that is started from what was saved is saved as the same lines, whatever day it begins on.
    #[test]
    fn what_is_saved_is_started_and_saved_again_is_the_same(plan in with_milestones(), project in 11..=14i32, first in 0..40i32) {
        let Some((plan, template)) = saved(&plan, ProjectId(project)) else {
            prop_assert!(!all(&plan).any(|task| task.project.0 == project));
            return Ok(());
        };
        let people = all(&plan).filter(|task| task.project.0 == project).flat_map(|task| task.assignees.people());
        let roles = roles(&plan, template);
        prop_assert_eq!(roles.len(), people.collect::<BTreeSet<_>>().len(), "each person is one role");
        let stands: Vec<(String, PersonId)> = roles.into_iter().zip(1..).map(|(role, id)| (role, PersonId(id))).collect();
        let next = Project { code: "next".into(), name: "Next".into(), start: Some(day(first)), ..Project::blank() };
        let command = Command::StartProject { template, project: Box::new(next), stands };
        let started = plan.with(&plan.decide(&command, day(0)).unwrap());
        let id = ProjectId(started.find(Kind::Project, "next").unwrap());
        prop_assert!(all(&started).filter(|task| task.project == id).all(|task| task.start.is_none_or(|start| start >= day(first))));
        let (again, second) = saved(&started, id).unwrap();
        prop_assert_eq!(lines(&again, second), lines(&again, template));
    }

    /// A calendar has the leaves that lie on its days, of the projects and the team that are in view, and no others.
    #[test]
    fn a_calendar_has_what_lies_on_its_days(
        plan in with_milestones(),
        (from, days) in (-10..40i32, 0..20i32),
        team in prop::option::of(61..=63i32),
        projects in prop::option::of(prop::collection::btree_set(11..=15i32, 0..4)),
    ) {
        let scope = Scope {
            projects: projects.clone().map(|ids| ids.into_iter().map(ProjectId).collect()),
            team: team.map(TeamId),
            also: Vec::new(),
        };
        let (from, to) = (day(from), day(from + days));
        let agenda = Agenda::new(&plan, &scope, from, to);
        let inner: Vec<TeamId> = team.into_iter().flat_map(|team| (team..=63).map(TeamId)).collect();
        let who: BTreeSet<PersonId> = inner.iter().flat_map(|team| members(&plan, *team)).collect();
        let is_ours = |task: &Task| {
            team.is_none()
                || task.team.is_some_and(|team| inner.contains(&team))
                || task.assignees.people().any(|person| who.contains(&person))
        };
        let is_open = |task: &Task| plan.records.projects[&task.project].status != ProjectStatus::Closed;
        let in_view = |task: &Task| projects.as_ref().map_or_else(|| is_open(task), |ids| ids.contains(&task.project.0));
        let wanted: BTreeSet<TaskId> = all(&plan)
            .filter(|task| task.start.is_some_and(|start| start <= to) && task.finish.is_some_and(|finish| finish >= from))
            .filter(|task| is_leaf(&plan, task) && in_view(task) && is_ours(task))
            .map(|task| task.id)
            .collect();
        prop_assert_eq!(agenda.tasks.iter().map(|task| task.id).collect::<BTreeSet<_>>(), wanted);
        prop_assert!(agenda.tasks.is_sorted_by_key(|task| task.start));
        if team.is_some() {
            prop_assert_eq!(&agenda.people, &who);
        }
        let here = |milestone: &Milestone| (from..=to).contains(&milestone.date);
        for milestone in plan.records.milestones.values().filter(|milestone| here(milestone)) {
            let is_own = match &projects {
                Some(ids) => milestone.projects.iter().any(|id| ids.contains(&id.0)),
                None => milestone.projects.iter().any(|id| id.0 != 15),
            };
            let is_theirs = team.is_some_and(|team| milestones_of(&plan, TeamId(team)).contains(&milestone.id));
            let seen = milestone.projects.is_empty() || if team.is_some() { is_theirs } else { is_own };
            prop_assert_eq!(agenda.milestones.iter().any(|it| it.id == milestone.id), seen, "{}", &milestone.name);
        }
        prop_assert!(agenda.milestones.iter().all(|milestone| here(milestone)));
    }

    /// No two bars lie on each other, none on what is taken, and none could lie higher.
    #[test]
    fn bars_lie_as_high_as_they_can(spans in vec((-5..14i32, 0..9i32), 0..12), taken in vec(0..3usize, 7)) {
        let of_days = |((from, more), id): (&(i32, i32), i32)| {
            Task { start: Some(day(*from)), finish: Some(day(from + more)), ..task(id, &[], None) }
        };
        let tasks: Vec<Task> = spans.iter().zip(1..).map(of_days).collect();
        let tasks: Vec<&Task> = tasks.iter().collect();
        let found = lanes(&tasks, day(0), &taken);
        let covers = |bar: &InLane, lane: usize, at: usize| bar.lane == lane && (bar.from..bar.to).contains(&at);
        for (index, bar) in found.iter().enumerate() {
            let one = tasks.iter().find(|task| task.id == bar.task).unwrap();
            let days = one.start.unwrap()..=one.finish.unwrap();
            let on = |at: usize| days.contains(&(day(0) + i32::try_from(at).unwrap()));
            prop_assert!((0..7).all(|at| on(at) == (bar.from..bar.to).contains(&at)));
            let before = &found[..index];
            let is_open = |lane: usize, at: usize| lane >= taken[at] && !before.iter().any(|other| covers(other, lane, at));
            let is_free = |lane: usize| (bar.from..bar.to).all(|at| is_open(lane, at));
            prop_assert!(is_free(bar.lane));
            prop_assert!(!(0..bar.lane).any(is_free));
        }
        let shown = tasks.iter().filter(|task| task.start.unwrap() <= day(6) && task.finish.unwrap() >= day(0)).count();
        prop_assert_eq!(found.len(), shown);
    }

    /// Work that changes hands is whole afterwards: nobody has it twice, shares add up, and whoever gave it away has none of it.
    #[test]
    fn work_that_changes_hands_stays_whole(
        shares in vec(1..5_000i32, 1..4), form in 0..3u8, from in 0..3usize, to in 1..=6i32, split in prop::bool::ANY,
    ) {
        let plan = (1..=6).fold(Plan::empty(), |plan, id| plan.with(&[Change::Person(Edit::new(support::person(id)))]));
        let people: Vec<PersonId> = (1..).map(PersonId).take(shares.len()).collect();
        let from = people[from % people.len()];
        let sum: i32 = shares.iter().sum();
        let before = match form {
            0 => Assignees::Even(people.clone()),
            1 => Assignees::Full(people.clone()),
            _ => Assignees::Shares(people.iter().copied().zip(shares).collect()),
        };
        let to = PersonId(to);
        let Ok(after) = handed(&plan, &before, Some(from), to, split) else {
            // A part of one hundredth of a percent cannot be cut.
            let is_small = |all: &[(PersonId, i32)]| all.iter().any(|(person, share)| *person == from && *share == 1);
            let is_whole = matches!(&before, Assignees::Shares(all) if is_small(all));
            prop_assert!(split && (people.contains(&to) || is_whole));
            return Ok(());
        };
        let now: Vec<PersonId> = after.people().collect();
        prop_assert_eq!(now.iter().collect::<BTreeSet<_>>().len(), now.len());
        prop_assert!(now.contains(&to));
        prop_assert_eq!(now.contains(&from), split || from == to);
        prop_assert!(people.iter().filter(|person| **person != from).all(|person| now.contains(person)));
        if let Assignees::Shares(all) = &after {
            prop_assert_eq!(all.iter().map(|(_, share)| share).sum::<i32>(), sum);
        }
        // Given back by somebody who had none of it, all is as before.
        if !split && !people.contains(&to) {
            prop_assert_eq!(handed(&plan, &after, Some(to), from, false).unwrap(), before);
        }
    }

    /// A task that is resized by hand has as much left as is asked, to the minute that each of those who do it in full can have.
    #[test]
    fn what_is_resized_has_as_much_left(plan in any::plan(), asked in 0..5_000i64) {
        for task in all(&plan).filter(|task| is_leaf(&plan, task)) {
            let Some(before) = left_of(&plan, task) else { continue };
            let after = resized(&plan, task, asked);
            let next = plan.with(&[Change::Task(Edit::alter(task.clone(), after.clone()))]);
            let Some(left) = left_of(&next, &next.tasks[&task.id]) else { continue };
            let heads = match &task.assignees {
                Assignees::Full(people) => i64::try_from(people.len()).unwrap().max(1),
                _ => 1,
            };
            let is_closed = task.project.0 == 15;
            let is_used_up = before == 0;
            prop_assert!(is_closed || is_used_up || (left - asked).abs() < heads, "{left} for {asked}, {before} before");
            let kept = |task: &Task| (task.title.clone(), task.start, task.finish, task.progress);
            prop_assert_eq!(kept(&after), kept(task));
        }
    }

    /// Who hangs on a milestone: whoever does an open leaf of a task that it needs.
    #[test]
    fn a_milestone_hangs_on_the_open_leaves_of_what_it_needs(plan in with_milestones()) {
        for (id, found) in dependants(&plan) {
            let named: Vec<&Task> = all(&plan).filter(|task| task.milestones.contains(&id)).collect();
            let ids: BTreeSet<TaskId> = named.iter().map(|task| task.id).collect();
            prop_assert_eq!(found.tasks.iter().copied().collect::<BTreeSet<_>>(), ids);
            let is_in = |task: &Task, of: TaskId| task.id == of || is_inside(&plan, task, of);
            let leaves = |of: &Task| -> Vec<&Task> {
                all(&plan).filter(|task| is_leaf(&plan, task) && is_in(task, of.id)).collect()
            };
            let open: Vec<&Task> = named.iter().flat_map(|task| leaves(task)).filter(|task| !task.is_done()).collect();
            prop_assert_eq!(found.last, open.iter().filter_map(|task| task.finish).max());
            prop_assert_eq!(found.people, open.iter().flat_map(|task| task.assignees.people()).collect());
            prop_assert_eq!(found.teams, open.iter().filter_map(|task| task.team).collect());
            let done = named.iter().filter(|task| leaves(task).iter().all(|leaf| leaf.is_done())).count();
            prop_assert_eq!(found.done, done);
            let date: Day = plan.records.milestones[&id].date;
            let late = found.last.map(|last| last.since(date)).filter(|days| *days > 0);
            prop_assert_eq!(dependants(&plan)[&id].late(&plan.records.milestones[&id]), late);
        }
    }
}
