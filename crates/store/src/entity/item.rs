//! Items of lists.

use crate::{
    Error,
    stored::{Stored, dates, days},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Item, ItemId, ListId, TaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "item")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub list_id: i32,
    pub task_id: i32,
    pub rank: Decimal,
    pub parked_until: Option<Date>,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Item {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            list_id: self.list.0,
            task_id: self.task.0,
            rank: self.rank,
            parked_until: dates(self.parked_until),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: ItemId(row.id),
            list: ListId(row.list_id),
            task: TaskId(row.task_id),
            rank: row.rank.normalize(),
            parked_until: days(row.parked_until),
        })
    }
}
