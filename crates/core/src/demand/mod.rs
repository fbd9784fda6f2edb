//! Demand: what bookings and tasks ask of somebody, day by day, and how the two stand together.

mod bookings;
mod effort;
mod person;
mod seats;
mod tasks;

pub use bookings::{Landing, booking_minutes, land};
pub(crate) use effort::shares_of;
pub use effort::{Effort, effort_of};
pub use person::{PersonLoad, Slot, person_load};
pub use seats::{SeatLoad, seat_loads};
pub use tasks::TaskPart;

use crate::Day;

/// The days that are asked for, and the day that counts as today.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Window {
    /// First day.
    pub from: Day,
    /// Last day.
    pub to: Day,
    /// Today: what is left of a task lies from here on.
    pub today: Day,
}

impl Window {
    /// The window widened to whole ISO weeks, over which everything is computed: week limits and weekly amounts need them.
    #[must_use]
    pub fn span(&self) -> (Day, Day) {
        (self.from.monday(), self.to.monday() + 6)
    }
}
