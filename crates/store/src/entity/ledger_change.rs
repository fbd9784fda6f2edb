//! What each ledger entry changed, record by record.

use super::json::Recorded;
use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "ledger_change")]
pub struct Model {
    /// The draft; 0 for the live plan.
    #[sea_orm(primary_key, auto_increment = false)]
    pub draft: i32,
    #[sea_orm(primary_key, auto_increment = false)]
    pub revision: i64,
    #[sea_orm(primary_key, auto_increment = false)]
    pub position: i32,
    pub kind: String,
    pub subject: i32,
    #[sea_orm(column_type = "JsonBinary")]
    pub change: Recorded,
}

impl ActiveModelBehavior for ActiveModel {}
