//! What one cell of a file holds, in both directions; forms, lists and programs speak the same.

use crate::kinds::{Amount, Pattern, Unit};
use rust_decimal::{Decimal, RoundingStrategy, prelude::ToPrimitive};

/// Hours as a decimal, half up to minutes, from 0 to 1,000,000 hours.
pub(crate) fn minutes<T: TryFrom<i64>>(text: &str) -> Result<T, String> {
    let hours = number(text).map_err(|_| format!("“{text}” is no number of hours; write it as 7.5"))?;
    scaled(hours, 60, 60_000_000).ok_or_else(|| format!("“{text}” hours is more than can be"))
}

/// The same, also below 0.
pub(crate) fn signed_minutes(text: &str) -> Result<i32, String> {
    match text.strip_prefix(['-', '−']) {
        Some(taken) => minutes::<i32>(taken).map(|minutes| -minutes),
        None => minutes(text),
    }
}

/// A decimal number that is not negative.
pub(crate) fn number(text: &str) -> Result<Decimal, String> {
    let bad = || format!("“{text}” is no number; write it as 12.5");
    let number: Decimal = text.parse().map_err(|_| bad())?;
    if number.is_sign_negative() && !number.is_zero() {
        Err(format!("“{text}” is less than nothing"))
    } else {
        Ok(number.normalize())
    }
}

/// `number` × `scale`, half up; `None` above `most`.
pub(crate) fn scaled<T: TryFrom<i64>>(number: Decimal, scale: i64, most: i64) -> Option<T> {
    let exact = number.checked_mul(Decimal::from(scale))?;
    let whole = exact.round_dp_with_strategy(0, RoundingStrategy::MidpointAwayFromZero).to_i64()?;
    T::try_from(whole).ok().filter(|_| whole <= most)
}

pub(crate) fn whole(text: &str) -> Result<i32, String> {
    text.parse().map_err(|_| format!("“{text}” is no whole number"))
}

/// A time of day in minutes after midnight: `09:30`.
pub(crate) fn time_of_day(text: &str) -> Result<i32, String> {
    let time = chrono::NaiveTime::parse_from_str(text, "%H:%M").map_err(|_| "write a time of day, as 09:30")?;
    i32::try_from(chrono::Timelike::num_seconds_from_midnight(&time) / 60).map_err(|error| error.to_string())
}

/// Minutes after midnight as a time of day.
#[must_use]
pub fn time_of_day_text(minutes: i32) -> String {
    format!("{:02}:{:02}", minutes / 60, minutes % 60)
}

/// Yes as a word, no as nothing.
pub(crate) fn yes_text(value: bool) -> String {
    if value { "yes".to_owned() } else { String::new() }
}

pub(crate) fn yes_or_no(text: &str) -> Result<bool, String> {
    match text.to_ascii_lowercase().as_str() {
        "" | "no" | "0" | "false" => Ok(false),
        "yes" | "1" | "true" => Ok(true),
        _ => Err(format!("“{text}” is neither yes nor no")),
    }
}

/// Seven numbers of hours, Monday first; several weeks with a bar between them.
///
/// # Errors
/// A sentence that says what would do.
pub fn pattern(text: &str) -> Result<Pattern, String> {
    if text.trim().is_empty() {
        return Ok(Pattern::full_time());
    }
    let mut weeks = Vec::new();
    for week in text.split('|') {
        let days = week.split_whitespace().map(minutes).collect::<Result<Vec<i32>, _>>()?;
        let days: [i32; 7] = days.try_into().map_err(|_| {
            format!("“{}” is no week; write seven numbers of hours, Monday first, as 8 8 8 8 8 0 0", week.trim())
        })?;
        if days.iter().any(|minutes| *minutes > 1_440) {
            return Err("a day has 24 hours".to_owned());
        }
        weeks.push(days);
    }
    if weeks.len() > 53 {
        return Err("more than 53 weeks take turns".to_owned());
    }
    Ok(Pattern(weeks))
}

/// A booking's amount in its unit.
///
/// # Errors
/// A sentence that says what would do.
pub fn amount(value: &str, unit: Unit) -> Result<Amount, String> {
    let value = if unit == Unit::Percent {
        let percent = number(value.trim_end_matches('%').trim())?;
        scaled(percent, 100, 10_000_000).ok_or_else(|| format!("“{value}” percent is more than can be"))?
    } else {
        minutes(value)?
    };
    Ok(Amount { value, unit })
}

/// A share of 100 in hundredths of a percent.
pub(crate) fn share(text: &str) -> Result<i32, String> {
    scaled(number(text)?, 100, 10_000).ok_or_else(|| format!("“{text}” is no share of 100"))
}

/// Words with `;` between them.
pub(crate) fn list(text: &str) -> Vec<String> {
    text.split(';').map(str::trim).filter(|word| !word.is_empty()).map(str::to_owned).collect()
}

/// Minutes as decimal hours that read back as the same minutes: `7.5`, `0.3333`.
#[must_use]
pub fn hours_text(minutes: i64) -> String {
    // A minute is 0.01666… h, so four digits tell any two of them apart.
    (Decimal::from(minutes) / Decimal::from(60)).round_dp(4).normalize().to_string()
}

/// Hundredths of a percent as percent: `33.5`.
#[must_use]
pub fn percent_text(value: i32) -> String {
    Decimal::new(i64::from(value), 2).normalize().to_string()
}

/// The value of an amount without its unit.
#[must_use]
pub fn amount_text(amount: Amount) -> String {
    if amount.unit == Unit::Percent { percent_text(amount.value) } else { hours_text(i64::from(amount.value)) }
}

/// A pattern as it stands in a cell.
#[must_use]
pub fn pattern_text(pattern: &Pattern) -> String {
    let week =
        |week: &[i32; 7]| week.iter().map(|minutes| hours_text(i64::from(*minutes))).collect::<Vec<_>>().join(" ");
    pattern.0.iter().map(week).collect::<Vec<_>>().join(" | ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn every_number_of_minutes_survives_as_hours(m in 0i64..60_000_000) {
            prop_assert_eq!(minutes::<i64>(&hours_text(m)), Ok(m));
        }
    }

    #[test]
    fn hours_are_rounded_half_up_to_minutes() {
        assert_eq!(minutes::<i32>("16.5"), Ok(990));
        assert_eq!(minutes::<i32>("0.0083"), Ok(0));
        assert_eq!(minutes::<i32>("0.00834"), Ok(1));
        assert!(minutes::<i32>("-1").is_err());
        assert!(minutes::<i32>("1e400").is_err());
        assert!(minutes::<i32>("eight").is_err());
    }
}
