//! The side sheet: what a cell is made of, and the forms that change it.

use super::{query::FitQuery, strata};
use crate::words;
use askama::Template;
use snug_core::{
    Day, PersonId, Plan, ProjectId,
    cells::{Bucket, Grain},
    load::PersonCells,
    plan::Entry,
    work::{Booking, Certainty, ProjectStatus, Unit},
};

/// One project in the cell.
pub struct Part {
    pub hue: usize,
    pub hold: bool,
    pub name: String,
    pub hours: String,
    pub inside: Vec<String>,
}

/// A booking with the form that changes it.
pub struct BookingForm {
    pub seen: String,
    pub id: i32,
    pub hue: usize,
    pub hold: bool,
    pub title: String,
    pub summary: String,
    pub person: i32,
    pub project: Option<i32>,
    pub start: String,
    pub end: String,
    pub amount: String,
    pub unit: &'static str,
    pub pencilled: bool,
    pub days_off: bool,
    pub note: String,
}

impl BookingForm {
    fn is_for(&self, project: i32) -> bool {
        self.project == Some(project)
    }
}

/// Somebody or something that a form can choose.
pub struct Choice {
    pub id: i32,
    pub name: String,
}

#[derive(Template)]
#[template(path = "fit/sheet.html")]
pub struct SheetView {
    pub name: String,
    pub when: String,
    pub sentence: String,
    pub over: bool,
    pub parts: Vec<Part>,
    pub limit_name: String,
    pub limit: String,
    pub result_name: String,
    pub result: String,
    pub remarks: Vec<String>,
    pub bookings: Vec<BookingForm>,
    pub fresh: BookingForm,
    pub projects: Vec<Choice>,
    pub people: Vec<Choice>,
    pub units: &'static [Unit],
    pub may_book: bool,
    pub back: String,
    pub close: String,
}

