//! Outside references.

use crate::{Error, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Reference, ReferenceId, TaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "reference")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub task_id: i32,
    pub address: String,
    pub title: String,
    pub state: String,
    pub count: Option<i32>,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Reference {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            task_id: self.task.0,
            address: self.address.clone(),
            title: self.title.clone(),
            state: self.state.clone(),
            count: self.count,
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: ReferenceId(row.id),
            task: TaskId(row.task_id),
            address: row.address,
            title: row.title,
            state: row.state,
            count: row.count,
        })
    }
}
