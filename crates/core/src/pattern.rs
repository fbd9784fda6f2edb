//! The usual weeks of somebody or something.

use crate::Day;
use serde::{Deserialize, Serialize};

/// A working pattern: one or more weeks of seven values in minutes, Monday first, that take turns.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Pattern(pub Vec<[i32; 7]>);

impl Pattern {
    /// Eight hours from Monday to Friday.
    #[must_use]
    pub fn full_time() -> Self {
        Self(vec![[480, 480, 480, 480, 480, 0, 0]])
    }

    /// Minutes on `day`, where the first week of the pattern is the ISO week that begins on `anchor`.
    #[must_use]
    pub fn minutes(&self, anchor: Day, day: Day) -> i32 {
        self.week(anchor, day).map_or(0, |week| week[day.weekday()])
    }

    /// The week of the pattern that stands at `day`.
    #[must_use]
    pub fn week(&self, anchor: Day, day: Day) -> Option<&[i32; 7]> {
        let weeks = i32::try_from(self.0.len()).ok().filter(|n| *n > 0)?;
        let turn = (day.monday().since(anchor) / 7).rem_euclid(weeks);
        self.0.get(usize::try_from(turn).ok()?)
    }
}
