//! Figures and dates as people say them.

use chrono::Datelike as _;
use snug_core::{
    Day,
    cells::{Band, Cell},
    kinds::{Absence, Amount, Unit},
    settings::DateOrder,
    spread::round_half_up,
    tray::Lacks,
};
use snug_exchange::table::hours_short;

/// Minutes as hours with their unit: `7.5 h`.
pub fn hours(minutes: i64) -> String {
    format!("{} h", hours_short(minutes))
}

/// How many there are of something: `1 task`, `3 tasks`.
pub fn count(number: usize, one: &str, many: &str) -> String {
    if number == 1 { format!("1 {one}") } else { format!("{number} {many}") }
}

/// `no dates, nobody`: what keeps a task in the tray.
pub fn lacking(lacks: Lacks) -> String {
    let all = [
        (lacks.dates, "no dates"),
        (lacks.people, "nobody"),
        (lacks.size, "no estimate"),
        (lacks.working_day, "on days off alone"),
    ];
    all.iter().filter(|(is, _)| *is).map(|(_, says)| *says).collect::<Vec<_>>().join(", ")
}

/// The size of a file: `312 B`, `24 kB`, `2.1 MB`.
pub fn bytes(bytes: i32) -> String {
    match bytes {
        ..1_000 => format!("{bytes} B"),
        1_000..1_000_000 => format!("{} kB", bytes / 1_000),
        _ => format!("{}.{} MB", bytes / 1_000_000, bytes % 1_000_000 / 100_000),
    }
}

/// Days, whichever way they go: `1 day`, `3 days`.
pub fn days(days: i32) -> String {
    if days.abs() == 1 { "1 day".to_owned() } else { format!("{} days", days.unsigned_abs()) }
}

/// An amount with its unit: `6 h a day`, `23 h in all`, `40 %`.
pub fn amount(amount: Amount) -> String {
    let value = snug_core::cell::amount_text(amount);
    match amount.unit {
        Unit::PerDay => format!("{value} h a day"),
        Unit::PerWeek => format!("{value} h a week"),
        Unit::Total => format!("{value} h in all"),
        Unit::Percent => format!("{value} %"),
    }
}

/// An amount as one types it: `6h/d`, `30h/w`, `23h`, `40%`.
pub fn amount_typed(amount: Amount) -> String {
    let value = snug_core::cell::amount_text(amount);
    match amount.unit {
        Unit::PerDay => format!("{value}h/d"),
        Unit::PerWeek => format!("{value}h/w"),
        Unit::Total => format!("{value}h"),
        Unit::Percent => format!("{value}%"),
    }
}

/// `23 March`, `March 23` or `2026-03-23`.
pub fn day(day: Day, order: DateOrder) -> String {
    written(day, order, ["%-d %B", "%B %-d"])
}

/// `23 Mar`.
pub fn day_short(day: Day, order: DateOrder) -> String {
    written(day, order, ["%-d %b", "%b %-d"])
}

/// `Mon 23 March`.
pub fn weekday(day: Day, order: DateOrder) -> String {
    written(day, order, ["%a %-d %B", "%a %B %-d"])
}

/// `23 Mar 2026`.
pub fn date(day: Day, order: DateOrder) -> String {
    written(day, order, ["%-d %b %Y", "%b %-d, %Y"])
}

fn written(day: Day, order: DateOrder, [day_month, month_day]: [&str; 2]) -> String {
    let pattern = match order {
        DateOrder::DayMonth => day_month,
        DateOrder::MonthDay => month_day,
        DateOrder::Iso => "%Y-%m-%d",
    };
    day.date().format(pattern).to_string()
}

/// `9 March – 19 April`, or `23 Nov 2026 – 3 Jan 2027`.
pub fn range(from: Day, to: Day, order: DateOrder) -> String {
    if from == to {
        return day(from, order);
    }
    if from.date().year() == to.date().year() {
        format!("{} – {}", day(from, order), day(to, order))
    } else {
        format!("{} – {}", date(from, order), date(to, order))
    }
}

