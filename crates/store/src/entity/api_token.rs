//! Tokens for programs; only their hashes are kept.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "api_token")]
pub struct Model {
    #[sea_orm(primary_key)]
    pub id: i32,
    pub account_id: i32,
    pub name: String,
    pub hash: String,
    pub created_at: DateTimeUtc,
    pub scopes: String,
}

impl ActiveModelBehavior for ActiveModel {}
