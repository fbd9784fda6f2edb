//! Logged work.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "time_entry")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub person_id: i32,
    pub date: Date,
    pub project_id: Option<i32>,
    pub task_id: Option<i32>,
    pub minutes: i32,
    pub billable: bool,
    pub note: String,
}

impl ActiveModelBehavior for ActiveModel {}
