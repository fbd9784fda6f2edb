//! Projects.

use super::json::FieldPairs;
use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "project")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub status: String,
    pub parent_id: Option<i32>,
    pub lead_id: Option<i32>,
    pub team_id: Option<i32>,
    pub start_day: Option<Date>,
    pub finish_day: Option<Date>,
    pub budget_minutes: Option<i64>,
    pub budget_money: Option<Decimal>,
    #[sea_orm(column_type = "JsonBinary")]
    pub fields: FieldPairs,
}

impl ActiveModelBehavior for ActiveModel {}