/// When somebody is off: `9 – 13 March, the whole day`; `Mon 9 March, 1.5 h from 09:30`; `9 – 13 March, 2 h a day`.
pub fn time_off(off: &Absence, order: DateOrder) -> String {
    let much = match (off.minutes, off.at) {
        (None, _) => "the whole day".to_owned(),
        (Some(minutes), Some(at)) => {
            format!("{} from {}", hours(i64::from(minutes)), snug_core::cell::time_of_day_text(at))
        }
        (Some(minutes), None) if off.start == off.end => hours(i64::from(minutes)),
        (Some(minutes), None) => format!("{} a day", hours(i64::from(minutes))),
    };
    let days = if off.start == off.end { weekday(off.start, order) } else { range(off.start, off.end, order) };
    format!("{days}, {much}")
}

pub use snug_core::capital;
pub use snug_store::accounts::hex;

/// A name as a short key: `small-museum-of-sound`.
pub fn slug(name: &str) -> String {
    let letters = name.to_lowercase();
    let parts: Vec<&str> = letters.split(|c: char| !c.is_alphanumeric()).filter(|part| !part.is_empty()).collect();
    parts.join("-")
}

/// Hours and minutes, `7:30`, as they stand in a week sheet.
pub fn clock(minutes: i64) -> String {
    if minutes % 60 == 0 { (minutes / 60).to_string() } else { format!("{}:{:02}", minutes / 60, minutes % 60) }
}

/// A value for an address: everything but plain letters and digits in percent.
pub fn escaped(value: &str) -> String {
    use std::fmt::Write as _;
    value.bytes().fold(String::new(), |mut text, byte| {
        match byte {
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'-' | b'.' | b'_' | b'~' => text.push(char::from(byte)),
            _ => drop(write!(text, "%{byte:02X}")),
        }
        text
    })
}

/// An address from a path and what is asked for; empty values are left out.
pub fn address<'a>(path: &str, pairs: impl IntoIterator<Item = (&'a str, &'a str)>) -> String {
    let mut text = path.to_owned();
    for (name, value) in pairs.into_iter().filter(|(_, value)| !value.is_empty()) {
        text.push(if text.contains('?') { '&' } else { '?' });
        text.push_str(&escaped(name));
        text.push('=');
        text.push_str(&escaped(value));
    }
    text
}

/// How an estimate held: `as thought`, `+9 h`, `8 h under`.
pub fn verdict(figures: &snug_core::hours::Actuals) -> String {
    match figures.variance() {
        None => "no estimate".to_owned(),
        Some(0) => "as thought".to_owned(),
        Some(more) if more > 0 => format!("+{}", hours(more)),
        Some(less) => format!("{} under", hours(-less)),
    }
}

/// An instant as the civil moment of a zone: `23 Mar 2026, 14:05`.
pub fn moment(at: chrono::DateTime<chrono::Utc>, zone: chrono_tz::Tz, order: DateOrder) -> String {
    let local = at.with_timezone(&zone);
    format!("{}, {}", date(Day::from_date(local.date_naive()), order), local.format("%H:%M"))
}

/// The label in a cell: `11 h room`, `snug`, `0 h left`, `+15 h`, `away`. A label is read at a glance, so it has one digit after
/// the point; the side sheet has the rest.
pub fn label(cell: &Cell, snug_mark: i32) -> String {
    let hours = |minutes: i64| {
        let tenths = round_half_up(minutes * 10, 60);
        if tenths % 10 == 0 { format!("{} h", tenths / 10) } else { format!("{}.{} h", tenths / 10, tenths % 10) }
    };
    match cell.band(snug_mark) {
        None => hours(cell.load),
        Some(Band::Away) => "away".to_owned(),
        Some(Band::Open) => format!("{} room", hours(cell.room)),
        Some(Band::Snug) => "snug".to_owned(),
        Some(Band::Brim) => "0 h left".to_owned(),
        Some(Band::Over) => format!("+{}", hours(cell.spill.max(cell.peak).max(6))),
    }
}

