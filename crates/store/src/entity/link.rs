//! Links between tasks.

use crate::{Error, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Link, LinkId, TaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "link")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub from_id: i32,
    pub to_id: i32,
    pub kind: String,
    pub lag_days: i32,
    pub note: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Link {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            from_id: self.from.0,
            to_id: self.to.0,
            kind: self.kind.to_string(),
            lag_days: self.lag_days,
            note: self.note.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: LinkId(row.id),
            from: TaskId(row.from_id),
            to: TaskId(row.to_id),
            kind: row.kind.parse()?,
            lag_days: row.lag_days,
            note: row.note,
        })
    }
}
