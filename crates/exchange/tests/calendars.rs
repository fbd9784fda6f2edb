//! iCalendar in and out.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use chrono::TimeZone as _;
use chrono_tz::Tz;
use proptest::prelude::*;
use snug_core::{
    Day, PersonId, Plan,
    calendars::{Occurrence, Purpose, When, changes},
    import::preview,
    kinds::Absence,
};
use snug_exchange::{csv, ical};
use std::path::Path;

const BERLIN: Tz = chrono_tz::Europe::Berlin;

fn day(text: &str) -> Day {
    text.parse().unwrap()
}

fn window() -> (Day, Day) {
    (day("2026-03-01"), day("2026-05-31"))
}

fn calendar(events: &[&str]) -> String {
    let event = |event: &&str| format!("BEGIN:VEVENT\r\n{}\r\nEND:VEVENT\r\n", event.replace('\n', "\r\n"));
    let events = events.iter().map(event).collect::<Vec<_>>().concat();
    format!("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\n{events}END:VCALENDAR\r\n")
}

fn read(events: &[&str]) -> Vec<Occurrence> {
    ical::read(&calendar(events), BERLIN, window(), true).unwrap().occurrences
}

/// `2026-03-09 08:00 60` in UTC and minutes, or `2026-03-09..2026-03-11`.
fn said(found: &[Occurrence]) -> Vec<String> {
    let one = |occurrence: &Occurrence| match occurrence.when {
        When::Days(first, last) => format!("{first}..{last}"),
        When::Instants(from, to) => format!("{} {}", from.format("%Y-%m-%d %H:%M"), (to - from).num_minutes()),
    };
    let mut list: Vec<String> = found.iter().map(one).collect();
    list.sort();
    list
}

#[test]
fn a_weekly_meeting_keeps_its_civil_time_when_the_clocks_change() {
    let found = read(&[
        "UID:a\nSUMMARY:Round\nDTSTART;TZID=Europe/Berlin:20260323T093000\nDTEND;TZID=Europe/Berlin:20260323T103000\nRRULE:FREQ=WEEKLY;COUNT=3",
    ]);
    assert_eq!(said(&found), ["2026-03-23 08:30 60", "2026-03-30 07:30 60", "2026-04-06 07:30 60"]);
}

#[test]
fn exceptions_changes_and_cancellations_of_a_series_are_heard() {
    let series = "UID:a\nSUMMARY:Round\nDTSTART:20260302T090000Z\nDURATION:PT45M\nRRULE:FREQ=WEEKLY;UNTIL=20260330\nEXDATE:20260309T090000Z";
    let moved =
        "UID:a\nSUMMARY:Round, later\nRECURRENCE-ID:20260316T090000Z\nDTSTART:20260317T130000Z\nDTEND:20260317T140000Z";
    let off = "UID:a\nSUMMARY:Round\nRECURRENCE-ID:20260323T090000Z\nSTATUS:CANCELLED\nDTSTART:20260323T090000Z\nDTEND:20260323T100000Z";
    assert_eq!(
        said(&read(&[series, moved, off])),
        ["2026-03-02 09:00 45", "2026-03-17 13:00 60", "2026-03-30 09:00 45"]
    );
}

#[test]
fn whole_days_are_days_in_every_zone_and_their_end_is_the_day_after() {
    let leave = "UID:a\nSUMMARY:Leave\nDTSTART;VALUE=DATE:20260309\nDTEND;VALUE=DATE:20260312";
    let fridays = "UID:b\nSUMMARY:Friday off\nDTSTART;VALUE=DATE:20260327\nRRULE:FREQ=WEEKLY;UNTIL=20260410\nEXDATE;VALUE=DATE:20260403";
    let text = calendar(&[leave, fridays]);
    for zone in [BERLIN, chrono_tz::Pacific::Auckland, chrono_tz::America::Los_Angeles] {
        let found = ical::read(&text, zone, window(), true).unwrap().occurrences;
        assert_eq!(
            said(&found),
            ["2026-03-09..2026-03-11", "2026-03-27..2026-03-27", "2026-04-10..2026-04-10"],
            "{zone}"
        );
    }
}

