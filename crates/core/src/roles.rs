//! Who may do what.

use crate::{
    Plan,
    change::{Change, Edit},
    command::Command,
    text::{Text, TextSlot},
    work::{Task, TimeEntry},
};

/// What somebody may do in the workspace.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Role {
    /// Looks on.
    Viewer,
    /// Works in the plan: logs time, and moves on the tasks they are assigned to.
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
    /// What the role is for, in a sentence.
    #[must_use]
    pub fn says(self) -> &'static str {
        match self {
            Self::Viewer => "Looks at everything, changes nothing.",
            Self::Member => "Logs time, takes time off, moves the tasks they are assigned to, comments.",
            Self::Lead => "Also books people, and makes and schedules tasks, milestones and time off.",
            Self::Manager => "Also keeps people, teams, projects and fields, and brings files in.",
            Self::Administrator => "Also runs the workspace: settings, accounts, invitations.",
        }
    }

    /// The least role that may change every record of a kind, as [`Change::subject`] names it.
    fn least_for(kind: &str) -> Self {
        match kind {
            "booking" | "link" | "milestone" | "absence" | "time entry" | "task" | "text" => Self::Lead,
            "person" | "holiday" | "team" | "project" | "field" => Self::Manager,
            _ => Self::Administrator,
        }
    }

    /// Whether this role may change records of a kind at all, be it only those of one's own.
    #[must_use]
    pub fn changes_some(self, kind: &str) -> bool {
        let own = matches!(kind, "absence" | "time entry" | "task" | "text");
        self >= Self::least_for(kind) || own && self >= Self::Member
    }
}

/// Somebody who gives commands.
#[derive(Clone, Copy, Debug)]
pub struct Actor<'a> {
    /// What they may do in general.
    pub role: Role,
    /// The address by which they are a person of the plan, if they are one.
    pub email: &'a str,
}

impl Actor<'_> {
    /// Whether this command may be given. Taking back needs what doing it needed.
    #[must_use]
    pub fn may(&self, plan: &Plan, command: &Command) -> bool {
        match command {
            Command::PlaceBooking { .. }
            | Command::ChangeBooking { .. }
            | Command::RemoveBooking { .. }
            | Command::Rearrange { .. } => self.role >= Role::Lead,
            Command::Import { .. } => self.role >= Role::Manager,
            Command::ChangeSettings { .. } => self.role >= Role::Administrator,
            Command::LogDay { person, .. } => {
                self.role >= Role::Lead || self.role == Role::Member && self.is(plan, *person)
            }
            Command::Edit { changes } | Command::ReadCalendar { changes, .. } | Command::Undo { changes, .. } => {
                changes.iter().all(|change| self.may_change(plan, change))
            }
        }
    }

    fn is(&self, plan: &Plan, person: crate::PersonId) -> bool {
        plan.people.get(&person).is_some_and(|entry| entry.person.email.eq_ignore_ascii_case(self.email))
    }

    fn may_change(&self, plan: &Plan, change: &Change) -> bool {
        let kind = change.subject().0;
        if !self.role.changes_some(kind) {
            return false;
        }
        let every = self.role >= Role::least_for(kind);
        match change {
            Change::Absence(edit) => every || both(edit, |absence| self.is(plan, absence.person)),
            Change::TimeEntry(edit) => every || both(edit, |entry: &TimeEntry| self.is(plan, entry.person)),
            Change::Task(edit) => every || self.moves_own_task(plan, edit),
            Change::Text(edit) => {
                let own = |text: &Text| text.slot == TextSlot::Comment && text.author.eq_ignore_ascii_case(self.email);
                both(edit, own) || every && both(edit, |text| text.slot == TextSlot::Description)
            }
            _ => every,
        }
    }

    /// A member moves on a task of their own: its stage, progress and what is left, nothing else.
    fn moves_own_task(&self, plan: &Plan, edit: &Edit<Task>) -> bool {
        let (Some(before), Some(after)) = (&edit.before, &edit.after) else { return false };
        let mine = before.assignees.people().any(|person| self.is(plan, person));
        let moved =
            Task { stage: after.stage.clone(), progress: after.progress, remaining: after.remaining, ..before.clone() };
        mine && moved == *after
    }
}

fn both<T>(edit: &Edit<T>, allowed: impl Fn(&T) -> bool) -> bool {
    edit.before.iter().chain(&edit.after).all(allowed)
}
