//! Who may do what.

use crate::{
    Eyes, Plan,
    change::Change,
    command::Command,
    kinds::{Kind, PersonId, TaskId, of_kind},
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
            Self::Lead => {
                "Also books people, makes and schedules tasks and milestones; sees and enters time off and hours of their teams."
            }
            Self::Manager => "Also keeps people, teams, projects and fields, and brings files in.",
            Self::Administrator => "Also runs the workspace: settings, accounts, invitations.",
        }
    }

    /// Whether this role may change records of a kind at all, be it only those of one's own.
    #[must_use]
    pub fn changes_some(self, kind: Kind) -> bool {
        self >= least(kind) || kind.about().own && self >= Self::Member
    }
}

/// The least role that may change every record of a kind.
fn least(kind: Kind) -> Role {
    if kind == Kind::Settings { Role::Administrator } else { kind.about().least }
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
            | Command::Rearrange { .. }
            | Command::WriteDown { .. }
            | Command::Freeze { .. }
            | Command::SaveTemplate { .. }
            | Command::MoveTasks { .. }
            | Command::TuckIn { .. } => self.role >= Role::Lead,
            // Who keeps projects makes one of a template, too.
            Command::StartProject { .. } => self.role >= least(Kind::Project),
            Command::Import { .. } => self.role >= Role::Manager,
            Command::ChangeSettings { .. } => self.role >= Role::Administrator,
            // Who takes on unplanned work says so; work of others is made by who schedules.
            Command::WalkIn { task, entry } => {
                let mine = task.assignees.people().all(|person| person == entry.person);
                let knows = self.eyes(plan).knows(entry.person);
                self.role >= Role::Lead && knows || self.role >= Role::Member && mine && self.is(plan, entry.person)
            }
            Command::LogDay { person, .. } | Command::FillWeek { person, .. } => {
                self.role >= Role::Member && self.eyes(plan).knows(*person)
            }
            Command::Edit { changes }
            | Command::ReadCalendar { changes, .. }
            | Command::Merge { changes, .. }
            | Command::EvenOut { changes, .. } => {
                let eyes = self.eyes(plan);
                changes.iter().all(|change| self.may_change(&eyes, change))
            }
            // Whoever brings files in brings in what others have written, and may take that back.
            Command::Undo { changes, .. } => {
                let eyes = self.eyes(plan);
                changes.iter().all(|change| {
                    let brought_in = self.role >= Role::Manager && change.subject().0 == Kind::Text;
                    brought_in || self.walked_in(plan, change) || self.may_change(&eyes, change)
                })
            }
        }
    }

    /// Whether a change makes a walk-in that they alone took on, or takes one away.
    fn walked_in(&self, plan: &Plan, change: &Change) -> bool {
        let Change::Task(edit) = change else { return false };
        let is_made = edit.before.is_none() || edit.after.is_none();
        let mut people = edit.either().into_iter().flat_map(|task| task.assignees.people());
        let is_theirs = people.next().is_some_and(|person| self.is(plan, person)) && people.next().is_none();
        self.role >= Role::Member && is_made && is_theirs && edit.either().is_some_and(|task| task.walk_in)
    }

    /// Whether somebody of the plan is who gives the command.
    #[must_use]
    pub fn is(&self, plan: &Plan, person: PersonId) -> bool {
        plan.people.get(&person).is_some_and(|entry| entry.person.email.eq_ignore_ascii_case(self.email))
    }

    /// Whether somebody who does a task gives the command.
    #[must_use]
    pub fn does(&self, plan: &Plan, task: TaskId) -> bool {
        plan.tasks.get(&task).is_some_and(|task| task.assignees.people().any(|person| self.is(plan, person)))
    }

    /// Whether these eyes, which are theirs, may make a change: nobody alters what they do not see.
    fn may_change(&self, eyes: &Eyes<'_>, change: &Change) -> bool {
        let kind = change.subject().0;
        if !self.role.changes_some(kind) {
            return false;
        }
        let every = self.role >= least(kind);
        let own = of_kind!(kind, R => R::in_change(change).is_some_and(|edit| {
            let known = edit.both(|record| record.whose().is_none_or(|person| eyes.knows(person)));
            every && known && R::may_all(edit) || R::may_own(eyes.plan, edit, self)
        }));
        own.unwrap_or(every)
    }
}
