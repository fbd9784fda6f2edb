//! Links between tasks.

use super::{
    About, Column, Keys, Record, TaskId,
    codec::{Line, To, Whole, Word},
    column::{at, may, must},
    keys::Wrong,
    record::{has_id, identity, stands_in},
};
use crate::{Day, Refusal, rules::line, words::words};
use serde::{Deserialize, Serialize};

identity!(
    /// A link between two tasks.
    LinkId of Link
);

/// One task depends on, holds up or relates to another.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Link {
    /// Identity inside the plan.
    pub id: LinkId,
    /// The earlier end.
    pub from: TaskId,
    /// The later end.
    pub to: TaskId,
    /// What the link means.
    pub kind: LinkKind,
    /// Working days of the successor's calendar between the two; may be negative.
    pub lag_days: i32,
    /// Why.
    pub note: String,
}

/// What a link means.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LinkKind {
    /// Finish to start.
    FinishStart,
    /// Start to start.
    StartStart,
    /// Finish to finish.
    FinishFinish,
    /// Start to finish.
    StartFinish,
    /// Blocks, without dates.
    HoldsUp,
    /// Has to do with.
    Relates,
}

words!(LinkKind {
    FinishStart = "FS",
    StartStart = "SS",
    FinishFinish = "FF",
    StartFinish = "SF",
    HoldsUp = "holds up",
    Relates = "relates",
});

impl LinkKind {
    /// Whether the earlier task binds by its start, and not by its finish.
    #[must_use]
    pub fn binds_by_start(self) -> bool {
        matches!(self, Self::StartStart | Self::StartFinish)
    }

    /// Whether the start of the later task is bound, and not its finish.
    #[must_use]
    pub fn binds_the_start(self) -> bool {
        !matches!(self, Self::FinishFinish | Self::StartFinish)
    }
}

/// The longest lag, ten years.
const LONGEST_LAG: i32 = 3_660;

impl Record for Link {
    has_id!(LinkId);

    const ABOUT: About = About { key_column: "", title: "from", ..About::new("link", "links", "links.csv", "links") };

    const COLUMNS: &'static [Column<Self>] = &[
        must("from", "From", at!(from: To)).hint("The earlier task."),
        must("to", "To", at!(to: To)).hint("The later task."),
        must("type", "Type", at!(kind: Word)).example("FS"),
        may("lag_days", "Lag, days", at!(lag_days: Whole)).bounds(-LONGEST_LAG, LONGEST_LAG),
        may("note", "Note", at!(note: Line)),
    ];

    fn blank() -> Self {
        let (from, to) = (TaskId(0), TaskId(0));
        Self { id: LinkId(0), from, to, kind: LinkKind::FinishStart, lag_days: 0, note: String::new() }
    }
    fn key(&self) -> String {
        format!("{}\n{}\n{}", self.from, self.to, self.kind)
    }
    fn name(&self) -> String {
        String::new()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        if self.lag_days.abs() > LONGEST_LAG {
            return Err(Refusal::value("lag_days", "is more than ten years"));
        }
        line("note", &self.note)
    }

    fn finish(&mut self, _: &super::sheet::Line<'_>, _: &Keys) -> Result<(), Wrong> {
        if self.from == self.to {
            return Err(("to", "a task cannot be linked to itself".to_owned()));
        }
        Ok(())
    }

    stands_in!(records.links, put_link);
}
