//! How long a cell is, how many there are, and how tall a row is.

use crate::words;
use chrono::Datelike as _;
use snug_core::{
    Day,
    cells::{Bucket, Grain},
    settings::{DateOrder, Settings},
};

/// The zooms of the room: what a cell is, its usual number, and the least and most of them.
pub const ZOOMS: [(Grain, &str, i32, i32, i32); 5] = [
    (Grain::Day, "Days", 14, 7, 35),
    (Grain::Week, "Weeks", 6, 1, 26),
    (Grain::Fortnight, "Fortnights", 6, 1, 26),
    (Grain::Month, "Months", 6, 1, 24),
    (Grain::Quarter, "Quarters", 4, 1, 12),
];

/// The usual, least and most number of cells of a zoom.
pub fn span_of(grain: Grain) -> (i32, i32, i32) {
    let found = ZOOMS.iter().find(|zoom| zoom.0 == grain).unwrap_or(&ZOOMS[1]);
    (found.2, found.3, found.4)
}

/// The cell `steps` cells after the one that begins on `start`; before it, where `steps` is below zero.
pub fn stepped(grain: Grain, start: Day, steps: i32, settings: &Settings) -> Day {
    let mut day = start;
    for _ in 0..steps.unsigned_abs() {
        day = if steps > 0 { grain.next_start(day, settings) } else { grain.start_of(day - 1, settings) };
    }
    day
}

/// `week of 23 March`, `Mon 23 March`, `March 2026`.
pub fn named(grain: Grain, bucket: Bucket, order: DateOrder) -> String {
    match grain {
        Grain::Day => words::weekday(bucket.from, order),
        Grain::Week => format!("week of {}", words::day(bucket.from, order)),
        Grain::Fortnight => format!("fortnight from {}", words::day(bucket.from, order)),
        Grain::Month => bucket.from.date().format("%B %Y").to_string(),
        Grain::Quarter | Grain::FiscalYear => quarter(bucket),
    }
}

/// The same, short, for the head of a column that stands among `columns`.
pub fn title(grain: Grain, bucket: Bucket, columns: usize, order: DateOrder) -> String {
    match grain {
        Grain::Day => words::day_short(bucket.from, order),
        Grain::Week | Grain::Fortnight if columns > 8 => words::day_short(bucket.from, order),
        Grain::Week | Grain::Fortnight => words::day(bucket.from, order),
        Grain::Month if columns > 9 => bucket.from.date().format("%b %y").to_string(),
        Grain::Month => bucket.from.date().format("%B %Y").to_string(),
        Grain::Quarter | Grain::FiscalYear => quarter(bucket),
    }
}

/// `Jan–Mar 2026`: quarters are counted from the fiscal start, so their months say more than a number.
fn quarter(bucket: Bucket) -> String {
    let (from, to) = (bucket.from.date(), bucket.to.date());
    let year = if from.year() == to.year() { String::new() } else { format!(" {}", from.year()) };
    format!("{}{year}–{} {}", from.format("%b"), to.format("%b"), to.year())
}

/// How tall a row is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Height {
    /// Many rows on a screen.
    Compact,
    /// As one works.
    Normal,
    /// For a close look.
    Tall,
}

impl Height {
    /// Every height with its word.
    pub const ALL: [(Self, &'static str); 3] =
        [(Self::Compact, "compact"), (Self::Normal, "normal"), (Self::Tall, "tall")];

    /// By its word; normal when there is none.
    pub fn read(word: &str) -> Self {
        Self::ALL.iter().find(|(_, known)| *known == word).map_or(Self::Normal, |(height, _)| *height)
    }

    /// Its word.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(height, _)| *height == self).map_or("", |(_, word)| word)
    }

    /// The floor on which strata stand, in pixels from the top of their picture.
    pub fn floor(self) -> f64 {
        match self {
            Self::Compact => 31.0,
            Self::Normal => 45.0,
            Self::Tall => 102.0,
        }
    }

    /// Pixels an hour of a day: ten hours leave room for the label over them.
    pub fn hour(self) -> f64 {
        match self {
            Self::Compact => 1.9,
            Self::Normal => 2.9,
            Self::Tall => 8.4,
        }
    }

    /// The height of the picture, in pixels.
    pub fn picture(self) -> u32 {
        match self {
            Self::Compact => 32,
            Self::Normal => 46,
            Self::Tall => 104,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn day(text: &str) -> Day {
        text.parse().unwrap()
    }

    #[test]
    fn cells_are_stepped_in_both_directions_and_named() {
        let settings = Settings { fiscal_start: 4, ..Settings::default() };
        let step = |grain, steps| {
            stepped(grain, Grain::start_of(grain, day("2026-03-11"), &settings), steps, &settings).to_string()
        };
        assert_eq!(
            [step(Grain::Week, 0), step(Grain::Week, -2), step(Grain::Week, 1)],
            ["2026-03-09", "2026-02-23", "2026-03-16"]
        );
        assert_eq!([step(Grain::Month, -3), step(Grain::Month, 2)], ["2025-12-01", "2026-05-01"]);
        assert_eq!([step(Grain::Quarter, 0), step(Grain::Quarter, 1)], ["2026-01-01", "2026-04-01"]);
        assert_eq!(step(Grain::Fortnight, 1), "2026-03-23");
        let bucket = Bucket { from: day("2026-12-01"), to: day("2027-02-28") };
        assert_eq!(named(Grain::Quarter, bucket, DateOrder::DayMonth), "Dec 2026–Feb 2027");
        assert_eq!(title(Grain::Month, bucket, 12, DateOrder::DayMonth), "Dec 26");
    }
}
