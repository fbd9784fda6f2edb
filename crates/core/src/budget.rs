//! A project's hours against its budget: what was worked, what is booked from today on, and the gap that is left.

use crate::{
    Day, Plan, ProjectId,
    cells::Grain,
    demand::Window,
    load::{Group, Groups, Measure, Query, RowKey},
};
use std::collections::BTreeMap;

/// Minutes of one project.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Budget {
    /// What it may take; `None` where nobody said.
    pub budget: Option<i64>,
    /// What was logged on it and on its tasks.
    pub worked: i64,
    /// Firm load from today on, open seats and teams included.
    pub firm: i64,
    /// Pencilled load from today on.
    pub pencilled: i64,
}

impl Budget {
    /// What of the budget is neither worked nor booked; below zero where more is planned than it allows.
    #[must_use]
    pub fn gap(&self) -> Option<i64> {
        self.budget.map(|budget| budget - self.worked - self.firm - self.pencilled)
    }
}

/// Minutes logged on every project and on its tasks.
#[must_use]
pub fn worked(plan: &Plan) -> BTreeMap<ProjectId, i64> {
    let mut found = BTreeMap::new();
    let mut put = |project: ProjectId, minutes: i64| *found.entry(project).or_insert(0) += minutes;
    for (task, log) in &plan.logged {
        if let Some(task) = plan.tasks.get(task) {
            put(task.project, log.iter().map(|logged| logged.minutes).sum());
        }
    }
    for ((project, _), log) in &plan.logged_apart {
        if let Some(project) = project {
            put(*project, log.minutes);
        }
    }
    found
}

/// How far ahead load is looked for, in days: three years.
const FARTHEST: i32 = 1_096;

/// The load of every project from today on, to be asked for row by row.
#[must_use]
pub fn ahead(plan: &Plan, today: Day) -> Groups<'_> {
    let window = Window::new(today, today + FARTHEST, today);
    let query = Query { window, grain: Grain::FiscalYear, group: Group::Project, measure: Measure::Minutes };
    Groups::new(plan, query)
}

/// The load of one project from today on.
#[must_use]
pub fn ahead_of_one(plan: &Plan, today: Day) -> Groups<'_> {
    let query = ahead(plan, today).query;
    Groups::for_one(plan, query)
}

/// The figures of one project.
#[must_use]
pub fn of_project(plan: &Plan, id: ProjectId, worked: &BTreeMap<ProjectId, i64>, ahead: &Groups<'_>) -> Budget {
    let cells = ahead.row(&RowKey::Project(Some(id)));
    let firm: i64 = cells.iter().map(|cell| cell.firm).sum();
    let load: i64 = cells.iter().map(|cell| cell.load).sum();
    Budget {
        budget: plan.records.projects.get(&id).and_then(|project| project.budget_minutes),
        worked: worked.get(&id).copied().unwrap_or(0),
        firm,
        pencilled: load - firm,
    }
}
