//! When somebody can work, and how much is the most.

use crate::{
    Day, Plan,
    by_day::ByDay,
    kinds::{Absence, week_in_force},
    plan::{Entry, Numbers, Off},
    settings::Settings,
    spread::{largest_remainder, round_half_up},
};

/// One person's days over whole ISO weeks: pattern, available minutes, limit and rim of each, in minutes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Days {
    /// The Monday that index 0 stands for.
    pub first: Day,
    /// Minutes of the working pattern.
    pub pattern: ByDay,
    /// Minutes that are left of the pattern after holidays and time off.
    pub available: ByDay,
    /// Days with less than the pattern and more than nothing, in their order.
    pub partly: Vec<usize>,
    /// All bits on days with the whole pattern, none on others: what is the same on every whole day is cut out by it.
    pub(crate) whole: ByDay,
    limit: ByDay,
    rim: ByDay,
    /// Whether a limit of the day lowers any day, so that `limit` holds something.
    is_limited: bool,
    /// Whether a limit of the week lowers any day, so that `rim` holds something.
    is_cut: bool,
}

/// The whole ISO weeks around a range: their Monday, and how many there are.
fn weeks_around(first: Day, last: Day) -> (Day, usize) {
    let monday = first.monday();
    (monday, usize::try_from(last.max(first).since(monday) / 7 + 1).unwrap_or(1))
}

/// A holiday of a whole day, in millionths.
const WHOLE_DAY: i32 = 1_000_000;

fn whole_day(pattern: i32) -> i32 {
    if pattern > 0 { -1 } else { 0 }
}

impl Days {
    /// Working days of a person over the whole ISO weeks that hold `first..=last`.
    #[must_use]
    pub fn of(plan: &Plan, entry: &Entry, first: Day, last: Day) -> Self {
        Self::of_numbers(&entry.numbers, plan.holidays_of(&entry.person), first, last)
    }

    /// The same from a person's numbers and their holidays, sorted by day, each with its fraction in millionths.
    ///
    /// Half-up rounding happens once a day; several holidays on one day add up to the whole day at most, several absences likewise.
    /// Absences whose times of day are known, as meetings, are merged where they overlap. The rim is the week's limit, the smaller of
    /// the days' sum and the week limit, cut over the days in proportion to their limits by largest remainder, ties to the earlier day.
    #[must_use]
    pub fn of_numbers(numbers: &Numbers, holidays: &[(Day, i32)], first: Day, last: Day) -> Self {
        let mut days = Self::default();
        days.fill(numbers, holidays, first, last);
        days
    }

    /// The days over which work with no person is spread: the workspace's pattern, without holidays or limits.
    #[must_use]
    pub fn of_workspace(settings: &Settings, first: Day, last: Day) -> Self {
        let anchor = Day::from_number(19_723); // ISO week 1 of 2024, as for a person's first pattern
        let (monday, weeks) = weeks_around(first, last);
        let mut days =
            Self { first: monday, pattern: ByDay::zeros(weeks), whole: ByDay::zeros(weeks), ..Self::default() };
        for at in 0..days.len() {
            days.pattern[at] = settings.pattern.minutes(anchor, days.day(at));
            days.whole[at] = whole_day(days.pattern[at]);
        }
        days.available.clone_from(&days.pattern);
        days
    }

    /// Works everything out anew, in the memory that it has.
    pub(crate) fn fill(&mut self, numbers: &Numbers, holidays: &[(Day, i32)], first: Day, last: Day) {
        let weeks;
        (self.first, weeks) = weeks_around(first, last);
        self.partly.clear();
        self.pattern.fill(weeks, numbers.week);
        self.whole.fill(weeks, numbers.week.map(whole_day));
        if !numbers.patterns.is_empty() {
            self.take_patterns(numbers);
        }
        let from = holidays.partition_point(|(day, _)| *day < self.first);
        let holidays = &holidays[from..];
        let are_whole = self.take_whole_days(holidays, numbers);
        self.available.resize(weeks);
        self.available.copy_where(&self.pattern, &self.whole);
        if !are_whole {
            self.take_parts_of_holidays(holidays);
            self.take_parts_of_days(&numbers.off);
            self.partly.retain(|at| (1..self.pattern[*at]).contains(&self.available[*at]));
            self.partly.sort_unstable();
            self.partly.dedup();
        }
        self.is_limited = numbers.day_limit.is_some();
        if let Some(most) = numbers.day_limit {
            self.limit.clone_from(&self.available);
            self.limit.slots_mut().iter_mut().for_each(|limit| *limit = (*limit).min(most));
        }
        self.is_cut = false;
        if let Some(most) = numbers.week_limit {
            self.cut_weeks(i64::from(most));
        }
    }

