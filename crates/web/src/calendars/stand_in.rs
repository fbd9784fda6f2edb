//! Stand-ins for calendars of other servers, for the demo: a region's holidays, and somebody's meetings, around today.

use crate::{AppState, Error};
use axum::{
    extract::{Path, State},
    http::header,
    response::{IntoResponse as _, Response},
};
use std::fmt::Write as _;

/// The calendars there are: file name, and what they are.
pub const CALENDARS: [(&str, &str); 2] = [
    ("harbour-holidays.ics", "holidays of the harbour region"),
    ("meetings.ics", "a weekly meeting, one moved, one called off"),
];

/// A calendar, as another server would send it.
pub async fn calendar(State(state): State<AppState>, Path(name): Path<String>) -> Result<Response, Error> {
    if state.options.demo.is_none() {
        return Err(Error::NotFound);
    }
    let monday = state.today().monday();
    let day = |offset: i32| (monday + offset).date().format("%Y%m%d").to_string();
    let mut text = String::from("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Snug Roster//stand-in//EN\r\n");
    let mut event = |lines: &[String]| {
        text.push_str("BEGIN:VEVENT\r\nDTSTAMP:20260101T000000Z\r\n");
        for line in lines {
            let _ = write!(text, "{line}\r\n");
        }
        text.push_str("END:VEVENT\r\n");
    };
    let is = |word: &str| word.to_owned();
    match name.as_str() {
        "harbour-holidays.ics" => {
            for (at, title) in [(32, "Lantern Day"), (60, "Boat Week Monday"), (130, "Midsummer Friday")] {
                event(&[
                    format!("UID:{title}@harbour.test"),
                    format!("SUMMARY:{title}"),
                    format!("DTSTART;VALUE=DATE:{}", day(at)),
                    format!("DTEND;VALUE=DATE:{}", day(at + 1)),
                    is("TRANSP:TRANSPARENT"),
                ]);
            }
        }
        "meetings.ics" => {
            let weekly = |more: &[String]| {
                let mut lines = vec![is("UID:planning@tidewater.test"), is("SUMMARY:Planning round")];
                lines.extend_from_slice(more);
                lines
            };
            event(&weekly(&[
                format!("DTSTART;TZID=Europe/Berlin:{}T093000", day(0)),
                format!("DTEND;TZID=Europe/Berlin:{}T110000", day(0)),
                is("RRULE:FREQ=WEEKLY;BYDAY=MO,TH;COUNT=24"),
                format!("EXDATE;TZID=Europe/Berlin:{}T093000", day(3)),
            ]));
            event(&weekly(&[
                format!("RECURRENCE-ID;TZID=Europe/Berlin:{}T093000", day(7)),
                format!("DTSTART;TZID=Europe/Berlin:{}T140000", day(8)),
                format!("DTEND;TZID=Europe/Berlin:{}T160000", day(8)),
            ]));
            event(&[
                is("UID:breakfast@tidewater.test"),
                is("SUMMARY:Breakfast, who likes to"),
                format!("DTSTART:{}T070000Z", day(1)),
                format!("DTEND:{}T080000Z", day(1)),
                is("TRANSP:TRANSPARENT"),
            ]);
        }
        _ => return Err(Error::NotFound),
    }
    text.push_str("END:VCALENDAR\r\n");
    Ok(([(header::CONTENT_TYPE, "text/calendar; charset=utf-8")], text).into_response())
}
