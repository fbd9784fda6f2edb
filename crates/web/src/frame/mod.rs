//! What every page has around it.

use crate::{AppState, Error, auth::User};
use snug_core::Role;
use snug_store::ledger;

/// The top bar: who is signed in, which rooms they have, what they could undo.
pub struct Frame {
    /// The workspace's name.
    pub workspace: String,
    /// The name of who is signed in.
    pub name: String,
    /// What they may do, in a word.
    pub role: Role,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would bring back.
    pub redo: Option<String>,
    /// The plan's revision that the page shows.
    pub revision: i64,
}

impl Frame {
    /// The frame of a page for somebody.
    pub async fn of(state: &AppState, user: &User) -> Result<Self, Error> {
        let (undo, redo) = ledger::undo_and_redo(state.keeper.db(), user.actor()).await?;
        let plan = state.keeper.plan();
        Ok(Self {
            workspace: plan.settings.name.clone(),
            name: user.0.name.clone(),
            role: user.0.role,
            undo: undo.map(|entry| entry.title),
            redo: redo.map(|entry| entry.title),
            revision: plan.revision,
        })
    }
}
