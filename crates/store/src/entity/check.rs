//! Lines of checklists.

use crate::{Error, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Check, CheckId, TaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "checklist_line")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub task_id: i32,
    pub text: String,
    pub done: bool,
    pub place: Decimal,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Check {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model { id: self.id.0, task_id: self.task.0, text: self.text.clone(), done: self.done, place: self.place }
            .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: CheckId(row.id),
            task: TaskId(row.task_id),
            text: row.text,
            done: row.done,
            place: row.place.normalize(),
        })
    }
}