#[test]
fn what_leaves_one_free_is_no_meeting_but_may_be_a_holiday() {
    let free = "UID:a\nSUMMARY:Boat Day\nTRANSP:TRANSPARENT\nDTSTART;VALUE=DATE:20260501";
    assert!(read(&[free]).is_empty());
    assert_eq!(
        said(&ical::read(&calendar(&[free]), BERLIN, window(), false).unwrap().occurrences),
        ["2026-05-01..2026-05-01"]
    );
}

#[test]
fn times_without_a_zone_are_the_workspaces_and_only_the_window_is_read() {
    let floating = "UID:a\nSUMMARY:x\nDTSTART:20260310T120000\nDTEND:20260310T130000";
    let long_gone = "UID:b\nSUMMARY:y\nDTSTART:20200101T120000Z\nDTEND:20200101T130000Z";
    let since_ever =
        "UID:c\nSUMMARY:z\nDTSTART:20200101T120000Z\nDTEND:20200101T123000Z\nRRULE:FREQ=MONTHLY;BYMONTHDAY=15";
    let found = said(&read(&[floating, long_gone, since_ever]));
    assert_eq!(found, ["2026-03-10 11:00 60", "2026-03-15 12:00 30", "2026-04-15 12:00 30", "2026-05-15 12:00 30"]);
}

#[test]
fn what_cannot_be_read_is_named_and_nothing_is_taken() {
    let good = "UID:a\nSUMMARY:Good\nDTSTART:20260310T120000Z\nDTEND:20260310T130000Z";
    for (bad, reason) in [
        (
            "UID:b\nSUMMARY:Nowhere\nDTSTART;TZID=Mars/Olympus:20260310T120000",
            "Nowhere: the time zone “Mars/Olympus” is not known",
        ),
        ("UID:b\nSUMMARY:Back\nDTSTART:20260310T120000Z\nDTEND:20260310T110000Z", "Back: it ends before it begins"),
        (
            "UID:b\nSUMMARY:Odd\nDTSTART:20260310T120000Z\nDURATION:PT1H\nRRULE:FREQ=OFTEN",
            "Odd: its recurrence cannot be read",
        ),
        ("UID:b\nSUMMARY:Never\nDTSTART:soon", "Never: “soon” is no date or time"),
        (
            "UID:b\nSUMMARY:Mad\nDTSTART:20260301T000000Z\nDURATION:PT1M\nRRULE:FREQ=MINUTELY",
            "Mad: it comes again every minute or second",
        ),
        (
            "UID:b\nSUMMARY:Busy\nDTSTART:20260301T000000Z\nDURATION:PT1M\nRRULE:FREQ=HOURLY",
            "Busy: it happens more than 1200 times",
        ),
        (
            "UID:b\nSUMMARY:Age\nDTSTART;VALUE=DATE:19700101\nDTEND;VALUE=DATE:20700101",
            "Age: it lasts for more than ten years",
        ),
        (
            "UID:b\nSUMMARY:Long\nDTSTART:20260310T120000Z\nDURATION:P94000000D",
            "Long: it lasts for more than ten years",
        ),
        (
            "UID:b\nSUMMARY:Long\nDTSTART:20260310T120000Z\nDURATION:P99999999W",
            "Long: it lasts for more than ten years",
        ),
        (
            "UID:b\nSUMMARY:Until\nDTSTART:20260310T120000Z\nDURATION:PT1H\nRRULE:FREQ=DAILY;UNTIL=2026010é",
            "Until: its recurrence cannot be read",
        ),
    ] {
        // The rest is taken; where nothing is left, nothing is.
        let found = ical::read(&calendar(&[good, bad]), BERLIN, window(), true).unwrap();
        assert_eq!((found.occurrences.len(), found.left_out, found.reasons.len()), (1, 1, 1));
        assert!(found.reasons[0].starts_with(reason), "{}", found.reasons[0]);
        assert_eq!(ical::read(&calendar(&[bad]), BERLIN, window(), true).unwrap_err().0, found.reasons);
    }
    assert!(ical::read("<html>", BERLIN, window(), true).unwrap_err().0[0].contains("no iCalendar file"));
}

