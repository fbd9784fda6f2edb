//! What lies on which day: tasks, milestones, time off, holidays, and whose days they are.

use crate::{
    Day, MilestoneId, PersonId, Plan, ProjectId, TaskId, TeamId,
    calendars::MEETINGS,
    demand::is_parent,
    kinds::{Absence, Meeting, Milestone, ProjectStatus, Task},
};
use std::collections::{BTreeMap, BTreeSet};

/// Whose work is looked at.
#[derive(Clone, Debug, Default)]
pub struct Scope {
    /// The projects in view; nothing where all are that are not closed.
    pub projects: Option<BTreeSet<ProjectId>>,
    /// The team whose work it is, with the teams inside it: what is given to it, and what its members do.
    pub team: Option<TeamId>,
    /// Teams whose milestones are seen besides.
    pub also: Vec<TeamId>,
}

/// The members of a team and of those inside it, each once.
#[must_use]
pub fn members(plan: &Plan, team: TeamId) -> BTreeSet<PersonId> {
    let teams = plan.team_and_inner(team);
    let all = teams.iter().filter_map(|id| plan.records.teams.get(id)).flat_map(|team| &team.members);
    all.map(|(id, _)| *id).collect()
}

/// The work in view from `from` to `to`.
pub struct Agenda<'p> {
    plan: &'p Plan,
    from: Day,
    to: Day,
    /// Tasks with dates here that nothing lies inside of, by their first day, longer ones first.
    pub tasks: Vec<&'p Task>,
    /// The people whose days are seen: the members of the team, or else whoever does one of the tasks.
    pub people: BTreeSet<PersonId>,
    /// The milestones, by day and name.
    pub milestones: Vec<&'p Milestone>,
}

impl<'p> Agenda<'p> {
    /// Looks for what lies in these days.
    #[must_use]
    pub fn new(plan: &'p Plan, scope: &Scope, from: Day, to: Day) -> Self {
        let team = scope.team.map(|team| (plan.team_and_inner(team), members(plan, team)));
        let is_open = |id: ProjectId| {
            plan.records.projects.get(&id).is_some_and(|project| project.status != ProjectStatus::Closed)
        };
        let in_view = |id: ProjectId| match &scope.projects {
            Some(projects) => projects.contains(&id),
            None => is_open(id),
        };
        let of_team = |task: &Task| {
            team.as_ref().is_none_or(|(teams, members)| {
                task.team.is_some_and(|team| teams.contains(&team))
                    || task.assignees.people().any(|person| members.contains(&person))
            })
        };
        let lies_here =
            |task: &Task| task.start.is_some_and(|start| start <= to) && task.finish.is_some_and(|day| day >= from);
        let all = plan.tasks.values().map(|task| &**task).filter(|task| lies_here(task));
        let mut tasks: Vec<&Task> =
            all.filter(|task| in_view(task.project) && of_team(task) && !is_parent(plan, task.id)).collect();
        tasks.sort_by_key(|task| (task.start, task.finish.map(std::cmp::Reverse), task.project, task.id));
        let people = match team {
            Some((_, members)) => members,
            None => tasks.iter().filter(|task| !task.is_done()).flat_map(|task| task.assignees.people()).collect(),
        };
        let milestones = milestones(plan, scope, &in_view, from, to);
        Self { plan, from, to, tasks, people, milestones }
    }

    /// Time off of the people in view that is no meeting, by its first day.
    #[must_use]
    pub fn off(&self) -> Vec<&'p Absence> {
        self.absences(|absence| absence.kind != MEETINGS)
    }

    /// Meetings of their own calendars, by day and time.
    #[must_use]
    pub fn meetings(&self) -> Vec<&'p Absence> {
        self.absences(|absence| absence.kind == MEETINGS)
    }

    /// Meetings of projects, each on each of its days here, by day and time: those that one of the people in view comes to, and those of
    /// projects in view.
    #[must_use]
    pub fn project_meetings(&self, scope: &Scope) -> Vec<(Day, &'p Meeting)> {
        let in_view = |meeting: &Meeting| {
            meeting.people.iter().any(|person| self.people.contains(person))
                || scope.team.is_none() && scope.projects.as_ref().is_some_and(|all| all.contains(&meeting.project))
        };
        let all = self.plan.records.meetings.values().map(|meeting| &**meeting).filter(|meeting| in_view(meeting));
        let here = |meeting: &'p Meeting| {
            let days = meeting.days().skip_while(|day| *day < self.from).take_while(|day| *day <= self.to);
            days.map(move |day| (day, meeting)).collect::<Vec<_>>()
        };
        let mut found: Vec<(Day, &Meeting)> = all.flat_map(here).collect();
        found.sort_by_key(|(day, meeting)| (*day, meeting.at, meeting.id));
        found
    }

    fn absences(&self, is_one: impl Fn(&Absence) -> bool) -> Vec<&'p Absence> {
        let people = self.people.iter().filter_map(|id| self.plan.people.get(id));
        let here = |absence: &&Absence| absence.start <= self.to && absence.end >= self.from && is_one(absence);
        let mut found: Vec<&Absence> = people.flat_map(|entry| entry.absences.iter()).filter(here).collect();
        found.sort_by_key(|absence| (absence.start, absence.at, absence.person));
        found
    }

    /// The holidays of the people in view: the names that a day has.
    #[must_use]
    pub fn holidays(&self) -> BTreeMap<Day, BTreeSet<&'p str>> {
        let people = self.people.iter().filter_map(|id| self.plan.people.get(id));
        let names: BTreeSet<&str> = people.map(|entry| entry.person.calendar.as_str()).collect();
        let mut found: BTreeMap<Day, BTreeSet<&str>> = BTreeMap::new();
        for calendar in names.into_iter().filter_map(|name| self.plan.calendars.get(name)) {
            for holiday in calendar.holidays.iter().filter(|it| (self.from..=self.to).contains(&it.date)) {
                found.entry(holiday.date).or_default().insert(&holiday.name);
            }
        }
        found
    }
}

