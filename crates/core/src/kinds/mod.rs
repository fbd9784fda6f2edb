//! The kinds of record that a plan is made of, each described once, in a file of its own: its record, key and columns, what it must
//! keep to, who may change it. Files, lists, forms, the finder, the API, roles, references, undo and the database derive from that.
//!
//! A new kind is a file here and a line in [`kinds`], and its table in the store; what is forgotten does not compile.

mod about;
mod codec;
pub(crate) mod column;
pub mod fields;
mod files;
mod keys;
mod part;
mod record;
pub mod sheet;

mod absence;
mod attachment;
mod baseline;
mod baseline_item;
mod booking;
mod budget_line;
mod check;
mod expense;
mod field;
mod holiday;
mod item;
mod link;
mod list;
mod meeting;
mod milestone;
mod person;
mod project;
mod reference;
mod release;
mod risk;
mod sprint;
mod task;
mod task_columns;
mod task_words;
mod team;
mod template;
mod template_task;
pub mod text;
mod time_entry;
mod trail;
mod week_sheet;
mod within;

pub use about::{About, Input, Key, Room, Sight, Spec};
pub use absence::{Absence, AbsenceId};
pub use attachment::{Attachment, AttachmentId, FilesOf, LARGEST_FILE};
pub use baseline::{Baseline, BaselineId, BaselineKind};
pub use baseline_item::{BaselineItem, BaselineItemId};
pub use booking::{Amount, Booking, BookingId, Certainty, Unit, Who};
pub use budget_line::{BudgetLine, BudgetLineId, MOST_MONEY};
pub use check::{Check, CheckId};
pub use codec::Codec;
pub use column::{Access, Column};
pub use expense::{Expense, ExpenseId, RECEIPTS};
pub use field::{Field, FieldId};
pub use files::{File, file, files, guess, part_rows, parts_of};
pub use holiday::{Holiday, HolidayId};
pub use item::{Item, ItemId};
pub use keys::{Keys, Wrong, no_such};
pub use link::{Link, LinkId, LinkKind};
pub use list::{List, ListId};
pub use meeting::{Meeting, MeetingId};
pub use milestone::{Milestone, MilestoneId};
pub use part::{AboutPart, Part, Put};
pub use person::{DatedPattern, DatedRate, Person, PersonId, PersonKind, week_in_force};
pub use project::{Project, ProjectId, ProjectStatus};
pub use record::{AnyRecord, Held, Identity, InChange, OWN, Record, Subject};
pub use reference::{Reference, ReferenceId};
pub use release::{Release, ReleaseId};
pub use risk::{MOST_RISK, Response, Risk, RiskId, RiskState};
pub use sprint::{Sprint, SprintId, SprintState};
pub use task::{FIRST_STAGE, Task, TaskId};
pub use task_columns::MOST_FOLLOWERS;
pub use task_words::{Assignees, Awaited, Constraint, Contour, Hue, Priority};
pub use team::{Team, TeamId};
pub use template::{Template, TemplateId};
pub use template_task::{TemplateTask, TemplateTaskId};
pub use text::{Text, TextId};
pub use time_entry::{MOST_LOGGED, TimeEntry, TimeEntryId};
pub use trail::{Trail, TrailDay, TrailId};
pub use week_sheet::{WeekSheet, WeekSheetId, WeekState};

pub use crate::pattern::Pattern;

