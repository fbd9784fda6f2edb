//! Links between tasks.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "link")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub from_id: i32,
    pub to_id: i32,
    pub kind: String,
    pub lag_days: i32,
    pub note: String,
}

impl ActiveModelBehavior for ActiveModel {}
