//! iCalendar in: events as they happen in a window, recurrences unfolded.

use chrono::{DateTime, Duration, NaiveDate, NaiveDateTime, TimeZone as _, Utc};
use chrono_tz::Tz;
use icalendar::{Calendar, CalendarDateTime, Component as _, DatePerhapsTime, Event, EventStatus, Property};
use rrule::{Frequency, RRuleSet};
use snug_core::{Day, calendars::instant};
use std::{
    collections::HashSet,
    fmt::Write as _,
    time::{Duration as Time, Instant},
};

pub use snug_core::calendars::{Occurrence, When};

/// The most times that one event happens in a window.
const MOST_TIMES: u16 = 1_200;
/// The most events of one file.
const MOST_EVENTS: usize = 20_000;
/// The most days that all events of a file take in a window, each time of each counted.
const MOST_IN_ALL: i64 = 50_000;
/// How long one event lasts at most, in days: ten years.
const LONGEST_DAYS: i64 = 3_660;
/// How long a file is read at most: rules can be written that make much work of few bytes.
const LONGEST_READING: Time = Time::from_secs(5);
/// After how many times of an event it is looked at the clock.
const LOOK: usize = 512;
/// The longest recurrence rule, in bytes: rules are short, and a long one is no honest one.
const LONGEST_RULE: usize = 500;

/// Why a calendar cannot be taken: the file, or each event with its title and the reason.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{}", .0.join("; "))]
pub struct Unreadable(pub Vec<String>);

/// Everything that happens between two days. Cancelled events are left out, and those that leave one free (`TRANSP:TRANSPARENT`) if
/// `busy_only`. Times without a zone are in `zone`. A changed instance (`RECURRENCE-ID`) takes the place of the one it changes.
///
/// # Errors
/// Every event that cannot be read, so that nothing is taken in half.
pub fn read(text: &str, zone: Tz, (from, to): (Day, Day), busy_only: bool) -> Result<Vec<Occurrence>, Unreadable> {
    if !text.trim_start_matches('\u{feff}').trim_start().starts_with("BEGIN:VCALENDAR") {
        return Err(Unreadable(vec!["This is no iCalendar file: it does not begin with BEGIN:VCALENDAR".to_owned()]));
    }
    let calendar: Calendar =
        text.parse().map_err(|error: String| Unreadable(vec![format!("The file cannot be read: {error}")]))?;
    let events: Vec<&Event> = calendar.events().collect();
    if events.len() > MOST_EVENTS {
        return Err(Unreadable(vec![format!(
            "{} events are more than the {MOST_EVENTS} that one file may have",
            events.len()
        )]));
    }
    // What was changed or cancelled of a series, by the series and the time it had.
    let mut replaced: HashSet<(&str, Moment)> = HashSet::new();
    let mut problems = Vec::new();
    for event in &events {
        if let Some(property) = event.properties().get("RECURRENCE-ID") {
            match Moment::of(property, zone) {
                Ok(moment) => {
                    replaced.insert((event.get_uid().unwrap_or_default(), moment));
                }
                Err(reason) => problems.push(format!("{}: {reason}", title(event))),
            }
        }
    }
    let window =
        Window { from: zone_start(zone, from), to: zone_start(zone, to + 1), until: Instant::now() + LONGEST_READING };
    let (mut found, mut days) = (Vec::new(), 0);
    for event in &events {
        if window.is_over() {
            return Err(Unreadable(vec![TOO_MUCH_WORK.to_owned()]));
        }
        if days > MOST_IN_ALL {
            let reason = format!("Its events take more than {MOST_IN_ALL} days in the time that is looked at");
            return Err(Unreadable(vec![reason]));
        }
        let cancelled = event.get_status() == Some(EventStatus::Cancelled);
        let free = event.property_value("TRANSP").is_some_and(|value| value.eq_ignore_ascii_case("TRANSPARENT"));
        if cancelled || busy_only && free {
            continue;
        }
        match times(event, zone, &window) {
            Ok(times) => {
                let changed = event.properties().contains_key("RECURRENCE-ID");
                let uid = event.get_uid().unwrap_or_default();
                let stands = |(moment, _): &(Moment, When)| changed || !replaced.contains(&(uid, *moment));
                for (_, when) in times.into_iter().filter(stands) {
                    days += window.days(&when);
                    found.push(Occurrence { uid: uid.to_owned(), title: title(event), when });
                }
            }
            Err(reason) => problems.push(format!("{}: {reason}", title(event))),
        }
    }
    if problems.is_empty() { Ok(found) } else { Err(Unreadable(problems)) }
}

/// What is said of a file whose rules take too long.
const TOO_MUCH_WORK: &str = "its recurrences take too long to work out";

/// The time that is looked at, and when looking at it ends.
struct Window {
    from: DateTime<Utc>,
    to: DateTime<Utc>,
    until: Instant,
}