/// A zone as office programs define it: the last Sundays of March and October.
const OFFICE_ZONE: &str = "BEGIN:VTIMEZONE\nTZID:Customized Time Zone\n\
    BEGIN:STANDARD\nDTSTART:16010101T030000\nTZOFFSETFROM:+0200\nTZOFFSETTO:+0100\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10\nEND:STANDARD\n\
    BEGIN:DAYLIGHT\nDTSTART:16010101T020000\nTZOFFSETFROM:+0100\nTZOFFSETTO:+0200\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=3\nEND:DAYLIGHT\n\
    END:VTIMEZONE\n";

#[test]
fn zones_are_known_by_every_name_that_programs_give_them() {
    let weekly = |zone: &str| {
        format!("UID:a\nSUMMARY:Round\nDTSTART;TZID={zone}:20260323T093000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=2")
    };
    // The clocks go forward in between.
    let expected = ["2026-03-23 08:30 60", "2026-03-30 07:30 60"];
    for zone in [
        "Europe/Berlin",
        "W. Europe Standard Time",
        "\"W. Europe Standard Time\"",
        "/freeassociation.sourceforge.net/Europe/Berlin",
        "/example.org/20260101_1/Europe/Berlin",
    ] {
        assert_eq!(said(&read(&[&weekly(zone)])), expected, "{zone}");
    }
    // One that the file defines, by its rules; and by the place it is of.
    let defined = |definition: &str, zone: &str| {
        let text = calendar(&[&weekly(zone)]);
        let text = text.replace("BEGIN:VEVENT", &format!("{}BEGIN:VEVENT", definition.replace('\n', "\r\n")));
        said(&ical::read(&text, chrono_tz::UTC, window(), true).unwrap().occurrences)
    };
    assert_eq!(defined(OFFICE_ZONE, "Customized Time Zone"), expected);
    let placed = "BEGIN:VTIMEZONE\nTZID:Home\nX-LIC-LOCATION:America/New_York\nEND:VTIMEZONE\n";
    assert_eq!(defined(placed, "Home"), ["2026-03-23 13:30 60", "2026-03-30 13:30 60"]);
    // Times without a zone are of the workspace's.
    let floating = "UID:a\nSUMMARY:Round\nDTSTART:20260323T093000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=2";
    assert_eq!(said(&read(&[floating])), expected);
}

#[test]
fn a_series_can_have_further_times_and_folded_lines() {
    let series = "UID:a\nSUMMARY:Round\nDTSTART;TZID=Europe/Berlin:20260302T090000\nDURATION:PT45M\nRRULE:FREQ=WEEKLY;COUNT=2\n\
         RDATE;TZID=Europe/Berlin:20260304T140000,20260306T140000\nRDATE:20260307T080000Z\nEXDATE:20260306T130000Z";
    assert_eq!(
        said(&read(&[series])),
        ["2026-03-02 08:00 45", "2026-03-04 13:00 45", "2026-03-07 08:00 45", "2026-03-09 08:00 45"]
    );
    let periods = "UID:b\nSUMMARY:Days\nDTSTART:20260302T090000Z\nDURATION:PT1H\n\
         RDATE;VALUE=PERIOD:20260305T090000Z/PT2H,20260306T090000Z/20260306T093000Z";
    assert_eq!(said(&read(&[periods])), ["2026-03-02 09:00 60", "2026-03-05 09:00 120", "2026-03-06 09:00 30"]);
    // Programs fold lines by bytes, also in the middle of a character.
    let text = calendar(&["UID:c\nSUMMARY:Ärger über Öl\nDTSTART:20260302T090000Z\nDURATION:PT1H"]);
    let at = text.find('Ö').unwrap() + 1;
    let folded = [&text.as_bytes()[..at], b"\r\n ", &text.as_bytes()[at..]].concat();
    let found = ical::read(&ical::unfolded(&folded), BERLIN, window(), true).unwrap();
    assert_eq!(found.occurrences[0].title, "Ärger über Öl");
    // What is changed for all that come after is not understood, and is said to be left out.
    let later = "UID:a\nSUMMARY:Round\nRECURRENCE-ID;RANGE=THISANDFUTURE:20260309T080000Z\nDTSTART:20260309T100000Z\nDURATION:PT45M";
    let found = ical::read(&calendar(&[series, later]), BERLIN, window(), true).unwrap();
    assert_eq!((found.occurrences.len(), found.left_out), (4, 1));
    assert!(found.reasons[0].contains("all that come after it"), "{:?}", found.reasons);
}

