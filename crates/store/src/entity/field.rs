//! Fields of the workspace's own.

use crate::{Error, entity::json::Words, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Field, FieldId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "field")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub subject: String,
    pub name: String,
    pub kind: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub choices: Words,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Field {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            subject: self.of.to_string(),
            name: self.name.clone(),
            kind: self.kind.to_string(),
            choices: Words(self.choices.clone()),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: FieldId(row.id),
            name: row.name,
            of: row.subject.parse()?,
            kind: row.kind.parse()?,
            choices: row.choices.0,
        })
    }
}
