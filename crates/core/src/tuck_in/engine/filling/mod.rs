//! Activities that fill what resources have left. An activity has work for one resource or several; on the days from its start to its finish
//! each one's part is spread by the minutes that the resource gives on each, and shaped by a contour. From a start it finishes on the
//! first day with which the spread fits everywhere, so that a busy resource makes it longer, not impossible.
//!
//! Days are numbered from 0, a Monday; weeks are runs of seven.

mod fit;
mod ground;
mod maker;
mod place;
mod settle;

pub use ground::Ground;
pub use maker::search;

use super::net::{Fault, Net};
use crate::kinds::Contour;
use std::ops::Range;

/// The days on which an activity can start, finish and be worked on.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Calendar {
    /// How many of them lie before each day, and in all behind the last.
    before: Vec<i32>,
    days: Vec<usize>,
}

impl Calendar {
    /// Says of each day whether it is one.
    #[must_use]
    pub fn new(days: impl IntoIterator<Item = bool>) -> Self {
        let mut made = Self { before: vec![0], days: Vec::new() };
        for (at, works) in days.into_iter().enumerate() {
            if works {
                made.days.push(at);
            }
            made.before.push(i32::try_from(made.days.len()).unwrap_or(i32::MAX));
        }
        made
    }

    /// The number of the first of them on or after a day: how many lie before it.
    #[must_use]
    pub fn number(&self, day: usize) -> i32 {
        self.before[day.min(self.before.len() - 1)]
    }

    /// Whether a day is one.
    #[must_use]
    pub fn has(&self, day: usize) -> bool {
        self.number(day + 1) > self.number(day)
    }

    /// The one of a number, the first for one that lies before; `None` behind the last.
    #[must_use]
    pub fn day(&self, number: i32) -> Option<usize> {
        self.days.get(usize::try_from(number.max(0)).ok()?).copied()
    }

    /// Those among some days, in their order.
    pub fn among(&self, days: Range<usize>) -> impl DoubleEndedIterator<Item = usize> + '_ {
        let place = |day| usize::try_from(self.number(day)).unwrap_or(0);
        let from = place(days.start);
        self.days[from..place(days.end).max(from)].iter().copied()
    }
}

/// What is reserved of a resource for activities of one sort, and how much of that they use; what they use beyond adds to the load.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Lane {
    /// Minutes reserved on each day, which are in the load already.
    pub reserved: Vec<i32>,
    /// Minutes used on each day.
    pub used: Vec<i32>,
}

/// Somebody or something that does work; all lists have a place for each day, weeks for each week.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Resource {
    /// Minutes that it gives, by which work is spread.
    pub given: Vec<i32>,
    /// Minutes by which the load of each day may grow.
    pub free: Vec<i32>,
    /// Minutes by which the load of each week may grow.
    pub free_in_week: Vec<i32>,
    /// How many more activities may lie on each day; `None` for any number.
    pub more_activities: Option<Vec<i32>>,
    /// How many more lanes may be in use on each day; `None` for any number.
    pub more_lanes: Option<Vec<i32>>,
    /// What is reserved of it.
    pub lanes: Vec<Lane>,
}

/// By way of which lane work of one sort goes on each day of a resource; `None` where it goes by none.
pub type Route = Vec<Option<usize>>;

/// What one resource does of an activity.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Part {
    /// The place of the resource.
    pub resource: usize,
    /// How much it does, in minutes.
    pub minutes: i64,
    /// The place of the route; `None` where no lane of the resource is for it.
    pub route: Option<usize>,
}

/// A way to do an activity.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Mode {
    /// Who does how much.
    pub parts: Vec<Part>,
    /// The place of its calendar.
    pub calendar: usize,
    /// It does not start before this day.
    pub start_from: usize,
    /// It does not finish before this day.
    pub finish_from: usize,
    /// The number of its calendar's first day that is late; what comes before day 0 counts below 0. `None` where it is never late.
    pub late_from: Option<i32>,
}

/// An end of an activity.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum End {
    /// Its first day.
    Start,
    /// Its last day.
    Finish,
}

/// What an earlier activity sets on a later one, as a link with a lag does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Bond {
    /// The earlier activity.
    pub from: usize,
    /// Which end of it sets something.
    pub of: End,
    /// On which end of the later one.
    pub on: End,
    /// Days of the later one's calendar between the two.
    pub lag: i32,
}

impl Bond {
    /// The number, in the later one's calendar, of the first day that the later end may have when the earlier one has these days.
    fn asks(&self, calendar: &Calendar, (start, finish): (usize, usize)) -> i32 {
        let at = match (self.of, self.on) {
            (End::Finish, End::Start) => calendar.number(finish + 1),
            (End::Finish, End::Finish) => calendar.number(finish),
            (End::Start, End::Start) => calendar.number(start),
            (End::Start, End::Finish) => calendar.number(start) - 1,
        };
        at + self.lag
    }
}