#[test]
fn two_meetings_in_the_hour_that_comes_twice_are_two_records() {
    let plan = demo();
    let teo = plan.person_by_email("teo@tidewater.test").unwrap().person.id;
    let window = (day("2026-10-01"), day("2026-10-31"));
    let events = ["00:15", "01:15"].map(|at| {
        let at = at.replace(':', "");
        format!("UID:n{at}\nSUMMARY:Night\nDTSTART:20261025T{at}00Z\nDURATION:PT30M")
    });
    let text = calendar(&events.each_ref().map(String::as_str));
    let found = ical::read(&text, BERLIN, window, true).unwrap().occurrences;
    let command = |plan: &Plan| snug_core::Command::ReadCalendar {
        name: "x".into(),
        changes: changes(plan, "feed-1", &Purpose::Meetings(teo), &found, window),
    };
    let settings = snug_core::settings::Settings { time_zone: "Europe/Berlin".into(), ..(*plan.settings).clone() };
    let mut plan = plan;
    plan.settings = std::sync::Arc::new(settings);
    let after = plan.with(&plan.decide(&command(&plan), day("2026-10-11")).unwrap());
    let taken = off(&after, teo);
    assert_eq!(taken.iter().map(|off| off.minutes).collect::<Vec<_>>(), [Some(30), Some(30)]);
    assert_eq!(snug_core::availability::minutes_in_part(&taken, window.0, window.1), 60, "none is lost");
    assert!(after.decide(&command(&after), day("2026-10-11")).unwrap().is_empty(), "read again, nothing changes");
}

fn demo() -> Plan {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    Plan::empty().with(&preview(&Plan::empty(), &csv::read_folder(&folder).unwrap()).changes)
}

fn off(plan: &Plan, person: PersonId) -> Vec<Absence> {
    plan.people[&person].absences.iter().filter(|off| off.reference.starts_with("feed-1:")).cloned().collect()
}

/// The plan after a calendar was read.
fn after(plan: &Plan, purpose: &Purpose, found: &[Occurrence]) -> Plan {
    let changes = changes(plan, "feed-1", purpose, found, window());
    let command = snug_core::Command::ReadCalendar { name: "x".into(), changes };
    plan.with(&plan.decide(&command, day("2026-03-11")).unwrap())
}

#[test]
fn meetings_take_their_time_and_a_second_reading_changes_what_has_changed() {
    let plan = demo();
    let teo = plan.person_by_email("teo@tidewater.test").unwrap().person.id;
    let weekly = "UID:a\nSUMMARY:Round\nDTSTART:20260309T090000Z\nDTEND:20260309T103000Z\nRRULE:FREQ=WEEKLY;COUNT=3";
    let other = "UID:b\nSUMMARY:Overlaps\nDTSTART:20260309T100000Z\nDTEND:20260309T110000Z";
    let purpose = Purpose::Meetings(teo);
    let first = after(&plan, &purpose, &read(&[weekly, other]));
    let minutes: Vec<Option<i32>> = off(&first, teo).iter().map(|off| off.minutes).collect();
    assert_eq!(minutes, [Some(120), Some(90), Some(90)], "the overlap counts once");
    let window_of = snug_core::demand::Window::new(day("2026-03-09"), day("2026-03-15"), day("2026-03-09"));
    let limit = |plan: &Plan| {
        let load = snug_core::demand::person_load(plan, &plan.people[&teo], &window_of, false);
        load.days.available.iter().sum::<i32>()
    };
    assert_eq!(limit(&plan) - limit(&first), 120);
    // The same meeting in another calendar of the person is the same time; what is longer there adds what is longer.
    let longer = "UID:z\nSUMMARY:Round\nDTSTART:20260309T090000Z\nDTEND:20260309T111500Z";
    let shared = changes(&first, "feed-2", &purpose, &read(&[weekly, longer]), window());
    let command = snug_core::Command::ReadCalendar { name: "y".into(), changes: shared };
    let both = first.with(&first.decide(&command, day("2026-03-11")).unwrap());
    assert_eq!(limit(&plan) - limit(&both), 135);
    // The same again changes nothing; what is gone goes, and nothing else does.
    assert!(changes(&first, "feed-1", &purpose, &read(&[weekly, other]), window()).is_empty());
    let second = after(&first, &purpose, &read(&[other]));
    assert_eq!(off(&second, teo).len(), 1);
    let others = |plan: &Plan| plan.people.values().map(|entry| entry.absences.len()).sum::<usize>();
    assert_eq!(others(&second), others(&plan) + 1);
}

