//! What the workspace decides once for everybody.

use crate::{Refusal, pattern::Pattern, words::words};
use serde::{Deserialize, Serialize};

/// Settings that change what is computed.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(default)]
pub struct Settings {
    /// The workspace's name.
    pub name: String,
    /// Share of the limit, in percent, from which a cell is snug. 1..=100.
    pub snug_mark: i32,
    /// How bookings and tasks of one project stand together.
    pub envelope: Envelope,
    /// The first day of a week bucket, 0 for Monday to 6 for Sunday.
    pub first_weekday: usize,
    /// The month in which the fiscal year starts, 1..=12.
    pub fiscal_start: u32,
    /// The hours over which work with no person is spread.
    pub pattern: Pattern,
    /// Minutes of a working day, where a duration is typed in days and where work is done on a day off.
    pub day_minutes: i32,
    /// How many days ahead of today time may be logged.
    pub log_ahead: i32,
    /// The time zone whose civil days count, by its IANA name.
    pub time_zone: String,
    /// The three letters of the one currency that all money is in.
    pub currency: String,
    /// How dates are written.
    pub date_order: DateOrder,
    /// Names of the portfolio's levels from the top, as “programme”, “project”; empty for plain projects.
    pub levels: Vec<String>,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            name: "Our workspace".to_owned(),
            snug_mark: 80,
            envelope: Envelope::Larger,
            first_weekday: 0,
            fiscal_start: 1,
            pattern: Pattern::full_time(),
            day_minutes: 480,
            log_ahead: 7,
            time_zone: "UTC".to_owned(),
            currency: "EUR".to_owned(),
            date_order: DateOrder::DayMonth,
            levels: Vec::new(),
        }
    }
}

/// How booked minutes and task minutes of one person, day and project make one load.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Envelope {
    /// The larger of the two: tasks fill the booking.
    Larger,
    /// Bookings alone.
    Bookings,
    /// Tasks alone.
    Tasks,
    /// One on top of the other.
    Sum,
}

/// How dates are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum DateOrder {
    /// 23 March
    DayMonth,
    /// March 23
    MonthDay,
    /// 2026-03-23
    Iso,
}

words!(DateOrder { DayMonth = "day-month", MonthDay = "month-day", Iso = "iso" });
words!(Envelope { Larger = "larger", Bookings = "bookings", Tasks = "tasks", Sum = "sum" });

impl Settings {
    /// What every workspace must keep to.
    ///
    /// # Errors
    /// The first value that cannot be.
    pub fn check(&self) -> Result<(), Refusal> {
        let refuse = |field, message: &str| Err(Refusal::value(field, message));
        match self {
            it if it.name.trim().is_empty() || it.name.chars().count() > 200 => {
                refuse("name", "Give the workspace a name of at most 200 characters.")
            }
            it if !(1..=100).contains(&it.snug_mark) => {
                refuse("snug_mark", "The snug mark lies between 1 and 100 percent.")
            }
            it if it.first_weekday > 6 => refuse("first_weekday", "Choose a day of the week."),
            it if !(1..=12).contains(&it.fiscal_start) => refuse("fiscal_start", "Choose a month."),
            it if !(60..=1_440).contains(&it.day_minutes) => {
                refuse("day_minutes", "A working day has between 1 and 24 hours.")
            }
            it if !(0..=366).contains(&it.log_ahead) => refuse("log_ahead", "Write a number of days from 0 to 366."),
            it if it.time_zone.parse::<chrono_tz::Tz>().is_err() => {
                let message = format!("“{}” is no time zone; write one as Europe/Lisbon.", it.time_zone);
                Err(Refusal::value("time_zone", message))
            }
            it if it.currency.len() != 3 || !it.currency.bytes().all(|byte| byte.is_ascii_uppercase()) => {
                refuse("currency", "Write a currency by its three letters, as EUR.")
            }
            it if it.levels.len() > 9 || it.levels.iter().any(|level| level.trim().is_empty()) => {
                refuse("levels", "Name at most nine levels, each with a word.")
            }
            it if it.pattern.0.is_empty() || it.pattern.0.iter().flatten().any(|m| !(0..=1_440).contains(m)) => {
                refuse("pattern", "A day has between 0 and 24 hours.")
            }
            _ => Ok(()),
        }
    }

    /// The name of a level, 0 at the top; “project” below the last one that is named.
    #[must_use]
    pub fn level(&self, depth: usize) -> &str {
        self.levels.get(depth).or(self.levels.last()).map_or("project", String::as_str)
    }
}
