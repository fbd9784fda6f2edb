//! Milestones.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "milestone")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub name: String,
    pub date: Date,
}

impl ActiveModelBehavior for ActiveModel {}
