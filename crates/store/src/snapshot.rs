//! Reading the whole plan, at one moment.

use crate::{
    Error,
    entity::{self, workspace},
    ledger,
};
use sea_orm::{AccessMode, DatabaseConnection, EntityTrait, IsolationLevel, TransactionTrait};
use snug_core::{
    Plan,
    change::{Change, Edit},
    kinds::Kind,
};

/// Reads the plan as it stands, and the mark of its last entry; `None` when no workspace was made yet.
///
/// # Errors
/// The database does not answer, or a row holds what no rule would have written.
pub async fn load(db: &DatabaseConnection) -> Result<Option<(Plan, String)>, Error> {
    let txn = db.begin_with_config(Some(IsolationLevel::RepeatableRead), Some(AccessMode::ReadOnly)).await?;
    let Some(workspace) = workspace::Entity::find_by_id(1).one(&txn).await? else { return Ok(None) };
    let mut plan = Plan::empty();
    plan.revision = workspace.revision;
    plan.apply(&Change::Settings(Edit::new(workspace.settings.0)));
    for kind in Kind::ALL {
        entity::load_kind(&txn, *kind, &mut plan).await?;
    }
    plan.reserve_ids(workspace.next_id);
    let line = ledger::standing(&txn, 0, plan.revision).await?.map(|it| it.line).unwrap_or_default();
    txn.commit().await?;
    Ok(Some((plan, line)))
}
