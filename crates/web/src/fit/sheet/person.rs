//! The side sheet of somebody's cell: what it is made of, and what could be done.

use crate::{
    fit::{
        address::{query::FitQuery, zoom::named},
        even::Asked,
        names::project_name,
        picture::{
            figures,
            palette::Palette,
            person::{self as row, tasks_inside},
        },
        sheet::{
            form::{BookingForm, Choices, form_of, fresh},
            ways::{self as options, Ways},
        },
    },
    words,
};
use askama::Template;
use snug_core::{
    Day, Eyes, Plan,
    availability::minutes_in_part,
    by_day::ByDay,
    cells::{Bucket, Grain},
    demand::landed,
    kinds::{Absence, Booking, Certainty, Task, Unit, Who},
    load::{Groups, PersonCells, made_of},
    plan::{BookingRow, Entry},
};
use std::collections::BTreeMap;

/// The most stretches of time off of one kind that are named one by one.
const MOST_NAMED: usize = 4;

/// One project in the cell.
pub struct SheetPart {
    pub hue: usize,
    pub hold: bool,
    pub name: String,
    pub hours: String,
    pub inside: Vec<String>,
}

/// The figure of a measure that counts something else than minutes.
pub struct Count {
    pub name: String,
    pub figure: String,
    pub over: bool,
    pub inside: Vec<String>,
}

#[derive(Template)]
#[template(path = "fit/sheet/person.html")]
pub struct SheetView {
    pub name: String,
    pub when: String,
    pub sentence: String,
    pub over: bool,
    /// Where their weeks that are in view are evened out.
    pub even_out: String,
    pub parts: Vec<SheetPart>,
    /// The figure of a measure that counts, and what it counts.
    pub count: Option<Count>,
    pub limit_name: String,
    pub limit: String,
    pub result_name: String,
    pub result: String,
    /// What was logged on past days of the cell; nothing where there are none, or where it is not seen.
    pub worked: Option<String>,
    pub remarks: Vec<String>,
    pub ways: Option<Ways>,
    pub bookings: Vec<BookingForm>,
    pub fresh: BookingForm,
    pub choices: Choices,
    pub units: &'static [Unit],
    pub may_book: bool,
    pub back: String,
    pub close: String,
}

/// The sheet of the selected cell, if one is selected.
pub fn view(eyes: &Eyes<'_>, query: &FitQuery, may_book: bool) -> Option<SheetView> {
    let plan = eyes.plan;
    let entry = plan.people.get(&query.person_id()?)?;
    let window = query.window();
    let at = query.at.filter(|day| (window.from..=window.to).contains(day)).unwrap_or(window.from);
    let bucket = query.buckets.iter().copied().rev().find(|b| b.from <= at)?;
    let palette = Palette::new(plan, query.colour, query.project);
    let cells = PersonCells::of(plan, entry, &window, query.zoom, true);
    let cell = cells.cell(bucket);
    let mark = plan.settings.snug_mark;
    let over = cell.spill > 0 || cell.peak > 0;
    let (result_name, result) = if over {
        let worst = worst_days(&cells, bucket);
        (format!("Spill{worst}"), format!("+{}", words::hours(cell.spill.max(cell.peak))))
    } else {
        ("Room".to_owned(), words::hours(cell.room))
    };
    let booked = row::booked(plan, entry, &cells.load, query);
    let range = cells.load.days.indexes(bucket.from, bucket.to);
    let here = |minutes: &ByDay| minutes.sum(range.clone());
    let first = options::first_to_go(&booked, &here).filter(|_| over && may_book);
    let ways = first.map(|booking| options::ways(plan, booking, bucket, &cells, query.zoom, query.today));
    Some(SheetView {
        name: entry.person.name.clone(),
        when: named(query.zoom, bucket, query.order),
        sentence: words::sentence(&cell, mark),
        over,
        even_out: Asked::in_fit(query, &[entry.person.id.0]).address(),
        parts: parts(plan, &cells, bucket, &palette),
        count: count(plan, entry, bucket, query),
        limit_name: limit_name(entry, query.zoom == Grain::Day),
        limit: words::hours(cell.limit.unwrap_or(0)),
        result_name,
        result,
        worked: worked(eyes, entry, bucket, query.today),
        remarks: remarks(eyes, entry, &cells, bucket),
        ways,
        bookings: bookings(plan, entry, booked, bucket, &here, query, &palette),
        fresh: fresh(plan, entry.person.id.0, String::new(), bucket, query.project),
        choices: Choices::of(plan),
        units: Unit::ALL,
        may_book,
        back: query.href("/fit"),
        close: query.unselected().href("/fit"),
    })
}

