//! Cells: limit, load, room, spill, peak and band of a row in a bucket.

use crate::{Day, availability::Days, by_day::ByDay, settings::Settings, spread::round_half_up, words::words};
use num_rational::BigRational;
use serde::Serialize;
use std::ops::Range;

/// How long a bucket is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Grain {
    /// One day.
    Day,
    /// A week, from the workspace's first weekday on.
    Week,
    /// Two weeks, from the workspace's first weekday on, counted from ISO week 1 of 2024.
    Fortnight,
    /// A calendar month.
    Month,
    /// Three months, counted from the fiscal start.
    Quarter,
    /// Twelve months from the fiscal start.
    FiscalYear,
}

words!(Grain { Day = "day", Week = "week", Fortnight = "fortnight", Month = "month", Quarter = "quarter", FiscalYear = "fiscal-year" });

/// A run of days that one cell stands for, cut to the window.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Bucket {
    /// First day inside the window.
    pub from: Day,
    /// Last day inside the window.
    pub to: Day,
}

impl Grain {
    /// The buckets of a window.
    #[must_use]
    pub fn buckets(self, from: Day, to: Day, settings: &Settings) -> Vec<Bucket> {
        let mut buckets = Vec::new();
        let mut start = from;
        while start <= to {
            let next = self.next_start(start, settings);
            buckets.push(Bucket { from: start, to: (next - 1).min(to) });
            start = next;
        }
        buckets
    }

    /// The first day of the bucket that holds `day`.
    #[must_use]
    pub fn start_of(self, day: Day, settings: &Settings) -> Day {
        // Nothing is longer than a year; the bucket's start is the last start of a bucket on the way.
        let mut start = match self {
            Self::Day => return day,
            Self::Week => day - 7,
            Self::Fortnight => day - 14,
            Self::Month => return day.month_start(),
            Self::Quarter => day.month_after(-3),
            Self::FiscalYear => day.month_after(-12),
        };
        loop {
            let next = self.next_start(start, settings);
            if next > day {
                return start;
            }
            start = next;
        }
    }

    /// The first day of the bucket after the one that holds `day`.
    #[must_use]
    pub fn next_start(self, day: Day, settings: &Settings) -> Day {
        let fiscal = i32::try_from(settings.fiscal_start).unwrap_or(1) - 1;
        let months_in = |length: i32| {
            let month = i32::try_from(chrono::Datelike::month0(&day.date())).unwrap_or(0);
            day.month_after(length - (month - fiscal).rem_euclid(length))
        };
        match self {
            Self::Day => day + 1,
            Self::Week => {
                let into = (day.weekday() + 7 - settings.first_weekday % 7) % 7;
                day + 7 - i32::try_from(into).unwrap_or(0)
            }
            Self::Fortnight => {
                let first = i32::try_from(settings.first_weekday % 7).unwrap_or(0);
                day + 14 - (day.number() - (19_723 + first)).rem_euclid(14)
            }
            Self::Month => day.month_after(1),
            Self::Quarter => months_in(3),
            Self::FiscalYear => months_in(12),
        }
    }
}

/// The state of a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Band {
    /// No capacity, no load.
    Away,
    /// Below the snug mark.
    Open,
    /// From the snug mark to just under the limit.
    Snug,
    /// Exactly at the limit.
    Brim,
    /// Above the limit, or above it on some day or week inside.
    Over,
}

words!(Band { Away = "away", Open = "open", Snug = "snug", Brim = "brim", Over = "over" });

/// The figures of a row in a bucket, in minutes (or in the unit of another measure).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Cell {
    /// The most there may be; `None` where the row has no limit (projects).
    pub limit: Option<i64>,
    /// All there is, firm and pencilled.
    pub load: i64,
    /// The part that is agreed.
    pub firm: i64,
    /// What is left under the limit.
    pub room: i64,
    /// What stands above the limit.
    pub spill: i64,
    /// What stands above the limit on single days (or weeks), however calm the rest is.
    pub peak: i64,
    /// The people in the row who are over.
    pub over: u32,
}

