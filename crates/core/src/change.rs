//! What a command does to the plan: each record that is made, altered or removed, with its value before and after.

use crate::{
    AbsenceId, BookingId, FieldId, HolidayId, LinkId, MilestoneId, PersonId, ProjectId, TaskId, TeamId, TextId,
    TimeEntryId,
    fields::Field,
    people::{Absence, Holiday, Person},
    references::{Ref, Refers},
    settings::Settings,
    text::Text,
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
    ($($(#[$doc:meta])* $kind:ident($record:ty) = $word:literal, $id:expr, $number:expr, $name:expr;)*) => {
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

            /// Whether the record is new.
            #[must_use]
            pub fn adds(&self) -> bool {
                match self { $(Self::$kind(edit) => edit.before.is_none(),)* }
            }

            /// Whether the author of this change saw what `standing` says is there.
            #[must_use]
            pub(crate) fn saw(&self, standing: &Self) -> bool {
                match (self, standing) {
                    $((Self::$kind(change), Self::$kind(now)) => change.before == now.after,)*
                    _ => false,
                }
            }

            /// Whether what this change left is what `standing` says is there.
            #[must_use]
            pub(crate) fn left(&self, standing: &Self) -> bool {
                match (self, standing) {
                    $((Self::$kind(change), Self::$kind(now)) => change.after == now.after,)*
                    _ => false,
                }
            }

            /// Whether nothing changes.
            #[must_use]
            pub fn is_idle(&self) -> bool {
                match self { $(Self::$kind(edit) => edit.before == edit.after,)* }
            }

            /// The same change of a new record that has this identity.
            #[must_use]
            pub(crate) fn numbered(mut self, id: i32) -> Self {
                match &mut self { $(Self::$kind(edit) => if let Some(record) = &mut edit.after { ($number)(record, id); },)* }
                self
            }

            /// The same without what stood before.
            fn unseen(mut self) -> Self {
                match &mut self { $(Self::$kind(edit) => edit.before = None,)* }
                self
            }

            /// What the record is called.
            #[must_use]
            pub fn name(&self) -> String {
                match self { $(Self::$kind(edit) => edit.either().map($name).unwrap_or_default(),)* }
            }

            /// Shows what the record refers to after the change.
            pub(crate) fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
                match self { $(Self::$kind(edit) => if let Some(record) = &edit.after { record.each_ref(see); },)* }
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
    Settings(Settings) = "settings", |_| 0, |_: &mut Settings, _| (), |_| String::new();
    /// A field of the workspace's own.
    Field(Field) = "field", |r| r.id.0, |r: &mut Field, id| r.id = FieldId(id), |r| r.name.clone();
    /// A person or equipment.
    Person(Person) = "person", |r| r.id.0, |r: &mut Person, id| r.id = PersonId(id), |r| r.name.clone();
    /// A holiday.
    Holiday(Holiday) = "holiday", |r| r.id.0, |r: &mut Holiday, id| r.id = HolidayId(id), |r| r.name.clone();
    /// Time off.
    Absence(Absence) = "absence", |r| r.id.0, |r: &mut Absence, id| r.id = AbsenceId(id), |r| r.kind.clone();
    /// A team with its members.
    Team(Team) = "team", |r| r.id.0, |r: &mut Team, id| r.id = TeamId(id), |r| r.name.clone();
    /// A project.
    Project(Project) = "project", |r| r.id.0, |r: &mut Project, id| r.id = ProjectId(id), |r| r.name.clone();
    /// A task.
    Task(Task) = "task", |r| r.id.0, |r: &mut Task, id| r.id = TaskId(id), |r| r.title.clone();
    /// A link between tasks.
    Link(Link) = "link", |r| r.id.0, |r: &mut Link, id| r.id = LinkId(id), |_| String::new();
    /// A booking.
    Booking(Booking) = "booking", |r| r.id.0, |r: &mut Booking, id| r.id = BookingId(id), |_| String::new();
    /// Logged work.
    TimeEntry(TimeEntry) = "time entry", |r| r.id.0, |r: &mut TimeEntry, id| r.id = TimeEntryId(id), |_| String::new();
    /// A milestone.
    Milestone(Milestone) = "milestone", |r| r.id.0, |r: &mut Milestone, id| r.id = MilestoneId(id), |r| r.name.clone();
    /// A text that no rule reads.
    Text(Text) = "text", |r| r.id.0, |r: &mut Text, id| r.id = TextId(id), |r| r.slot.to_string();
}

impl Change {
    /// The record as the change leaves it, as a change of its own; `None` where it goes.
    #[must_use]
    pub fn only_after(self) -> Option<Self> {
        (!self.removes()).then(|| self.unseen())
    }

    /// What happened, in words for the ledger: `Task “Crate drawings” changed`.
    #[must_use]
    pub fn says(&self) -> String {
        let verb = match self {
            it if it.adds() => "added",
            it if it.removes() => "removed",
            _ => "changed",
        };
        let (kind, name) = match self {
            Self::Text(_) => (self.name(), String::new()),
            Self::Absence(_) => ("time off".to_owned(), self.name()),
            _ => (self.subject().0.to_owned(), self.name()),
        };
        let kind: String = kind.chars().take(1).flat_map(char::to_uppercase).chain(kind.chars().skip(1)).collect();
        if name.is_empty() { format!("{kind} {verb}") } else { format!("{kind} “{name}” {verb}") }
    }
}

impl Refers for Change {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        Self::each_ref(self, see);
    }
}

/// Takes a list of changes back: each one's inverse, the last first.
#[must_use]
pub fn inverse_of(changes: &[Change]) -> Vec<Change> {
    changes.iter().rev().cloned().map(Change::inverse).collect()
}
