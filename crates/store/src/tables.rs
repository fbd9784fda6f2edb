//! What changes leave, written into the tables of every kind.

use crate::{Error, entity::write_kind};
use sea_orm::DatabaseTransaction;
use snug_core::{change::Change, kinds::Kind};
use std::collections::BTreeMap;

/// Writes what is left of each record after all changes. Where one record is changed several times, the last value counts.
pub(crate) async fn write(txn: &DatabaseTransaction, changes: &[Change]) -> Result<(), Error> {
    let last: BTreeMap<(Kind, i32), &Change> = changes.iter().map(|change| (change.subject(), change)).collect();
    let mut by_kind: BTreeMap<Kind, Vec<&Change>> = BTreeMap::new();
    for ((kind, _), change) in last {
        by_kind.entry(kind).or_default().push(change);
    }
    // References are checked at the end of the transaction, so that the order does not matter.
    for (kind, changes) in by_kind {
        write_kind(txn, kind, &changes).await?;
    }
    Ok(())
}