/// The milestones of these days: those of projects in view and of all projects, and with a team chosen those that it works towards;
/// besides, those of the teams that are asked for.
fn milestones<'p>(
    plan: &'p Plan,
    scope: &Scope,
    in_view: &dyn Fn(ProjectId) -> bool,
    from: Day,
    to: Day,
) -> Vec<&'p Milestone> {
    let wanted: Vec<TeamId> = scope.team.iter().chain(&scope.also).copied().collect();
    let ways: Vec<BTreeSet<MilestoneId>> = wanted.iter().map(|team| milestones_of(plan, *team)).collect();
    let all = plan.records.milestones.values().map(|milestone| &**milestone);
    let here = all.filter(|milestone| (from..=to).contains(&milestone.date));
    let is_own =
        |milestone: &Milestone| milestone.projects.is_empty() || milestone.projects.iter().any(|id| in_view(*id));
    let is_seen = |milestone: &&Milestone| match scope.team {
        None => is_own(milestone) || ways.iter().any(|of_team| of_team.contains(&milestone.id)),
        Some(_) => milestone.projects.is_empty() || ways.iter().any(|of_team| of_team.contains(&milestone.id)),
    };
    let mut found: Vec<&Milestone> = here.filter(is_seen).collect();
    found.sort_by(|a, b| (a.date, &a.name).cmp(&(b.date, &b.name)));
    found
}

/// The milestones that a team works towards: those of projects that are usually its own, and those that wait for a task which is given
/// to it or which one of its members does.
#[must_use]
pub fn milestones_of(plan: &Plan, team: TeamId) -> BTreeSet<MilestoneId> {
    let (teams, members) = (plan.team_and_inner(team), members(plan, team));
    let is_ours = |id: &ProjectId| {
        let project = plan.records.projects.get(id);
        project.and_then(|project| project.team).is_some_and(|team| teams.contains(&team))
    };
    let all = plan.records.milestones.values();
    let own = all.filter(|milestone| milestone.projects.iter().any(is_ours)).map(|milestone| milestone.id);
    let ours = plan.tasks.values().filter(|task| {
        !task.milestones.is_empty()
            && (task.team.is_some_and(|team| teams.contains(&team))
                || task.assignees.people().any(|person| members.contains(&person)))
    });
    own.chain(ours.flat_map(|task| task.milestones.iter().copied())).collect()
}

/// A bar in a calendar: a task, its lane, and the days of a row on which it lies, from the first to before the last.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct InLane {
    /// The task.
    pub task: TaskId,
    /// The lane, 0 for the uppermost.
    pub lane: usize,
    /// The first day in the row.
    pub from: usize,
    /// The day behind its last one in the row.
    pub to: usize,
}

/// Lays tasks in lanes of a row of days, each in the uppermost lane that is free on all of its days. `taken` says how many lanes are
/// not free on each day.
#[must_use]
pub fn lanes(tasks: &[&Task], first: Day, taken: &[usize]) -> Vec<InLane> {
    let days = taken.len();
    let last = first + i32::try_from(days).unwrap_or(0) - 1;
    // How far each lane is taken, day by day.
    let mut lanes: Vec<Vec<bool>> = Vec::new();
    let mut found = Vec::new();
    for task in tasks {
        let Some((start, finish)) = task.start.zip(task.finish) else { continue };
        if start > last || finish < first {
            continue;
        }
        let index = |day: Day| usize::try_from(day.since(first)).unwrap_or(0).min(days);
        let (from, to) = (index(start), index(finish + 1));
        let most = lanes.len() + taken.iter().copied().max().unwrap_or(0);
        let lane = (0..=most).find(|lane| {
            let is_open = |day: usize| *lane >= taken[day] && lanes.get(*lane).is_none_or(|lane| !lane[day]);
            (from..to).all(is_open)
        });
        let lane = lane.unwrap_or(most);
        while lanes.len() <= lane {
            lanes.push(vec![false; days]);
        }
        lanes[lane][from..to].fill(true);
        found.push(InLane { task: task.id, lane, from, to });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kinds::Record as _;

    #[test]
    fn bars_take_the_uppermost_lane_that_is_free_on_all_their_days() {
        let monday: Day = "2026-03-09".parse().unwrap();
        let task = |id, from, to| Task {
            id: TaskId(id),
            start: Some(monday + from),
            finish: Some(monday + to),
            ..Task::blank()
        };
        let tasks = [task(1, -3, 2), task(2, 0, 0), task(3, 1, 9), task(4, 3, 4), task(5, 8, 9)];
        let tasks: Vec<&Task> = tasks.iter().collect();
        let found = lanes(&tasks, monday, &[0, 0, 0, 1, 0, 0, 0]);
        let found: Vec<_> = found.into_iter().map(|it| (it.task.0, it.lane, it.from, it.to)).collect();
        // On Thursday a milestone has the uppermost lane.
        assert_eq!(found, [(1, 0, 0, 3), (2, 1, 0, 1), (3, 1, 1, 7), (4, 2, 3, 5)]);
    }
}
