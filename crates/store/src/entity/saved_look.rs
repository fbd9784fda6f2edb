//! Saved looks.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "saved_look")]
pub struct Model {
    #[sea_orm(primary_key)]
    pub id: i32,
    pub account_id: i32,
    pub room: String,
    pub name: String,
    pub address: String,
    pub shared: bool,
    /// The ISO weekday on which it is mailed to whoever keeps it, 1 for Monday.
    pub mail_weekday: Option<i16>,
    /// When it was mailed last.
    pub mailed_on: Option<Date>,
}

impl ActiveModelBehavior for ActiveModel {}
