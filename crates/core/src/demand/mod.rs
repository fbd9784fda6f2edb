//! Demand: what bookings and tasks ask of somebody, day by day, and how the two stand together.

mod bookings;
mod effort;
mod lanes;
mod person;
mod queue;
mod seats;
mod tasks;

pub use bookings::{Landing, booking_minutes, is_stranded, land, landed};
pub use effort::{
    Effort, effort_of, is_parent, left_of, logged_in, planned_inside, planned_of, remaining_beside, remaining_of,
};
pub(crate) use effort::{logged_on, parts_of, shares_of};
pub(crate) use person::Bench;
pub use person::{PersonLoad, Slot, WeekSums, person_load, person_load_of};
pub use queue::{end_of_queue, end_of_teams_queue};
pub use seats::{SeatLoad, seat_loads, team_parts};
pub use tasks::TaskPart;

use crate::{
    Day,
    plan::{Brick, Choice, Marks},
};

/// The days that are asked for, and the day that counts as today.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Window {
    /// First day.
    pub from: Day,
    /// Last day.
    pub to: Day,
    /// Today: what is left of a task lies from here on.
    pub today: Day,
    /// Which bookings count.
    pub counted: Counted,
}

/// Which bookings count: all of them, or the plan as it would be without some.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Counted {
    /// What is pencilled.
    pub pencilled: bool,
    /// Holds, which are on no project.
    pub holds: bool,
}

impl Counted {
    /// Everything.
    pub const ALL: Self = Self { pencilled: true, holds: true };

    /// Those that count.
    #[must_use]
    pub fn choice(self) -> Choice {
        let pencilled = if self.pencilled { Choice::ALL } else { Choice::ALL.and(Marks::PENCILLED, false) };
        if self.holds { pencilled } else { pencilled.and(Marks::HOLD, false) }
    }

    /// Whether a booking counts.
    #[must_use]
    pub fn takes(self, brick: &Brick) -> bool {
        self.choice().takes(brick)
    }
}

impl Window {
    /// A window in which everything counts.
    #[must_use]
    pub fn new(from: Day, to: Day, today: Day) -> Self {
        Self { from, to, today, counted: Counted::ALL }
    }

    /// The window widened to whole ISO weeks, over which everything is computed: week limits and weekly amounts need them.
    #[must_use]
    pub fn span(&self) -> (Day, Day) {
        (self.from.monday(), self.to.monday() + 6)
    }
}
