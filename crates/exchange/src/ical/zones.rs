//! Time zones as calendars name them: by the names of the zone database, by those of office programs, or by rules in the file itself.

use super::recurring::{self, Rule};
use chrono::{DateTime, Duration, NaiveDateTime, TimeZone as _, Utc};
use chrono_tz::Tz;
use icalendar::{Calendar, CalendarComponent, Component};
use snug_core::calendars::instant;
use std::{cell::RefCell, collections::HashMap, rc::Rc, time::Instant};
use windows_timezones::WindowsTimezone;

/// The most changes of its clocks that a zone may have up to the end of what is looked at: two a year for a thousand years.
const MOST_CHANGES: usize = 2_000;
/// The most parts of a zone: each is a rule that holds for some years.
const MOST_PARTS: usize = 200;

/// A time zone.
#[derive(Clone, Debug)]
pub(super) enum Zone {
    /// Of the zone database.
    Known(Tz),
    /// Of the file's own rules.
    Own(Rc<Changes>),
}

impl Zone {
    /// The instant of a civil time: the earlier one where it comes twice, one later by the leap where it does not come at all.
    pub fn instant(&self, civil: NaiveDateTime) -> DateTime<Utc> {
        match self {
            Self::Known(zone) => instant(*zone, civil),
            Self::Own(changes) => changes.instant(civil),
        }
    }

    /// The civil time of an instant.
    pub fn civil(&self, at: DateTime<Utc>) -> NaiveDateTime {
        match self {
            Self::Known(zone) => zone.from_utc_datetime(&at.naive_utc()).naive_local(),
            Self::Own(changes) => at.naive_utc() + changes.offset(at),
        }
    }
}

/// A zone by the changes of its clocks.
#[derive(Debug)]
pub(super) struct Changes {
    /// How far it is ahead of UTC before the first change.
    before: Duration,
    /// Each change, and how far it is ahead of UTC from then on; in order.
    changes: Vec<(DateTime<Utc>, Duration)>,
}

impl Changes {
    fn offset(&self, at: DateTime<Utc>) -> Duration {
        let passed = self.changes.partition_point(|(change, _)| *change <= at);
        if passed == 0 { self.before } else { self.changes[passed - 1].1 }
    }

    fn instant(&self, civil: NaiveDateTime) -> DateTime<Utc> {
        // No zone is further from UTC than a day, so only what holds around that time can be meant.
        let around = [-1, 0, 1].map(|days| self.offset(civil.and_utc() + Duration::days(days)));
        let meant = around.iter().map(|offset| (civil - *offset).and_utc());
        let comes = meant.clone().filter(|at| at.naive_utc() + self.offset(*at) == civil);
        // In a leap what held before it is meant, which is the later instant.
        comes.min().or_else(|| meant.max()).unwrap_or(civil.and_utc())
    }
}

/// The zones that a file speaks of.
pub(super) struct Zones<'a> {
    /// The zone of times without one.
    pub floating: Zone,
    /// The definitions of the file, by name.
    defined: HashMap<&'a str, &'a CalendarComponent>,
    /// Up to when the clocks are of interest, and when working out ends.
    until: (DateTime<Utc>, Instant),
    found: RefCell<HashMap<String, Result<Zone, String>>>,
}

impl<'a> Zones<'a> {
    pub fn of(calendar: &'a Calendar, floating: Tz, until: (DateTime<Utc>, Instant)) -> Self {
        let defined = calendar.components.iter().filter_map(|component| match component {
            CalendarComponent::Other(other) if other.component_kind() == "VTIMEZONE" => {
                Some((other.property_value("TZID")?.trim(), component))
            }
            _ => None,
        });
        Self { floating: Zone::Known(floating), defined: defined.collect(), until, found: RefCell::default() }
    }