/// The sheet of the selected cell, if one is selected.
pub fn view(plan: &Plan, query: &FitQuery, may_book: bool) -> Option<SheetView> {
    let entry = plan.people.get(&PersonId(query.person?))?;
    let window = query.window();
    let grain = if query.by_day { Grain::Day } else { Grain::Week };
    let at = query.at.filter(|day| (window.from..=window.to).contains(day)).unwrap_or(window.from);
    let bucket = grain.buckets(window.from, window.to, &plan.settings).into_iter().rev().find(|b| b.from <= at)?;
    let cells = PersonCells::of(plan, entry, &window, grain, true);
    let cell = cells.cell(bucket);
    let mark = plan.settings.snug_mark;
    let over = cell.spill > 0 || cell.peak > 0;
    let (result_name, result) = if over {
        let worst = worst_days(&cells, bucket);
        (format!("Spill{worst}"), format!("+{}", words::hours(cell.spill.max(cell.peak))))
    } else {
        ("Room".to_owned(), words::hours(cell.room))
    };
    let when = if query.by_day {
        words::weekday(bucket.from, plan.settings.date_order)
    } else {
        format!("week of {}", words::day(bucket.from, plan.settings.date_order))
    };
    Some(SheetView {
        name: entry.person.name.clone(),
        when,
        sentence: words::sentence(&cell, mark),
        over,
        parts: parts(plan, &cells, bucket),
        limit_name: limit_name(entry, query.by_day),
        limit: words::hours(cell.limit.unwrap_or(0)),
        result_name,
        result,
        remarks: remarks(plan, entry, &cells, bucket),
        bookings: bookings(plan, entry, &cells, bucket),
        fresh: fresh(entry, bucket),
        projects: projects(plan),
        people: people(plan),
        units: Unit::ALL,
        may_book,
        back: query.href("/fit"),
        close: FitQuery { person: None, at: None, ..query.clone() }.href("/fit"),
    })
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
    let above = |at: usize| load.load[at] - load.days.limit[at];
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

fn parts(plan: &Plan, cells: &PersonCells<'_>, bucket: Bucket) -> Vec<Part> {
    let load = &cells.load;
    let range = load.days.indexes(bucket.from, bucket.to);
    let sum = |of: &[i32]| of[range.clone()].iter().map(|minutes| i64::from(*minutes)).sum::<i64>();
    let mut parts: Vec<(i64, Part)> = Vec::new();
    for slot in &load.slots {
        let minutes = sum(&slot.load);
        if minutes == 0 {
            continue;
        }
        let project = slot.project.and_then(|id| plan.projects.get(&id));
        let tasks = load.tasks.iter().filter(|part| slot.project.is_some_and(|id| fills(plan, part.project, id)));
        let inside = tasks.filter_map(|part| {
            let minutes = sum(&part.minutes);
            let task = plan.tasks.get(&part.task)?;
            let late = if part.late { ", late" } else { "" };
            (minutes > 0).then(|| format!("{} · {}{late}", task.title, words::hours(minutes)))
        });
        let pencilled = minutes - sum(&slot.firm);
        let mut inside: Vec<String> = inside.collect();
        if pencilled > 0 {
            inside.insert(0, format!("{} of it pencilled", words::hours(pencilled)));
        }
        let part = Part {
            hue: slot.project.map_or(0, |id| strata::hue(plan, id)),
            hold: project.is_none(),
            name: project.map_or_else(|| "Hold".to_owned(), |project| project.name.clone()),
            hours: words::hours(minutes),
            inside,
        };
        parts.push((minutes, part));
    }
    parts.sort_by_key(|(minutes, part)| (-minutes, part.name.clone()));
    parts.into_iter().map(|(_, part)| part).collect()
}

/// Whether a task of one project stands under another: its own, or one above it.
fn fills(plan: &Plan, task: ProjectId, project: ProjectId) -> bool {
    plan.project_line(task).any(|above| above.id == project)
}

/// What lowers the limit, and what lands where it should not.
fn remarks(plan: &Plan, entry: &Entry, cells: &PersonCells<'_>, bucket: Bucket) -> Vec<String> {
    let load = &cells.load;
    let mut found = Vec::new();
    for (day, _) in plan.holidays_of(&entry.person).iter().filter(|(day, _)| (bucket.from..=bucket.to).contains(day)) {
        let calendar = plan.calendars.get(&entry.person.calendar);
        let name = calendar.and_then(|calendar| calendar.holidays.iter().find(|holiday| holiday.date == *day));
        let name = name.map_or("Holiday", |holiday| holiday.name.as_str());
        found.push(format!("{}: {name}", words::weekday(*day, plan.settings.date_order)));
    }
    for absence in entry.absences.iter().filter(|absence| absence.start <= bucket.to && absence.end >= bucket.from) {
        let what = if absence.kind.is_empty() { "Time off" } else { &absence.kind };
        let much = absence.minutes.map(|m| format!(", {} a day", words::hours(i64::from(m)))).unwrap_or_default();
        found.push(format!("{what}, {}{much}", words::range(absence.start, absence.end, plan.settings.date_order)));
    }
    for row in entry.bookings.iter().filter(|row| load.stranded.contains(&row.id)) {
        let what = words::amount(row.amount);
        found.push(format!(
            "A booking of {what} from {} finds no working day to land on",
            words::day(row.start, plan.settings.date_order)
        ));
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

fn bookings(plan: &Plan, entry: &Entry, cells: &PersonCells<'_>, bucket: Bucket) -> Vec<BookingForm> {
    let range = cells.load.days.indexes(bucket.from, bucket.to);
    let booked = strata::booked(plan, entry, &cells.load);
    let touching = booked.into_iter().filter(|(b, _)| b.start <= bucket.to && b.end >= bucket.from);
    let form = |(booking, minutes): (Booking, Vec<i32>)| {
        let here: i64 = minutes[range.clone()].iter().map(|minutes| i64::from(*minutes)).sum();
        let project = booking.project.and_then(|id| plan.projects.get(&id));
        BookingForm {
            seen: serde_json::to_string(&booking).unwrap_or_default(),
            id: booking.id.0,
            hue: booking.project.map_or(0, |id| strata::hue(plan, id)),
            hold: booking.project.is_none(),
            title: project.map_or_else(|| "Hold".to_owned(), |project| project.name.clone()),
            summary: format!(
                "{} · {} · {} here",
                words::amount(booking.amount),
                words::range(booking.start, booking.end, plan.settings.date_order),
                words::hours(here)
            ),
            person: entry.person.id.0,
            project: booking.project.map(|id| id.0),
            start: booking.start.to_string(),
            end: booking.end.to_string(),
            amount: snug_exchange::csv::amount_text(booking.amount),
            unit: booking.amount.unit.as_str(),
            pencilled: booking.certainty == Certainty::Pencilled,
            days_off: booking.days_off,
            note: booking.note,
        }
    };
    touching.map(form).collect()
}

fn fresh(entry: &Entry, bucket: Bucket) -> BookingForm {
    let text = |day: Day| day.to_string();
    BookingForm {
        seen: String::new(),
        id: 0,
        hue: 0,
        hold: false,
        title: "Book time".to_owned(),
        summary: String::new(),
        person: entry.person.id.0,
        project: None,
        start: text(bucket.from),
        end: text(bucket.to),
        amount: String::new(),
        unit: Unit::PerDay.as_str(),
        pencilled: false,
        days_off: false,
        note: String::new(),
    }
}

fn projects(plan: &Plan) -> Vec<Choice> {
    let open = plan.projects.values().filter(|project| project.status != ProjectStatus::Closed);
    let mut list: Vec<Choice> = open.map(|project| Choice { id: project.id.0, name: project.name.clone() }).collect();
    list.sort_by_key(|choice| choice.name.to_lowercase());
    list
}

/// The most people a form offers by name; beyond that a booking changes hands by drag or in a filtered room.
const MOST_PEOPLE: usize = 300;

fn people(plan: &Plan) -> Vec<Choice> {
    if plan.people.len() > MOST_PEOPLE {
        return Vec::new();
    }
    let all = plan.people.values().map(|entry| &entry.person);
    let mut list: Vec<Choice> = all.map(|person| Choice { id: person.id.0, name: person.name.clone() }).collect();
    list.sort_by_key(|choice| choice.name.to_lowercase());
    list
}