impl Window {
    fn is_over(&self) -> bool {
        Instant::now() > self.until
    }

    /// How many of its days something takes, at most.
    fn days(&self, when: &When) -> i64 {
        let long = match when {
            When::Days(first, last) => i64::from(last.since(*first)) + 1,
            When::Instants(from, to) => (*to - *from).num_days() + 2,
        };
        long.min((self.to - self.from).num_days() + 1)
    }
}

fn title(event: &Event) -> String {
    event.get_summary().filter(|text| !text.trim().is_empty()).unwrap_or("Untitled").trim().chars().take(200).collect()
}

/// When an event begins: a day, or an instant.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
enum Moment {
    Day(NaiveDate),
    Instant(DateTime<Utc>),
}

impl Moment {
    fn of(property: &Property, zone: Tz) -> Result<Self, String> {
        let bad = || format!("“{}” is no date or time", property.value());
        match DatePerhapsTime::from_property(property).ok_or_else(bad)? {
            DatePerhapsTime::Date(date) => Ok(Self::Day(date)),
            DatePerhapsTime::DateTime(time) => match time {
                CalendarDateTime::Utc(at) => Ok(Self::Instant(at)),
                CalendarDateTime::Floating(at) => Ok(Self::Instant(instant(zone, at))),
                CalendarDateTime::WithTimezone { date_time, tzid } => {
                    let named = tzid.trim_matches('"');
                    let own: Tz = named.parse().map_err(|_| format!("the time zone “{named}” is not known"))?;
                    Ok(Self::Instant(instant(own, date_time)))
                }
            },
        }
    }
}

fn zone_start(zone: Tz, day: Day) -> DateTime<Utc> {
    instant(zone, day.date().and_time(chrono::NaiveTime::MIN))
}

/// Every time that an event happens in the window: when it was to begin by its rule, and when it is.
fn times(event: &Event, zone: Tz, window: &Window) -> Result<Vec<(Moment, When)>, String> {
    let start = event.properties().get("DTSTART").ok_or("it has no beginning (DTSTART)")?;
    let begins = Moment::of(start, zone)?;
    let length = length(event, zone, begins)?;
    let begin_again = match event.property_value("RRULE") {
        None => vec![begins],
        Some(rule) => recurring(event, rule, start, begins, zone, window, length)?,
    };
    let lies_in = |when: &When| match when {
        When::Days(first, last) => zone_start(zone, *last + 1) > window.from && zone_start(zone, *first) < window.to,
        When::Instants(from, to) => *to > window.from && *from < window.to,
    };
    let when = |moment: Moment| match moment {
        Moment::Day(day) => {
            let days = i32::try_from(length.num_days().max(1)).unwrap_or(1);
            When::Days(Day::from_date(day), Day::from_date(day) + (days - 1))
        }
        Moment::Instant(at) => When::Instants(at, at + length),
    };
    Ok(begin_again.into_iter().map(|moment| (moment, when(moment))).filter(|(_, when)| lies_in(when)).collect())
}

/// How long an event lasts: to its end, by its duration, a day, or no time at all; ten years at most.
fn length(event: &Event, zone: Tz, begins: Moment) -> Result<Duration, String> {
    let length = length_as_written(event, zone, begins)?;
    if length.num_days() > LONGEST_DAYS { Err("it lasts for more than ten years".to_owned()) } else { Ok(length) }
}

fn length_as_written(event: &Event, zone: Tz, begins: Moment) -> Result<Duration, String> {
    if let Some(end) = event.properties().get("DTEND") {
        let length = match (begins, Moment::of(end, zone)?) {
            (Moment::Day(from), Moment::Day(to)) => to - from,
            (Moment::Instant(from), Moment::Instant(to)) => to - from,
            _ => return Err("it begins on a day and ends at a time, or the other way round".to_owned()),
        };
        return if length < Duration::zero() { Err("it ends before it begins".to_owned()) } else { Ok(length) };
    }
    if let Some(text) = event.property_value("DURATION") {
        let parsed = iso8601::duration(text).map_err(|_| format!("“{text}” is no duration"))?;
        // Its own way to seconds overflows; in 64 bits the largest of each unit fits.
        let seconds = match parsed {
            iso8601::Duration::Weeks(weeks) => i64::from(weeks) * 7 * 86_400,
            iso8601::Duration::YMDHMS { year, month, day, hour, minute, second, .. } => {
                let days = i64::from(year) * 365 + i64::from(month) * 30 + i64::from(day);
                days * 86_400 + i64::from(hour) * 3_600 + i64::from(minute) * 60 + i64::from(second)
            }
        };
        return Duration::try_seconds(seconds).ok_or_else(|| format!("“{text}” is no duration"));
    }
    Ok(if matches!(begins, Moment::Day(_)) { Duration::days(1) } else { Duration::zero() })
}

