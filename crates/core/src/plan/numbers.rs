//! What the computation reads of a person: numbers only, close together, words apart.

use crate::{
    BookingId, Day, ProjectId,
    kinds::{Absence, Amount, Booking, Certainty, DatedPattern, Meeting, Person, Unit, Who},
};
use std::sync::Arc;

/// Everything that a person's load is computed from but holidays and tasks. It is made where the plan changes, so that one person's
/// change copies one person.
#[derive(Clone, Debug, Default)]
pub struct Numbers {
    /// Minutes of the usual week, Monday first, where one week is all there is.
    pub week: [i32; 7],
    /// The patterns where there are several, or weeks that take turns; empty where `week` says it.
    pub patterns: Vec<DatedPattern>,
    /// The most minutes on one day.
    pub day_limit: Option<i32>,
    /// The most minutes in one ISO week.
    pub week_limit: Option<i32>,
    /// Days off as a whole, in their order, each once: those of time off of up to [`MONTH`] days, as most is.
    pub days_off: Vec<Day>,
    /// All other time off.
    pub off: Vec<Off>,
    /// Bookings, in the order of their identities.
    bricks: Vec<Brick>,
    /// All marks of all bricks.
    marks: Marks,
    /// What is besides known of each brick.
    names: Vec<Name>,
}

/// Time off of up to this many days is kept day by day.
const MONTH: i32 = 31;

/// Time off, as numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Off {
    /// First day.
    pub start: Day,
    /// Last day.
    pub end: Day,
    /// Minutes on each day; `None` for the whole day.
    pub minutes: Option<i32>,
    /// The minute of the day at which they begin, where it is known.
    pub at: Option<i32>,
}

bitflags::bitflags! {
    /// What there is to a booking besides when and how much, a bit each, so that one look tells whether it counts.
    #[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
    pub struct Marks: u8 {
        /// Tentative; without it, agreed.
        const PENCILLED = 1;
        /// On no project.
        const HOLD = 2;
        /// Counts on days off too.
        const DAYS_OFF = 4;
        /// In another unit than hours a day.
        const OTHER_UNIT = 8;
        /// Not the same minutes on every whole day.
        const UNEVEN = Self::DAYS_OFF.bits() | Self::OTHER_UNIT.bits();
    }
}

/// Those bookings whose marks among `of` are `are`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Choice {
    /// The marks that are looked at.
    pub of: Marks,
    /// Those of them that must be there, and no others.
    pub are: Marks,
}

impl Choice {
    /// Every booking.
    pub const ALL: Self = Self { of: Marks::empty(), are: Marks::empty() };

    /// Whether a booking is one of those.
    #[must_use]
    #[inline]
    pub fn takes(self, brick: &Brick) -> bool {
        brick.marks.intersection(self.of) == self.are
    }

    /// Those of them that have a mark, or nothing of it. To be asked about a mark once.
    #[must_use]
    pub fn and(self, mark: Marks, has: bool) -> Self {
        Self { of: self.of | mark, are: if has { self.are | mark } else { self.are } }
    }
}

/// A booking as it is laid on days, 16 bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Brick {
    /// First day.
    pub start: Day,
    /// Last day.
    pub end: Day,
    /// Minutes, or hundredths of a percent.
    pub value: i32,
    /// What the value counts.
    pub unit: Unit,
    /// What else there is to it.
    pub marks: Marks,
}

impl Brick {
    /// The numbers of a booking.
    #[must_use]
    pub fn of(booking: &Booking) -> Self {
        let mut marks = Marks::empty();
        marks.set(Marks::PENCILLED, booking.certainty == Certainty::Pencilled);
        marks.set(Marks::HOLD, booking.project.is_none());
        marks.set(Marks::DAYS_OFF, booking.days_off);
        marks.set(Marks::OTHER_UNIT, booking.amount.unit != Unit::PerDay);
        let Amount { value, unit } = booking.amount;
        Self { start: booking.start, end: booking.end, value, unit, marks }
    }

    /// Agreed or tentative.
    #[must_use]
    pub fn certainty(&self) -> Certainty {
        if self.marks.contains(Marks::PENCILLED) { Certainty::Pencilled } else { Certainty::Firm }
    }

    /// Whether any of its days lies in `first..=last`.
    #[must_use]
    #[inline]
    pub fn touches(&self, first: Day, last: Day) -> bool {
        self.start <= last && self.end >= first
    }

    /// The most minutes that it can come to in all, at least as many as it lands.
    #[must_use]
    pub fn most(&self) -> i64 {
        let days = i64::from(self.end.since(self.start)) + 1;
        let value = i64::from(self.value);
        match self.unit {
            Unit::PerDay => value * days,
            Unit::PerWeek => value * (days / 7 + 2),
            Unit::Total => value,
            Unit::Percent => (value * 1_440 / 10_000 + 1) * days,
        }
    }
}

/// What tells a booking from others, and its words where there are any.
#[derive(Clone, Debug)]
pub(super) struct Name {
    id: BookingId,
    /// The project's number; 0 for a hold, as no project has it.
    project: i32,
    /// Reference, note and budget line.
    words: Option<Arc<[String; 3]>>,
}

impl Name {
    /// One without words.
    pub fn plain(id: BookingId, project: Option<ProjectId>) -> Self {
        Self { id, project: project.map_or(0, |id| id.0), words: None }
    }

