//! Calendars from outside: what they say becomes holidays, time off, or meetings, and what they no longer say goes.
//!
//! Meetings take their minutes out of the civil day of the workspace's zone, like time off in part: one record for each stretch of a
//! day in which one source has meetings. As a record keeps its time of day, the same meeting in two calendars of a person counts once.
//! A record's reference says where it comes from, so that the next reading changes what has changed and leaves everything else alone.

use crate::{
    AbsenceId, Day, HolidayId, PersonId, Plan,
    change::{Change, Edit},
    kinds::{Absence, Holiday},
};
use chrono::{DateTime, Duration, NaiveDateTime, NaiveTime, TimeZone as _, Timelike as _, Utc};
use chrono_tz::Tz;
use std::collections::{BTreeMap, BTreeSet};

/// Something that happens.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Occurrence {
    /// The event's own identity; every time of a series has the same.
    pub uid: String,
    /// What it is called.
    pub title: String,
    /// When.
    pub when: When,
}

/// When something happens.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum When {
    /// Whole days, first and last.
    Days(Day, Day),
    /// From an instant to another.
    Instants(DateTime<Utc>, DateTime<Utc>),
}

/// What a calendar is of.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Purpose {
    /// Holidays of a region, by the name of its holiday calendar.
    Holidays(String),
    /// Somebody's time off.
    TimeOff(PersonId),
    /// Somebody's meetings.
    Meetings(PersonId),
}

/// The kind of the records that meetings become.
pub const MEETINGS: &str = "meetings";
/// Minutes of a day.
const DAY: i32 = 1_440;

/// An instant of a zone's civil time: the earlier one where it comes twice, an hour later where it does not come at all.
#[must_use]
pub fn instant(zone: Tz, at: NaiveDateTime) -> DateTime<Utc> {
    let found = zone.from_local_datetime(&at).earliest();
    let found = found.or_else(|| zone.from_local_datetime(&(at + Duration::hours(1))).earliest());
    found.map_or_else(|| at.and_utc(), |at| at.with_timezone(&Utc))
}

/// A part of a civil day that is taken.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Stretch {
    /// The day.
    pub day: Day,
    /// The minute of its civil time at which it begins.
    pub at: i32,
    /// Whether that is the second time that the clocks show it on this day, as they are put back.
    pub again: bool,
    /// How many minutes it takes.
    pub minutes: i32,
}

impl Stretch {
    /// What tells it from others of its day.
    fn name(&self) -> String {
        format!("{}@{}{}", self.day, self.at, if self.again { "+" } else { "" })
    }

    /// Its place and its minutes as time off has them. What comes in an hour that the clocks show twice has no place of its own in
    /// the day; its minutes are taken all the same.
    fn part(&self) -> (Option<i32>, i32) {
        ((!self.again).then_some(self.at), self.minutes)
    }
}

/// The stretches of each civil day that are taken, in order, those that touch as one. On a day of 25 hours a stretch ends at midnight
/// all the same; what goes beyond it is taken as an hour that the clocks show twice.
#[must_use]
pub fn busy(stretches: &[(DateTime<Utc>, DateTime<Utc>)], zone: Tz) -> Vec<Stretch> {
    let mut sorted: Vec<_> = stretches.iter().filter(|(from, to)| to > from).copied().collect();
    sorted.sort_unstable();
    let mut merged: Vec<(DateTime<Utc>, DateTime<Utc>)> = Vec::new();
    for (from, to) in sorted {
        match merged.last_mut() {
            Some((_, end)) if *end >= from => *end = (*end).max(to),
            _ => merged.push((from, to)),
        }
    }
    let minutes = |seconds: i64| i32::try_from(crate::spread::round_half_up(seconds, 60)).unwrap_or(DAY);
    let mut found = Vec::new();
    for (mut from, to) in merged {
        while from < to {
            let day = from.with_timezone(&zone).date_naive();
            // Where the clocks leap over midnight the day begins with what comes after it.
            let next = instant(zone, (day + Duration::days(1)).and_time(NaiveTime::MIN));
            let end = if next > from { next.min(to) } else { to };
            let civil = from.with_timezone(&zone);
            let at = minutes(i64::from(civil.num_seconds_from_midnight())).min(DAY);
            let first = zone.from_local_datetime(&civil.naive_local()).earliest();
            let again = first.is_some_and(|first| first.with_timezone(&Utc) < from);
            let (day, taken) = (Day::from_date(day), minutes((end - from).num_seconds()));
            found.push(Stretch { day, at, again, minutes: taken.min(DAY - at) });
            // What goes beyond midnight without a new day beginning lies in an hour that is shown again.
            found.push(Stretch { day, at, again: true, minutes: taken - (DAY - at) });
            from = end;
        }
    }
    found.retain(|stretch: &Stretch| stretch.minutes > 0);
    found
}

