//! What a load table counts.

use crate::{
    FieldId, Plan,
    fields::{FieldKind, FieldOf},
    kinds::Field,
    words::NoSuchWord,
};
use std::sync::Arc;

/// What is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Measure {
    /// Minutes of work.
    Minutes,
    /// Percent of the limit.
    Percent,
    /// The largest number of projects on any day.
    Projects,
    /// The largest number of tasks on any day.
    Tasks,
    /// Points of the tasks that finish, in hundredths.
    Points,
    /// The sum of a numeric field over the tasks that finish, in hundredths.
    Field(FieldId),
}

/// The ways of counting that are not minutes (percent are minutes of the limit).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Counted {
    /// The largest number on any day.
    AtATime(Thing),
    /// The sum over the tasks that finish, in hundredths.
    Sizes(Size),
}

/// What is counted at a time.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Thing {
    /// Projects.
    Projects,
    /// Tasks.
    Tasks,
}

/// How large a task is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Size {
    /// Its points.
    Points,
    /// A numeric field.
    Field(FieldId),
}

/// What is said of a measure that every workspace has.
#[derive(Clone, Copy, Debug)]
pub struct AboutMeasure {
    /// The measure.
    pub measure: Measure,
    /// Its word in an address, an argument, a request.
    pub word: &'static str,
    /// Its name in a list of measures.
    pub name: &'static str,
    /// What its cells count, as a heading says it.
    pub counts: &'static str,
    /// What stands behind a figure, for one and for many.
    pub unit: (&'static str, &'static str),
}

const fn about(
    measure: Measure,
    word: &'static str,
    name: &'static str,
    counts: &'static str,
    unit: (&'static str, &'static str),
) -> AboutMeasure {
    AboutMeasure { measure, word, name, counts, unit }
}

impl Measure {
    /// The measures that every workspace has.
    pub const PLAIN: [AboutMeasure; 5] = [
        about(Self::Minutes, "minutes", "Hours", "hours", (" h", " h")),
        about(Self::Percent, "percent", "Percent of limit", "percent of the limit", (" %", " %")),
        about(Self::Projects, "projects", "Projects at a time", "projects at a time", (" project", " projects")),
        about(Self::Tasks, "tasks", "Tasks at a time", "tasks at a time", (" task", " tasks")),
        about(Self::Points, "points", "Points", "points that finish", (" points", " points")),
    ];

    /// What is said of it; nothing of a field, which the workspace names.
    #[must_use]
    pub fn about(self) -> Option<&'static AboutMeasure> {
        const PLAIN: &[AboutMeasure] = &Measure::PLAIN;
        PLAIN.iter().find(|known| known.measure == self)
    }

    /// Reads the word of a measure, or `field NAME` for a numeric field of tasks.
    ///
    /// # Errors
    /// The words that would do.
    pub fn read(text: &str, plan: &Plan) -> Result<Self, NoSuchWord> {
        if let Some(known) = Self::PLAIN.iter().find(|known| known.word == text) {
            return Ok(known.measure);
        }
        let numbers = Self::fields(plan);
        let named = text.strip_prefix("field ").and_then(|name| numbers.iter().find(|field| field.name == name));
        named.map(|field| Self::Field(field.id)).ok_or_else(|| {
            let plain = Self::PLAIN.iter().map(|known| known.word.to_owned());
            let fields = numbers.iter().map(|field| format!("field {}", field.name));
            NoSuchWord { found: text.to_owned(), known: plain.chain(fields).collect::<Vec<_>>().join(", ") }
        })
    }

    /// The word by which [`Measure::read`] finds it.
    #[must_use]
    pub fn word(self, plan: &Plan) -> String {
        match self {
            Self::Field(id) => {
                plan.records.fields.get(&id).map(|field| format!("field {}", field.name)).unwrap_or_default()
            }
            Self::Minutes | Self::Percent | Self::Projects | Self::Tasks | Self::Points => {
                self.about().map_or("", |about| about.word).to_owned()
            }
        }
    }

    /// The fields that can be a measure: numbers of tasks.
    #[must_use]
    pub fn fields(plan: &Plan) -> Vec<&Arc<Field>> {
        plan.fields_of(FieldOf::Task).into_iter().filter(|field| field.kind == FieldKind::Number).collect()
    }

    /// How it counts, if not in minutes.
    pub(super) fn counted(self) -> Option<Counted> {
        match self {
            Self::Minutes | Self::Percent => None,
            Self::Projects => Some(Counted::AtATime(Thing::Projects)),
            Self::Tasks => Some(Counted::AtATime(Thing::Tasks)),
            Self::Points => Some(Counted::Sizes(Size::Points)),
            Self::Field(id) => Some(Counted::Sizes(Size::Field(id))),
        }
    }

    /// Whether cells are minutes inside (percent are minutes of the limit).
    #[must_use]
    pub fn counts_minutes(self) -> bool {
        self.counted().is_none()
    }

    /// Whether figures are hundredths of what is shown.
    #[must_use]
    pub fn in_hundredths(self) -> bool {
        matches!(self.counted(), Some(Counted::Sizes(_)))
    }
}
