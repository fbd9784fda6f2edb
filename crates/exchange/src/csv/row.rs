//! One record as the row of its file, a cell at a time: lists and forms ask for the columns they show only.

use super::{
    cell::{self, amount_text, hours_text, pattern_text, percent_text},
    columns::OWN,
};
use rust_decimal::Decimal;
use snug_core::{
    PersonId, Plan, ProjectId, TaskId, TeamId,
    change::Change,
    demand::remaining_of,
    fields::{Field, FieldOf, FieldValues},
    people::{Absence, Holiday, Person},
    work::{Assignees, Booking, Link, Milestone, Project, Task, Team, TimeEntry, Who},
};
use std::borrow::Cow;

/// A record that has a row in a file.
#[derive(Clone, Debug)]
#[allow(missing_docs)] // the variants are the kinds of record
pub enum Row<'a> {
    Field(&'a Field),
    Person(&'a Person),
    Holiday(&'a Holiday),
    Absence(&'a Absence),
    Team(&'a Team),
    Project(&'a Project),
    Task(&'a Task),
    Link(&'a Link),
    Booking(Cow<'a, Booking>),
    TimeEntry(&'a TimeEntry),
    Milestone(&'a Milestone),
}

impl<'a> Row<'a> {
    /// The record of a change: as it stands after it or, where it goes, before it.
    #[must_use]
    pub fn of(change: &'a Change) -> Option<Self> {
        match change {
            Change::Field(edit) => edit.either().map(Self::Field),
            Change::Person(edit) => edit.either().map(Self::Person),
            Change::Holiday(edit) => edit.either().map(Self::Holiday),
            Change::Absence(edit) => edit.either().map(Self::Absence),
            Change::Team(edit) => edit.either().map(Self::Team),
            Change::Project(edit) => edit.either().map(Self::Project),
            Change::Task(edit) => edit.either().map(Self::Task),
            Change::Link(edit) => edit.either().map(Self::Link),
            Change::Booking(edit) => edit.either().map(|booking| Self::Booking(Cow::Borrowed(booking))),
            Change::TimeEntry(edit) => edit.either().map(Self::TimeEntry),
            Change::Milestone(edit) => edit.either().map(Self::Milestone),
            Change::Settings(_) | Change::Text(_) => None,
        }
    }

    /// The record's identity.
    #[must_use]
    pub fn id(&self) -> i32 {
        match self {
            Self::Field(it) => it.id.0,
            Self::Person(it) => it.id.0,
            Self::Holiday(it) => it.id.0,
            Self::Absence(it) => it.id.0,
            Self::Team(it) => it.id.0,
            Self::Project(it) => it.id.0,
            Self::Task(it) => it.id.0,
            Self::Link(it) => it.id.0,
            Self::Booking(it) => it.id.0,
            Self::TimeEntry(it) => it.id.0,
            Self::Milestone(it) => it.id.0,
        }
    }

    /// What stands in a column; nothing in one that the file does not have.
    #[must_use]
    pub fn cell(&self, plan: &Plan, column: &str) -> String {
        let keys = Keys { plan };
        match self {
            Self::Field(it) => field(it, column),
            Self::Person(it) => keys.own(column, FieldOf::Person, &it.fields).unwrap_or_else(|| person(it, column)),
            Self::Holiday(it) => holiday(it, column),
            Self::Absence(it) => keys.absence(it, column),
            Self::Team(it) => keys.team_cell(it, column),
            Self::Project(it) => {
                keys.own(column, FieldOf::Project, &it.fields).unwrap_or_else(|| keys.project_cell(it, column))
            }
            Self::Task(it) => keys.own(column, FieldOf::Task, &it.fields).unwrap_or_else(|| keys.task_cell(it, column)),
            Self::Link(it) => keys.link(it, column),
            Self::Booking(it) => keys.booking(it, column),
            Self::TimeEntry(it) => keys.time(it, column),
            Self::Milestone(it) => keys.milestone(it, column),
        }
    }
}

pub(super) fn option<T: ToString>(value: Option<T>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

fn hours(minutes: Option<impl Into<i64>>) -> String {
    minutes.map(|minutes| hours_text(minutes.into())).unwrap_or_default()
}

fn yes(value: bool) -> String {
    if value { "yes".to_owned() } else { String::new() }
}

fn field(it: &Field, column: &str) -> String {
    match column {
        "of" => it.of.to_string(),
        "name" => it.name.clone(),
        "kind" => it.kind.to_string(),
        "choices" => it.choices.join(";"),
        _ => String::new(),
    }
}

fn holiday(it: &Holiday, column: &str) -> String {
    match column {
        "calendar" => it.calendar.clone(),
        "date" => it.date.to_string(),
        "name" => it.name.clone(),
        "fraction" => Decimal::new(i64::from(it.fraction), 6).normalize().to_string(),
        _ => String::new(),
    }
}

fn person(it: &Person, column: &str) -> String {
    let rate = || it.rates.iter().find(|rate| rate.from.is_none());
    match column {
        "email" => it.email.clone(),
        "name" => it.name.clone(),
        "role" => it.role.clone(),
        "kind" => it.kind.to_string(),
        "holiday_calendar" => it.calendar.clone(),
        "pattern" => it.patterns.first().map(|dated| pattern_text(&dated.pattern)).unwrap_or_default(),
        "day_limit_h" => hours(it.day_limit),
        "week_limit_h" => hours(it.week_limit),
        "max_projects" => option(it.max_projects),
        "max_tasks" => option(it.max_tasks),
        "max_points" => option(it.max_points),
        "skills" => it.skills.join(";"),
        "cost_rate" => option(rate().and_then(|rate| rate.cost)),
        "bill_rate" => option(rate().and_then(|rate| rate.bill)),
        _ => String::new(),
    }
}

/// From identities to the keys that files use.
pub(super) struct Keys<'a> {
    pub plan: &'a Plan,
}

impl Keys<'_> {
    pub fn person(&self, id: Option<PersonId>) -> String {
        id.and_then(|id| self.plan.people.get(&id)).map(|entry| entry.person.email.clone()).unwrap_or_default()
    }
    fn team(&self, id: Option<TeamId>) -> String {
        id.and_then(|id| self.plan.teams.get(&id)).map(|team| team.code.clone()).unwrap_or_default()
    }
    fn project(&self, id: Option<ProjectId>) -> String {
        id.and_then(|id| self.plan.projects.get(&id)).map(|project| project.code.clone()).unwrap_or_default()
    }
    fn task(&self, id: Option<TaskId>) -> String {
        id.and_then(|id| self.plan.tasks.get(&id)).map(|task| task.reference.clone()).unwrap_or_default()
    }

    /// The value of a field of the workspace's own; `None` for any other column.
    fn own(&self, column: &str, of: FieldOf, values: &FieldValues) -> Option<String> {
        let name = column.strip_prefix(OWN)?;
        let mut fields = self.plan.fields.values();
        let field = fields.find(|field| field.of == of && field.name == name);
        Some(field.and_then(|field| values.get(&field.id)).cloned().unwrap_or_default())
    }

    fn absence(&self, it: &Absence, column: &str) -> String {
        match column {
            "ref" => it.reference.clone(),
            "email" => self.person(Some(it.person)),
            "start" => it.start.to_string(),
            "end" => it.end.to_string(),
            "kind" => it.kind.clone(),
            "hours_per_day" => hours(it.minutes),
            "at" => it.at.map(cell::time_of_day_text).unwrap_or_default(),
            _ => String::new(),
        }
    }

    fn team_cell(&self, it: &Team, column: &str) -> String {
        match column {
            "code" => it.code.clone(),
            "name" => it.name.clone(),
            "parent" => self.team(it.parent),
            "owner" => self.person(it.owner),
            "week_capacity_h" => hours(it.week_capacity),
            _ => String::new(),
        }
    }

    fn project_cell(&self, it: &Project, column: &str) -> String {
        match column {
            "code" => it.code.clone(),
            "name" => it.name.clone(),
            "status" => it.status.to_string(),
            "parent" => self.project(it.parent),
            "lead" => self.person(it.lead),
            "team" => self.team(it.team),
            "start" => option(it.start),
            "finish" => option(it.finish),
            "budget_h" => hours(it.budget_minutes),
            "budget_money" => option(it.budget_money),
            _ => String::new(),
        }
    }

    fn task_cell(&self, it: &Task, column: &str) -> String {
        match column {
            "ref" => it.reference.clone(),
            "project" => self.project(Some(it.project)),
            "parent" => self.task(it.parent),
            "title" => it.title.clone(),
            "kind" => it.kind.clone(),
            "team" => self.team(it.team),
            "assignees" => self.assignees(&it.assignees),
            "contour" => it.contour.to_string(),
            "estimate_h" => hours(it.estimate),
            "remaining_h" => hours(remaining_of(self.plan, it)),
            "points" => option(it.points),
            "start" => option(it.start),
            "finish" => option(it.finish),
            "due" => option(it.due),
            "priority" => it.priority.to_string(),
            "stage" => it.stage.clone(),
            "progress" => option(it.progress),
            "tags" => it.tags.join(";"),
            "walk_in" => yes(it.walk_in),
            "requester" => it.requester.clone(),
            "sprint" => it.sprint.clone(),
            "release" => it.release.clone(),
            _ => String::new(),
        }
    }

    fn assignees(&self, assignees: &Assignees) -> String {
        let person = |id: &PersonId| self.person(Some(*id));
        let parts: Vec<String> = match assignees {
            Assignees::Even(people) => people.iter().map(person).collect(),
            Assignees::Full(people) => people.iter().map(|id| format!("{}=full", person(id))).collect(),
            Assignees::Shares(shares) => {
                shares.iter().map(|(id, share)| format!("{}={}", person(id), percent_text(*share))).collect()
            }
        };
        parts.join(";")
    }

    fn link(&self, it: &Link, column: &str) -> String {
        match column {
            "from" => self.task(Some(it.from)),
            "to" => self.task(Some(it.to)),
            "type" => it.kind.to_string(),
            "lag_days" => it.lag_days.to_string(),
            "note" => it.note.clone(),
            _ => String::new(),
        }
    }

    fn booking(&self, it: &Booking, column: &str) -> String {
        match (column, &it.who) {
            ("email", Who::Person(id)) => self.person(Some(*id)),
            ("team", Who::Team(id)) => self.team(Some(*id)),
            ("role", Who::Role(role)) => role.clone(),
            ("ref", _) => it.reference.clone(),
            ("project", _) => self.project(it.project),
            ("start", _) => it.start.to_string(),
            ("end", _) => it.end.to_string(),
            ("amount", _) => amount_text(it.amount),
            ("unit", _) => it.amount.unit.to_string(),
            ("certainty", _) => it.certainty.to_string(),
            ("days_off", _) => yes(it.days_off),
            ("note", _) => it.note.clone(),
            _ => String::new(),
        }
    }

    fn time(&self, it: &TimeEntry, column: &str) -> String {
        match column {
            "ref" => it.reference.clone(),
            "email" => self.person(Some(it.person)),
            "date" => it.date.to_string(),
            "project" => self.project(it.project),
            "task" => self.task(it.task),
            "hours" => hours_text(i64::from(it.minutes)),
            "billable" => yes(it.billable),
            "note" => it.note.clone(),
            _ => String::new(),
        }
    }

    fn milestone(&self, it: &Milestone, column: &str) -> String {
        match column {
            "ref" => it.reference.clone(),
            "name" => it.name.clone(),
            "date" => it.date.to_string(),
            "projects" => it.projects.iter().map(|id| self.project(Some(*id))).collect::<Vec<_>>().join(";"),
            _ => String::new(),
        }
    }
}
