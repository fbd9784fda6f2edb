//! The secret address of a person's calendar, as a hash.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "calendar_key")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub person_id: i32,
    pub hash: String,
}

impl ActiveModelBehavior for ActiveModel {}
