//! Logged work.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{PersonId, ProjectId, TaskId, TimeEntry, TimeEntryId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "time_entry")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub person_id: i32,
    pub date: Date,
    pub project_id: Option<i32>,
    pub task_id: Option<i32>,
    pub minutes: i32,
    pub billable: bool,
    pub note: String,
    pub reason: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for TimeEntry {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            reference: self.reference.clone(),
            person_id: self.person.0,
            date: self.date.date(),
            project_id: self.project.map(|id| id.0),
            task_id: self.task.map(|id| id.0),
            minutes: self.minutes,
            billable: self.billable,
            note: self.note.clone(),
            reason: self.reason.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: TimeEntryId(row.id),
            reference: row.reference,
            person: PersonId(row.person_id),
            date: day(row.date),
            project: row.project_id.map(ProjectId),
            task: row.task_id.map(TaskId),
            minutes: row.minutes,
            billable: row.billable,
            note: row.note,
            reason: row.reason,
        })
    }
}
