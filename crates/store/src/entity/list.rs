//! Lists.

use crate::{Error, entity::json::Teams, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{List, ListId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "list")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub purpose: String,
    pub teams: Teams,
    pub ideas_behind: bool,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for List {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            code: self.code.clone(),
            name: self.name.clone(),
            purpose: self.purpose.clone(),
            teams: Teams(self.teams.clone()),
            ideas_behind: self.ideas_behind,
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: ListId(row.id),
            code: row.code,
            name: row.name,
            purpose: row.purpose,
            teams: row.teams.0,
            ideas_behind: row.ideas_behind,
        })
    }
}
