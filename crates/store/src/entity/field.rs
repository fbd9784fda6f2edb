//! Fields of the workspace's own.

use super::json::Words;
use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "field")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub subject: String,
    pub name: String,
    pub kind: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub choices: Words,
}

impl ActiveModelBehavior for ActiveModel {}
