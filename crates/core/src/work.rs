//! What is worked on: projects, tasks, links, milestones, bookings, logged time.

use crate::{
    BookingId, Day, LinkId, MilestoneId, PersonId, ProjectId, TaskId, TeamId, TimeEntryId, fields::FieldValues,
    words::words,
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// A project, possibly inside another one.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Project {
    /// Identity inside the plan.
    pub id: ProjectId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// Where the project stands.
    pub status: ProjectStatus,
    /// The project it is a part of.
    pub parent: Option<ProjectId>,
    /// Who leads it.
    pub lead: Option<PersonId>,
    /// The team its work goes to when nobody picks.
    pub team: Option<TeamId>,
    /// First day.
    pub start: Option<Day>,
    /// Last day.
    pub finish: Option<Day>,
    /// Minutes it may take.
    pub budget_minutes: Option<i64>,
    /// Money it may take, in the workspace currency.
    pub budget_money: Option<Decimal>,
    /// Values of the workspace's own fields.
    #[serde(default, skip_serializing_if = "FieldValues::is_empty", with = "crate::fields::pairs")]
    pub fields: FieldValues,
}

/// Where a project stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ProjectStatus {
    /// Planned ahead, with no tasks yet.
    Sketch,
    /// Running.
    Active,
    /// Resting; may be planned, not pressing.
    Paused,
    /// Over: nothing can be booked on it.
    Closed,
}

/// A team with its members and the share of their time they give to it.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Team {
    /// Identity inside the plan.
    pub id: TeamId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// The team it is a part of.
    pub parent: Option<TeamId>,
    /// Who answers for it.
    pub owner: Option<PersonId>,
    /// Minutes a week, typed; replaces the sum of the members' shares.
    pub week_capacity: Option<i32>,
    /// Members in the order written, each with a share of their time in hundredths of a percent, 1..=10 000.
    pub members: Vec<(PersonId, i32)>,
}

/// A piece of work.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Task {
    /// Identity inside the plan.
    pub id: TaskId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// The project it belongs to.
    pub project: ProjectId,
    /// The task it is a part of.
    pub parent: Option<TaskId>,
    /// What is to be done.
    pub title: String,
    /// The kind of work, in the workspace's own words.
    pub kind: String,
    /// The team it is given to.
    pub team: Option<TeamId>,
    /// Who does it, in the order written.
    pub assignees: Assignees,
    /// How the effort lies over its days.
    pub contour: Contour,
    /// Minutes thought to be needed.
    pub estimate: Option<i64>,
    /// Minutes still needed when that was last typed, of each one where each has the full effort; `None` until it is. What is logged
    /// since is not taken off here: [`crate::demand::remaining_of`] says what is left.
    pub remaining: Option<i64>,
    /// Minutes that were logged on the task, and inside it, when `remaining` was typed; 0 without it.
    #[serde(default)]
    pub logged_then: i64,
    /// Size in points.
    pub points: Option<Decimal>,
    /// First day.
    pub start: Option<Day>,
    /// Last day.
    pub finish: Option<Day>,
    /// The day it is due.
    pub due: Option<Day>,
    /// How urgent it is.
    pub priority: Priority,
    /// The stage it stands in; `done` is the last.
    pub stage: String,
    /// Percent done, typed.
    pub progress: Option<Decimal>,
    /// Free words to find it by.
    pub tags: Vec<String>,
    /// Unplanned work that arrived while the plan was running.
    pub walk_in: bool,
    /// Who asked for it.
    pub requester: String,
    /// The sprint it is planned in, by name.
    pub sprint: String,
    /// The release it is part of, by name.
    pub release: String,
    /// Values of the workspace's own fields.
    #[serde(default, skip_serializing_if = "FieldValues::is_empty", with = "crate::fields::pairs")]
    pub fields: FieldValues,
}

impl Task {
    /// A done task carries no load.
    #[must_use]
    pub fn is_done(&self) -> bool {
        self.stage == "done"
    }

    /// A task with dates that should have been finished before today.
    #[must_use]
    pub fn is_late(&self, today: Day) -> bool {
        self.start.is_some() && self.finish.is_some_and(|finish| finish < today)
    }
}

/// Who does a task and how the effort is cut between them.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Assignees {
    /// Cut evenly; also nobody (empty).
    Even(Vec<PersonId>),
    /// By shares in hundredths of a percent that add up to 10 000.
    Shares(Vec<(PersonId, i32)>),
    /// The whole effort for every one.
    Full(Vec<PersonId>),
}

