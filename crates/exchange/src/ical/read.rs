//! iCalendar in: events as they happen in a window, recurrences unfolded.

use super::{
    recurring::{self, Rule, TOO_MUCH_WORK},
    zones::{Zone, Zones},
};
use chrono::{DateTime, Duration, NaiveDate, NaiveDateTime, NaiveTime, Utc};
use chrono_tz::Tz;
use icalendar::{Calendar, CalendarDateTime, Component as _, DatePerhapsTime, Event, EventStatus, Property};
use snug_core::{Day, calendars::instant};
use std::{
    collections::{HashMap, HashSet},
    time::{Duration as Time, Instant},
};

pub use snug_core::calendars::{Occurrence, When};

/// The most times that one event happens in a window.
const MOST_TIMES: usize = 1_200;
/// The most events of one file.
const MOST_EVENTS: usize = 20_000;
/// The most days that all events of a file take in a window, each time of each counted.
const MOST_IN_ALL: i64 = 50_000;
/// How long one event lasts at most, in days: ten years.
const LONGEST_DAYS: i64 = 3_660;
/// How long a file is read at most: rules can be written that make much work of few bytes.
const LONGEST_READING: Time = Time::from_secs(5);
/// The most reasons that are told.
const MOST_TOLD: usize = 20;

/// Why nothing of a calendar can be taken: the file, or each event with its title and the reason.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{}", .0.join("; "))]
pub struct Unreadable(pub Vec<String>);

/// What a calendar says.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Said {
    /// What happens.
    pub occurrences: Vec<Occurrence>,
    /// Events that could not be understood and are left out.
    pub left_out: usize,
    /// Some of them, each with its title and the reason.
    pub reasons: Vec<String>,
}

/// A file as text: lines that were folded are whole again, also where a fold came in the middle of a character.
#[must_use]
pub fn unfolded(bytes: &[u8]) -> String {
    let mut whole = Vec::with_capacity(bytes.len());
    let mut rest = bytes;
    while let Some(byte) = rest.first() {
        let folds = [b"\r\n ".as_slice(), b"\r\n\t", b"\n ", b"\n\t"];
        if let Some(fold) = folds.iter().find(|fold| rest.starts_with(fold)) {
            rest = &rest[fold.len()..];
        } else {
            whole.push(*byte);
            rest = &rest[1..];
        }
    }
    String::from_utf8_lossy(&whole).into_owned()
}

/// Everything that happens between two days. Cancelled events are left out, and those that leave one free (`TRANSP:TRANSPARENT`) if
/// `busy_only`. Times without a zone are in `zone`. A changed instance (`RECURRENCE-ID`) takes the place of the one it changes. What
/// cannot be understood is left out and counted.
///
/// # Errors
/// Nothing of it can be understood, or it is more than can be worked out.
pub fn read(text: &str, zone: Tz, (from, to): (Day, Day), busy_only: bool) -> Result<Said, Unreadable> {
    let whole = |reason: String| Unreadable(vec![reason]);
    if !text.trim_start_matches('\u{feff}').trim_start().starts_with("BEGIN:VCALENDAR") {
        return Err(whole("This is no iCalendar file: it does not begin with BEGIN:VCALENDAR".to_owned()));
    }
    let calendar: Calendar =
        text.parse().map_err(|error: String| whole(format!("The file cannot be read: {error}")))?;
    let events: Vec<&Event> = calendar.events().collect();
    if events.len() > MOST_EVENTS {
        return Err(whole(format!("{} events are more than the {MOST_EVENTS} that one file may have", events.len())));
    }
    let window =
        Window { from: zone_start(zone, from), to: zone_start(zone, to + 1), until: Instant::now() + LONGEST_READING };
    let zones = Zones::of(&calendar, zone, (window.to, window.until));
    // What was changed or cancelled of a series, by the series and the time it had.
    let mut replaced: HashSet<(&str, DateTime<Utc>)> = HashSet::new();
    let mut problems: HashMap<usize, String> = HashMap::new();
    for (at, event) in events.iter().enumerate() {
        if let Some(property) = event.properties().get("RECURRENCE-ID") {
            match instance(property, &zones) {
                Ok(moment) => drop(replaced.insert((event.get_uid().unwrap_or_default(), moment))),
                Err(reason) => drop(problems.insert(at, reason)),
            }
        }
    }
    let (mut found, mut days, mut understood) = (Vec::new(), 0, false);
    for (at, event) in events.iter().enumerate() {
        if window.is_over() {
            return Err(whole(TOO_MUCH_WORK.to_owned()));
        }
        if days > MOST_IN_ALL {
            return Err(whole(format!("Its events take more than {MOST_IN_ALL} days in the time that is looked at")));
        }
        if problems.contains_key(&at) {
            continue;
        }
        let cancelled = event.get_status() == Some(EventStatus::Cancelled);
        let free = event.property_value("TRANSP").is_some_and(|value| value.eq_ignore_ascii_case("TRANSPARENT"));
        if cancelled || busy_only && free {
            understood = true;
            continue;
        }
        match times(event, &zones, &window) {
            Ok(times) => {
                understood = true;
                let changed = event.properties().contains_key("RECURRENCE-ID");
                let uid = event.get_uid().unwrap_or_default();
                let stands = |(moment, _): &(DateTime<Utc>, When)| changed || !replaced.contains(&(uid, *moment));
                for (_, when) in times.into_iter().filter(stands) {
                    days += window.days(&when);
                    found.push(Occurrence { uid: uid.to_owned(), title: title(event), when });
                }
            }
            Err(reason) => drop(problems.insert(at, reason)),
        }
    }
    let left_out = problems.len();
    let mut reasons: Vec<(usize, String)> = problems.into_iter().collect();
    reasons.sort_unstable();
    let reason = |(at, reason): (usize, String)| format!("{}: {reason}", title(events[at]));
    let reasons: Vec<String> = reasons.into_iter().take(MOST_TOLD).map(reason).collect();
    if left_out > 0 && !understood {
        return Err(Unreadable(reasons));
    }
    Ok(Said { occurrences: found, left_out, reasons })
}

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

