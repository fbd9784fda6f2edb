//! The workspace itself: one row with its settings, the number of the last ledger entry, and the next identity.

use super::json::Settings;
use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "workspace")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    #[sea_orm(column_type = "JsonBinary")]
    pub settings: Settings,
    pub revision: i64,
    pub next_id: i32,
}

impl ActiveModelBehavior for ActiveModel {}