/// Something to be done.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Activity {
    /// The ways to do it; none where it cannot be done.
    pub modes: Vec<Mode>,
    /// What is before it.
    pub bonds: Vec<Bond>,
    /// How each part lies over its days.
    pub contour: Contour,
    /// The last day on which it may start.
    pub start_by: usize,
    /// The last day on which it may finish.
    pub finish_by: usize,
    /// How much a late day of it weighs.
    pub weight: i64,
    /// It is to be as late as it can be, up to this day where there is one, else up to the last finish of the others; it then counts neither
    /// in the last finish nor in the sum of finishes.
    pub wish: Option<Wish>,
    /// Where it is now: its mode, first and last day; the less is changed, the better.
    pub now: Option<(usize, usize, usize)>,
    /// It has a place, which need not be one that it could have here.
    pub had_place: bool,
    /// Only a gate: it has no work, and is over when what is before it is over.
    pub is_gate: bool,
}

/// The wish to be as late as can be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Wish {
    /// Up to which day, if it says so itself.
    pub by: Option<usize>,
}

/// Where an activity is placed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Place {
    /// In which mode.
    pub mode: usize,
    /// Its first day.
    pub start: usize,
    /// Its last day.
    pub finish: usize,
}

/// What is to be little, in this order.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Score {
    /// How many that have a place now found none.
    pub displaced: usize,
    /// How many others could not be placed.
    pub left_out: usize,
    /// Σ weight × late days.
    pub late: i64,
    /// The last finish of those without the wish to be late.
    pub last: usize,
    /// Σ of their finishes, from day `today`.
    pub sum: i64,
    /// How many are not where they were.
    pub changed: usize,
}

impl Score {
    /// Counts an activity that has no place.
    fn miss(&mut self, activity: &Activity) {
        *if activity.had_place { &mut self.displaced } else { &mut self.left_out } += 1;
    }
}

/// A problem that was looked through.
#[derive(Debug)]
pub struct Problem {
    pub(super) net: Net,
    /// What is to be done.
    pub activities: Vec<Activity>,
    /// Who does it, as everything else stands.
    pub resources: Vec<Resource>,
    /// The routes of parts.
    pub routes: Vec<Route>,
    /// The calendars of modes.
    pub calendars: Vec<Calendar>,
    /// The day from which finishes are counted.
    pub today: usize,
    /// Whether work fills what is reserved for it; else it adds to it.
    pub fills: bool,
    /// The last finish of what takes part and stands, which a wish to be late may go up to.
    pub stands_until: Option<usize>,
    /// The later ends of bonds: activity, and which of its bonds.
    pub(super) onward: Vec<Vec<(usize, usize)>>,
}

/// How far a search is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Progress {
    /// So many schedules were made.
    pub steps: u64,
    /// The best so far.
    pub score: Score,
}

impl Problem {
    /// Looks through what is to be done.
    ///
    /// # Errors
    /// Something is behind itself.
    pub fn new(
        activities: Vec<Activity>,
        resources: Vec<Resource>,
        routes: Vec<Route>,
        calendars: Vec<Calendar>,
        today: usize,
        fills: bool,
    ) -> Result<Self, Fault> {
        let mut onward = vec![Vec::new(); activities.len()];
        let mut before: Vec<Vec<usize>> = Vec::with_capacity(activities.len());
        for (at, activity) in activities.iter().enumerate() {
            let mut from: Vec<usize> = activity.bonds.iter().map(|bond| bond.from).collect();
            from.sort_unstable();
            from.dedup();
            before.push(from);
            for (place, bond) in activity.bonds.iter().enumerate() {
                onward.get_mut(bond.from).ok_or(Fault::Unknown(at))?.push((at, place));
            }
        }
        // Roughly as many days as its busiest part takes of the days that its resource gives.
        let gives = |resource: &Resource| {
            let sum: i64 = resource.given.iter().copied().map(i64::from).sum();
            let works = resource.given.iter().filter(|minutes| **minutes > 0).count();
            (sum.max(1), i64::try_from(works).unwrap_or(i64::MAX).max(1))
        };
        let given: Vec<(i64, i64)> = resources.iter().map(gives).collect();
        let days_of = |part: &Part| {
            let (sum, works) = given[part.resource];
            i32::try_from(part.minutes * works / sum + 1).unwrap_or(i32::MAX)
        };
        let lengths = activities.iter().map(|it| {
            it.modes.first().map_or(0, |mode| mode.parts.iter().map(days_of).max().unwrap_or(0)).min(100_000)
        });
        let lengths: Vec<i32> = lengths.collect();
        let weights = activities.iter().map(|it| i64::from(!it.is_gate) * 1_000).collect();
        let net = Net::new(before, lengths, weights)?;
        Ok(Self { net, activities, resources, routes, calendars, today, fills, stands_until: None, onward })
    }

    /// Days of late finish in a mode.
    #[must_use]
    pub fn late_days(&self, mode: &Mode, finish: usize) -> i64 {
        let number = self.calendars[mode.calendar].number(finish + 1);
        mode.late_from.map_or(0, |from| i64::from((number - from).max(0)))
    }
}
