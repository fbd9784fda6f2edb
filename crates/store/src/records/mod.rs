//! Between rows of the database and records of the core.

mod crew;

pub(crate) use crew::*;

use crate::{
    Error,
    entity::{
        booking,
        json::{FieldPairs, Words},
        link, milestone, milestone_project, project, task, task_assignee, time_entry,
    },
};
use chrono::NaiveDate;
use sea_orm::IntoActiveModel;
use snug_core::{
    BookingId, Day, LinkId, MilestoneId, NoSuchWord, PersonId, ProjectId, TaskId, TeamId, TimeEntryId,
    fields::FieldValues,
    work::{Amount, Assignees, Booking, Link, Milestone, Project, Task, TimeEntry, Who},
};

impl From<NoSuchWord> for Error {
    fn from(error: NoSuchWord) -> Self {
        Self::Damaged(error.to_string())
    }
}

fn day(date: NaiveDate) -> Day {
    Day::from_date(date)
}

fn days(date: Option<NaiveDate>) -> Option<Day> {
    date.map(day)
}

fn dates(day: Option<Day>) -> Option<NaiveDate> {
    day.map(Day::date)
}

fn pairs(values: &FieldValues) -> FieldPairs {
    FieldPairs(values.iter().map(|(id, value)| (*id, value.clone())).collect())
}

fn values(pairs: FieldPairs) -> FieldValues {
    pairs.0.into_iter().collect()
}

fn position(index: usize) -> i32 {
    i32::try_from(index).unwrap_or(i32::MAX)
}

pub(crate) fn project_row(record: &Project) -> project::ActiveModel {
    project::Model {
        id: record.id.0,
        code: record.code.clone(),
        name: record.name.clone(),
        status: record.status.to_string(),
        parent_id: record.parent.map(|id| id.0),
        lead_id: record.lead.map(|id| id.0),
        team_id: record.team.map(|id| id.0),
        start_day: dates(record.start),
        finish_day: dates(record.finish),
        budget_minutes: record.budget_minutes,
        budget_money: record.budget_money,
        fields: pairs(&record.fields),
    }
    .into_active_model()
}

pub(crate) fn project(row: project::Model) -> Result<Project, Error> {
    Ok(Project {
        id: ProjectId(row.id),
        code: row.code,
        name: row.name,
        status: row.status.parse()?,
        parent: row.parent_id.map(ProjectId),
        lead: row.lead_id.map(PersonId),
        team: row.team_id.map(TeamId),
        start: days(row.start_day),
        finish: days(row.finish_day),
        budget_minutes: row.budget_minutes,
        budget_money: row.budget_money.map(|money| money.normalize()),
        fields: values(row.fields),
    })
}

pub(crate) fn task_row(record: &Task) -> task::ActiveModel {
    let sharing = match record.assignees {
        Assignees::Even(_) => "even",
        Assignees::Shares(_) => "shares",
        Assignees::Full(_) => "full",
    };
    task::Model {
        id: record.id.0,
        reference: record.reference.clone(),
        project_id: record.project.0,
        parent_id: record.parent.map(|id| id.0),
        title: record.title.clone(),
        kind: record.kind.clone(),
        team_id: record.team.map(|id| id.0),
        sharing: sharing.to_owned(),
        contour: record.contour.to_string(),
        estimate: record.estimate,
        remaining: record.remaining,
        logged_then: record.logged_then,
        points: record.points,
        start_day: dates(record.start),
        finish_day: dates(record.finish),
        due_day: dates(record.due),
        priority: record.priority.to_string(),
        stage: record.stage.clone(),
        progress: record.progress,
        tags: Words(record.tags.clone()),
        walk_in: record.walk_in,
        requester: record.requester.clone(),
        sprint: record.sprint.clone(),
        release: record.release.clone(),
        fields: pairs(&record.fields),
    }
    .into_active_model()
}

pub(crate) fn assignee_rows(record: &Task) -> Vec<task_assignee::ActiveModel> {
    let shares: Vec<(PersonId, Option<i32>)> = match &record.assignees {
        Assignees::Shares(shares) => shares.iter().map(|(person, share)| (*person, Some(*share))).collect(),
        Assignees::Even(people) | Assignees::Full(people) => people.iter().map(|person| (*person, None)).collect(),
    };
    let row = |(index, (person, share)): (usize, (PersonId, Option<i32>))| {
        let row = task_assignee::Model { task_id: record.id.0, person_id: person.0, position: position(index), share };
        row.into_active_model()
    };
    shares.into_iter().enumerate().map(row).collect()
}

