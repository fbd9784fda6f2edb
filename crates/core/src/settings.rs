//! What the workspace decides once for everybody.

use crate::{people::Pattern, words::words};
use serde::{Deserialize, Serialize};

/// Settings that change what is computed.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
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
    /// The time zone whose civil days count, by its IANA name.
    pub time_zone: String,
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
            time_zone: "UTC".to_owned(),
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

words!(Envelope { Larger = "larger", Bookings = "bookings", Tasks = "tasks", Sum = "sum" });
