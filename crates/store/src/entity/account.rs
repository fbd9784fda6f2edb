//! Who may sign in.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "account")]
pub struct Model {
    #[sea_orm(primary_key)]
    pub id: i32,
    pub email: String,
    pub name: String,
    pub role: String,
    pub password_hash: String,
    pub created_at: DateTimeUtc,
    pub totp_secret: Option<String>,
    pub totp_step: i64,
    pub wrong_codes: i32,
    pub codes_wait_until: Option<DateTimeUtc>,
}

impl ActiveModelBehavior for ActiveModel {}