/// What a measure that counts something else than minutes says of the cell.
fn count(plan: &Plan, entry: &Entry, bucket: Bucket, query: &FitQuery) -> Option<Count> {
    let groups = Groups::for_one(plan, query.load());
    let made = made_of(&groups, entry, bucket)?;
    let most = made.day.map(|day| format!("most on {}", words::weekday(day, query.order)));
    let task = |(task, size): &(&Task, Option<i64>)| match size {
        Some(size) => format!("{} · {}", task.title, figures::figure(*size, query.measure)),
        None => task.title.clone(),
    };
    Some(Count {
        name: words::capital(&figures::counts(query)),
        figure: figures::label(&made.cell, query, plan.settings.snug_mark),
        over: made.cell.spill > 0,
        inside: most.into_iter().chain(made.tasks.iter().map(task)).collect(),
    })
}

fn worked(eyes: &Eyes<'_>, entry: &Entry, bucket: Bucket, today: Day) -> Option<String> {
    let person = entry.person.id;
    let is_told = bucket.from < today && eyes.knows(person);
    let log = eyes.plan.log_of(person, bucket.from, bucket.to.min(today - 1));
    is_told.then(|| words::hours(log.iter().map(|row| i64::from(row.minutes)).sum()))
}

fn limit_name(entry: &Entry, by_day: bool) -> String {
    match (by_day, entry.person.day_limit, entry.person.week_limit) {
        (true, Some(most), _) => format!("Limit, at most {} a day", words::hours(i64::from(most))),
        (false, _, Some(most)) => format!("Limit, at most {} a week", words::hours(i64::from(most))),
        _ => "Limit".to_owned(),
    }
}

/// `, most on Tue and Wed`: the days that stand furthest above the limit.
fn worst_days(cells: &PersonCells<'_>, bucket: Bucket) -> String {
    let load = &cells.load;
    let range = load.days.indexes(bucket.from, bucket.to);
    let above = |at: usize| load.load[at] - load.days.limit()[at];
    let most = range.clone().map(above).max().unwrap_or(0);
    let worst: Vec<String> = range
        .filter(|at| most > 0 && above(*at) == most)
        .map(|at| load.days.day(at).date().format("%a").to_string())
        .collect();
    match worst.as_slice() {
        [] => String::new(),
        [one] => format!(", most on {one}"),
        [first, last] => format!(", most on {first} and {last}"),
        [first, .., last] => format!(", most from {first} to {last}"),
    }
}

fn parts(plan: &Plan, cells: &PersonCells<'_>, bucket: Bucket, palette: &Palette<'_>) -> Vec<SheetPart> {
    let load = &cells.load;
    let range = load.days.indexes(bucket.from, bucket.to);
    let sum = |of: &ByDay| of.sum(range.clone());
    let mut parts: Vec<(i64, SheetPart)> = Vec::new();
    for slot in &load.slots {
        let minutes = sum(&slot.load);
        if minutes == 0 {
            continue;
        }
        let pencilled = minutes - sum(&slot.firm);
        let mut inside = slot.project.map(|id| tasks_inside(plan, load, id, &sum)).unwrap_or_default();
        if pencilled > 0 {
            inside.insert(0, format!("{} of it pencilled", words::hours(pencilled)));
        }
        let part = SheetPart {
            hue: palette.of_booking(slot.project, Certainty::Firm),
            hold: slot.project.is_none(),
            name: project_name(plan, slot.project),
            hours: words::hours(minutes),
            inside,
        };
        parts.push((minutes, part));
    }
    parts.sort_by_key(|(minutes, part)| (-minutes, part.name.clone()));
    parts.into_iter().map(|(_, part)| part).collect()
}

