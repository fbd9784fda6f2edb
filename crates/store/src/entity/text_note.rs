//! Texts that no rule reads.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Text, TextId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "text_note")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub subject_kind: String,
    pub subject: i32,
    pub slot: String,
    pub author: String,
    pub day: Date,
    pub body: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Text {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            subject_kind: self.on.to_string(),
            subject: self.subject,
            slot: self.slot.to_string(),
            author: self.author.clone(),
            day: self.day.date(),
            body: self.body.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: TextId(row.id),
            on: row.subject_kind.parse()?,
            subject: row.subject,
            slot: row.slot.parse()?,
            author: row.author,
            day: day(row.day),
            body: row.body,
        })
    }

    // No rule reads it.
    const IN_PLAN: bool = false;
}
