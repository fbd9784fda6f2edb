//! Releases.

use crate::{
    Error,
    stored::{Stored, dates, days},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Release, ReleaseId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "release")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub product: String,
    pub date: Option<Date>,
    pub state: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Release {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            code: self.code.clone(),
            name: self.name.clone(),
            product: self.product.clone(),
            date: dates(self.date),
            state: self.state.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: ReleaseId(row.id),
            code: row.code,
            name: row.name,
            product: row.product,
            date: days(row.date),
            state: row.state,
        })
    }
}
