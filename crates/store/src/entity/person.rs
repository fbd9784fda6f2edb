//! People and equipment.

use super::json::{FieldPairs, Patterns, Rates, Words};
use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "person")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub email: String,
    pub name: String,
    pub role: String,
    pub kind: String,
    pub calendar: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub patterns: Patterns,
    pub day_limit: Option<i32>,
    pub week_limit: Option<i32>,
    pub max_projects: Option<i32>,
    pub max_tasks: Option<i32>,
    pub max_points: Option<Decimal>,
    #[sea_orm(column_type = "JsonBinary")]
    pub skills: Words,
    #[sea_orm(column_type = "JsonBinary")]
    pub rates: Rates,
    #[sea_orm(column_type = "JsonBinary")]
    pub fields: FieldPairs,
}

impl ActiveModelBehavior for ActiveModel {}
