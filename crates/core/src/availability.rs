//! When somebody can work, and how much is the most.

use crate::{
    Day,
    people::{Absence, Person},
    settings::Settings,
};

/// One person's days from `first` on: pattern, available minutes and limit of each.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Days {
    /// The day that index 0 stands for.
    pub first: Day,
    /// Minutes of the working pattern.
    pub pattern: Vec<i32>,
    /// Minutes that are left of the pattern after holidays and time off.
    pub available: Vec<i32>,
    /// The smaller of the available minutes and the day limit.
    pub limit: Vec<i32>,
}

impl Days {
    /// Working days of a person over `first..=last`.
    ///
    /// `holidays` are those of the person's calendar, sorted by day, each with its fraction in millionths. Half-up rounding
    /// happens once a day; several holidays on one day add up to the whole day at most, several absences likewise. Absences
    /// whose times of day are known, as meetings, are merged where they overlap.
    #[must_use]
    pub fn of_person(person: &Person, holidays: &[(Day, i32)], absences: &[Absence], first: Day, last: Day) -> Self {
        let mut days = Self::pattern_of(person, first, last);
        days.available.clone_from(&days.pattern);
        days.take_holidays(holidays);
        let mut timed = Vec::new();
        for absence in absences {
            for index in days.indexes(absence.start, absence.end) {
                let left = &mut days.available[index];
                match (absence.minutes, absence.at) {
                    (None, _) => *left = 0,
                    (Some(minutes), None) => *left = (*left - minutes).max(0),
                    (Some(minutes), Some(at)) => timed.push((index, at, at + minutes)),
                }
            }
        }
        for (index, minutes) in counted_once(timed) {
            days.available[index] = (days.available[index] - minutes).max(0);
        }
        days.limit.clone_from(&days.available);
        if let Some(most) = person.day_limit {
            days.limit.iter_mut().for_each(|limit| *limit = (*limit).min(most));
        }
        days
    }

    /// The days over which work with no person is spread: the workspace's pattern, without holidays.
    #[must_use]
    pub fn of_workspace(settings: &Settings, first: Day, last: Day) -> Self {
        let anchor = Day::from_number(19_723); // ISO week 1 of 2024, as for a person's first pattern
        let pattern: Vec<i32> = first.through(last).map(|day| settings.pattern.minutes(anchor, day)).collect();
        Self { first, available: pattern.clone(), limit: pattern.clone(), pattern }
    }

    fn pattern_of(person: &Person, first: Day, last: Day) -> Self {
        let mut pattern = Vec::with_capacity(usize::try_from(last.since(first) + 1).unwrap_or_default());
        let mut day = first;
        while day <= last {
            // One week, or the part of it in which one pattern holds, at a time.
            let in_force = person.patterns.iter().rev().find(|dated| dated.from.is_none_or(|from| from <= day));
            let next = person.patterns.iter().filter_map(|dated| dated.from).filter(|from| *from > day).min();
            let mut stop = (day.monday() + 6).min(last);
            if let Some(next) = next {
                stop = stop.min(next - 1);
            }
            match in_force.and_then(|dated| dated.pattern.week(dated.anchor(), day)) {
                Some(week) => pattern.extend_from_slice(&week[day.weekday()..=stop.weekday()]),
                None => pattern.extend(day.through(stop).map(|_| 0)),
            }
            day = stop + 1;
        }
        Self { first, pattern, available: Vec::new(), limit: Vec::new() }
    }

    fn take_holidays(&mut self, holidays: &[(Day, i32)]) {
        let from = holidays.partition_point(|(day, _)| *day < self.first);
        let mut rest = &holidays[from..];
        while let Some((day, _)) = rest.first().copied() {
            let Some(index) = self.index(day) else { return };
            let same = rest.iter().take_while(|(other, _)| *other == day).count();
            let off: i64 = rest[..same].iter().map(|(_, fraction)| i64::from(*fraction)).sum::<i64>().min(1_000_000);
            let left = crate::spread::round_half_up(i64::from(self.pattern[index]) * (1_000_000 - off), 1_000_000);
            self.available[index] = i32::try_from(left).unwrap_or_default();
            rest = &rest[same..];
        }
    }

    /// How many days there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.pattern.len()
    }

    /// Whether there is no day at all.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.pattern.is_empty()
    }

    /// The index of a day, if it lies inside.
    #[must_use]
    pub fn index(&self, day: Day) -> Option<usize> {
        usize::try_from(day.since(self.first)).ok().filter(|index| *index < self.len())
    }

    /// The indexes of those days of `start..=end` that lie inside.
    #[must_use]
    pub fn indexes(&self, start: Day, end: Day) -> std::ops::Range<usize> {
        let from = usize::try_from(start.since(self.first)).unwrap_or(0).min(self.len());
        let to = usize::try_from(end.since(self.first) + 1).unwrap_or(0).min(self.len());
        from..to.max(from)
    }

    /// The day at an index.
    #[must_use]
    pub fn day(&self, index: usize) -> Day {
        self.first + i32::try_from(index).unwrap_or(i32::MAX)
    }
}