    /// The zone that a name stands for.
    pub fn by_name(&self, name: &str) -> Result<Zone, String> {
        let name = name.trim().trim_matches('"').trim();
        if let Some(found) = self.found.borrow().get(name) {
            return found.clone();
        }
        let defined = self.defined.get(name).and_then(|component| match component {
            CalendarComponent::Other(zone) => Some(zone),
            _ => None,
        });
        let told = defined.and_then(|zone| zone.property_value("X-LIC-LOCATION"));
        let known = of_database(name).or_else(|| told.and_then(of_database));
        let found = match (known, defined) {
            (Some(zone), _) => Ok(Zone::Known(zone)),
            (None, Some(zone)) => changes(zone, self.until)
                .map(|changes| Zone::Own(Rc::new(changes)))
                .map_err(|reason| format!("the time zone “{name}” is not understood: {reason}")),
            (None, None) => Err(format!("the time zone “{name}” is not known")),
        };
        self.found.borrow_mut().insert(name.to_owned(), found.clone());
        found
    }
}

/// A zone of the database: by its name, also behind the path of who made the file, or by the name that office programs have for it.
fn of_database(name: &str) -> Option<Tz> {
    let parts: Vec<&str> = name.split('/').filter(|part| !part.is_empty()).collect();
    let ends = (0..parts.len().min(4)).map(|from| parts[from..].join("/"));
    let by_end = ends.filter(|end| !end.is_empty()).find_map(|end| end.parse::<Tz>().ok());
    by_end.or_else(|| name.parse::<WindowsTimezone>().ok()?.tzdb_id().parse().ok())
}

/// The changes of the clocks that a definition in the file comes to.
fn changes(zone: &impl Component, (until, end): (DateTime<Utc>, Instant)) -> Result<Changes, String> {
    let parts = zone.components();
    if parts.is_empty() || parts.len() > MOST_PARTS {
        return Err("it has no parts, or too many".to_owned());
    }
    let mut found: Vec<(DateTime<Utc>, Duration, Duration)> = Vec::new();
    for part in parts {
        let value = |name: &str| part.property_value(name).ok_or_else(|| format!("a part has no {name}"));
        let (from, to) = (offset(value("TZOFFSETFROM")?)?, offset(value("TZOFFSETTO")?)?);
        let begins = civil(value("DTSTART")?)?;
        // Rules speak of the civil time that holds before the change.
        let mut onsets = vec![begins];
        if let Some(text) = part.property_value("RRULE") {
            let ends = |at: DateTime<Utc>| at.naive_utc() + from;
            let rule = Rule::read(text, begins, ends)?;
            if !rule.is_yearly() {
                return Err("its clocks do not change once a year".to_owned());
            }
            onsets = rule.times(begins, until.naive_utc() + Duration::days(2), end, MOST_CHANGES)?;
        }
        for property in recurring::all(part, "RDATE") {
            for text in property.value().split(',') {
                onsets.push(civil(text.trim())?);
            }
        }
        found.extend(onsets.into_iter().map(|onset| ((onset - from).and_utc(), from, to)));
    }
    found.sort_unstable();
    found.dedup();
    if found.len() > MOST_CHANGES {
        return Err("its clocks change too often".to_owned());
    }
    let before = found.first().map_or_else(Duration::zero, |(_, from, _)| *from);
    Ok(Changes { before, changes: found.into_iter().map(|(at, _, to)| (at, to)).collect() })
}

fn civil(text: &str) -> Result<NaiveDateTime, String> {
    NaiveDateTime::parse_from_str(text.trim_end_matches('Z'), "%Y%m%dT%H%M%S")
        .map_err(|_| format!("“{text}” is no date and time"))
}

/// `+0130` or `-043000`; less than a day.
fn offset(text: &str) -> Result<Duration, String> {
    let bad = || format!("“{text}” is no offset from UTC");
    let (sign, digits) = match text.trim().split_at_checked(1) {
        Some(("+", digits)) => (1, digits),
        Some(("-", digits)) => (-1, digits),
        _ => return Err(bad()),
    };
    if !matches!(digits.len(), 4 | 6) || !digits.bytes().all(|digit| digit.is_ascii_digit()) {
        return Err(bad());
    }
    let two = |at: usize| digits.get(at..at + 2).and_then(|pair| pair.parse::<i64>().ok()).unwrap_or(0);
    let seconds = two(0) * 3_600 + two(2) * 60 + two(4);
    if seconds < 86_400 { Ok(Duration::seconds(sign * seconds)) } else { Err(bad()) }
}