impl Cell {
    /// The cell of a measure that counts something else than minutes, all of it firm.
    #[must_use]
    pub fn of_count(load: i64, limit: Option<i64>) -> Self {
        let spill = limit.map_or(0, |limit| (load - limit).max(0));
        let room = limit.map_or(0, |limit| (limit - load).max(0));
        Self { limit, load, firm: load, room, spill, peak: spill, over: u32::from(spill > 0) }
    }

    /// The part that is tentative.
    #[must_use]
    pub fn pencilled(&self) -> i64 {
        self.load - self.firm
    }

    /// The band of these figures; `None` where there is no limit. `snug_mark` is in percent.
    #[must_use]
    pub fn band(&self, snug_mark: i32) -> Option<Band> {
        let limit = self.limit?;
        Some(if limit == 0 && self.load == 0 {
            Band::Away
        } else if self.load > limit || self.peak > 0 {
            Band::Over
        } else if self.load == limit {
            Band::Brim
        } else if self.load * 100 >= limit * i64::from(snug_mark) {
            Band::Snug
        } else {
            Band::Open
        })
    }

    /// The same in percent of the limit, half up; `None` at limit 0 or without one.
    #[must_use]
    pub fn percent(&self) -> Option<Self> {
        let limit = self.limit.filter(|limit| *limit > 0)?;
        let of = |minutes: i64| round_half_up(100 * minutes, limit);
        Some(Self {
            limit: Some(100),
            load: of(self.load),
            firm: of(self.firm),
            room: of(self.room),
            spill: of(self.spill),
            peak: of(self.peak),
            over: self.over,
        })
    }
}

/// All of somebody's time, in the hundredths of a percent that shares are counted in; figures are summed on this scale, so that a
/// share of a minute is a whole number. The most that one row may hold ([`crate::rules::MOST_MINUTES`]), on this scale and of a million
/// people, fits.
pub const WHOLE: i64 = 10_000;

/// One person's figures in a bucket, in whole minutes; all else is derived from these four.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct PersonCell {
    /// The limit of a single day, else the sum of the rims.
    pub limit: i32,
    /// All load.
    pub load: i32,
    /// The part that is agreed.
    pub firm: i32,
    /// Σ over the days of max(0, load − limit of the day); in buckets longer than a week Σ over the weeks and cut weeks inside of
    /// max(week's spill, week's peak).
    pub peak: i32,
}

impl PersonCell {
    /// What is left under the limit.
    #[must_use]
    #[inline]
    pub fn room(&self) -> i32 {
        (self.limit - self.load).max(0)
    }

    /// What stands above the limit.
    #[must_use]
    pub fn spill(&self) -> i32 {
        (self.load - self.limit).max(0)
    }

    /// The person is over.
    #[must_use]
    pub fn is_over(&self) -> bool {
        self.load > self.limit || self.peak > 0
    }
}

impl From<PersonCell> for Cell {
    fn from(cell: PersonCell) -> Self {
        Self {
            limit: Some(cell.limit.into()),
            load: cell.load.into(),
            firm: cell.firm.into(),
            room: cell.room().into(),
            spill: cell.spill().into(),
            peak: cell.peak.into(),
            over: cell.is_over().into(),
        }
    }
}

/// Figures of several people added up, on the scale of [`WHOLE`].
#[derive(Clone, Debug, Default)]
pub struct Sum {
    limit: i64,
    load: i64,
    firm: i64,
    room: i64,
    spill: i64,
    peak: i64,
    over: u32,
    unlimited: bool,
}

/// Limit, load, firm load and peak of some days, on one scale.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Figures {
    /// The limit of a single day, else the sum of the rims.
    pub limit: i64,
    /// All load.
    pub load: i64,
    /// The part that is agreed.
    pub firm: i64,
    /// As in [`PersonCell`].
    pub peak: i64,
}

impl Sum {
    /// A row without a limit, as projects have it.
    #[must_use]
    pub fn unlimited() -> Self {
        Self { unlimited: true, ..Self::default() }
    }

