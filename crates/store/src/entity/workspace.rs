//! The workspace itself: one row with its settings, the number of the last ledger entry, and the next identity.

use super::json::Settings;
use crate::Error;
use sea_orm::{ActiveValue, DatabaseTransaction, entity::prelude::*};
use snug_core::{change::Change, kinds::InChange as _};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "workspace")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    #[sea_orm(column_type = "JsonBinary")]
    pub settings: Settings,
    pub revision: i64,
    pub next_id: i32,
}

impl ActiveModelBehavior for ActiveModel {}

/// Writes the settings, which lie with the workspace.
pub(crate) async fn write_settings(txn: &DatabaseTransaction, changes: &[&Change]) -> Result<(), Error> {
    let after = changes.iter().rev().find_map(|change| snug_core::settings::Settings::in_change(change)?.after.clone());
    if let Some(settings) = after {
        let (id, settings) = (ActiveValue::Unchanged(1), ActiveValue::Set(Settings(settings)));
        ActiveModel { id, settings, ..Default::default() }.update(txn).await?;
    }
    Ok(())
}
