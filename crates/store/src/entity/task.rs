//! Tasks.

use crate::{
    Error,
    entity::json::{FieldPairs, Milestones, People, Words},
    entity::task_assignee,
    stored::{Stored, clear, dates, days, pairs, position, put, values},
};
use sea_orm::{DatabaseTransaction, IntoActiveModel, QueryOrder, entity::prelude::*};
use snug_core::kinds::{Assignees, Awaited, PersonId, ProjectId, ReleaseId, SprintId, Task, TaskId, TeamId};
use std::collections::HashMap;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "task")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub project_id: i32,
    pub parent_id: Option<i32>,
    pub title: String,
    pub kind: String,
    pub team_id: Option<i32>,
    pub sharing: String,
    pub contour: String,
    pub estimate: Option<i64>,
    pub remaining: Option<i64>,
    pub logged_then: i64,
    pub points: Option<Decimal>,
    pub start_day: Option<Date>,
    pub finish_day: Option<Date>,
    pub due_day: Option<Date>,
    pub priority: String,
    pub stage: String,
    pub progress: Option<Decimal>,
    #[sea_orm(column_type = "JsonBinary")]
    pub tags: Words,
    pub walk_in: bool,
    pub requester: String,
    pub sprint_id: Option<i32>,
    pub release_id: Option<i32>,
    pub constraint_kind: Option<String>,
    pub constraint_day: Option<Date>,
    pub milestones: Milestones,
    pub needs: String,
    pub accountable_id: Option<i32>,
    pub waiting_on_id: Option<i32>,
    pub waiting_on: String,
    pub stuck: String,
    pub followers: People,
    pub colour: Option<String>,
    pub place: Option<Decimal>,
    pub line: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub fields: FieldPairs,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Task {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        let sharing = match self.assignees {
            Assignees::Even(_) => "even",
            Assignees::Shares(_) => "shares",
            Assignees::Full(_) => "full",
        };
        let (waiting_on_id, waiting_on) = match &self.waiting_on {
            None => (None, String::new()),
            Some(Awaited::Person(person)) => (Some(person.0), String::new()),
            Some(Awaited::Other(words)) => (None, words.clone()),
        };
        Model {
            id: self.id.0,
            reference: self.reference.clone(),
            project_id: self.project.0,
            parent_id: self.parent.map(|id| id.0),
            title: self.title.clone(),
            kind: self.kind.clone(),
            team_id: self.team.map(|id| id.0),
            sharing: sharing.to_owned(),
            contour: self.contour.to_string(),
            estimate: self.estimate,
            remaining: self.remaining,
            logged_then: self.logged_then,
            points: self.points,
            start_day: dates(self.start),
            finish_day: dates(self.finish),
            due_day: dates(self.due),
            priority: self.priority.to_string(),
            stage: self.stage.clone(),
            progress: self.progress,
            tags: Words(self.tags.clone()),
            walk_in: self.walk_in,
            requester: self.requester.clone(),
            sprint_id: self.sprint.map(|id| id.0),
            release_id: self.release.map(|id| id.0),
            constraint_kind: self.constraint.map(|kind| kind.to_string()),
            constraint_day: dates(self.constraint_date),
            milestones: Milestones(self.milestones.clone()),
            needs: self.needs.clone(),
            accountable_id: self.accountable.map(|id| id.0),
            waiting_on_id,
            waiting_on,
            stuck: self.stuck.clone(),
            followers: People(self.followers.clone()),
            colour: self.colour.map(|hue| hue.to_string()),
            place: self.place,
            line: self.line.clone(),
            fields: pairs(&self.fields),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        // Who they are stands in a table of its own.
        let assignees = match row.sharing.as_str() {
            "even" => Assignees::Even(Vec::new()),
            "full" => Assignees::Full(Vec::new()),
            _ => Assignees::Shares(Vec::new()),
        };
        Ok(Self {
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
            sprint: row.sprint_id.map(SprintId),
            release: row.release_id.map(ReleaseId),
            constraint: row.constraint_kind.map(|kind| kind.parse()).transpose()?,
            constraint_date: days(row.constraint_day),
            milestones: row.milestones.0,
            needs: row.needs,
            accountable: row.accountable_id.map(PersonId),
            waiting_on: match row.waiting_on_id {
                Some(id) => Some(Awaited::Person(PersonId(id))),
                None => Some(row.waiting_on).filter(|words| !words.is_empty()).map(Awaited::Other),
            },
            stuck: row.stuck,
            followers: row.followers.0,
            colour: row.colour.map(|hue| hue.parse()).transpose()?,
            place: row.place.map(|place| place.normalize()),
            line: row.line,
            fields: values(row.fields),
        })
    }

    async fn put_joined(txn: &DatabaseTransaction, records: &[&Self], ids: &[i32]) -> Result<(), Error> {
        clear::<task_assignee::Entity>(txn, task_assignee::Column::TaskId, ids).await?;
        let rows = records.iter().flat_map(|task| {
            let shares: Vec<(PersonId, Option<i32>)> = match &task.assignees {
                Assignees::Shares(shares) => shares.iter().map(|(person, share)| (*person, Some(*share))).collect(),
                Assignees::Even(people) | Assignees::Full(people) => people.iter().map(|it| (*it, None)).collect(),
            };
            shares.into_iter().enumerate().map(|(index, (person, share))| {
                let (task_id, person_id) = (task.id.0, person.0);
                task_assignee::Model { task_id, person_id, position: position(index), share }.into_active_model()
            })
        });
        put::<task_assignee::Entity, _>(txn, rows.collect()).await
    }

    async fn load_joined(txn: &DatabaseTransaction, records: &mut [Self]) -> Result<(), Error> {
        let mut by_id: HashMap<i32, &mut Self> = records.iter_mut().map(|task| (task.id.0, task)).collect();
        for row in task_assignee::Entity::find().order_by_asc(task_assignee::Column::Position).all(txn).await? {
            let person = PersonId(row.person_id);
            match by_id.get_mut(&row.task_id).map(|task| &mut task.assignees) {
                Some(Assignees::Even(people) | Assignees::Full(people)) => people.push(person),
                Some(Assignees::Shares(shares)) => shares.push((person, row.share.unwrap_or_default())),
                None => {}
            }
        }
        Ok(())
    }
}
