//! Invitations and password resets, by the hash of what was mailed.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "door_key")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub hash: String,
    pub kind: String,
    pub email: String,
    pub name: String,
    pub role: String,
    pub made_at: DateTimeUtc,
    pub expires_at: DateTimeUtc,
}

impl ActiveModelBehavior for ActiveModel {}