impl Assignees {
    /// Everyone named, in the order written.
    pub fn people(&self) -> impl Iterator<Item = PersonId> + '_ {
        let (plain, shared): (&[PersonId], &[(PersonId, i32)]) = match self {
            Self::Even(people) | Self::Full(people) => (people, &[]),
            Self::Shares(shares) => (&[], shares),
        };
        plain.iter().copied().chain(shared.iter().map(|(person, _)| *person))
    }

    /// By how many people typed effort counts: by all, where each has the full effort; at least 1.
    #[must_use]
    pub fn heads(&self) -> i64 {
        match self {
            Self::Full(people) => i64::try_from(people.len()).unwrap_or(1).max(1),
            Self::Even(_) | Self::Shares(_) => 1,
        }
    }

    /// Nobody yet.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.people().next().is_none()
    }
}

/// How a task's effort lies over its days; x runs from 0 to 1 over its available minutes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Contour {
    /// The same throughout.
    #[default]
    Flat,
    /// 2(1−x): most at the start.
    Front,
    /// 2x: most at the end.
    Back,
    /// 2−|4x−2|: most in the middle.
    Bell,
}

/// How urgent a task is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub enum Priority {
    /// Can wait.
    Low,
    /// In its turn.
    #[default]
    Normal,
    /// Before others.
    High,
    /// Now.
    Urgent,
}

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

/// A date that matters to one, several or (with no projects named) all projects.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Milestone {
    /// Identity inside the plan.
    pub id: MilestoneId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// What happens.
    pub name: String,
    /// When.
    pub date: Day,
    /// The projects it belongs to.
    pub projects: Vec<ProjectId>,
}

/// Hours of somebody, of a team or of a role, set aside over a range of days.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Booking {
    /// Identity inside the plan.
    pub id: BookingId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// Whose hours.
    pub who: Who,
    /// For which project; `None` is a hold.
    pub project: Option<ProjectId>,
    /// First day.
    pub start: Day,
    /// Last day.
    pub end: Day,
    /// How much, with its unit.
    pub amount: Amount,
    /// Agreed or tentative.
    pub certainty: Certainty,
    /// Counts on days off too.
    pub days_off: bool,
    /// A word on it.
    pub note: String,
}

/// Whose hours a booking takes.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Who {
    /// Somebody by name.
    Person(PersonId),
    /// A team, with no name yet.
    Team(TeamId),
    /// An open seat: a role with no name yet.
    Role(String),
}

/// An amount of work and its unit; the unit is part of the value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Amount {
    /// Minutes, or hundredths of a percent when the unit is percent.
    pub value: i32,
    /// What the value counts.
    pub unit: Unit,
}

/// What an amount counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Unit {
    /// Minutes on each working day.
    PerDay,
    /// Minutes in each ISO week.
    PerWeek,
    /// Minutes in all.
    Total,
    /// Hundredths of a percent of the day's limit.
    Percent,
}

/// Whether a booking is agreed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Certainty {
    /// Agreed.
    Firm,
    /// Tentative.
    Pencilled,
}

/// One logged piece of work.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct TimeEntry {
    /// Identity inside the plan.
    pub id: TimeEntryId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// Who worked.
    pub person: PersonId,
    /// When.
    pub date: Day,
    /// On which project.
    pub project: Option<ProjectId>,
    /// On which task.
    pub task: Option<TaskId>,
    /// How long, 1..=1440 minutes.
    pub minutes: i32,
    /// Whether it can be billed.
    pub billable: bool,
    /// A word on it.
    pub note: String,
}

words!(ProjectStatus { Sketch = "sketch", Active = "active", Paused = "paused", Closed = "closed" });
words!(Contour { Flat = "flat", Front = "front", Back = "back", Bell = "bell" });
words!(Priority { Low = "low", Normal = "normal", High = "high", Urgent = "urgent" });
words!(LinkKind {
    FinishStart = "FS",
    StartStart = "SS",
    FinishFinish = "FF",
    StartFinish = "SF",
    HoldsUp = "holds up",
    Relates = "relates",
});
words!(Unit { PerDay = "h/day", PerWeek = "h/week", Total = "h", Percent = "%" });
words!(Certainty { Firm = "firm", Pencilled = "pencilled" });
