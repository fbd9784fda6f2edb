//! Calendars that are subscribed to.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "feed")]
pub struct Model {
    #[sea_orm(primary_key)]
    pub id: i32,
    pub account_id: i32,
    pub name: String,
    pub address: String,
    pub purpose: String,
    pub calendar: String,
    pub person_id: Option<i32>,
    pub problem: String,
    pub changes: i32,
    pub tried_at: Option<DateTimeUtc>,
    pub read_at: Option<DateTimeUtc>,
}

impl ActiveModelBehavior for ActiveModel {}
