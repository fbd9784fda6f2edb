//! Requests that were done, for programs that ask twice.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "kept_answer")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub account_id: i32,
    #[sea_orm(primary_key, auto_increment = false)]
    pub key: String,
    pub request: String,
    pub revision: i64,
    pub at: DateTimeUtc,
}

impl ActiveModelBehavior for ActiveModel {}
