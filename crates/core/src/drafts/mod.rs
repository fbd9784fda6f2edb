//! Drafts: what was changed in one comes to, how it stands beside another plan, and how it is merged (`rules/tuck-in.md`, Drafts).

mod compare;
mod merge;

pub use compare::{COMPARED_WEEKS, Side, differing};
pub use merge::{Conflict, Fate, Take, fate, merged};

use crate::{change::Change, kinds::Kind};
use std::collections::HashMap;

/// What changes come to, one after the other: each record as it was before the first of them and as it is after the last, in the
/// order in which they were first changed. What is as it was is left out.
#[must_use]
pub fn net(changes: Vec<Change>) -> Vec<Change> {
    let mut places: HashMap<(Kind, i32), usize> = HashMap::new();
    let mut found: Vec<Change> = Vec::new();
    for change in changes {
        let at = *places.entry(change.subject()).or_insert(found.len());
        match found.get_mut(at) {
            Some(known) => *known = known.then(&change).unwrap_or(change),
            None => found.push(change),
        }
    }
    found.retain(|change| !change.is_idle());
    found
}
