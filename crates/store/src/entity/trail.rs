//! Trails of tasks: all days of one in a row.

use crate::{Error, entity::json::TrailDays, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Trail, TrailId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "trail")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub days: TrailDays,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Trail {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model { id: self.id.0, days: TrailDays(self.days.clone()) }.into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self { id: TrailId(row.id), days: row.days.0 })
    }
}
