//! Bookings of people, teams and roles.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "booking")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub person_id: Option<i32>,
    pub team_id: Option<i32>,
    pub role: Option<String>,
    pub project_id: Option<i32>,
    pub start_day: Date,
    pub end_day: Date,
    pub amount: i32,
    pub unit: String,
    pub certainty: String,
    pub days_off: bool,
    pub note: String,
}

impl ActiveModelBehavior for ActiveModel {}
