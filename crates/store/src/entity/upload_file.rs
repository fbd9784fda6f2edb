//! One file that waits.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "upload_file")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub upload_id: String,
    #[sea_orm(primary_key, auto_increment = false)]
    pub position: i32,
    pub name: String,
    pub bytes: Vec<u8>,
}

impl ActiveModelBehavior for ActiveModel {}
