//! The words of a task: who does it, how its effort lies, how urgent it is, what holds its dates, whom it waits for, its hue.

use super::PersonId;
use crate::words::words;
use serde::{Deserialize, Serialize};

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

words!(Contour { Flat = "flat", Front = "front", Back = "back", Bell = "bell" });
words!(Priority { Low = "low", Normal = "normal", High = "high", Urgent = "urgent" });

/// What holds a task's dates (`rules/network.md`).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Constraint {
    /// It does not start before a day.
    NotBefore,
    /// It does not finish after a day.
    NotAfter,
    /// Its dates stay.
    Fixed,
    /// A wish that only automatic scheduling hears.
    Late,
}

words!(Constraint { NotBefore = "not before", NotAfter = "not after", Fixed = "fixed", Late = "as late as possible" });

/// Whom a task waits for.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Awaited {
    /// Somebody of the plan.
    Person(PersonId),
    /// Somebody else, or something, in words.
    Other(String),
}

/// The twelve hues, told apart with colour-blind vision and on both themes, in the order in which projects get them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[allow(missing_docs)] // their words say what they are
pub enum Hue {
    Harbour,
    Amber,
    Fern,
    Violet,
    Brick,
    Lagoon,
    Oak,
    Indigo,
    Rose,
    Slate,
    Moss,
    Spruce,
}

words!(Hue {
    Harbour = "harbour",
    Amber = "amber",
    Fern = "fern",
    Violet = "violet",
    Brick = "brick",
    Lagoon = "lagoon",
    Oak = "oak",
    Indigo = "indigo",
    Rose = "rose",
    Slate = "slate",
    Moss = "moss",
    Spruce = "spruce",
});
