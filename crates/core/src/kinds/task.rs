//! Tasks.

use super::{
    Assignees, Awaited, Constraint, Contour, Hue, MilestoneId, PersonId, Priority, ProjectId, ReleaseId, SprintId,
    TeamId, record::identity,
};
use crate::{Day, fields::FieldValues};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

identity!(
    /// A task.
    TaskId of Task
);

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
    /// The sprint it is planned in.
    #[serde(default, deserialize_with = "identity_or_word")]
    pub sprint: Option<SprintId>,
    /// The release it is part of.
    #[serde(default, deserialize_with = "identity_or_word")]
    pub release: Option<ReleaseId>,
    /// What holds its dates.
    #[serde(default)]
    pub constraint: Option<Constraint>,
    /// The day of a constraint that has one.
    #[serde(default)]
    pub constraint_date: Option<Day>,
    /// The milestones that wait for it.
    #[serde(default)]
    pub milestones: Vec<MilestoneId>,
    /// The role or skill that somebody needs for it; empty for none.
    #[serde(default)]
    pub needs: String,
    /// Who answers for it, whoever does it.
    #[serde(default)]
    pub accountable: Option<PersonId>,
    /// Whom it waits for.
    #[serde(default)]
    pub waiting_on: Option<Awaited>,
    /// Why it is stuck; empty where it is not.
    #[serde(default)]
    pub stuck: String,
    /// Who is told of what is said about it.
    #[serde(default)]
    pub followers: Vec<PersonId>,
    /// The hue in which it is drawn, where that is not its project's.
    #[serde(default)]
    pub colour: Option<Hue>,
    /// Its place among those beside it, an exact fraction; those without one come last, as they were made.
    #[serde(default)]
    pub place: Option<Decimal>,
    /// The line of the budget that it is on, by its name; empty for none of its own choice.
    #[serde(default)]
    pub line: String,
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

    /// Whether it is to be as late as it can be, which automatic scheduling alone hears.
    #[must_use]
    pub fn wishes_to_be_late(&self) -> bool {
        self.constraint == Some(Constraint::Late)
    }

    /// Whether it is open and does not go on.
    #[must_use]
    pub fn is_stuck(&self) -> bool {
        !self.stuck.is_empty() && !self.is_done()
    }

    /// By what tasks beside one another are in order: their places, then, for those without one, as they were made.
    #[must_use]
    pub fn order(&self) -> (bool, Option<Decimal>, TaskId) {
        (self.place.is_none(), self.place, self.id)
    }

    /// A task with dates that should have been finished before today.
    #[must_use]
    pub fn is_late(&self, today: Day) -> bool {
        self.start.is_some() && self.finish.is_some_and(|finish| finish < today)
    }
}

/// An identity; nothing for the word that stood in its place in ledgers before there were sprints and releases of their own.
fn identity_or_word<'de, T: Deserialize<'de>, D: serde::Deserializer<'de>>(from: D) -> Result<Option<T>, D::Error> {
    #[derive(Deserialize)]
    #[serde(untagged)]
    enum Either<T> {
        Identity(T),
        Word(serde::de::IgnoredAny),
    }
    Ok(match Option::<Either<T>>::deserialize(from)? {
        Some(Either::Identity(id)) => Some(id),
        Some(Either::Word(_)) | None => None,
    })
}

/// The stage of what nobody has begun.
pub const FIRST_STAGE: &str = "to do";