    /// Adds a person's figures, on the scale of [`WHOLE`].
    pub fn add_person(&mut self, part: Figures) {
        let Figures { limit, load, firm, peak } = part;
        let spill = (load - limit).max(0);
        self.limit += limit;
        self.load += load;
        self.firm += firm;
        self.room += (limit - load).max(0);
        self.spill += spill;
        self.peak += peak;
        self.over += u32::from(spill > 0 || peak > 0);
    }

    /// Adds what somebody without any limit has, on the scale of [`WHOLE`]: the row has none either then.
    pub fn lift(&mut self, load: i64) {
        self.unlimited = true;
        self.load += load;
        self.firm += load;
    }

    /// Adds work that no person carries, in minutes: it takes the summed room first, and what exceeds that is spill.
    pub fn add_seats(&mut self, firm: i64, load: i64) {
        self.firm += firm * WHOLE;
        self.load += load * WHOLE;
        if !self.unlimited {
            let taken = self.room.min(load * WHOLE);
            self.room -= taken;
            self.spill += load * WHOLE - taken;
        }
    }

    /// The figures as they are shown, each rounded once. `typed_limit`, in minutes, replaces the people's limits where a capacity was
    /// typed; room and spill then are those of the row as a whole.
    #[must_use]
    pub fn cell(&self, typed_limit: Option<&BigRational>) -> Cell {
        let rounded = |sum: i64| round_half_up(sum, WHOLE);
        let (limit, room, spill) = match typed_limit {
            _ if self.unlimited => (None, 0, 0),
            Some(limit) => {
                let left = limit - BigRational::new(self.load.into(), WHOLE.into());
                let above_nothing = |part: BigRational| half_up(&part).max(0);
                (Some(half_up(limit)), above_nothing(left.clone()), above_nothing(-left))
            }
            None => (Some(rounded(self.limit)), rounded(self.room), rounded(self.spill)),
        };
        Cell {
            limit,
            load: rounded(self.load),
            firm: rounded(self.firm),
            room,
            spill,
            peak: rounded(self.peak),
            over: self.over,
        }
    }
}

/// A fraction as a whole number, half up.
pub(crate) fn half_up(exact: &BigRational) -> i64 {
    let half = BigRational::new(1.into(), 2.into());
    i64::try_from((exact + half).floor().to_integer()).unwrap_or(i64::MAX)
}

/// The pieces of a range of day indexes, cut at ISO weeks.
pub(crate) fn weeks_of(range: Range<usize>) -> impl Iterator<Item = Range<usize>> {
    let weeks = range.start / 7..if range.is_empty() { range.start / 7 } else { range.end.div_ceil(7) };
    weeks.map(move |week| (week * 7).max(range.start)..(week * 7 + 7).min(range.end))
}

/// What a week, or a piece of one, adds to the peak of a bucket of this grain: in long buckets a wild week hides in no calm month.
pub(crate) fn peak_of_week<M: Ord + std::ops::Sub<Output = M>>(grain: Grain, limit: M, load: M, days_over: M) -> M {
    if matches!(grain, Grain::Day | Grain::Week) { days_over } else { days_over.max(load - limit) }
}

/// The figures of a share of somebody's time over a range of their days, day by day. `share` is of [`WHOLE`]; `firm` and `load` are
/// each day's on the same scale.
pub(crate) fn figures_of_days(
    days: &Days,
    grain: Grain,
    range: Range<usize>,
    share: i64,
    firm: impl Fn(usize) -> i64,
    load: impl Fn(usize) -> i64,
) -> Figures {
    let own: &ByDay = if grain == Grain::Day { days.limit() } else { days.rim() };
    let mut sum = Figures::default();
    for week in weeks_of(range) {
        let (mut limits, mut loads, mut over) = (0, 0, 0);
        for at in week {
            let here = load(at);
            limits += i64::from(own[at]) * share;
            loads += here;
            over += (here - i64::from(days.limit()[at]) * share).max(0);
            sum.firm += firm(at);
        }
        sum.limit += limits;
        sum.load += loads;
        sum.peak += peak_of_week(grain, limits, loads, over);
    }
    sum
}
