//! What somebody wants done. A command carries the value its author saw of what it alters.

use crate::{change::Change, import::Dataset, settings::Settings, work::Booking};
use serde::Serialize;

/// A wish, before the rules have spoken.
#[derive(Clone, Debug, Serialize)]
#[serde(tag = "command", rename_all = "snake_case")]
pub enum Command {
    /// Set hours aside. The booking's identity is given by the plan.
    PlaceBooking {
        /// What to book.
        booking: Booking,
    },
    /// Alter a booking: its days, amount, person, project.
    ChangeBooking {
        /// The booking as its author saw it.
        seen: Booking,
        /// The booking as it is to be.
        to: Booking,
    },
    /// Take a booking off the plan.
    RemoveBooking {
        /// The booking as its author saw it.
        seen: Booking,
    },
    /// Take over what files say.
    Import {
        /// Where the files come from, to be shown in the ledger.
        source: String,
        /// What they say.
        #[serde(skip)]
        data: Box<Dataset>,
    },
    /// Alter the workspace's settings.
    ChangeSettings {
        /// The settings as their author saw them.
        seen: Settings,
        /// The settings as they are to be.
        to: Settings,
    },
    /// Take an entry of the ledger back. Taking back an undo is a redo.
    Undo {
        /// The entry's number.
        revision: i64,
        /// What it changed.
        #[serde(skip)]
        changes: Vec<Change>,
    },
}

/// What somebody may do in the workspace.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Role {
    /// Looks on.
    Viewer,
    /// Works in the plan: logs time on their own work.
    Member,
    /// Schedules and books.
    Lead,
    /// Plans everything, brings files in.
    Manager,
    /// Runs the workspace.
    Administrator,
}

crate::words::words!(Role {
    Viewer = "viewer",
    Member = "member",
    Lead = "lead",
    Manager = "manager",
    Administrator = "administrator",
});

impl Role {
    /// Whether this role may give such a command. Taking back needs the role that could have done it.
    #[must_use]
    pub fn may(self, command: &Command) -> bool {
        match command {
            Command::PlaceBooking { .. } | Command::ChangeBooking { .. } | Command::RemoveBooking { .. } => {
                self >= Self::Lead
            }
            Command::Import { .. } => self >= Self::Manager,
            Command::ChangeSettings { .. } => self >= Self::Administrator,
            Command::Undo { changes, .. } => match changes.as_slice() {
                [Change::Booking(_)] => self >= Self::Lead,
                changes if changes.iter().any(|change| matches!(change, Change::Settings(_))) => {
                    self >= Self::Administrator
                }
                _ => self >= Self::Manager,
            },
        }
    }
}

impl Command {
    /// What was done, in words for the ledger and the message that offers to undo it.
    #[must_use]
    pub fn done(&self) -> String {
        match self {
            Self::PlaceBooking { .. } => "Booking placed".to_owned(),
            Self::ChangeBooking { .. } => "Booking changed".to_owned(),
            Self::RemoveBooking { .. } => "Booking removed".to_owned(),
            Self::Import { source, .. } => format!("Imported from {source}"),
            Self::ChangeSettings { .. } => "Settings changed".to_owned(),
            Self::Undo { revision, .. } => format!("Took back entry {revision}"),
        }
    }
}