    fn of(booking: &Booking) -> Self {
        let words = [&booking.reference, &booking.note, &booking.line];
        let worded = words.iter().any(|word| !word.is_empty());
        Self { words: worded.then(|| Arc::new(words.map(Clone::clone))), ..Self::plain(booking.id, booking.project) }
    }
}

/// A person's booking as one looks at it, without its words.
#[derive(Clone, Copy, Debug)]
pub struct BookingRow<'a> {
    /// Identity.
    pub id: BookingId,
    /// For which project; `None` is a hold.
    pub project: Option<ProjectId>,
    /// When, how much, how sure.
    pub brick: Brick,
    words: Option<&'a [String; 3]>,
}

impl<'a> BookingRow<'a> {
    /// The line of the budget that it names; empty for none.
    #[must_use]
    pub fn line(&self) -> &'a str {
        self.words.map_or("", |[_, _, line]| line)
    }

    /// The whole booking, as it stands for somebody.
    #[must_use]
    pub fn booking(&self, who: Who) -> Booking {
        let [reference, note, line] = self.words.cloned().unwrap_or_default();
        let brick = self.brick;
        Booking {
            id: self.id,
            reference,
            who,
            project: self.project,
            start: brick.start,
            end: brick.end,
            amount: Amount { value: brick.value, unit: brick.unit },
            certainty: brick.certainty(),
            days_off: brick.marks.contains(Marks::DAYS_OFF),
            note,
            line,
        }
    }
}

impl Numbers {
    /// The numbers of somebody with this time off and no bookings.
    #[must_use]
    pub fn of(person: &Person, absences: &[Absence]) -> Self {
        let mut numbers = Self::default();
        numbers.take_person(person);
        numbers.take_off(absences, &[]);
        numbers
    }

    pub(super) fn take_person(&mut self, person: &Person) {
        let alone = match person.patterns.as_slice() {
            [only] if only.from.is_none() && only.pattern.0.len() == 1 => only.pattern.0.first(),
            _ => None,
        };
        self.week = alone.copied().unwrap_or_default();
        self.patterns = if alone.is_some() { Vec::new() } else { person.patterns.clone() };
        (self.day_limit, self.week_limit) = (person.day_limit, person.week_limit);
    }

    /// Takes what somebody is off for: time off, and meetings of projects, which count as those of their calendars do.
    pub(super) fn take_off(&mut self, absences: &[Absence], meetings: &[Arc<Meeting>]) {
        self.days_off.clear();
        self.off.clear();
        for it in absences {
            if it.minutes.is_none() && it.end.since(it.start) < MONTH {
                self.days_off.extend(it.start.through(it.end));
            } else {
                self.off.push(Off { start: it.start, end: it.end, minutes: it.minutes, at: it.at });
            }
        }
        for meeting in meetings {
            let (minutes, at) = (Some(meeting.minutes), Some(meeting.at));
            self.off.extend(meeting.days().map(|day| Off { start: day, end: day, minutes, at }));
        }
        self.days_off.sort_unstable();
        self.days_off.dedup();
    }

    /// The bookings as numbers.
    #[must_use]
    pub fn bricks(&self) -> &[Brick] {
        &self.bricks
    }

    /// All marks that any of the bookings has.
    #[must_use]
    pub fn marks(&self) -> Marks {
        self.marks
    }

    /// The bookings, in the order of their identities.
    pub fn bookings(&self) -> impl ExactSizeIterator<Item = BookingRow<'_>> {
        self.bricks.iter().zip(&self.names).map(|(brick, name)| BookingRow {
            id: name.id,
            project: (name.project != 0).then_some(ProjectId(name.project)),
            brick: *brick,
            words: name.words.as_deref(),
        })
    }

    /// Where a booking stands, or would.
    pub(super) fn place(&self, id: BookingId) -> Result<usize, usize> {
        self.names.binary_search_by_key(&id, |name| name.id)
    }

    /// Takes a booking in, in place of the one with its identity where there is one.
    pub(super) fn put(&mut self, booking: &Booking) {
        self.marks |= Brick::of(booking).marks;
        match self.place(booking.id) {
            Ok(at) => (self.bricks[at], self.names[at]) = (Brick::of(booking), Name::of(booking)),
            Err(at) => {
                self.bricks.insert(at, Brick::of(booking));
                self.names.insert(at, Name::of(booking));
            }
        }
    }

    pub(super) fn remove(&mut self, id: BookingId) {
        if let Ok(at) = self.place(id) {
            self.bricks.remove(at);
            self.names.remove(at);
            self.mark();
        }
    }

    /// Puts bookings behind those that there are, all with later identities.
    pub(super) fn append(&mut self, bricks: &mut Vec<Brick>, names: &mut Vec<Name>) {
        append(&mut self.bricks, bricks);
        append(&mut self.names, names);
        self.mark();
    }

    fn mark(&mut self) {
        self.marks = self.bricks.iter().fold(Marks::empty(), |sum, brick| sum | brick.marks);
    }
}

/// Puts one list behind the other, without a copy where there is nothing yet.
pub(super) fn append<T>(to: &mut Vec<T>, from: &mut Vec<T>) {
    if to.is_empty() { std::mem::swap(to, from) } else { to.append(from) }
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_brick_stays_small() {
        assert_eq!(size_of::<super::Brick>(), 16);
        assert_eq!(size_of::<super::Name>(), 16);
    }
}
