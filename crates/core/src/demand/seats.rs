//! Work with no person: bookings of teams and open seats, and tasks that name nobody but a team.

use super::{
    Slot, Window,
    lanes::{Ground, Lanes},
    tasks::{self, TaskPart},
};
use crate::{
    Day, ProjectId, TaskId, TeamId,
    availability::Days,
    kinds::Who,
    plan::{Brick, Plan},
};
use std::collections::BTreeMap;

/// The load of one team or role that no person carries, by project.
#[derive(Clone, Debug)]
pub struct SeatLoad {
    /// The team or role.
    pub who: Who,
    /// The load by project, over the span of the window.
    pub slots: Vec<Slot>,
}

/// All work with no person, spread over the workspace's pattern.
#[must_use]
pub fn seat_loads(plan: &Plan, window: &Window) -> Vec<SeatLoad> {
    let days_over = |first: Day, last: Day| Days::of_workspace(&plan.settings, first, last);
    let (first, last) = window.span();
    let days = days_over(first, last);
    let weeks = days.pattern.weeks();
    let ground = Ground { settings: &plan.settings, days: &days, days_over: &days_over };
    let mut found: BTreeMap<Who, Lanes> = BTreeMap::new();
    for booking in plan.seats.values() {
        let brick = Brick::of(booking);
        if brick.touches(first, last) && window.counted.takes(&brick) {
            let lanes = found.entry(booking.who.clone()).or_insert_with(|| Lanes::new(weeks));
            lanes.book(booking.project, &brick, &ground);
        }
    }
    for lanes in found.values_mut() {
        lanes.settle(&days);
    }
    let mut of_teams: BTreeMap<TeamId, Vec<TaskId>> = BTreeMap::new();
    for task in plan.nameless_tasks.iter().filter_map(|id| plan.tasks.get(id)) {
        if let Some(team) = task.team {
            of_teams.entry(team).or_default().push(task.id);
        }
    }
    for (team, tasks) in of_teams {
        for part in tasks::of_team(plan, &tasks, window, &ground) {
            let line: Vec<ProjectId> = plan.project_line(part.project).map(|project| project.id).collect();
            let lanes = found.entry(Who::Team(team)).or_insert_with(|| Lanes::new(weeks));
            lanes.fill(&line, None, &part.minutes);
        }
    }
    let envelope = plan.settings.envelope;
    found.into_iter().map(|(who, lanes)| SeatLoad { who, slots: lanes.together(envelope) }).collect()
}

/// The tasks that name a team and nobody, each with where it lies over the span of the window.
#[must_use]
pub fn team_parts(plan: &Plan, team: TeamId, window: &Window) -> Vec<TaskPart> {
    let days_over = |first: Day, last: Day| Days::of_workspace(&plan.settings, first, last);
    let (first, last) = window.span();
    let days = days_over(first, last);
    let ground = Ground { settings: &plan.settings, days: &days, days_over: &days_over };
    let names_it = |id: &&TaskId| plan.tasks.get(*id).is_some_and(|task| task.team == Some(team));
    let tasks: Vec<TaskId> = plan.nameless_tasks.iter().filter(names_it).copied().collect();
    tasks::of_team(plan, &tasks, window, &ground)
}
