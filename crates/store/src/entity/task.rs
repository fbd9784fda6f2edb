//! Tasks.

use super::json::{FieldPairs, Words};
use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "task")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub project_id: i32,
    pub parent_id: Option<i32>,
    pub title: String,
    pub kind: String,
    pub team_id: Option<i32>,
    pub sharing: String,
    pub contour: String,
    pub estimate: Option<i64>,
    pub remaining: Option<i64>,
    pub logged_then: i64,
    pub points: Option<Decimal>,
    pub start_day: Option<Date>,
    pub finish_day: Option<Date>,
    pub due_day: Option<Date>,
    pub priority: String,
    pub stage: String,
    pub progress: Option<Decimal>,
    #[sea_orm(column_type = "JsonBinary")]
    pub tags: Words,
    pub walk_in: bool,
    pub requester: String,
    pub sprint: String,
    pub release: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub fields: FieldPairs,
}

impl ActiveModelBehavior for ActiveModel {}
