//! Baselines.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Baseline, BaselineId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "baseline")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub kind: String,
    pub subject: String,
    pub date: Date,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Baseline {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            code: self.code.clone(),
            name: self.name.clone(),
            kind: self.kind.to_string(),
            subject: self.of.clone(),
            date: self.date.date(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: BaselineId(row.id),
            code: row.code,
            name: row.name,
            kind: row.kind.parse()?,
            of: row.subject,
            date: day(row.date),
        })
    }
}
