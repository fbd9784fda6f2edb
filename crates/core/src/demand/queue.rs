//! How long late work takes: it fills the days from today on, one task after the other.

use super::effort::{effort_of, left_of};
use crate::{Day, PersonId, TeamId, availability::Days, kinds::Task, plan::Plan, rules::LONGEST_DAYS};
use std::sync::Arc;

/// The day on which the late work of somebody is through; today where there is none, and ten years ahead where nobody ever gets to it.
#[must_use]
pub fn end_of_queue(plan: &Plan, person: PersonId, today: Day) -> Day {
    let Some(entry) = plan.people.get(&person) else { return today };
    let late = entry.tasks.iter().filter_map(|id| plan.tasks.get(id)).filter(|task| task.is_late(today));
    let own = |task: &Arc<Task>| effort_of(plan, task)?.parts.into_iter().find(|(id, _)| *id == person);
    let waiting = late.filter_map(own).map(|(_, minutes)| minutes).sum();
    through(waiting, today, &|from, to| Days::of(plan, entry, from, to))
}

/// The same of the tasks that name a team and nobody.
#[must_use]
pub fn end_of_teams_queue(plan: &Plan, team: TeamId, today: Day) -> Day {
    let tasks = plan.nameless_tasks.iter().filter_map(|id| plan.tasks.get(id));
    let late = tasks.filter(|task| task.team == Some(team) && task.is_late(today));
    let waiting = late.filter_map(|task| left_of(plan, task)).sum();
    through(waiting, today, &|from, to| Days::of_workspace(&plan.settings, from, to))
}

/// The day on which so many minutes are through, looked for at twice the distance each time.
fn through(waiting: i64, today: Day, days_over: &dyn Fn(Day, Day) -> Days) -> Day {
    let mut reach = 28;
    loop {
        let days = days_over(today, today + reach);
        let mut left = waiting;
        for at in days.indexes(today, days.last()) {
            left -= i64::from(days.limit()[at]);
            if left <= 0 {
                return days.day(at);
            }
        }
        if reach >= LONGEST_DAYS {
            return days.last();
        }
        reach = (reach * 2).min(LONGEST_DAYS);
    }
}
