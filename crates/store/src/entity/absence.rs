//! Time off.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "absence")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub person_id: i32,
    pub start_day: Date,
    pub end_day: Date,
    pub kind: String,
    pub minutes: Option<i32>,
    pub at_minute: Option<i32>,
}

impl ActiveModelBehavior for ActiveModel {}
