//! Drafts: whose each is, on which revision of the live plan it stands, and its own revision.

use sea_orm::entity::prelude::*;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "draft")]
pub struct Model {
    #[sea_orm(primary_key)]
    pub id: i32,
    pub account_id: i32,
    pub name: String,
    pub shared: bool,
    /// The live plan's revision on which it stands.
    pub base: i64,
    /// Its last entry; `base` where nothing was changed in it.
    pub revision: i64,
    pub made_at: DateTimeUtc,
    /// The civil day on which somebody last looked at it.
    pub looked_on: Date,
}

impl ActiveModelBehavior for ActiveModel {}
