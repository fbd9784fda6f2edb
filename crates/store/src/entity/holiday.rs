//! Holidays by calendar.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "holiday")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub calendar: String,
    pub date: Date,
    pub name: String,
    pub fraction: i32,
}

impl ActiveModelBehavior for ActiveModel {}
