//! Codes that stand in for a lost second step.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "recovery_code")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub account_id: i32,
    #[sea_orm(primary_key, auto_increment = false)]
    pub hash: String,
}

impl ActiveModelBehavior for ActiveModel {}