    fn take_patterns(&mut self, numbers: &Numbers) {
        let in_force = |day: Day| week_in_force(&numbers.patterns, day);
        for week in 0..self.pattern.weeks() {
            let monday = self.day(week * 7);
            let changes = |from: Day| from > monday && from <= monday + 6;
            let is_whole = !numbers.patterns.iter().filter_map(|dated| dated.from).any(changes);
            let whole = in_force(monday);
            for at in 0..7 {
                let day = if is_whole { whole } else { in_force(self.day(week * 7 + at)) };
                self.pattern[week * 7 + at] = day.map_or(0, |week| week[at]);
                self.whole[week * 7 + at] = day.map_or(0, |week| whole_day(week[at]));
            }
        }
    }

    /// Takes the days that are off as a whole, and tells whether there are no others: most holidays and time off are.
    fn take_whole_days(&mut self, holidays: &[(Day, i32)], numbers: &Numbers) -> bool {
        let mut are_whole = true;
        for (day, share) in holidays {
            let Some(index) = self.index(*day) else { break };
            if *share >= WHOLE_DAY { self.whole[index] = 0 } else { are_whole = false }
        }
        let from = numbers.days_off.partition_point(|day| *day < self.first);
        for day in &numbers.days_off[from..] {
            let Some(index) = self.index(*day) else { break };
            self.whole[index] = 0;
        }
        for off in &numbers.off {
            if off.minutes.is_none() {
                self.indexes(off.start, off.end).for_each(|index| self.whole[index] = 0);
            } else {
                are_whole = false;
            }
        }
        are_whole
    }

    /// Takes holidays in part, several of which on one day may make a whole one.
    fn take_parts_of_holidays(&mut self, mut rest: &[(Day, i32)]) {
        while let Some((day, mut off)) = rest.first().copied() {
            let Some(index) = self.index(day) else { return };
            rest = &rest[1..];
            while let Some((_, more)) = rest.first().filter(|(other, _)| *other == day) {
                off = off.saturating_add(*more);
                rest = &rest[1..];
            }
            if self.available[index] > 0 {
                let share = i64::from((WHOLE_DAY - off).max(0));
                let left = round_half_up(i64::from(self.pattern[index]) * share, i64::from(WHOLE_DAY));
                self.take_part(index, i32::try_from(left).unwrap_or_default());
            }
        }
    }

    fn take_parts_of_days(&mut self, off: &[Off]) {
        let mut timed = Vec::new();
        for off in off {
            let Some(minutes) = off.minutes else { continue };
            for index in self.indexes(off.start, off.end) {
                match off.at {
                    None => self.take_part(index, (self.available[index] - minutes).max(0)),
                    Some(at) => timed.push((index, at, at + minutes)),
                }
            }
        }
        for (index, minutes) in counted_once(timed) {
            self.take_part(index, (self.available[index] - minutes).max(0));
        }
    }

    fn take_part(&mut self, index: usize, left: i32) {
        self.available[index] = left;
        self.whole[index] = if left == self.pattern[index] { whole_day(left) } else { 0 };
        self.partly.push(index);
    }

    /// Cuts the limit of each week in which the days come to more.
    fn cut_weeks(&mut self, most: i64) {
        // Most weeks are as the one before.
        let mut last = ([0; 7], Vec::new());
        for week in 0..self.pattern.weeks() {
            let limits: [i64; 7] = std::array::from_fn(|at| i64::from(self.limit()[week * 7 + at]));
            if limits.iter().sum::<i64>() <= most {
                continue;
            }
            if !self.is_cut {
                self.is_cut = true;
                let limit = if self.is_limited { &self.limit } else { &self.available };
                self.rim.clone_from(limit);
            }
            if limits != last.0 {
                last = (limits, largest_remainder(most, &limits).unwrap_or_default());
            }
            for (at, part) in last.1.iter().enumerate() {
                self.rim[week * 7 + at] = i32::try_from(*part).unwrap_or_default();
            }
        }
    }

    /// The smaller of the available minutes and the day limit.
    #[must_use]
    pub fn limit(&self) -> &ByDay {
        if self.is_limited { &self.limit } else { &self.available }
    }