pub(crate) fn task(row: task::Model, assignees: &[task_assignee::Model]) -> Result<Task, Error> {
    let people = || assignees.iter().map(|row| PersonId(row.person_id)).collect();
    let assignees = match row.sharing.as_str() {
        "even" => Assignees::Even(people()),
        "full" => Assignees::Full(people()),
        _ => Assignees::Shares(
            assignees.iter().map(|row| (PersonId(row.person_id), row.share.unwrap_or_default())).collect(),
        ),
    };
    Ok(Task {
        id: TaskId(row.id),
        reference: row.reference,
        project: ProjectId(row.project_id),
        parent: row.parent_id.map(TaskId),
        title: row.title,
        kind: row.kind,
        team: row.team_id.map(TeamId),
        assignees,
        contour: row.contour.parse()?,
        estimate: row.estimate,
        remaining: row.remaining,
        logged_then: row.logged_then,
        points: row.points.map(|points| points.normalize()),
        start: days(row.start_day),
        finish: days(row.finish_day),
        due: days(row.due_day),
        priority: row.priority.parse()?,
        stage: row.stage,
        progress: row.progress.map(|progress| progress.normalize()),
        tags: row.tags.0,
        walk_in: row.walk_in,
        requester: row.requester,
        sprint: row.sprint,
        release: row.release,
        fields: values(row.fields),
    })
}

pub(crate) fn link_row(record: &Link) -> link::ActiveModel {
    link::Model {
        id: record.id.0,
        from_id: record.from.0,
        to_id: record.to.0,
        kind: record.kind.to_string(),
        lag_days: record.lag_days,
        note: record.note.clone(),
    }
    .into_active_model()
}

pub(crate) fn link(row: link::Model) -> Result<Link, Error> {
    Ok(Link {
        id: LinkId(row.id),
        from: TaskId(row.from_id),
        to: TaskId(row.to_id),
        kind: row.kind.parse()?,
        lag_days: row.lag_days,
        note: row.note,
    })
}

pub(crate) fn booking_row(record: &Booking) -> booking::ActiveModel {
    let (person_id, team_id, role) = match &record.who {
        Who::Person(id) => (Some(id.0), None, None),
        Who::Team(id) => (None, Some(id.0), None),
        Who::Role(role) => (None, None, Some(role.clone())),
    };
    booking::Model {
        id: record.id.0,
        reference: record.reference.clone(),
        person_id,
        team_id,
        role,
        project_id: record.project.map(|id| id.0),
        start_day: record.start.date(),
        end_day: record.end.date(),
        amount: record.amount.value,
        unit: record.amount.unit.to_string(),
        certainty: record.certainty.to_string(),
        days_off: record.days_off,
        note: record.note.clone(),
    }
    .into_active_model()
}

pub(crate) fn booking(row: booking::Model) -> Result<Booking, Error> {
    let who = match (row.person_id, row.team_id, row.role) {
        (Some(id), ..) => Who::Person(PersonId(id)),
        (_, Some(id), _) => Who::Team(TeamId(id)),
        (_, _, role) => Who::Role(role.unwrap_or_default()),
    };
    Ok(Booking {
        id: BookingId(row.id),
        reference: row.reference,
        who,
        project: row.project_id.map(ProjectId),
        start: day(row.start_day),
        end: day(row.end_day),
        amount: Amount { value: row.amount, unit: row.unit.parse()? },
        certainty: row.certainty.parse()?,
        days_off: row.days_off,
        note: row.note,
    })
}

pub(crate) fn time_entry_row(record: &TimeEntry) -> time_entry::ActiveModel {
    time_entry::Model {
        id: record.id.0,
        reference: record.reference.clone(),
        person_id: record.person.0,
        date: record.date.date(),
        project_id: record.project.map(|id| id.0),
        task_id: record.task.map(|id| id.0),
        minutes: record.minutes,
        billable: record.billable,
        note: record.note.clone(),
    }
    .into_active_model()
}

pub(crate) fn time_entry(row: time_entry::Model) -> TimeEntry {
    TimeEntry {
        id: TimeEntryId(row.id),
        reference: row.reference,
        person: PersonId(row.person_id),
        date: day(row.date),
        project: row.project_id.map(ProjectId),
        task: row.task_id.map(TaskId),
        minutes: row.minutes,
        billable: row.billable,
        note: row.note,
    }
}

pub(crate) fn milestone_row(record: &Milestone) -> milestone::ActiveModel {
    let (id, reference, name) = (record.id.0, record.reference.clone(), record.name.clone());
    milestone::Model { id, reference, name, date: record.date.date() }.into_active_model()
}

pub(crate) fn milestone_project_rows(record: &Milestone) -> Vec<milestone_project::ActiveModel> {
    let row = |(index, project): (usize, &ProjectId)| {
        let row =
            milestone_project::Model { milestone_id: record.id.0, project_id: project.0, position: position(index) };
        row.into_active_model()
    };
    record.projects.iter().enumerate().map(row).collect()
}

pub(crate) fn milestone(row: milestone::Model, projects: &[milestone_project::Model]) -> Milestone {
    Milestone {
        id: MilestoneId(row.id),
        reference: row.reference,
        name: row.name,
        date: day(row.date),
        projects: projects.iter().map(|row| ProjectId(row.project_id)).collect(),
    }
}