#[test]
fn a_holiday_calendar_holds_what_its_source_says() {
    let plan = demo();
    let purpose = Purpose::Holidays("harbour".into());
    let found =
        ical::read(&calendar(&["UID:a\nSUMMARY:Boat Day\nDTSTART;VALUE=DATE:20260504"]), BERLIN, window(), false)
            .unwrap()
            .occurrences;
    let next = after(&plan, &purpose, &found);
    let names = |plan: &Plan| -> Vec<String> {
        let inside = plan.calendars["harbour"].holidays.iter().filter(|h| (window().0..=window().1).contains(&h.date));
        inside.map(|holiday| holiday.name.clone()).collect()
    };
    assert!(names(&plan).contains(&"Spring Monday".to_owned()));
    assert_eq!(names(&next), ["Boat Day"]);
    assert!(next.calendars["harbour"].holidays.len() > 1, "days outside the window stay");
}

#[test]
fn what_goes_out_as_a_calendar_comes_in_again() {
    let plan = demo();
    let oona = plan.person_by_email("oona@tidewater.test").unwrap();
    let text =
        ical::of_person(&plan, oona.person.id, day("2026-01-01"), "2026-03-11T12:00:00Z".parse().unwrap()).unwrap();
    let found = ical::read(&text, BERLIN, (day("2026-01-01"), day("2026-12-31")), false).unwrap().occurrences;
    for row in oona.bookings() {
        let same = found.iter().find(|o| o.uid == format!("booking-{}@snug-roster", row.id)).unwrap();
        assert_eq!(same.when, When::Days(row.brick.start, row.brick.end));
    }
    assert!(text.lines().all(|line| line.trim_end().len() <= 75), "lines are folded as the format asks");
    assert!(text.contains("STATUS:TENTATIVE"), "what is pencilled is tentative");
}

/// A series: its first day as days after 2026-01-05, a Monday; hour; minutes; every how many weeks; on which weekdays besides its
/// first; how often, or until how many days later; which of its times are left out, by their place; whether of whole days.
type Series = (i32, u32, i64, i32, Vec<usize>, Result<usize, i32>, Vec<usize>, bool);

fn series() -> impl Strategy<Value = Series> {
    let end = prop_oneof![(1usize..40).prop_map(Ok), (0i32..160).prop_map(Err)];
    let (days, left_out) = (prop::collection::vec(0usize..7, 0..3), prop::collection::vec(0usize..20, 0..4));
    (0i32..90, 0u32..24, 0i64..180, 1i32..4, days, end, left_out, prop::bool::ANY)
}

/// Every day on which a series happens, by going through the days one by one.
fn plain_days((first, _, _, weeks, more, end, ..): &Series) -> Vec<Day> {
    let monday = day("2026-01-05");
    let first = monday + *first;
    let last = end.map_or_else(|days| first + days, |_| first + 2_000);
    let on = |day: &Day| day.weekday() == first.weekday() || more.contains(&day.weekday());
    let in_turn = |day: &Day| (day.monday().since(first.monday()) / 7) % weeks == 0;
    first.through(last).filter(on).filter(in_turn).take(end.unwrap_or(usize::MAX)).collect()
}

