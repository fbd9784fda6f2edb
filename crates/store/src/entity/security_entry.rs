//! Who came in, who was refused, and what was done about who may.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "security_entry")]
pub struct Model {
    #[sea_orm(primary_key)]
    pub id: i64,
    pub at: DateTimeUtc,
    pub deed: String,
    pub actor: String,
    pub peer: String,
    pub says: String,
}

impl ActiveModelBehavior for ActiveModel {}
