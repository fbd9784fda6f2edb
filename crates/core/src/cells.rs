//! Cells: limit, load, room, spill, peak and band of a row in a bucket.

use crate::{Day, availability::Days, people::Person, settings::Settings, spread::round_half_up, words::words};
use num_bigint::BigInt;
use num_rational::{BigRational, Ratio};
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
/// share of a minute is a whole number.
pub const WHOLE: i64 = 10_000;

/// A sum that stays exact: whole ten-thousandths of a minute, and fractions of cut weeks only where there are any.
#[derive(Clone, Debug, Default)]
struct Exact {
    whole: i64,
    cut: Option<Box<BigRational>>,
}

impl Exact {
    fn add(&mut self, figure: Ratio<i64>) {
        if figure.is_integer() {
            self.whole += figure.to_integer();
        } else {
            let figure = BigRational::new((*figure.numer()).into(), (*figure.denom()).into());
            self.cut = Some(Box::new(self.cut.take().map_or(figure.clone(), |cut| *cut + figure)));
        }
    }

    /// Half up to whole minutes.
    fn rounded(&self) -> i64 {
        let Some(cut) = &self.cut else { return round_half_up(self.whole, WHOLE) };
        let half = Ratio::new(BigInt::from(1), BigInt::from(2));
        let minutes = (&**cut + BigInt::from(self.whole)) / BigInt::from(WHOLE) + half;
        i64::try_from(minutes.floor().to_integer()).unwrap_or(i64::MAX)
    }

    fn less(&self, whole: i64) -> Self {
        Self { whole: self.whole - whole, cut: self.cut.clone() }
    }

    fn is_negative(&self) -> bool {
        match &self.cut {
            None => self.whole < 0,
            Some(cut) => (&**cut + BigInt::from(self.whole)) < BigRational::from(BigInt::from(0)),
        }
    }
}

/// A row's figures in one bucket while they are summed: one's room never hides another's spill, and nothing is rounded before
/// the end.
#[derive(Clone, Debug, Default)]
pub struct Sum {
    unlimited: bool,
    limit: Exact,
    load: i64,
    firm: i64,
    room: Exact,
    spill: Exact,
    peak: Exact,
    over: u32,
}

impl Sum {
    /// A row that has no limit, such as a project.
    #[must_use]
    pub fn unlimited() -> Self {
        Self { unlimited: true, ..Self::default() }
    }

    /// Adds a person: what [`person_limit`] says of the bucket, and the firm load, both on the scale of [`WHOLE`].
    pub fn add_person(&mut self, part: &PersonLimit, firm: i64) {
        let load = part.load;
        self.load += load;
        self.firm += firm;
        if let Some((cut_limit, cut_peak)) = part.cut {
            let none = Ratio::from(0);
            let (limit, peak) = (cut_limit + part.limit, cut_peak + part.peak);
            let spill = (-limit + load).max(none);
            self.limit.add(limit);
            self.room.add((limit - load).max(none));
            self.spill.add(spill);
            self.peak.add(peak);
            self.over += u32::from(spill > none || peak > none);
        } else {
            let spill = (load - part.limit).max(0);
            self.limit.whole += part.limit;
            self.room.whole += (part.limit - load).max(0);
            self.spill.whole += spill;
            self.peak.whole += part.peak;
            self.over += u32::from(spill > 0 || part.peak > 0);
        }
    }

    /// Adds work that no person carries, in minutes: it takes the summed room first, and what exceeds that is spill.
    pub fn add_seats(&mut self, firm: i64, load: i64) {
        self.firm += firm * WHOLE;
        self.load += load * WHOLE;
        if !self.unlimited {
            let left = self.room.less(load * WHOLE);
            if left.is_negative() {
                self.spill.whole -= left.whole;
                if let Some(cut) = left.cut {
                    let spill = self.spill.cut.take().map_or(-*cut.clone(), |sum| *sum - *cut);
                    self.spill.cut = Some(Box::new(spill));
                }
                self.room = Exact::default();
            } else {
                self.room = left;
            }
        }
    }

    /// The figures as they are shown, each rounded once. `typed_limit` in minutes replaces the people's limits where a capacity
    /// was typed; room and spill then are those of the row as a whole.
    #[must_use]
    pub fn cell(&self, typed_limit: Option<i64>) -> Cell {
        let load = round_half_up(self.load, WHOLE);
        let limit = (!self.unlimited).then(|| typed_limit.unwrap_or_else(|| self.limit.rounded()));
        let (room, spill) = match typed_limit {
            Some(limit) => ((limit - load).max(0), (load - limit).max(0)),
            None => (self.room.rounded(), self.spill.rounded()),
        };
        Cell {
            limit,
            load,
            firm: round_half_up(self.firm, WHOLE),
            room,
            spill,
            peak: self.peak.rounded(),
            over: self.over,
        }
    }
}

/// What one person's limits come to over a bucket, on the scale of [`WHOLE`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct PersonLimit {
    /// Minutes under the limits, of all weeks but those in `cut`.
    pub limit: i64,
    /// All load.
    pub load: i64,
    /// Σ over the days of max(0, load − limit); in buckets longer than a week Σ over the weeks and cut weeks inside of
    /// max(week's spill, week's peak). Of all weeks but those in `cut`.
    pub peak: i64,
    /// Limit and peak of weeks that an edge cuts: those have the week limit × their share of the week's available minutes,
    /// which need not be whole. `None` where no week limit is cut, which is nearly always.
    pub cut: Option<(Ratio<i64>, Ratio<i64>)>,
}

/// Limit and peak of one person over an index range of their days, whose span must be whole ISO weeks.
///
/// `share` is the part of their time that is asked about, of [`WHOLE`]; `load` gives each day's load on the same scale.
#[must_use]
pub fn person_limit(
    person: &Person,
    days: &Days,
    share: i64,
    load: impl Fn(usize) -> i64,
    range: Range<usize>,
    grain: Grain,
) -> PersonLimit {
    let available = |range: Range<usize>| days.available[range].iter().map(|minutes| i64::from(*minutes)).sum::<i64>();
    let mut found = PersonLimit::default();
    let mut start = range.start;
    while start < range.end {
        let week = start - start % 7..start - start % 7 + 7;
        let piece = start..week.end.min(range.end);
        start = week.end;
        let (mut plain, mut load_sum, mut worst) = (0, 0, 0);
        for at in piece.clone() {
            let (limit, load) = (i64::from(days.limit[at]) * share, load(at));
            plain += limit;
            load_sum += load;
            worst += (load - limit).max(0);
        }
        found.load += load_sum;
        // By day the week limit does not apply; in a week the days decide the peak, in longer buckets the worse of the two.
        let most = person.week_limit.filter(|_| grain != Grain::Day).map(|most| i64::from(most) * share);
        let long = !matches!(grain, Grain::Day | Grain::Week);
        match most {
            Some(most) if piece != week => {
                let part = Ratio::new(most * available(piece), available(week).max(1)).min(plain.into());
                let peak = if long { (Ratio::from(load_sum) - part).max(worst.into()) } else { worst.into() };
                let (limits, peaks) = found.cut.unwrap_or_default();
                found.cut = Some((limits + part, peaks + peak));
            }
            most => {
                let limit = most.map_or(plain, |most| most.min(plain));
                found.limit += limit;
                found.peak += if long { (load_sum - limit).max(worst) } else { worst };
            }
        }
    }
    found
}
