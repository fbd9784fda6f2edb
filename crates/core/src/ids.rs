//! Typed identifiers. They are handed out by the plan from one counter and never used twice.

use serde::{Deserialize, Serialize};

macro_rules! ids {
    ($($(#[$doc:meta])* $name:ident),* $(,)?) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
        #[serde(transparent)]
        pub struct $name(pub i32);

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                self.0.fmt(f)
            }
        }
    )*};
}

ids! {
    /// A person or a piece of equipment.
    PersonId,
    /// A team.
    TeamId,
    /// A project.
    ProjectId,
    /// A task.
    TaskId,
    /// A link between two tasks.
    LinkId,
    /// A booking.
    BookingId,
    /// A stretch of time off.
    AbsenceId,
    /// One holiday of one calendar.
    HolidayId,
    /// One logged piece of work.
    TimeEntryId,
    /// A milestone.
    MilestoneId,
    /// A field that the workspace defines itself.
    FieldId,
    /// A piece of text that no rule reads.
    TextId,
}
