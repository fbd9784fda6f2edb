//! What a command does to the plan: each record that is made, altered or removed, with its value before and after.

use crate::{
    people::{Absence, Holiday, Person},
    settings::Settings,
    work::{Booking, Link, Milestone, Project, Task, Team, TimeEntry},
};
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

    fn inverse(self) -> Self {
        Self { before: self.after, after: self.before }
    }

    /// Whichever value there is, the later one first.
    pub fn either(&self) -> Option<&T> {
        self.after.as_ref().or(self.before.as_ref())
    }
}

macro_rules! changes {
    ($($(#[$doc:meta])* $kind:ident($record:ty) = $word:literal, $id:expr;)*) => {
        /// One record that changes. The ledger keeps these; the inverse undoes them.
        #[allow(clippy::large_enum_variant)] // a list of changes lives as long as one command
        #[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
        #[serde(tag = "kind", rename_all = "snake_case")]
        pub enum Change {
            $($(#[$doc])* $kind(Edit<$record>),)*
        }

        impl Change {
            /// The change that takes this one back.
            #[must_use]
            pub fn inverse(self) -> Self {
                match self { $(Self::$kind(edit) => Self::$kind(edit.inverse()),)* }
            }

            /// Whether the record goes.
            #[must_use]
            pub fn removes(&self) -> bool {
                match self { $(Self::$kind(edit) => edit.after.is_none(),)* }
            }

            /// What kind of record it is about, and which one.
            #[must_use]
            pub fn subject(&self) -> (&'static str, i32) {
                match self { $(Self::$kind(edit) => ($word, edit.either().map_or(0, $id)),)* }
            }
        }
    };
}

changes! {
    /// The workspace's settings; there is one record of them.
    Settings(Settings) = "settings", |_| 0;
    /// A person or equipment.
    Person(Person) = "person", |r| r.id.0;
    /// A holiday.
    Holiday(Holiday) = "holiday", |r| r.id.0;
    /// Time off.
    Absence(Absence) = "absence", |r| r.id.0;
    /// A team with its members.
    Team(Team) = "team", |r| r.id.0;
    /// A project.
    Project(Project) = "project", |r| r.id.0;
    /// A task.
    Task(Task) = "task", |r| r.id.0;
    /// A link between tasks.
    Link(Link) = "link", |r| r.id.0;
    /// A booking.
    Booking(Booking) = "booking", |r| r.id.0;
    /// Logged work.
    TimeEntry(TimeEntry) = "time entry", |r| r.id.0;
    /// A milestone.
    Milestone(Milestone) = "milestone", |r| r.id.0;
}

/// Takes a list of changes back: each one's inverse, the last first.
#[must_use]
pub fn inverse_of(changes: &[Change]) -> Vec<Change> {
    changes.iter().rev().cloned().map(Change::inverse).collect()
}
