//! Values as people read them: an address becomes a name, a code the name behind it, hours get their unit.

use super::kind::{Column, Input, Kind};
use crate::words;
use snug_core::{
    AbsenceId, BookingId, Day, FieldId, HolidayId, MilestoneId, PersonId, Plan, ProjectId, TaskId, TeamId, TimeEntryId,
    change::{Change, Edit},
};
use snug_exchange::csv::Row;

/// A record by its kind, as [`Change::subject`] names it, and its identity, as it stands.
pub fn record(plan: &Plan, kind: &str, id: i32) -> Option<Change> {
    Some(match kind {
        "person" => Change::Person(Edit::new((*plan.people.get(&PersonId(id))?.person).clone())),
        "team" => Change::Team(Edit::new((**plan.teams.get(&TeamId(id))?).clone())),
        "project" => Change::Project(Edit::new((**plan.projects.get(&ProjectId(id))?).clone())),
        "task" => Change::Task(Edit::new((**plan.tasks.get(&TaskId(id))?).clone())),
        "booking" => Change::Booking(Edit::new(plan.booking(BookingId(id))?)),
        "time entry" => Change::TimeEntry(Edit::new((**plan.time_entries.get(&TimeEntryId(id))?).clone())),
        "milestone" => Change::Milestone(Edit::new((**plan.milestones.get(&MilestoneId(id))?).clone())),
        "field" => Change::Field(Edit::new((**plan.fields.get(&FieldId(id))?).clone())),
        "absence" => {
            let mut all = plan.people.values().flat_map(|entry| entry.absences.iter());
            Change::Absence(Edit::new(all.find(|absence| absence.id == AbsenceId(id))?.clone()))
        }
        "holiday" => {
            let mut all = plan.calendars.values().flat_map(|calendar| &calendar.holidays);
            Change::Holiday(Edit::new(all.find(|holiday| holiday.id == HolidayId(id))?.clone()))
        }
        _ => return None,
    })
}

/// Every record of a kind.
pub fn all<'a>(plan: &'a Plan, kind: &Kind) -> Vec<Row<'a>> {
    match kind.subject {
        "person" => plan.people.values().map(|it| Row::Person(&it.person)).collect(),
        "team" => plan.teams.values().map(|it| Row::Team(it)).collect(),
        "project" => plan.projects.values().map(|it| Row::Project(it)).collect(),
        "task" => plan.tasks.values().map(|it| Row::Task(it)).collect(),
        "milestone" => plan.milestones.values().map(|it| Row::Milestone(it)).collect(),
        "field" => plan.fields.values().map(|it| Row::Field(it)).collect(),
        "absence" => plan.people.values().flat_map(|entry| entry.absences.iter()).map(Row::Absence).collect(),
        "holiday" => plan.calendars.values().flat_map(|calendar| &calendar.holidays).map(Row::Holiday).collect(),
        _ => Vec::new(),
    }
}

/// What a value of a column is called on pages.
pub fn shown(plan: &Plan, column: &Column, raw: &str) -> String {
    if raw.is_empty() {
        return String::new();
    }
    match column.input {
        Input::Hours => format!("{raw} h"),
        Input::Date => {
            raw.parse::<Day>().map_or_else(|_| raw.to_owned(), |day| words::date(day, plan.settings.date_order))
        }
        Input::Person => person_name(plan, raw),
        Input::Team => {
            let team = plan.find("team", raw).and_then(|id| plan.teams.get(&TeamId(id)));
            team.map_or_else(|| raw.to_owned(), |team| team.name.clone())
        }
        Input::Project => project(plan, raw),
        Input::Task => {
            let task = plan.find("task", raw).and_then(|id| plan.tasks.get(&TaskId(id)));
            task.map_or_else(|| raw.to_owned(), |task| task.title.clone())
        }
        Input::People => raw.split(';').map(|part| assignee(plan, part)).collect::<Vec<_>>().join(", "),
        Input::Words if column.name == "projects" => {
            raw.split(';').map(|code| project(plan, code)).collect::<Vec<_>>().join(", ")
        }
        Input::Words => raw.replace(';', ", "),
        _ => raw.to_owned(),
    }
}

fn project(plan: &Plan, code: &str) -> String {
    let project = plan.find("project", code).and_then(|id| plan.projects.get(&ProjectId(id)));
    project.map_or_else(|| code.to_owned(), |project| project.name.clone())
}

/// What somebody is called; their address where the plan has nobody of it.
pub fn person_name(plan: &Plan, email: &str) -> String {
    plan.person_by_email(email).map_or_else(|| email.to_owned(), |entry| entry.person.name.clone())
}

/// `Oona Varga 70 %`, `Jonah Petrov in full`.
fn assignee(plan: &Plan, part: &str) -> String {
    match part.split_once('=') {
        None => person_name(plan, part),
        Some((email, "full")) => format!("{} in full", person_name(plan, email)),
        Some((email, share)) => format!("{} {share} %", person_name(plan, email)),
    }
}

/// By what a list sorts: numbers and dates as what they are, words without case; nothing comes last.
#[derive(Clone, Debug, PartialEq, PartialOrd)]
pub enum SortKey {
    /// A number.
    Number(f64),
    /// Words.
    Words(String),
    /// Nothing.
    Nothing,
}

/// The sort key of a value.
pub fn sort_key(column: &Column, raw: &str, shown: &str) -> SortKey {
    if raw.is_empty() {
        return SortKey::Nothing;
    }
    match column.input {
        Input::Hours | Input::Number => raw.parse().map_or(SortKey::Nothing, SortKey::Number),
        Input::Date => SortKey::Words(raw.to_owned()),
        // A closed list has an order of its own: low before normal before high.
        Input::Choice(_) => {
            let at = column.choices.iter().position(|choice| choice == raw);
            at.map_or_else(
                || SortKey::Words(raw.to_lowercase()),
                |at| SortKey::Number(f64::from(u32::try_from(at).unwrap_or(u32::MAX))),
            )
        }
        _ => SortKey::Words(shown.to_lowercase()),
    }
}
