//! Where weeks of hours stand.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{PersonId, WeekSheet, WeekSheetId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "week_sheet")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub person_id: i32,
    pub week: Date,
    pub state: String,
    pub by: String,
    pub note: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for WeekSheet {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            person_id: self.person.0,
            week: self.week.date(),
            state: self.state.to_string(),
            by: self.by.clone(),
            note: self.note.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: WeekSheetId(row.id),
            person: PersonId(row.person_id),
            week: day(row.week),
            state: row.state.parse()?,
            by: row.by,
            note: row.note,
        })
    }
}
