//! Time off.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Absence, AbsenceId, PersonId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "absence")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub person_id: i32,
    pub start_day: Date,
    pub end_day: Date,
    pub kind: String,
    pub minutes: Option<i32>,
    pub at_minute: Option<i32>,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Absence {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            reference: self.reference.clone(),
            person_id: self.person.0,
            start_day: self.start.date(),
            end_day: self.end.date(),
            kind: self.kind.clone(),
            minutes: self.minutes,
            at_minute: self.at,
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: AbsenceId(row.id),
            reference: row.reference,
            person: PersonId(row.person_id),
            start: day(row.start_day),
            end: day(row.end_day),
            kind: row.kind,
            minutes: row.minutes,
            at: row.at_minute,
        })
    }
}