use crate::{Day, Plan, Refusal, edit::Edit, settings::Settings, words::words};
use imbl::OrdMap;
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// From the list of kinds to what holds for each. The first token is the dollar sign, which the macros made here need.
macro_rules! kinds {
    ($d:tt $($(#[$doc:meta])* $kind:ident = $word:literal,)*) => {
        /// A kind of record, by the word under which the ledger keeps it. Their order is one in which each refers to earlier ones.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Kind {
            /// The workspace's settings; there is one record of them.
            Settings,
            $($(#[$doc])* $kind,)*
        }

        words!(Kind { Settings = "settings", $($kind = $word),* });

        /// One record that changes. The ledger keeps these; the inverse undoes them.
        #[allow(clippy::large_enum_variant)] // a list of changes lives as long as one command
        #[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
        #[serde(tag = "kind", rename_all = "snake_case")]
        pub enum Change {
            /// The workspace's settings.
            Settings(Edit<Settings>),
            $($(#[$doc])* $kind(Edit<$kind>),)*
        }

        /// Does something for the type of a kind; `None` for the settings, which are no record with columns.
        macro_rules! of_kind {
            ($d which:expr, $d type:ident => $d answer:expr) => {
                match $d which {
                    $crate::kinds::Kind::Settings => None,
                    $($crate::kinds::Kind::$kind => {
                        #[allow(unused_imports)] // what is done may need some of them only
                        use $crate::kinds::{Identity as _, InChange as _, Record as _, Subject as _};
                        type $d type = $crate::kinds::$kind;
                        Some($d answer)
                    })*
                }
            };
        }

        /// Does something with the edit of a change, whatever it is of.
        macro_rules! of_edit {
            ($d change:expr, $d edit:ident => $d answer:expr) => {
                match $d change {
                    $crate::kinds::Change::Settings($d edit) => $d answer,
                    $($crate::kinds::Change::$kind($d edit) => $d answer,)*
                }
            };
        }

        /// Does something with the edits of two changes, where both are of one kind.
        macro_rules! of_two {
            ($d changes:expr, ($d one:ident, $d two:ident) => $d answer:expr) => {
                match $d changes {
                    ($crate::kinds::Change::Settings($d one), $crate::kinds::Change::Settings($d two)) => Some($d answer),
                    $(($crate::kinds::Change::$kind($d one), $crate::kinds::Change::$kind($d two)) => Some($d answer),)*
                    _ => None,
                }
            };
        }

        subject!(Settings);
        $(subject!($kind); record!($kind);)*
    };
}

/// An edit of one kind and a change, there and back.
macro_rules! subject {
    ($kind:ident) => {
        impl InChange for $kind {
            const KIND: Kind = Kind::$kind;
            fn change(edit: Edit<Self>) -> Change {
                Change::$kind(edit)
            }
            fn in_change(change: &Change) -> Option<&Edit<Self>> {
                match change {
                    Change::$kind(edit) => Some(edit),
                    _ => None,
                }
            }
        }
    };
}

/// What a record with columns is as a subject of changes.
macro_rules! record {
    ($kind:ident) => {
        impl Subject for $kind {
            fn number(&self) -> i32 {
                self.id().number()
            }
            fn set_number(&mut self, number: i32) {
                self.set_id(Identity::of(number));
            }
            fn called(&self) -> String {
                self.name()
            }
            fn each_ref(&self, see: &mut dyn FnMut(&'static str, Kind, i32)) {
                self.each_named(see);
                let values = self.own().into_iter().flat_map(|(_, values)| values.keys());
                values.for_each(|id| see("fields", Kind::Field, id.number()));
            }
            fn standing(plan: &Plan, edit: &Edit<Self>) -> Option<Self> {
                Self::found(plan, edit)
            }
            fn apply(plan: &mut Plan, edit: &Edit<Self>) {
                Self::put(plan, edit);
            }
            fn lawful(&self, plan: &Plan, today: Day) -> Result<(), Refusal> {
                self.check(today)?;
                self.check_in(plan, today)?;
                $crate::kinds::within::within_columns(self, plan)?;
                self.own().map_or(Ok(()), |(_, values)| crate::fields::check(plan, values))
            }
            fn tidied(&mut self, plan: &Plan, is_new: bool) {
                self.tidy(plan, is_new);
            }
            fn as_record(&self) -> Option<&dyn AnyRecord> {
                Some(self)
            }
        }
    };
}

/// The maps of the kinds that stand for themselves: no other record holds them, and nothing is worked out as they change.
macro_rules! records {
    ($($(#[$doc:meta])* $map:ident: $kind:ident,)*) => {
        /// The kinds of record that stand for themselves, by identity.
        #[derive(Clone, Debug, Default)]
        pub struct Records {
            $($(#[$doc])* pub $map: OrdMap<<$kind as Record>::Id, Arc<$kind>>,)*
        }
    };
}

records! {
    /// Fields of the workspace's own.
    fields: Field,
    /// Teams.
    teams: Team,
    /// Projects.
    projects: Project,
    /// Milestones.
    milestones: Milestone,
    /// Links between tasks.
    links: Link,
    /// Sprints.
    sprints: Sprint,
    /// Releases.
    releases: Release,
    /// Lists.
    lists: List,
    /// What stands on the lists.
    items: Item,
    /// Baselines.
    baselines: Baseline,
    /// What the baselines say of each task.
    baseline_items: BaselineItem,
    /// What tasks were, day by day.
    trails: Trail,
    /// What there is to tick off in tasks.
    checks: Check,
    /// What stands elsewhere about tasks.
    references: Reference,
    /// The files of tasks and projects.
    attachments: Attachment,
    /// The meetings of projects.
    meetings: Meeting,
    /// What may happen to projects.
    risks: Risk,
    /// Projects to begin with.
    templates: Template,
    /// What those have.
    template_tasks: TemplateTask,
    /// Lines of budgets.
    budget_lines: BudgetLine,
    /// Expenses.
    expenses: Expense,
    /// Where weeks of hours stand.
    week_sheets: WeekSheet,
}

kinds! { $
    /// A field of the workspace's own.
    Field = "field",
    /// A person or equipment.
    Person = "person",
    /// A holiday.
    Holiday = "holiday",
    /// Time off.
    Absence = "absence",
    /// A team with its members.
    Team = "team",
    /// A project.
    Project = "project",
    /// A line of a budget.
    BudgetLine = "budget line",
    /// A milestone.
    Milestone = "milestone",
    /// A team's sprint.
    Sprint = "sprint",
    /// What goes out together.
    Release = "release",
    /// What teams are to do next.
    List = "list",
    /// A task.
    Task = "task",
    /// A link between tasks.
    Link = "link",
    /// A task on a list.
    Item = "item",
    /// What was meant on a day.
    Baseline = "baseline",
    /// What a baseline says of a task.
    BaselineItem = "baseline item",
    /// A booking.
    Booking = "booking",
    /// Logged work.
    TimeEntry = "time entry",
    /// Where a week of hours stands.
    WeekSheet = "week sheet",
    /// Money that was spent.
    Expense = "expense",
    /// What a task was, day by day.
    Trail = "trail",
    /// A line to tick off in a task.
    Check = "check",
    /// What stands elsewhere about a task.
    Reference = "reference",
    /// A file of a task or a project.
    Attachment = "attachment",
    /// A meeting of a project.
    Meeting = "meeting",
    /// A risk.
    Risk = "risk",
    /// A project to begin with.
    Template = "template",
    /// A task of a template.
    TemplateTask = "template task",
    /// A text that no rule reads.
    Text = "text",
}

pub(crate) use {of_edit, of_kind, of_two};