/// What lowers the limit, and what lands where it should not.
fn remarks(eyes: &Eyes<'_>, entry: &Entry, cells: &PersonCells<'_>, bucket: Bucket) -> Vec<String> {
    let (plan, load) = (eyes.plan, &cells.load);
    let mut found = Vec::new();
    for (day, _) in plan.holidays_of(&entry.person).iter().filter(|(day, _)| (bucket.from..=bucket.to).contains(day)) {
        let calendar = plan.calendars.get(&entry.person.calendar);
        let name = calendar.and_then(|calendar| calendar.holidays.iter().find(|holiday| holiday.date == *day));
        let name = name.map_or("Holiday", |holiday| holiday.name.as_str());
        found.push(format!("{}: {name}", words::weekday(*day, plan.settings.date_order)));
    }
    let mut kinds: BTreeMap<&str, Vec<&Absence>> = BTreeMap::new();
    for off in entry.absences.iter().filter(|off| off.start <= bucket.to && off.end >= bucket.from) {
        let kind = if eyes.knows(entry.person.id) { off.kind.as_str() } else { "" };
        kinds.entry(kind).or_default().push(off);
    }
    for (kind, of_kind) in kinds {
        let what = if kind.is_empty() { "Time off".to_owned() } else { words::capital(kind) };
        // Many meetings are a sum; few are named one by one.
        let (timed, mut named): (Vec<&Absence>, Vec<_>) = of_kind.into_iter().partition(|off| off.at.is_some());
        let mut sum = None;
        if timed.len() > MOST_NAMED {
            let minutes = minutes_in_part(timed.iter().copied(), bucket.from, bucket.to);
            sum = Some(format!("{what}, {} times: {}", timed.len(), words::hours(minutes)));
        } else {
            named.extend(timed);
        }
        found.extend(named.iter().map(|off| format!("{what}, {}", words::time_off(off, plan.settings.date_order))));
        found.extend(sum);
    }
    for meeting in entry.meetings.iter() {
        let times = meeting.days().filter(|day| (bucket.from..=bucket.to).contains(day)).count();
        if times > 0 {
            let often = if times > 1 { format!(", {times} times") } else { String::new() };
            found.push(format!("{}, {}{often}", meeting.title, words::hours(meeting.minutes.into())));
        }
    }
    let touching = |row: &BookingRow<'_>| row.brick.touches(bucket.from, bucket.to);
    for row in entry.bookings().filter(touching) {
        let booking = row.booking(Who::Person(entry.person.id));
        let (_, _, landing) = landed(plan, &booking);
        let (what, from) = (words::amount(booking.amount), words::day(booking.start, plan.settings.date_order));
        if landing.stranded {
            found.push(format!("A booking of {what} from {from} finds no working day to land on"));
        }
        if landing.lost > 0 {
            found.push(format!("A booking of {what} from {from} loses {} to time off", words::hours(landing.lost)));
        }
    }
    for at in load.days.indexes(bucket.from, bucket.to) {
        if load.days.available[at] == 0 && load.load[at] > 0 {
            found.push(format!(
                "{} is a day off, and work lands on it",
                words::weekday(load.days.day(at), plan.settings.date_order)
            ));
        }
    }
    found
}

fn bookings(
    plan: &Plan,
    entry: &Entry,
    booked: Vec<(Booking, ByDay)>,
    bucket: Bucket,
    here: &dyn Fn(&ByDay) -> i64,
    query: &FitQuery,
    palette: &Palette<'_>,
) -> Vec<BookingForm> {
    let touching = booked.into_iter().filter(|(b, _)| b.start <= bucket.to && b.end >= bucket.from);
    let form = |(booking, minutes): (Booking, ByDay)| {
        let summary = format!(
            "{} · {} · {} here",
            words::amount(booking.amount),
            words::range(booking.start, booking.end, query.order),
            words::hours(here(&minutes))
        );
        form_of(plan, &booking, entry.person.id.0, summary, bucket, query, palette)
    };
    touching.map(form).collect()
}