    /// The limit as it is drawn: where a week limit binds, that one's part of the day.
    #[must_use]
    pub fn rim(&self) -> &ByDay {
        if self.is_cut { &self.rim } else { self.limit() }
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

    /// The last day.
    #[must_use]
    pub fn last(&self) -> Day {
        self.day(self.len()) - 1
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

/// Whether somebody has any minute available from `first` to `last`.
#[must_use]
pub fn works_between(plan: &Plan, entry: &Entry, first: Day, last: Day) -> bool {
    let has_any = |from: Day, to: Day| {
        let days = Days::of(plan, entry, from, to);
        days.available.sum(days.indexes(from, to)) > 0
    };
    // Nearly everybody works in nearly every week.
    let near = (first + 6).min(last);
    first <= last && (has_any(first, near) || near < last && has_any(near + 1, last))
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
        kinds::{DatedPattern, Pattern, Person, PersonKind},
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
        let days = Days::of_numbers(&Numbers::of(&p, &[]), &[], day("2024-01-01"), day("2024-01-21"));
        let list = |range| days.pattern.days(range).collect::<Vec<_>>();
        assert_eq!(list(0..7), long);
        assert_eq!(list(7..14), short);
        assert_eq!(list(14..21), [480, 480, 240, 240, 240, 0, 0]);
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
        let week = |absences: &[Absence], holidays: &[(Day, i32)]| {
            Days::of_numbers(&Numbers::of(&p, absences), holidays, day("2026-03-02"), day("2026-03-06"))
        };
        let days = week(&absences, &holidays);
        assert_eq!(days.available, ByDay::of(&[105, 0, 0, 0, 450, 0, 0]));
        assert_eq!(*days.limit(), ByDay::of(&[105, 0, 0, 0, 300, 0, 0]));
        assert_eq!(days.partly, [0]);
        // Three meetings on one day, two of which overlap, and time off that has no time of day.
        let at = |from: i32, minutes| Absence { at: Some(from), ..off("2026-03-06", "2026-03-06", Some(minutes)) };
        let meetings = [at(600, 60), at(570, 60), at(575, 10), at(900, 30), off("2026-03-06", "2026-03-06", Some(20))];
        assert_eq!(week(&meetings, &[]).available[4], 450 - 90 - 30 - 20);
        assert_eq!(minutes_in_part(&meetings, day("2026-03-02"), day("2026-03-08")), 140);
    }

    #[test]
    fn the_days_of_the_one_before_leave_nothing_behind() {
        let numbers = |patterns: &[&[[i32; 7]]]| {
            let from = [None, Some(day("2026-03-10"))];
            let dated =
                patterns.iter().zip(from).map(|(weeks, from)| DatedPattern { from, pattern: Pattern(weeks.to_vec()) });
            Numbers::of(&person(dated.collect()), &[])
        };
        let (usual, short, none) = ([480, 480, 480, 480, 480, 0, 0], [480, 480, 240, 0, 0, 0, 0], [0; 7]);
        let mut days = Days::default();
        for numbers in [
            numbers(&[&[usual]]),
            numbers(&[&[usual, short]]),
            numbers(&[&[none]]),
            numbers(&[&[short], &[usual]]),
            numbers(&[&[short]]),
            numbers(&[&[short]]),
        ] {
            for last in ["2026-03-20", "2026-05-15"] {
                days.fill(&numbers, &[], day("2026-03-02"), day(last));
                assert_eq!(days, Days::of_numbers(&numbers, &[], day("2026-03-02"), day(last)));
            }
        }
    }

    #[test]
    fn a_week_limit_is_cut_over_the_days_without_losing_a_minute() {
        let mut p = person(vec![DatedPattern { from: None, pattern: Pattern(vec![[480, 480, 0, 480, 300, 0, 0]]) }]);
        (p.day_limit, p.week_limit) = (Some(450), Some(1_000));
        let days = Days::of_numbers(&Numbers::of(&p, &[]), &[], day("2026-03-02"), day("2026-03-06"));
        // 450 : 450 : 450 : 300 of 1,000 are 272.7…, three times, and 181.8…: the three minutes left go to the largest rests.
        assert_eq!(*days.rim(), ByDay::of(&[273, 273, 0, 272, 182, 0, 0]));
        p.week_limit = Some(1_650);
        let days = Days::of_numbers(&Numbers::of(&p, &[]), &[], day("2026-03-02"), day("2026-03-06"));
        assert_eq!(days.rim(), days.limit(), "a limit that does not bind cuts nothing");
    }
}
