//! The projects of a milestone.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "milestone_project")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub milestone_id: i32,
    #[sea_orm(primary_key, auto_increment = false)]
    pub project_id: i32,
    pub position: i32,
}

impl ActiveModelBehavior for ActiveModel {}
