//! What a gesture would do, for a view to draw its rows by.

use serde::de::DeserializeOwned;
use serde_json::{Map, Value};
use snug_core::{Day, Plan, change::Change};
use std::sync::Arc;

/// What would be, for drawing its rows.
pub struct Would<'a> {
    pub before: &'a Plan,
    pub after: &'a Plan,
    pub changes: &'a [Change],
    pub today: Day,
    /// The live plan beside a draft.
    pub live: Option<Arc<Plan>>,
    /// The words of the view's address, as JSON.
    pub room: &'a str,
}

impl Would<'_> {
    /// What the view's address says.
    pub fn params<P: DeserializeOwned + Default>(&self) -> P {
        serde_json::from_str(self.room).unwrap_or_default()
    }
}

/// Rows by their keys.
pub type Rows = Map<String, Value>;
