//! What the live grid is made of, whatever room it stands in: shapes in days and pixels, and cells. Its scripts lie here, too;
//! docs/architecture.md, “The live grid”, says how a room uses it.

use snug_core::{Day, cells::Bucket};
use std::{fmt, ops::Range};

/// The head of a column.
pub struct Head {
    pub from: Day,
    pub title: String,
    pub days: i32,
    /// The letter of each day, and whether it is one of a weekend; none where they would not fit.
    pub letters: Vec<(char, bool)>,
}

impl Head {
    /// The head of a bucket.
    pub fn of(bucket: Bucket, title: String, has_letters: bool) -> Self {
        let letter = |day: Day| (['M', 'T', 'W', 'T', 'F', 'S', 'S'][day.weekday()], day.weekday() >= 5);
        let letters = if has_letters { bucket.from.through(bucket.to).map(letter).collect() } else { Vec::new() };
        Self { from: bucket.from, title, days: bucket.to.since(bucket.from) + 1, letters }
    }
}

/// The part of a list of `total` rows that begins at `offset`, `page` rows long at most, and what the next one says of its own offset.
pub fn part_of(total: usize, offset: usize, page: usize) -> (Range<usize>, Option<String>) {
    let range = offset.min(total)..offset.saturating_add(page).min(total);
    let next = (range.end < total).then(|| range.end.to_string());
    (range, next)
}

/// One cell above the picture of a row.
pub struct CellView {
    pub label: String,
    /// What colours it: `open`, `snug`, `brim`, `over`, `away`.
    pub band: &'static str,
    /// What a screen reader says; row and column have their heads.
    pub spoken: String,
    /// How many days it stands for, where that is not the same for all.
    pub days: Option<i32>,
    pub selected: bool,
}

/// A rectangle: from the first day to before the last, from the top down to the floor in pixels from the top of the picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rect {
    pub from: usize,
    pub to: usize,
    pub top: f64,
    pub floor: f64,
}

/// Rectangles that are drawn as one path.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Shapes(pub Vec<Rect>);

impl Shapes {
    /// Whether there is nothing to draw.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}

impl fmt::Display for Shapes {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut before: Option<&Rect> = None;
        for rect in &self.0 {
            let (floor, top) = (Pixels(rect.floor), Pixels(rect.top));
            // On the same floor, which is what most are, the next one is told by how many days on it begins.
            match before.filter(|before| before.floor.to_bits() == rect.floor.to_bits() && before.from < rect.from) {
                Some(before) => write!(f, "m{} 0", rect.from - before.from)?,
                None => write!(f, "M{} {floor}", rect.from)?,
            }
            write!(f, "V{top}h{}V{floor}z", rect.to - rect.from)?;
            before = Some(rect);
        }
        Ok(())
    }
}

/// A line over days, as the rim is: from the first day to before the last, its height in pixels from the top. It has gaps where no piece is.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Rim(pub Vec<(usize, usize, f64)>);

impl Rim {
    /// What of it does not lie on another line.
    pub fn apart_from(&self, other: &Self) -> Self {
        let is_there = |day: usize, y: f64| {
            let there = other.0.iter().find(|(from, to, _)| (*from..*to).contains(&day));
            there.is_some_and(|there| (there.2 - y).abs() < 0.05)
        };
        let mut found: Vec<(usize, usize, f64)> = Vec::new();
        for (from, to, y) in &self.0 {
            for day in (*from..*to).filter(|day| !is_there(*day, *y)) {
                match found.last_mut().filter(|last| last.1 == day && last.2.to_bits() == y.to_bits()) {
                    Some(last) => last.1 = day + 1,
                    None => found.push((day, day + 1, *y)),
                }
            }
        }
        Self(found)
    }
}

impl fmt::Display for Rim {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut before = None;
        for (from, to, y) in &self.0 {
            let y = Pixels(*y);
            if before == Some(*from) {
                write!(f, "V{y}")?;
            } else {
                write!(f, "M{from} {y}")?;
            }
            write!(f, "h{}", to - from)?;
            before = Some(*to);
        }
        Ok(())
    }
}

/// Pixels to a tenth.
struct Pixels(f64);

impl fmt::Display for Pixels {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let tenths = (self.0 * 10.0).round();
        if tenths % 10.0 == 0.0 { write!(f, "{:.0}", tenths / 10.0) } else { write!(f, "{:.1}", tenths / 10.0) }
    }
}
