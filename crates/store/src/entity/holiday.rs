//! Holidays by calendar.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Holiday, HolidayId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "holiday")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub calendar: String,
    pub date: Date,
    pub name: String,
    pub fraction: i32,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Holiday {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            calendar: self.calendar.clone(),
            date: self.date.date(),
            name: self.name.clone(),
            fraction: self.fraction,
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: HolidayId(row.id),
            calendar: row.calendar,
            date: day(row.date),
            name: row.name,
            fraction: row.fraction,
        })
    }
}
