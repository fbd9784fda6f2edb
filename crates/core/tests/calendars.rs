//! What calendars take out of days, against a plain count of minutes.

use chrono::{DateTime, Duration, Utc};
use proptest::prelude::*;
use snug_core::{
    AbsenceId, Day, PersonId,
    availability::{Days, minutes_in_part},
    calendars::busy,
    kinds::{Absence, DatedPattern, Pattern},
    plan::Numbers,
};
use std::collections::{BTreeMap, BTreeSet};

mod support;
use support::person;

fn off(start: Day, days: i32, minutes: Option<i32>, at: Option<i32>) -> Absence {
    let (id, person) = (AbsenceId(1), PersonId(1));
    Absence { id, reference: String::new(), person, start, end: start + days, kind: "meetings".into(), minutes, at }
}

proptest! {
    /// Minutes of meetings against a plain count of every minute that one of them covers.
    #[test]
    fn busy_minutes_are_the_minutes_that_are_covered(
        stretches in prop::collection::vec((0i64..4_000, 0i64..600), 0..8),
        which in 0usize..4,
    ) {
        // The clocks of these zones go forward or back in between, two of them at midnight.
        let begins = ["2026-03-27T00:00:00Z", "2026-10-23T00:00:00Z", "2026-04-22T00:00:00Z", "2026-10-28T00:00:00Z"];
        let begin: DateTime<Utc> = begins[which].parse().unwrap();
        let list: Vec<_> = stretches
            .iter()
            .map(|(from, length)| (begin + Duration::minutes(*from), begin + Duration::minutes(from + length)))
            .collect();
        let zone = if which < 2 { chrono_tz::Europe::Berlin } else { chrono_tz::Africa::Cairo };
        let (mut found, mut plain): (BTreeMap<Day, i32>, BTreeMap<Day, i32>) = Default::default();
        for stretch in busy(&list, zone) {
            prop_assert!(stretch.at >= 0 && stretch.minutes > 0);
            prop_assert!(stretch.again || stretch.at + stretch.minutes <= 1_440);
            *found.entry(stretch.day).or_default() += stretch.minutes;
        }
        for minute in 0..5_000 {
            let at = begin + Duration::minutes(minute);
            if list.iter().any(|(from, to)| *from <= at && at < *to) {
                *plain.entry(Day::from_date(at.with_timezone(&zone).date_naive())).or_default() += 1;
            }
        }
        prop_assert_eq!(found, plain);
    }

    /// Meetings of several calendars, some of them the same, and time off without a time of day: what is left of each day.
    #[test]
    fn a_minute_in_two_calendars_is_taken_once(
        meetings in prop::collection::vec((0i32..6, 0i32..3, 0i32..1_300, 1i32..140), 0..12),
        plain_hours in prop::option::of((0i32..6, 1i32..500)),
    ) {
        let monday: Day = "2026-03-09".parse().unwrap();
        let mut absences: Vec<Absence> =
            meetings.iter().map(|(day, days, at, minutes)| off(monday + *day, *days, Some(*minutes), Some(*at))).collect();
        absences.extend(plain_hours.map(|(day, minutes)| off(monday + day, 0, Some(minutes), None)));
        let mut who = person(1);
        who.patterns = vec![DatedPattern { from: None, pattern: Pattern(vec![[480; 7]]) }];
        let days = Days::of_numbers(&Numbers::of(&who, &absences), &[], monday, monday + 6);
        let mut sum = 0;
        for day in 0..7 {
            let mut taken = BTreeSet::new();
            for (first, more, at, minutes) in &meetings {
                if (*first..=first + more).contains(&day) {
                    taken.extend(*at..at + minutes);
                }
            }
            let untimed = plain_hours.filter(|(on, _)| *on == day).map_or(0, |(_, minutes)| minutes);
            let minutes = i32::try_from(taken.len()).unwrap() + untimed;
            prop_assert_eq!(days.available[usize::try_from(day).unwrap()], (480 - minutes).max(0));
            sum += i64::from(minutes);
        }
        prop_assert_eq!(minutes_in_part(&absences, monday, monday + 6), sum);
    }
}
