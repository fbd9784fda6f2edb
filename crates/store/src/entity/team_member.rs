//! Who gives which share to a team.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "team_member")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub team_id: i32,
    #[sea_orm(primary_key, auto_increment = false)]
    pub person_id: i32,
    pub position: i32,
    pub share: i32,
}

impl ActiveModelBehavior for ActiveModel {}
