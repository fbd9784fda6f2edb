//! People and equipment, their working patterns, holidays and time off.

use crate::{AbsenceId, Day, HolidayId, PersonId, fields::FieldValues, words::words};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// Somebody, or something, whose time can be booked.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Person {
    /// Identity inside the plan.
    pub id: PersonId,
    /// The key in files, unique, lower case.
    pub email: String,
    /// The name shown.
    pub name: String,
    /// What this person does, "rigger"; empty for none.
    pub role: String,
    /// A person or a piece of equipment; both are booked alike.
    pub kind: PersonKind,
    /// The name of the holiday calendar; empty for none.
    pub calendar: String,
    /// Working patterns, the first in force from ever, the others from their day on; never empty.
    pub patterns: Vec<DatedPattern>,
    /// The most minutes on one day.
    pub day_limit: Option<i32>,
    /// The most minutes in one ISO week.
    pub week_limit: Option<i32>,
    /// The most projects at a time.
    pub max_projects: Option<i32>,
    /// The most tasks at a time.
    pub max_tasks: Option<i32>,
    /// The most points a sprint.
    pub max_points: Option<Decimal>,
    /// What this person can do, in the order written.
    pub skills: Vec<String>,
    /// Rates per hour, the first in force from ever, the others from their day on.
    pub rates: Vec<DatedRate>,
    /// Values of the workspace's own fields.
    #[serde(default, skip_serializing_if = "FieldValues::is_empty", with = "crate::fields::pairs")]
    pub fields: FieldValues,
}

/// Whether a row of the plan is somebody or something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum PersonKind {
    /// A human being.
    Person,
    /// A machine, a vehicle, a bench.
    Equipment,
}

/// A working pattern: one or more weeks of seven values in minutes, Monday first, that take turns.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Pattern(pub Vec<[i32; 7]>);

impl Pattern {
    /// Eight hours from Monday to Friday.
    #[must_use]
    pub fn full_time() -> Self {
        Self(vec![[480, 480, 480, 480, 480, 0, 0]])
    }

    /// Minutes on `day`, where the first week of the pattern is the ISO week that begins on `anchor`.
    #[must_use]
    pub fn minutes(&self, anchor: Day, day: Day) -> i32 {
        self.week(anchor, day).map_or(0, |week| week[day.weekday()])
    }

    /// The week of the pattern that stands at `day`.
    #[must_use]
    pub fn week(&self, anchor: Day, day: Day) -> Option<&[i32; 7]> {
        let weeks = i32::try_from(self.0.len()).ok().filter(|n| *n > 0)?;
        let turn = (day.monday().since(anchor) / 7).rem_euclid(weeks);
        self.0.get(usize::try_from(turn).ok()?)
    }
}

/// A working pattern and the day from which it holds.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct DatedPattern {
    /// The first day; `None` for the pattern that holds from ever.
    pub from: Option<Day>,
    /// The pattern.
    pub pattern: Pattern,
}

impl DatedPattern {
    /// The Monday from which weeks are counted: that of the start, or of ISO week 1 of 2024 for the first pattern.
    #[must_use]
    pub fn anchor(&self) -> Day {
        self.from.map_or(Day::from_number(19_723), Day::monday)
    }
}

/// Money per hour and the day from which it holds.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct DatedRate {
    /// The first day; `None` for the rate that holds from ever.
    pub from: Option<Day>,
    /// What an hour costs.
    pub cost: Option<Decimal>,
    /// What an hour is billed at.
    pub bill: Option<Decimal>,
}

/// One holiday of one calendar.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Holiday {
    /// Identity inside the plan.
    pub id: HolidayId,
    /// The calendar's name.
    pub calendar: String,
    /// The day.
    pub date: Day,
    /// What the day is called.
    pub name: String,
    /// How much of the day is off, in millionths of a day, 1..=1 000 000. Several on one day add up, to the whole day at most.
    pub fraction: i32,
}

/// A stretch of time off.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Absence {
    /// Identity inside the plan.
    pub id: AbsenceId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// Who is off.
    pub person: PersonId,
    /// First day.
    pub start: Day,
    /// Last day.
    pub end: Day,
    /// Vacation, sick, … in the workspace's own words.
    pub kind: String,
    /// Minutes off on each day; `None` for the whole day.
    pub minutes: Option<i32>,
    /// The minute of the day at which they begin, where it is known: times that overlap are counted once. Only with `minutes`.
    #[serde(default)]
    pub at: Option<i32>,
}

words!(PersonKind { Person = "person", Equipment = "equipment" });
