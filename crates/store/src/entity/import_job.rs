//! Imports under way, and how they ended.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "import_job")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: String,
    pub account_id: i32,
    pub source: String,
    pub state: String,
    pub step: String,
    pub done: i32,
    pub total: i32,
    pub stop: bool,
    pub revision: Option<i64>,
    pub begun_at: DateTimeUtc,
    pub beat_at: DateTimeUtc,
}

impl ActiveModelBehavior for ActiveModel {}
