//! Civil days as plain numbers, so that a range of days is a range of array indexes.

use chrono::{Datelike, NaiveDate};
use serde::{Deserialize, Serialize};
use std::{fmt, ops, str::FromStr};

/// A civil day, counted from 1970-01-01. Written and read as `2026-03-23`.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Day(i32);

/// Days from 0001-01-01, where chrono counts from, to 1970-01-01.
const EPOCH: i32 = 719_163;

impl Day {
    /// The first day a plan may speak of, 1970-01-01.
    pub const MIN: Self = Self(0);
    /// The last day a plan may speak of, 2199-12-31.
    pub const MAX: Self = Self(84_005);

    /// The day of a calendar date.
    #[must_use]
    pub fn from_date(date: NaiveDate) -> Self {
        Self(date.num_days_from_ce() - EPOCH)
    }

    /// The calendar date of this day.
    #[must_use]
    pub fn date(self) -> NaiveDate {
        NaiveDate::from_num_days_from_ce_opt(self.0 + EPOCH).unwrap_or_default()
    }

    /// The day of year, month (1..=12) and day of month; `None` where there is no such date.
    #[must_use]
    pub fn from_ymd(year: i32, month: u32, day: u32) -> Option<Self> {
        NaiveDate::from_ymd_opt(year, month, day).map(Self::from_date)
    }

    /// 0 for Monday to 6 for Sunday.
    #[must_use]
    pub fn weekday(self) -> usize {
        usize::try_from((self.0 + 3).rem_euclid(7)).unwrap_or_default()
    }

    /// The Monday of this day's ISO week.
    #[must_use]
    pub fn monday(self) -> Self {
        Self(self.0 - (self.0 + 3).rem_euclid(7))
    }

    /// The first day of this day's month.
    #[must_use]
    pub fn month_start(self) -> Self {
        Self(self.0 - i32::try_from(self.date().day0()).unwrap_or_default())
    }

    /// The first day of the month `months` after this day's month.
    #[must_use]
    pub fn month_after(self, months: i32) -> Self {
        let date = self.date();
        let index = date.year() * 12 + i32::try_from(date.month0()).unwrap_or_default() + months;
        let month = u32::try_from(index.rem_euclid(12) + 1).unwrap_or(1);
        Self::from_ymd(index.div_euclid(12), month, 1).unwrap_or(self)
    }

    /// Days from `earlier` to this day; negative when `earlier` is later.
    #[must_use]
    pub fn since(self, earlier: Self) -> i32 {
        self.0 - earlier.0
    }

    /// Every day from this one to `last`, both included.
    pub fn through(self, last: Self) -> impl DoubleEndedIterator<Item = Self> + Clone {
        (self.0..=last.0).map(Self)
    }

    /// Days since 1970-01-01.
    #[must_use]
    pub fn number(self) -> i32 {
        self.0
    }

    /// The day that lies this number of days after 1970-01-01.
    #[must_use]
    pub fn from_number(number: i32) -> Self {
        Self(number)
    }
}

impl ops::Add<i32> for Day {
    type Output = Self;
    fn add(self, days: i32) -> Self {
        Self(self.0 + days)
    }
}

impl ops::Sub<i32> for Day {
    type Output = Self;
    fn sub(self, days: i32) -> Self {
        Self(self.0 - days)
    }
}

impl fmt::Display for Day {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.date().fmt(f)
    }
}

/// What was written is no day between 1970-01-01 and 2199-12-31.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("“{0}” is no date; write it as 2026-03-23, between 1970 and 2199")]
pub struct NoDay(pub String);

impl FromStr for Day {
    type Err = NoDay;
    fn from_str(text: &str) -> Result<Self, NoDay> {
        let bad = || NoDay(text.to_owned());
        if text.len() != 10 {
            return Err(bad());
        }
        let day = Self::from_date(text.parse::<NaiveDate>().map_err(|_| bad())?);
        if (Self::MIN..=Self::MAX).contains(&day) { Ok(day) } else { Err(bad()) }
    }
}

impl TryFrom<String> for Day {
    type Error = NoDay;
    fn try_from(text: String) -> Result<Self, NoDay> {
        text.parse()
    }
}

impl From<Day> for String {
    fn from(day: Day) -> Self {
        day.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weeks_start_on_monday_and_months_roll_over() {
        let day: Day = "2026-03-04".parse().unwrap();
        assert_eq!(day.weekday(), 2);
        assert_eq!(day.monday().to_string(), "2026-03-02");
        assert_eq!(day.month_start().to_string(), "2026-03-01");
        assert_eq!(day.month_after(-3).to_string(), "2025-12-01");
        assert_eq!(day.month_after(10).to_string(), "2027-01-01");
        assert_eq!(Day::MAX.to_string(), "2199-12-31");
        assert_eq!(Day::MIN.to_string(), "1970-01-01");
    }

    #[test]
    fn refuses_what_is_no_date() {
        for text in ["", "2026-02-30", "23.3.2026", "2026-3-4", "9999-01-01", "1969-12-31"] {
            assert!(text.parse::<Day>().is_err(), "{text}");
        }
    }
}