/// Unfolds a recurrence. The rule is read by its own library; days are reckoned in UTC, so that no clock change moves them.
fn recurring(
    event: &Event,
    rule: &str,
    start: &Property,
    begins: Moment,
    zone: Tz,
    window: &Window,
    length: Duration,
) -> Result<Vec<Moment>, String> {
    if rule.len() > LONGEST_RULE {
        return Err("its recurrence rule is too long".to_owned());
    }
    let all_day = matches!(begins, Moment::Day(_));
    let of_zone = |tz: Tz, at: NaiveDateTime| {
        // As in `instant`: a time that the clocks leap over comes an hour later.
        let comes = tz.from_local_datetime(&at).earliest().is_some();
        let at = if comes { at } else { at + Duration::hours(1) };
        format!(";TZID={tz}:{}", at.format("%Y%m%dT%H%M%S"))
    };
    let written = |property: &Property| -> Result<String, String> {
        Ok(match DatePerhapsTime::from_property(property) {
            Some(DatePerhapsTime::Date(date)) => format!(":{}T000000Z", date.format("%Y%m%d")),
            Some(DatePerhapsTime::DateTime(CalendarDateTime::Utc(at))) => format!(":{}", at.format("%Y%m%dT%H%M%SZ")),
            Some(DatePerhapsTime::DateTime(CalendarDateTime::Floating(at))) => of_zone(zone, at),
            Some(DatePerhapsTime::DateTime(CalendarDateTime::WithTimezone { date_time, tzid })) => {
                let named = tzid.trim_matches('"').to_owned();
                let own: Tz = named.parse().map_err(|_| format!("the time zone “{named}” is not known"))?;
                of_zone(own, date_time)
            }
            None => return Err(format!("“{}” is no date or time", property.value())),
        })
    };
    let mut text = format!("DTSTART{}\nRRULE:{}", written(start)?, until_as_instant(rule, all_day, begins, zone));
    for property in event.multi_properties().get("EXDATE").into_iter().flatten().chain(event.properties().get("EXDATE"))
    {
        for one in property.value().split(',') {
            let mut single = Property::new("EXDATE", one.trim());
            for (name, parameter) in property.params() {
                single.add_parameter(name, parameter.value());
            }
            let _ = write!(text, "\nEXDATE{}", written(&single.done())?);
        }
    }
    let set: RRuleSet = text.parse().map_err(|error| format!("its recurrence cannot be read: {error}"))?;
    let often = |rule: &rrule::RRule| matches!(rule.get_freq(), Frequency::Secondly | Frequency::Minutely);
    if set.get_rrule().iter().any(often) {
        return Err("it comes again every minute or second; nothing that one plans by does".to_owned());
    }
    // A day longer on both sides: days are reckoned in UTC here, and cut to the window afterwards.
    let (from, to) = (window.from - length - Duration::days(1), window.to + Duration::days(1));
    let mut found = Vec::new();
    for (at, time) in set.into_iter().enumerate() {
        if at % LOOK == LOOK - 1 && window.is_over() {
            return Err(TOO_MUCH_WORK.to_owned());
        }
        let instant = time.with_timezone(&Utc);
        if instant > to {
            break;
        }
        if instant >= from {
            found.push(if all_day { Moment::Day(time.date_naive()) } else { Moment::Instant(instant) });
        }
        if found.len() > usize::from(MOST_TIMES) {
            return Err(format!("it happens more than {MOST_TIMES} times in the time that is looked at"));
        }
    }
    Ok(found)
}

/// A rule that ends on a day, or at a time without a zone, ends at an instant: the end of that day, that time in its zone.
fn until_as_instant(rule: &str, all_day: bool, begins: Moment, zone: Tz) -> String {
    let part = |part: &str| {
        let Some((name, value)) = part.split_once('=').filter(|(name, _)| name.eq_ignore_ascii_case("UNTIL")) else {
            return part.to_owned();
        };
        if value.ends_with('Z') && !all_day {
            return part.to_owned();
        }
        let day = value.get(..8).and_then(|digits| NaiveDate::parse_from_str(digits, "%Y%m%d").ok());
        let Some(day) = day else { return part.to_owned() };
        let end = match (all_day, begins) {
            (true, _) | (_, Moment::Day(_)) => day.and_time(chrono::NaiveTime::MIN).and_utc(),
            _ => match NaiveDateTime::parse_from_str(value, "%Y%m%dT%H%M%S") {
                Ok(at) => instant(zone, at),
                Err(_) => {
                    instant(zone, day.and_time(chrono::NaiveTime::MIN)) + Duration::days(1) - Duration::seconds(1)
                }
            },
        };
        format!("{name}={}", end.format("%Y%m%dT%H%M%SZ"))
    };
    rule.split(';').map(part).collect::<Vec<_>>().join(";")
}
