//! Saved looks.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "saved_look")]
pub struct Model {
    #[sea_orm(primary_key)]
    pub id: i32,
    pub account_id: i32,
    pub room: String,
    pub name: String,
    pub address: String,
    pub shared: bool,
}

impl ActiveModelBehavior for ActiveModel {}
