//! Durations as people type them: `4h`, `1d 2h`, `90m`, `1.5h`, `1:30`, `2w`.

use crate::kinds::{Amount, Unit};
use rust_decimal::{Decimal, RoundingStrategy, prelude::ToPrimitive as _};

/// What a number without a unit means.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bare {
    /// Hours, as in the cells of the week sheet.
    Hours,
    /// Nothing: it is asked about, never guessed.
    Refused,
}

/// Days of a working week.
const WEEK_DAYS: i64 = 5;
/// The longest duration: 100,000 hours.
const MOST: i64 = 6_000_000;

/// Reads a duration in minutes, half up. A day has `day_minutes`, a week five days.
///
/// # Errors
/// A sentence with the forms that are accepted.
pub fn parse(text: &str, day_minutes: i32, bare: Bare) -> Result<i64, String> {
    let accepted = match bare {
        Bare::Hours => "write 4, 1.5, 4h, 1d 2h, 90m, 1:30 or 2w",
        Bare::Refused => "write 4h, 1d 2h, 90m, 1.5h, 1:30 or 2w",
    };
    let refused = || format!("“{}” is no duration; {accepted}", text.trim());
    let minutes = read(text.trim(), day_minutes, bare).ok_or_else(refused)?;
    let whole = minutes.round_dp_with_strategy(0, RoundingStrategy::MidpointAwayFromZero).to_i64();
    whole.filter(|whole| *whole <= MOST).ok_or_else(|| format!("“{}” is more than 100,000 hours", text.trim()))
}

/// Reads an amount of a booking with its unit: `6h/d`, `30h/w`, `23h`, `1d 2h`, `40%`.
///
/// # Errors
/// A sentence with the forms that are accepted. A number without a unit is asked about, never guessed.
pub fn parse_amount(text: &str, day_minutes: i32) -> Result<Amount, String> {
    let accepted = "write 6h/d, 30h/w, 23h in all, or 40%";
    let text = text.trim();
    if !text.is_empty() && text.chars().all(|c| c.is_ascii_digit() || c == '.' || c == ',') {
        return Err(format!("“{text}” of what? {accepted}"));
    }
    let refused = || format!("“{text}” is no amount; {accepted}");
    if let Some(percent) = text.strip_suffix('%') {
        let percent: Decimal = percent.trim().replace(',', ".").parse().map_err(|_| refused())?;
        let hundredths = percent
            .checked_mul(100.into())
            .map(|value| value.round_dp_with_strategy(0, RoundingStrategy::MidpointAwayFromZero));
        let value = hundredths.and_then(|value| value.to_i32()).ok_or_else(refused)?;
        return Ok(Amount { value, unit: Unit::Percent });
    }
    let (duration, unit) = match text.rsplit_once('/') {
        None => (text, Unit::Total),
        Some((duration, per)) => match per.trim().to_lowercase().as_str() {
            "d" | "day" => (duration, Unit::PerDay),
            "w" | "week" => (duration, Unit::PerWeek),
            _ => return Err(refused()),
        },
    };
    let minutes = parse(duration, day_minutes, Bare::Refused).map_err(|_| refused())?;
    Ok(Amount { value: i32::try_from(minutes).map_err(|_| refused())?, unit })
}

fn read(text: &str, day_minutes: i32, bare: Bare) -> Option<Decimal> {
    if let Some((hours, minutes)) = text.split_once(':') {
        let (hours, minutes) = (digits(hours)?, digits(minutes).filter(|_| minutes.len() == 2)?);
        return (minutes < 60.into()).then(|| hours * Decimal::from(60) + minutes);
    }
    let mut rest = text;
    let mut sum = Decimal::ZERO;
    let mut used = String::new();
    while !rest.is_empty() {
        let end = rest.find(|c: char| !(c.is_ascii_digit() || c == '.' || c == ',')).unwrap_or(rest.len());
        let number: Decimal = rest[..end].replace(',', ".").parse().ok()?;
        rest = rest[end..].trim_start();
        let end = rest.find(|c: char| !c.is_alphabetic()).unwrap_or(rest.len());
        let (unit, minutes) = match rest[..end].to_lowercase().as_str() {
            "w" | "week" | "weeks" => ('w', i64::from(day_minutes) * WEEK_DAYS),
            "d" | "day" | "days" => ('d', i64::from(day_minutes)),
            "h" | "hour" | "hours" => ('h', 60),
            "m" | "min" | "minutes" => ('m', 1),
            "" if bare == Bare::Hours && used.is_empty() && rest.is_empty() => ('h', 60),
            _ => return None,
        };
        if used.contains(unit) {
            return None;
        }
        used.push(unit);
        sum = sum.checked_add(number.checked_mul(minutes.into())?)?;
        rest = rest[end..].trim_start();
    }
    (!used.is_empty()).then_some(sum)
}

fn digits(text: &str) -> Option<Decimal> {
    let plain = !text.is_empty() && text.len() < 7 && text.bytes().all(|byte| byte.is_ascii_digit());
    text.parse().ok().filter(|_| plain)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn every_form_is_read() {
        let forms = [
            ("4h", 240),
            ("1d 2h", 600),
            ("1d2h", 600),
            ("90m", 90),
            ("1.5h", 90),
            ("1,5 h", 90),
            ("1:30", 90),
            ("0:05", 5),
            ("2w", 4_800),
            ("1w 1d 1h 1m", 2_941),
            ("90 min", 90),
            ("0.01h", 1),
            ("2 days", 960),
        ];
        for (text, minutes) in forms {
            assert_eq!(parse(text, 480, Bare::Refused), Ok(minutes), "{text}");
        }
        assert_eq!(parse("1d", 450, Bare::Refused), Ok(450), "a day as long as the workspace says");
        assert_eq!(parse("4", 480, Bare::Hours), Ok(240));
        assert_eq!(parse(" 1.5 ", 480, Bare::Hours), Ok(90));
    }

    #[test]
    fn anything_else_is_refused_with_the_accepted_forms() {
        for text in
            ["", "4", "h", "four", "1:75", "1:5", "1h 2h", "-4h", "4x", "1e9h", "1.2.3h", "2h 30", ":30", "99999999h"]
        {
            assert!(parse(text, 480, Bare::Refused).is_err(), "{text}");
        }
        let said = parse("four", 480, Bare::Refused).unwrap_err();
        assert_eq!(said, "“four” is no duration; write 4h, 1d 2h, 90m, 1.5h, 1:30 or 2w");
    }

    #[test]
    fn an_amount_has_its_unit_or_is_asked_about() {
        let amount = |text: &str| parse_amount(text, 480).map(|amount| (amount.value, amount.unit));
        assert_eq!(amount("6h/d"), Ok((360, Unit::PerDay)));
        assert_eq!(amount("30 h / week"), Ok((1_800, Unit::PerWeek)));
        assert_eq!(amount("1d 2h"), Ok((600, Unit::Total)));
        assert_eq!(amount("33.5 %"), Ok((3_350, Unit::Percent)));
        assert_eq!(amount("23").unwrap_err(), "“23” of what? write 6h/d, 30h/w, 23h in all, or 40%");
        assert!(amount("6h/month").is_err() && amount("").is_err() && amount("lots%").is_err());
    }

    proptest! {
        #[test]
        fn no_text_breaks_it_and_clock_times_read_back(text in ".{0,20}", minutes in 0i64..6_000) {
            let _ = parse(&text, 480, Bare::Hours);
            prop_assert_eq!(parse(&format!("{}:{:02}", minutes / 60, minutes % 60), 480, Bare::Refused), Ok(minutes));
        }
    }
}
