//! Texts that no rule reads.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "text_note")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub subject_kind: String,
    pub subject: i32,
    pub slot: String,
    pub author: String,
    pub day: Date,
    pub body: String,
}

impl ActiveModelBehavior for ActiveModel {}