/// The state of a cell in a sentence: `15 h over the limit`.
pub fn sentence(cell: &Cell, snug_mark: i32) -> String {
    match cell.band(snug_mark) {
        None => format!("{} planned", hours(cell.load)),
        Some(Band::Away) => "Away: no time to give".to_owned(),
        Some(Band::Open) => format!("{} of room", hours(cell.room)),
        Some(Band::Snug) => format!("Snug: {} of room left", hours(cell.room)),
        Some(Band::Brim) => "Full to the brim: 0 h left".to_owned(),
        Some(Band::Over) if cell.spill >= cell.peak => format!("{} over the limit", hours(cell.spill)),
        Some(Band::Over) => format!("{} over on single days", hours(cell.peak)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use snug_core::hours::Actuals;

    #[test]
    fn dates_are_written_in_the_workspaces_order() {
        let march: Day = "2026-03-09".parse().unwrap();
        let all = |order| [day(march, order), day_short(march, order), weekday(march, order), date(march, order)];
        assert_eq!(all(DateOrder::DayMonth), ["9 March", "9 Mar", "Mon 9 March", "9 Mar 2026"]);
        assert_eq!(all(DateOrder::MonthDay), ["March 9", "Mar 9", "Mon March 9", "Mar 9, 2026"]);
        assert_eq!(all(DateOrder::Iso), ["2026-03-09"; 4]);
        assert_eq!(range(march, march, DateOrder::DayMonth), "9 March");
        assert_eq!(range(march, march + 41, DateOrder::DayMonth), "9 March – 19 April");
        assert_eq!(range(march, march + 400, DateOrder::DayMonth), "9 Mar 2026 – 13 Apr 2027");
    }

    #[test]
    fn a_cell_says_its_state() {
        let cell = |limit, load, peak| Cell {
            limit: Some(limit),
            load,
            room: (limit - load).max(0),
            spill: (load - limit).max(0),
            peak,
            ..Cell::default()
        };
        let labels =
            [(0, 0, 0), (2_400, 1_740, 0), (2_400, 2_000, 0), (2_400, 2_400, 0), (2_400, 3_300, 900), (2_400, 600, 2)];
        let labels = labels.map(|(limit, load, peak)| label(&cell(limit, load, peak), 80));
        assert_eq!(labels, ["away", "11 h room", "snug", "0 h left", "+15 h", "+0.1 h"]);
        assert_eq!(sentence(&cell(2_400, 600, 90), 80), "1.5 h over on single days");
        assert_eq!(sentence(&cell(2_400, 2_000, 0), 80), "Snug: 6.67 h of room left");
    }

    #[test]
    fn an_estimate_held_or_did_not() {
        let figures = Actuals::whole;
        assert_eq!(verdict(&figures(600, 500, 100)), "as thought");
        assert_eq!(verdict(&figures(600, 700, 60)), "+2.67 h");
        assert_eq!(verdict(&figures(600, 0, 120)), "8 h under");
        assert_eq!(verdict(&Actuals::default()), "no estimate");
    }

    #[test]
    fn addresses_keys_and_clocks() {
        assert_eq!(
            address("/tasks", [("q", "oak & ash"), ("none", ""), ("sort", "-due")]),
            "/tasks?q=oak%20%26%20ash&sort=-due"
        );
        assert_eq!(address("/fit?a=1", [("b", "é")]), "/fit?a=1&b=%C3%A9");
        assert_eq!(slug("The Small Museum of Sound!"), "the-small-museum-of-sound");
        assert_eq!([0, 60, 90, 485].map(clock), ["0", "1", "1:30", "8:05"]);
        assert_eq!((capital("oak"), capital("")), ("Oak".to_owned(), String::new()));
        assert_eq!(hex(&[0, 171]), "00ab");
    }
}