/// When an event begins or ends: on a day, or at a civil time of a zone.
#[derive(Clone, Debug)]
enum Moment {
    Day(NaiveDate),
    Time(NaiveDateTime, Zone),
}

impl Moment {
    fn of(property: &Property, zones: &Zones<'_>) -> Result<Self, String> {
        let bad = || format!("“{}” is no date or time", property.value());
        Ok(match DatePerhapsTime::from_property(property).ok_or_else(bad)? {
            DatePerhapsTime::Date(date) => Self::Day(date),
            DatePerhapsTime::DateTime(CalendarDateTime::Utc(at)) => Self::Time(at.naive_utc(), Zone::Known(Tz::UTC)),
            DatePerhapsTime::DateTime(CalendarDateTime::Floating(at)) => Self::Time(at, zones.floating.clone()),
            DatePerhapsTime::DateTime(CalendarDateTime::WithTimezone { date_time, tzid }) => {
                Self::Time(date_time, zones.by_name(&tzid)?)
            }
        })
    }

    /// Of several in one property, with commas between them, each with its parameters.
    fn each(property: &Property, zones: &Zones<'_>) -> Result<Vec<(Self, Option<String>)>, String> {
        let one = |text: &str| {
            // A period: its beginning, then its end or how long it lasts.
            let (begins, ends) = text.trim().split_once('/').unzip();
            let mut single = Property::new(property.key(), begins.unwrap_or(text.trim()));
            for (name, parameter) in property.params().iter().filter(|(name, _)| *name != "VALUE") {
                single.add_parameter(name, parameter.value());
            }
            let is_day = property.params().get("VALUE").is_some_and(|value| value.value() == "DATE");
            if is_day {
                single.add_parameter("VALUE", "DATE");
            }
            Ok((Self::of(&single.done(), zones)?, ends.map(str::to_owned)))
        };
        property.value().split(',').map(one).collect()
    }

    fn instant(&self) -> DateTime<Utc> {
        match self {
            // Days are told apart by themselves, whatever the zone.
            Self::Day(day) => day.and_time(NaiveTime::MIN).and_utc(),
            Self::Time(civil, zone) => zone.instant(*civil),
        }
    }

    /// The civil time at which it is in the zone of another one.
    fn beside(&self, begins: &Self) -> NaiveDateTime {
        match (self, begins) {
            (Self::Day(day), _) => day.and_time(NaiveTime::MIN),
            (Self::Time(civil, _), Self::Day(_)) => *civil,
            (Self::Time(civil, zone), Self::Time(_, other)) => match (zone, other) {
                (Zone::Known(zone), Zone::Known(other)) if zone == other => *civil,
                _ => other.civil(zone.instant(*civil)),
            },
        }
    }

    /// The same at another civil time.
    fn at(&self, civil: NaiveDateTime) -> Self {
        match self {
            Self::Day(_) => Self::Day(civil.date()),
            Self::Time(_, zone) => Self::Time(civil, zone.clone()),
        }
    }
}

/// Which time of a series an event takes the place of.
fn instance(property: &Property, zones: &Zones<'_>) -> Result<DateTime<Utc>, String> {
    if property.params().contains_key("RANGE") {
        return Err("it changes all that come after it, too, which is not understood".to_owned());
    }
    Moment::of(property, zones).map(|moment| moment.instant())
}

fn zone_start(zone: Tz, day: Day) -> DateTime<Utc> {
    instant(zone, day.date().and_time(NaiveTime::MIN))
}

