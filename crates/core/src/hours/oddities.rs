//! What whoever approves a week looks at first: days over the limit, work on days off, work that nobody planned, days without any.

use crate::{
    Day,
    week::{Subject, WeekSheet},
};

/// Something about a week that may be right, and is worth a look.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Odd {
    /// More was logged on a working day than its limit, by so many minutes.
    Over(Day, i64),
    /// So many minutes were logged on a day without any limit.
    OnDayOff(Day, i64),
    /// So many minutes were logged on something that was not planned in the week at all.
    Unplanned(Subject, i64),
    /// Nothing was logged on a working day before today.
    Missing(Day),
}

/// What is odd about a week, day by day and then by subject.
#[must_use]
pub fn oddities(sheet: &WeekSheet, today: Day) -> Vec<Odd> {
    let mut found = Vec::new();
    for ((at, logged), limit) in (0..).zip(sheet.logged()).zip(sheet.limits) {
        let day = sheet.monday + at;
        match (logged, limit) {
            (1.., 0) => found.push(Odd::OnDayOff(day, logged)),
            (logged, limit) if logged > limit => found.push(Odd::Over(day, logged - limit)),
            (0, 1..) if day < today => found.push(Odd::Missing(day)),
            _ => {}
        }
    }
    for line in &sheet.lines {
        let sum = |minutes: [i64; 7]| minutes.iter().sum::<i64>();
        if sum(line.planned) == 0 && sum(line.logged) > 0 {
            found.push(Odd::Unplanned(line.subject, sum(line.logged)));
        }
    }
    found
}