/// What has to change so that the plan says what a calendar says between two days. `source` names the calendar in the references of
/// its records; nothing else is touched. A holiday calendar holds what its source says in that time, and nothing more.
#[must_use]
pub fn changes(
    plan: &Plan,
    source: &str,
    purpose: &Purpose,
    occurrences: &[Occurrence],
    (from, to): (Day, Day),
) -> Vec<Change> {
    let zone: Tz = plan.settings.time_zone.parse().unwrap_or(chrono_tz::UTC);
    match purpose {
        Purpose::Holidays(calendar) => holidays(plan, calendar, occurrences, (from, to), zone),
        Purpose::TimeOff(person) => {
            absences(plan, *person, source, time_off(*person, source, occurrences, (from, to), zone), (from, to))
        }
        Purpose::Meetings(person) => {
            absences(plan, *person, source, meetings(*person, source, occurrences, (from, to), zone), (from, to))
        }
    }
}

fn holidays(plan: &Plan, calendar: &str, occurrences: &[Occurrence], (from, to): (Day, Day), zone: Tz) -> Vec<Change> {
    let mut wanted: BTreeSet<(Day, String)> = BTreeSet::new();
    for occurrence in occurrences {
        let (first, last) = days_of(&occurrence.when, zone);
        for day in first.max(from).through(last.min(to)) {
            wanted.insert((day, occurrence.title.clone()));
        }
    }
    let standing = plan.calendars.get(calendar).map(|calendar| calendar.holidays.as_slice()).unwrap_or_default();
    let mut changes = Vec::new();
    for holiday in standing.iter().filter(|holiday| (from..=to).contains(&holiday.date)) {
        if !wanted.remove(&(holiday.date, holiday.name.clone())) {
            changes.push(Change::Holiday(Edit::remove(holiday.clone())));
        }
    }
    changes.extend(wanted.into_iter().map(|(date, name)| {
        let holiday = Holiday { id: HolidayId(0), calendar: calendar.to_owned(), date, name, fraction: 1_000_000 };
        Change::Holiday(Edit::new(holiday))
    }));
    changes
}

/// Time off as a calendar says it: whole days, or a stretch of one as the minute at which it begins and its minutes.
fn absence(
    person: PersonId,
    reference: String,
    (start, end): (Day, Day),
    kind: &str,
    stretch: Option<Stretch>,
) -> Absence {
    let (at, minutes) = stretch.map(|stretch| stretch.part()).unzip();
    let at = at.flatten();
    Absence { id: AbsenceId(0), reference, person, start, end, kind: kind.to_owned(), minutes, at }
}

/// The part of a stretch that lies in these days, so that a long one makes no more records than there are days to look at.
fn cut((from, to): (DateTime<Utc>, DateTime<Utc>), days: (Day, Day), zone: Tz) -> (DateTime<Utc>, DateTime<Utc>) {
    let midnight = |day: Day| instant(zone, day.date().and_time(NaiveTime::MIN));
    (from.max(midnight(days.0)), to.min(midnight(days.1 + 1)))
}

/// Whole days as they are, times as a stretch of their day.
fn time_off(person: PersonId, source: &str, occurrences: &[Occurrence], days: (Day, Day), zone: Tz) -> Vec<Absence> {
    let mut found = Vec::new();
    for occurrence in occurrences {
        let name = |from: String| format!("{source}:{}:{from}", occurrence.uid);
        match occurrence.when {
            When::Days(first, last) => {
                found.push(absence(person, name(first.to_string()), (first, last), &occurrence.title, None));
            }
            When::Instants(from, to) => {
                for stretch in busy(&[cut((from, to), days, zone)], zone) {
                    let (name, day) = (name(stretch.name()), stretch.day);
                    found.push(absence(person, name, (day, day), &occurrence.title, Some(stretch)));
                }
            }
        }
    }
    found
}