/// Every time that an event happens in the window: when it was to begin by its rule, and when it is.
fn times(event: &Event, zones: &Zones<'_>, window: &Window) -> Result<Vec<(DateTime<Utc>, When)>, String> {
    let start = event.properties().get("DTSTART").ok_or("it has no beginning (DTSTART)")?;
    let begins = Moment::of(start, zones)?;
    let length = length(event, zones, &begins)?;
    if recurring::all(event, "EXRULE").next().is_some() {
        return Err("it has a rule for when it does not happen (EXRULE), which is not understood".to_owned());
    }
    let first = begins.beside(&begins);
    let mut comes = vec![(first, length)];
    if let Some(rule) = event.property_value("RRULE") {
        let civil = |at: DateTime<Utc>| match &begins {
            Moment::Day(_) => at.naive_utc().date().and_time(NaiveTime::MIN),
            Moment::Time(_, zone) => zone.civil(at),
        };
        let rule = Rule::read(rule, first, civil)?;
        // Two days longer on both sides: civil times are reckoned as if they were of UTC, and are cut to the window afterwards.
        let (from, to) = (window.from - length - Duration::days(2), window.to + Duration::days(2));
        let times = rule.times(from.naive_utc(), to.naive_utc(), window.until, MOST_TIMES)?;
        comes = times.into_iter().map(|time| (time, length)).collect();
    }
    for property in recurring::all(event, "RDATE") {
        for (moment, ends) in Moment::each(property, zones)? {
            let length = match ends {
                Some(ends) => period(&moment, &ends, zones)?,
                None => length,
            };
            comes.push((moment.beside(&begins), length));
        }
        if comes.len() > 2 * MOST_TIMES {
            return Err(format!("it happens more than {MOST_TIMES} times in the time that is looked at"));
        }
    }
    let mut left_out = HashSet::new();
    for property in recurring::all(event, "EXDATE") {
        left_out.extend(Moment::each(property, zones)?.into_iter().map(|(moment, _)| moment.beside(&begins)));
    }
    comes.retain(|(time, _)| !left_out.contains(time));
    comes.sort_unstable();
    comes.dedup_by_key(|(time, _)| *time);
    let Zone::Known(floating) = zones.floating else { return Ok(Vec::new()) };
    let lies_in = |when: &When| match when {
        When::Days(first, last) => {
            zone_start(floating, *last + 1) > window.from && zone_start(floating, *first) < window.to
        }
        When::Instants(from, to) => *to > window.from && *from < window.to,
    };
    let when = |(time, length): (NaiveDateTime, Duration)| {
        let moment = begins.at(time);
        let when = match &moment {
            Moment::Day(day) => {
                let days = i32::try_from(length.num_days().max(1)).unwrap_or(1);
                When::Days(Day::from_date(*day), Day::from_date(*day) + (days - 1))
            }
            Moment::Time(..) => When::Instants(moment.instant(), moment.instant() + length),
        };
        (moment.instant(), when)
    };
    Ok(comes.into_iter().map(when).filter(|(_, when)| lies_in(when)).collect())
}

/// How long an event lasts: to its end, by its duration, a day, or no time at all; ten years at most.
fn length(event: &Event, zones: &Zones<'_>, begins: &Moment) -> Result<Duration, String> {
    let length = if let Some(end) = event.properties().get("DTEND") {
        between(begins, &Moment::of(end, zones)?)?
    } else if let Some(text) = event.property_value("DURATION") {
        duration(text)?
    } else if matches!(begins, Moment::Day(_)) {
        Duration::days(1)
    } else {
        Duration::zero()
    };
    if length.num_days() > LONGEST_DAYS { Err("it lasts for more than ten years".to_owned()) } else { Ok(length) }
}

/// How long a period lasts that begins at a moment.
fn period(begins: &Moment, ends: &str, zones: &Zones<'_>) -> Result<Duration, String> {
    let length = if ends.starts_with('P') || ends.starts_with('+') {
        duration(ends)?
    } else {
        let end = Moment::of(&Property::new("DTEND", ends), zones)?;
        // A period speaks of one zone, which stands with its beginning.
        let end = if ends.ends_with('Z') { end } else { begins.at(end.beside(&end)) };
        between(begins, &end)?
    };
    if length.num_days() > LONGEST_DAYS { Err("it lasts for more than ten years".to_owned()) } else { Ok(length) }
}

fn between(begins: &Moment, ends: &Moment) -> Result<Duration, String> {
    let length = match (begins, ends) {
        (Moment::Day(from), Moment::Day(to)) => *to - *from,
        (Moment::Time(..), Moment::Time(..)) => ends.instant() - begins.instant(),
        _ => return Err("it begins on a day and ends at a time, or the other way round".to_owned()),
    };
    if length < Duration::zero() { Err("it ends before it begins".to_owned()) } else { Ok(length) }
}

fn duration(text: &str) -> Result<Duration, String> {
    let bad = || format!("“{text}” is no duration");
    let parsed = iso8601::duration(text.trim_start_matches('+')).map_err(|_| bad())?;
    // Its own way to seconds overflows; in 64 bits the largest of each unit fits.
    let seconds = match parsed {
        iso8601::Duration::Weeks(weeks) => i64::from(weeks) * 7 * 86_400,
        iso8601::Duration::YMDHMS { year, month, day, hour, minute, second, .. } => {
            let days = i64::from(year) * 365 + i64::from(month) * 30 + i64::from(day);
            days * 86_400 + i64::from(hour) * 3_600 + i64::from(minute) * 60 + i64::from(second)
        }
    };
    Duration::try_seconds(seconds).ok_or_else(bad)
}
