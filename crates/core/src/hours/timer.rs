//! What a timer comes to: the time that it ran, by the civil days on which it did.

use crate::{Day, kinds::MOST_LOGGED};
use chrono::{DateTime, Duration, TimeZone as _, Utc};
use chrono_tz::Tz;
use std::collections::BTreeMap;

/// The longest that one run of a timer counts, in days: one that was forgotten for longer is no work.
pub const LONGEST_RUN: i64 = 7;

/// Minutes of each civil day in a zone on which a timer ran, half up; days on which that is nothing are left out. Each run has a
/// beginning and an end; what runs over midnight counts on both days.
#[must_use]
pub fn minutes_by_day(runs: &[(DateTime<Utc>, DateTime<Utc>)], zone: Tz) -> Vec<(Day, i32)> {
    let mut seconds: BTreeMap<Day, i64> = BTreeMap::new();
    for (from, to) in runs {
        let to = (*to).min(*from + Duration::days(LONGEST_RUN));
        let mut at = *from;
        while at < to {
            let date = at.with_timezone(&zone).date_naive();
            let end = midnight_after(date, zone).filter(|midnight| *midnight > at).unwrap_or(to).min(to);
            *seconds.entry(Day::from_date(date)).or_default() += (end - at).num_seconds();
            at = end;
        }
    }
    let minutes = |seconds: i64| i32::try_from((seconds + 30) / 60).unwrap_or(MOST_LOGGED).min(MOST_LOGGED);
    seconds.into_iter().map(|(day, seconds)| (day, minutes(seconds))).filter(|(_, minutes)| *minutes > 0).collect()
}

/// The instant at which a day ends: where clocks jump over midnight, the first one after it.
fn midnight_after(date: chrono::NaiveDate, zone: Tz) -> Option<DateTime<Utc>> {
    let next = date.succ_opt()?;
    let mut times = (0..4).filter_map(|hour| next.and_hms_opt(hour, 0, 0));
    times.find_map(|time| zone.from_local_datetime(&time).earliest()).map(|instant| instant.with_timezone(&Utc))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn at(text: &str) -> DateTime<Utc> {
        text.parse().unwrap_or_default()
    }

    fn days(runs: &[(&str, &str)], zone: Tz) -> Vec<(String, i32)> {
        let runs: Vec<_> = runs.iter().map(|(from, to)| (at(from), at(to))).collect();
        minutes_by_day(&runs, zone).into_iter().map(|(day, minutes)| (day.to_string(), minutes)).collect()
    }

    #[test]
    fn what_runs_over_midnight_counts_on_both_days() {
        let found = days(&[("2026-03-09T22:30:00Z", "2026-03-10T01:00:20Z")], Tz::UTC);
        assert_eq!(found, [("2026-03-09".to_owned(), 90), ("2026-03-10".to_owned(), 60)]);
        // In Lisbon's summer midnight comes an hour earlier.
        let found = days(&[("2026-06-09T22:30:00Z", "2026-06-09T23:30:00Z")], Tz::Europe__Lisbon);
        assert_eq!(found, [("2026-06-09".to_owned(), 30), ("2026-06-10".to_owned(), 30)]);
        let pieces =
            [("2026-03-09T08:00:00Z", "2026-03-09T08:00:20Z"), ("2026-03-09T09:00:00Z", "2026-03-09T09:00:10Z")];
        assert_eq!(
            days(&pieces, Tz::UTC),
            [("2026-03-09".to_owned(), 1)],
            "pieces are added up before they are rounded"
        );
        assert_eq!(days(&pieces[..1], Tz::UTC), []);
        assert_eq!(days(&[("2026-03-01T00:00:00Z", "2026-04-01T00:00:00Z")], Tz::UTC).len(), 7);
    }

    proptest! {
        /// Whatever the zone and the clocks do, no second is lost and a day holds no more than it has.
        #[test]
        fn no_second_is_lost(start in 1_700_000_000i64..1_900_000_000, length in 0i64..500_000, zone in 0usize..chrono_tz::TZ_VARIANTS.len()) {
            let from = DateTime::from_timestamp(start, 0).unwrap_or_default();
            let found = minutes_by_day(&[(from, from + Duration::seconds(length))], chrono_tz::TZ_VARIANTS[zone]);
            let sum: i64 = found.iter().map(|(_, minutes)| i64::from(*minutes)).sum();
            // Each day rounds once; a day on which clocks go back is held to 24 hours.
            let days = i64::try_from(found.len()).unwrap_or(i64::MAX);
            prop_assert!(sum <= length / 60 + days && sum >= length / 60 - days - 180, "{} of {}", sum, length / 60);
            prop_assert!(found.iter().all(|(_, minutes)| (1..=MOST_LOGGED).contains(minutes)));
        }
    }
}