/// Stretches of days, each from a minute to a minute of its day, as the minutes that each adds to those before it.
fn counted_once(mut stretches: Vec<(usize, i32, i32)>) -> impl Iterator<Item = (usize, i32)> {
    stretches.sort_unstable();
    let mut counted = (usize::MAX, 0);
    stretches.into_iter().map(move |(day, from, to)| {
        let begin = if counted.0 == day { from.max(counted.1) } else { from };
        let added = (to - begin).max(0);
        counted = (day, begin + added);
        (day, added)
    })
}

/// Minutes that absences in part take from `first` to `last`, overlaps counted once; whole days are not in it.
#[must_use]
pub fn minutes_in_part<'a>(absences: impl IntoIterator<Item = &'a Absence>, first: Day, last: Day) -> i64 {
    let (mut timed, mut sum) = (Vec::new(), 0);
    for absence in absences {
        let Some(minutes) = absence.minutes else { continue };
        for day in absence.start.max(first).through(absence.end.min(last)) {
            match absence.at {
                Some(at) => timed.push((usize::try_from(day.since(first)).unwrap_or_default(), at, at + minutes)),
                None => sum += i64::from(minutes),
            }
        }
    }
    sum + counted_once(timed).map(|(_, minutes)| i64::from(minutes)).sum::<i64>()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        AbsenceId, PersonId,
        people::{DatedPattern, Pattern, PersonKind},
    };

    fn day(text: &str) -> Day {
        text.parse().unwrap()
    }

    fn person(patterns: Vec<DatedPattern>) -> Person {
        Person {
            id: PersonId(1),
            email: "a@example.test".into(),
            name: "A".into(),
            role: String::new(),
            kind: PersonKind::Person,
            calendar: String::new(),
            patterns,
            day_limit: None,
            week_limit: None,
            max_projects: None,
            max_tasks: None,
            max_points: None,
            skills: vec![],
            rates: vec![],
            fields: std::collections::BTreeMap::new(),
        }
    }

    #[test]
    fn patterns_rotate_from_their_monday_and_change_on_their_day() {
        let long = [480, 480, 480, 480, 480, 0, 0];
        let short = [480, 480, 480, 480, 0, 0, 0];
        let half = [240, 240, 240, 240, 240, 0, 0];
        let p = person(vec![
            DatedPattern { from: None, pattern: Pattern(vec![long, short]) },
            DatedPattern { from: Some(day("2024-01-17")), pattern: Pattern(vec![half]) },
        ]);
        let days = Days::of_person(&p, &[], &[], day("2024-01-01"), day("2024-01-21"));
        assert_eq!(days.pattern[0..7], long);
        assert_eq!(days.pattern[7..14], short);
        assert_eq!(days.pattern[14..21], [480, 480, 240, 240, 240, 0, 0]);
    }

    #[test]
    fn holidays_and_time_off_lower_what_is_available_and_never_below_nothing() {
        let mut p = person(vec![DatedPattern { from: None, pattern: Pattern(vec![[450, 450, 450, 450, 450, 0, 0]]) }]);
        p.day_limit = Some(300);
        let off = |start, end, minutes| Absence {
            id: AbsenceId(1),
            reference: String::new(),
            person: PersonId(1),
            start: day(start),
            end: day(end),
            kind: String::new(),
            minutes,
            at: None,
        };
        let holidays = [(day("2026-03-02"), 500_000), (day("2026-03-03"), 333_333), (day("2026-03-03"), 700_000)];
        let absences = [
            off("2026-03-02", "2026-03-02", Some(120)),
            off("2026-03-04", "2026-03-04", None),
            off("2026-03-05", "2026-03-05", Some(600)),
        ];
        let days = Days::of_person(&p, &holidays, &absences, day("2026-03-02"), day("2026-03-06"));
        assert_eq!(days.available, [105, 0, 0, 0, 450]);
        assert_eq!(days.limit, [105, 0, 0, 0, 300]);
        // Three meetings on one day, two of which overlap, and time off that has no time of day.
        let at = |from: i32, minutes| Absence { at: Some(from), ..off("2026-03-06", "2026-03-06", Some(minutes)) };
        let meetings = [at(600, 60), at(570, 60), at(575, 10), at(900, 30), off("2026-03-06", "2026-03-06", Some(20))];
        let days = Days::of_person(&p, &[], &meetings, day("2026-03-06"), day("2026-03-06"));
        assert_eq!(days.available, [450 - 90 - 30 - 20]);
        assert_eq!(minutes_in_part(&meetings, day("2026-03-02"), day("2026-03-08")), 140);
    }
}
