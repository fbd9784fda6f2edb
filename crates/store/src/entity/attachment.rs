//! Files of tasks and projects.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Attachment, AttachmentId, ProjectId, TaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "attachment")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub task_id: Option<i32>,
    pub project_id: Option<i32>,
    pub name: String,
    pub media: String,
    pub bytes: i32,
    pub sum: String,
    pub author: String,
    pub day: Date,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Attachment {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            task_id: self.task.map(|id| id.0),
            project_id: self.project.map(|id| id.0),
            name: self.name.clone(),
            media: self.media.clone(),
            bytes: self.bytes,
            sum: self.sum.clone(),
            author: self.author.clone(),
            day: self.day.date(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: AttachmentId(row.id),
            task: row.task_id.map(TaskId),
            project: row.project_id.map(ProjectId),
            name: row.name,
            media: row.media,
            bytes: row.bytes,
            sum: row.sum,
            author: row.author,
            day: day(row.day),
        })
    }
}