proptest! {
    /// A weekly series against a plain walk through the days, over a change of the clocks, with times that are left out.
    #[test]
    fn a_series_happens_when_a_walk_through_the_days_says(series in series()) {
        let days = plain_days(&series);
        let (first, hour, minutes, weeks, more, end, left_out, whole) = series;
        let first = day("2026-01-05") + first;
        let stamp = |at: Day| {
            let date = at.date().format("%Y%m%d");
            if whole { date.to_string() } else { format!("{date}T{hour:02}1500") }
        };
        let of = if whole { ";VALUE=DATE" } else { ";TZID=Europe/Berlin" };
        let names = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];
        let on: Vec<&str> = more.iter().chain([&first.weekday()]).map(|at| names[*at]).collect();
        let end = match end {
            Ok(times) => format!("COUNT={times}"),
            Err(after) => format!("UNTIL={}", (first + after).date().format("%Y%m%d")),
        };
        let gone: Vec<Day> = left_out.iter().filter_map(|at| days.get(*at)).copied().collect();
        let mut exceptions = String::new();
        for at in &gone {
            exceptions = exceptions + "\nEXDATE" + of + ":" + &stamp(*at);
        }
        let length = if whole { "P1D".to_owned() } else { format!("PT{minutes}M") };
        let event = format!(
            "UID:a\nSUMMARY:x\nDTSTART{of}:{}\nDURATION:{length}\nRRULE:FREQ=WEEKLY;INTERVAL={weeks};BYDAY={};{end}{exceptions}",
            stamp(first), on.join(",")
        );
        let found = said(&read(&[&event]));
        let mut expected = Vec::new();
        for at in days.iter().filter(|at| !gone.contains(at)) {
            let begin = BERLIN.from_local_datetime(&at.date().and_hms_opt(hour, 15, 0).unwrap());
            // An hour that does not come on the night when the clocks go forward is another test's.
            let begin = begin.earliest().map(|begin| begin.to_utc());
            prop_assume!(whole || begin.is_some());
            let end = begin.map(|begin| begin + chrono::Duration::minutes(minutes));
            let midnight = |at: Day| BERLIN.from_local_datetime(&at.date().and_hms_opt(0, 0, 0).unwrap()).unwrap().to_utc();
            let (from, to) = (midnight(window().0), midnight(window().1 + 1));
            if whole && (window().0..=window().1).contains(at) {
                expected.push(format!("{at}..{at}"));
            } else if !whole && end > Some(from) && begin < Some(to) {
                expected.push(format!("{} {minutes}", begin.unwrap().format("%Y-%m-%d %H:%M")));
            }
        }
        expected.sort();
        prop_assert_eq!(found, expected, "{}", event);
    }

    /// Whatever bytes come, the reader answers.
    #[test]
    fn no_text_breaks_the_reader(text in ".{0,400}", rule in "[A-Z=;,0-9]{0,40}") {
        let _ = ical::read(&text, BERLIN, window(), true);
        let event = format!("UID:a\nSUMMARY:x\nDTSTART:20260302T090000Z\nDURATION:PT45M\nRRULE:{rule}");
        let _ = ical::read(&calendar(&[&event]), BERLIN, window(), true);
    }
}

proptest! {
    // Some of these are read for as long as a file may be.
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// Whatever rules and lengths come, the reader answers, and soon.
    #[test]
    fn no_hostile_event_holds_the_reader_up(
        freq in prop::sample::select(vec!["SECONDLY", "MINUTELY", "HOURLY", "DAILY", "WEEKLY", "MONTHLY", "YEARLY"]),
        by in prop::sample::select(vec!["", ";BYSECOND=0,1,2,3", ";BYHOUR=1,2;BYMINUTE=0,30", ";BYMONTH=2;BYMONTHDAY=30", ";BYDAY=MO,TU"]),
        until in prop::sample::select(vec!["", ";UNTIL=2026010é", ";UNTIL=99991231T235959Z", ";COUNT=99999999"]),
        begins in prop::sample::select(vec!["19700101T000000Z", "16010101T000000Z", "20260302T090000Z", "99991231T235959Z"]),
        length in prop::sample::select(vec!["PT1S", "P94000000D", "P99999999W", "P4294967295W", "P9999Y", "P3660D", "PT0S"]),
    ) {
        let begun = std::time::Instant::now();
        let event = format!("UID:a\nSUMMARY:x\nDTSTART:{begins}\nDURATION:{length}\nRRULE:FREQ={freq}{by}{until}");
        if let Ok(found) = ical::read(&calendar(&[&event]), BERLIN, window(), true) {
            let found = found.occurrences;
            prop_assert!(found.len() <= 1_200);
            let plan = demo();
            let changes = changes(&plan, "file-x", &Purpose::Meetings(PersonId(1)), &found, window());
            prop_assert!(changes.len() < 5_000);
        }
        prop_assert!(begun.elapsed().as_secs() < 60, "{event}");
    }
}
