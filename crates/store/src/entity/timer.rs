//! Timers that run or pause.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "timer")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub account_id: i32,
    pub project_id: Option<i32>,
    pub task_id: Option<i32>,
    pub note: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub spans: Json,
    pub since: Option<DateTimeUtc>,
}

impl ActiveModelBehavior for ActiveModel {}
