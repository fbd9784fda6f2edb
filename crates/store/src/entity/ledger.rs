//! The ledger: one row an entry.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "ledger")]
pub struct Model {
    /// The draft; 0 for the live plan.
    #[sea_orm(primary_key, auto_increment = false)]
    pub draft: i32,
    #[sea_orm(primary_key, auto_increment = false)]
    pub revision: i64,
    pub at: DateTimeUtc,
    pub actor: String,
    /// The civil day on which it was made, which decides on what day of their trails tasks changed.
    pub day: Date,
    pub title: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub command: Json,
    pub undoes: Option<i64>,
    pub changes: i32,
}

impl ActiveModelBehavior for ActiveModel {}
