//! Recurrence rules (RFC 5545), unfolded in civil time: what comes every Monday at nine comes at nine whatever the clocks do. The rule
//! itself is read and unfolded by its own library, in UTC, which has no leaps; whose civil time it is comes in afterwards.

use chrono::{DateTime, Duration, NaiveDate, NaiveDateTime, NaiveTime, Utc};
use icalendar::{Component, Property};
use rrule::{Frequency, RRuleSet};
use std::time::Instant;

/// The longest recurrence rule, in bytes: rules are short, and a long one is no honest one.
const LONGEST_RULE: usize = 500;
/// After how many times of an event it is looked at the clock.
const LOOK: usize = 512;
/// What is said of rules that take too long.
pub(super) const TOO_MUCH_WORK: &str = "its recurrences take too long to work out";

/// Every property of a name: a component keeps those that may come several times apart.
pub(super) fn all<'a>(component: &'a impl Component, name: &'a str) -> impl Iterator<Item = &'a Property> {
    let several = component.multi_properties().get(name).into_iter().flatten();
    several.chain(component.properties().get(name))
}

/// A recurrence rule with its beginning.
pub(super) struct Rule(RRuleSet);

impl Rule {
    /// Reads a rule that begins at a civil time. `civil` says which civil time an instant is: a rule may end at one.
    pub fn read(
        rule: &str,
        begins: NaiveDateTime,
        civil: impl Fn(DateTime<Utc>) -> NaiveDateTime,
    ) -> Result<Self, String> {
        if rule.len() > LONGEST_RULE {
            return Err("its recurrence rule is too long".to_owned());
        }
        let text = format!("DTSTART:{}\nRRULE:{}", written(begins), until_in_civil_time(rule, civil));
        let set: RRuleSet = text.parse().map_err(|error| format!("its recurrence cannot be read: {error}"))?;
        let often = |rule: &rrule::RRule| matches!(rule.get_freq(), Frequency::Secondly | Frequency::Minutely);
        if set.get_rrule().iter().any(often) {
            return Err("it comes again every minute or second; nothing that one plans by does".to_owned());
        }
        Ok(Self(set))
    }

    /// Whether it comes once a year, or less often.
    pub fn is_yearly(&self) -> bool {
        self.0.get_rrule().iter().all(|rule| rule.get_freq() == Frequency::Yearly)
    }

    /// Its times from one civil time to another, at most so many, worked out until an instant.
    pub fn times(
        self,
        from: NaiveDateTime,
        to: NaiveDateTime,
        end: Instant,
        most: usize,
    ) -> Result<Vec<NaiveDateTime>, String> {
        let mut found = Vec::new();
        for (at, time) in self.0.into_iter().enumerate() {
            if at % LOOK == LOOK - 1 && Instant::now() > end {
                return Err(TOO_MUCH_WORK.to_owned());
            }
            let time = time.naive_utc();
            if time > to {
                break;
            }
            if time >= from {
                found.push(time);
            }
            if found.len() > most {
                return Err(format!("it happens more than {most} times in the time that is looked at"));
            }
        }
        Ok(found)
    }
}

fn written(time: NaiveDateTime) -> impl std::fmt::Display {
    time.format("%Y%m%dT%H%M%SZ")
}

/// The rule with its end as a civil time: one on a day ends with that day.
fn until_in_civil_time(rule: &str, civil: impl Fn(DateTime<Utc>) -> NaiveDateTime) -> String {
    let part = |part: &str| {
        let Some((name, value)) = part.split_once('=').filter(|(name, _)| name.eq_ignore_ascii_case("UNTIL")) else {
            return part.to_owned();
        };
        let time = |text: &str| NaiveDateTime::parse_from_str(text, "%Y%m%dT%H%M%S").ok();
        let end = match value.strip_suffix('Z') {
            Some(instant) => time(instant).map(|at| civil(at.and_utc())),
            None => time(value).or_else(|| {
                let day = value.get(..8).and_then(|digits| NaiveDate::parse_from_str(digits, "%Y%m%d").ok())?;
                Some(day.and_time(NaiveTime::MIN) + Duration::days(1) - Duration::seconds(1))
            }),
        };
        end.map_or_else(|| part.to_owned(), |end| format!("{name}={}", written(end)))
    };
    rule.split(';').map(part).collect::<Vec<_>>().join(";")
}