/// One record for each stretch of a day that meetings of the source take. A meeting of whole days takes them.
fn meetings(person: PersonId, source: &str, occurrences: &[Occurrence], seen: (Day, Day), zone: Tz) -> Vec<Absence> {
    let (mut stretches, mut days) = (Vec::new(), BTreeSet::new());
    for occurrence in occurrences {
        match occurrence.when {
            When::Instants(from, to) => stretches.push(cut((from, to), seen, zone)),
            When::Days(first, last) => days.extend(first.max(seen.0).through(last.min(seen.1))),
        }
    }
    let record = |day: Day, name: String, stretch| absence(person, name, (day, day), MEETINGS, stretch);
    let timed = busy(&stretches, zone).into_iter().filter(|stretch| !days.contains(&stretch.day));
    let timed = timed.map(|stretch| record(stretch.day, format!("{source}:{}", stretch.name()), Some(stretch)));
    timed.chain(days.iter().map(|day| record(*day, format!("{source}:{day}"), None))).collect()
}

fn absences(plan: &Plan, person: PersonId, source: &str, wanted: Vec<Absence>, (from, to): (Day, Day)) -> Vec<Change> {
    let mut wanted: BTreeMap<String, Absence> = wanted.into_iter().map(|off| (off.reference.clone(), off)).collect();
    let own = format!("{source}:");
    let standing = plan.people.get(&person).map(|entry| entry.absences.as_slice()).unwrap_or_default();
    let mut changes = Vec::new();
    for off in standing.iter().filter(|off| off.reference.starts_with(&own) && off.end >= from && off.start <= to) {
        match wanted.remove(&off.reference) {
            None => changes.push(Change::Absence(Edit::remove(off.clone()))),
            Some(next) => {
                let next = Absence { id: off.id, ..next };
                if next != *off {
                    changes.push(Change::Absence(Edit::alter(off.clone(), next)));
                }
            }
        }
    }
    changes.extend(wanted.into_values().map(|off| Change::Absence(Edit::new(off))));
    changes
}

fn days_of(when: &When, zone: Tz) -> (Day, Day) {
    match when {
        When::Days(first, last) => (*first, *last),
        When::Instants(from, to) => {
            let day = |at: &DateTime<Utc>| Day::from_date(at.with_timezone(&zone).date_naive());
            // What ends at midnight ends with the day before.
            (day(from), day(&(*to - Duration::seconds(1)).max(*from)))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(text: &str) -> DateTime<Utc> {
        text.parse().unwrap()
    }

    fn said(stretch: &Stretch) -> String {
        format!("{} {}", stretch.name().replace('@', " "), stretch.minutes)
    }

    #[test]
    fn where_the_clocks_change_no_minute_is_lost() {
        let busy = |stretches: &[(&str, &str)], zone| -> Vec<String> {
            let stretches: Vec<_> = stretches.iter().map(|(from, to)| (at(from), at(to))).collect();
            super::busy(&stretches, zone).iter().map(said).collect()
        };
        // Berlin shows the hour from two to three twice: a meeting in the first of them and one in the second are two.
        let twice =
            [("2026-10-25T00:15:00Z", "2026-10-25T00:45:00Z"), ("2026-10-25T01:15:00Z", "2026-10-25T01:45:00Z")];
        assert_eq!(busy(&twice, chrono_tz::Europe::Berlin), ["2026-10-25 135 30", "2026-10-25 135+ 30"]);
        // Cairo leaps over midnight: the night from Thursday to Friday is cut where Friday begins, at one.
        let night = [("2026-04-23T21:00:00Z", "2026-04-23T23:00:00Z")];
        assert_eq!(busy(&night, chrono_tz::Africa::Cairo), ["2026-04-23 1380 60", "2026-04-24 60 60"]);
        // And comes back to eleven at midnight: both hours before it are of that Thursday.
        let night = [("2026-10-29T20:00:00Z", "2026-10-29T22:30:00Z")];
        assert_eq!(
            busy(&night, chrono_tz::Africa::Cairo),
            ["2026-10-29 1380 60", "2026-10-29 1380+ 60", "2026-10-30 0 30"]
        );
    }

    #[test]
    fn overlaps_count_once_and_midnight_cuts() {
        let stretches = [
            (at("2026-03-09T09:00:00Z"), at("2026-03-09T10:00:00Z")),
            (at("2026-03-09T09:30:00Z"), at("2026-03-09T10:30:00Z")),
            (at("2026-03-09T22:30:00Z"), at("2026-03-10T00:15:00Z")),
        ];
        let found = busy(&stretches, chrono_tz::Europe::Berlin);
        let found: Vec<String> = found.iter().map(said).collect();
        // An hour ahead of UTC: the last one begins at 23:30 and goes on for an hour and a quarter after midnight.
        assert_eq!(found, ["2026-03-09 600 90", "2026-03-09 1410 30", "2026-03-10 0 75"]);
        assert!(busy(&[(at("2026-03-09T09:00:00Z"), at("2026-03-09T09:00:00Z"))], chrono_tz::UTC).is_empty());
    }
}
