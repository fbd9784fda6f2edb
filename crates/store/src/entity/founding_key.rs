//! Keys that open the first start, by their hash.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "founding_key")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub hash: String,
    pub made_at: DateTimeUtc,
}

impl ActiveModelBehavior for ActiveModel {}
