//! One record before and after a change.

use serde::{Deserialize, Serialize};

/// One record before and after; `None` before is a new record, `None` after a removed one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Edit<T> {
    /// The value that stood.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub before: Option<T>,
    /// The value that stands now.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<T>,
}

impl<T> Edit<T> {
    /// A record that was not there before.
    pub fn new(after: T) -> Self {
        Self { before: None, after: Some(after) }
    }

    /// A record that gets another value.
    pub fn alter(before: T, after: T) -> Self {
        Self { before: Some(before), after: Some(after) }
    }

    /// A record that goes.
    pub fn remove(before: T) -> Self {
        Self { before: Some(before), after: None }
    }

    /// Whichever value there is, the later one first.
    pub fn either(&self) -> Option<&T> {
        self.after.as_ref().or(self.before.as_ref())
    }

    /// Whether something holds of both values, as far as there are two.
    pub fn both(&self, holds: impl Fn(&T) -> bool) -> bool {
        self.before.iter().chain(&self.after).all(holds)
    }
}
