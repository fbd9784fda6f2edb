//! iCalendar (RFC 5545), in and out.
//!
//! Out: what is booked for somebody, their tasks, and milestones, as all-day events.

mod read;
mod recurring;
mod zones;

pub use read::{Occurrence, Said, Unreadable, When, read, unfolded};

use chrono::{DateTime, Utc};
use icalendar::{Calendar, Component as _, Event, EventLike as _};
use snug_core::{
    Day, PersonId, Plan,
    kinds::{Booking, Certainty, Who},
};

/// A person's bookings, placed tasks and the milestones of their projects, as long as they are not over before `from`. `now` is the
/// time stamp of the file.
#[must_use]
pub fn of_person(plan: &Plan, id: PersonId, from: Day, now: DateTime<Utc>) -> Option<String> {
    let entry = plan.people.get(&id)?;
    let mut calendar = Calendar::new();
    calendar.name(&format!("{} · {}", entry.person.name, plan.settings.name));
    let mut put = |uid: String, title: &str, (start, end): (Day, Day), says: &str, tentative: bool| {
        let mut event = Event::new();
        // The end of an all-day event is the day after its last.
        event.uid(&uid).summary(title).starts(start.date()).ends((end + 1).date()).timestamp(now);
        if !says.is_empty() {
            event.description(says);
        }
        if tentative {
            event.status(icalendar::EventStatus::Tentative);
        }
        // A plan does not block the calendar of whoever subscribes to it.
        event.add_property("TRANSP", "TRANSPARENT");
        calendar.push(event.done());
    };
    let mut projects = Vec::new();
    for row in entry.bookings().filter(|row| row.brick.end >= from) {
        let booking = row.booking(Who::Person(id));
        projects.extend(booking.project);
        let uid = format!("booking-{}@snug-roster", booking.id);
        put(
            uid,
            &title(plan, &booking),
            (booking.start, booking.end),
            &booking.note,
            booking.certainty == Certainty::Pencilled,
        );
    }
    for task in entry.tasks.iter().filter_map(|task| plan.tasks.get(task)).filter(|task| !task.is_done()) {
        let Some(days) = task.start.zip(task.finish).filter(|(_, finish)| *finish >= from) else { continue };
        let project = plan.records.projects.get(&task.project).map_or("", |project| project.name.as_str());
        put(format!("task-{}@snug-roster", task.id), &format!("{} ({project})", task.title), days, "", false);
        projects.push(task.project);
    }
    for milestone in plan.records.milestones.values().filter(|milestone| milestone.date >= from) {
        if milestone.projects.is_empty() || milestone.projects.iter().any(|id| projects.contains(id)) {
            let uid = format!("milestone-{}@snug-roster", milestone.id);
            put(uid, &milestone.name, (milestone.date, milestone.date), "", false);
        }
    }
    Some(calendar.done().to_string())
}

/// `Moon Garden, 6 h a day`.
fn title(plan: &Plan, booking: &Booking) -> String {
    let project =
        booking.project.and_then(|id| plan.records.projects.get(&id)).map_or("Hold", |project| project.name.as_str());
    let unit = match booking.amount.unit {
        snug_core::kinds::Unit::PerDay => " h a day",
        snug_core::kinds::Unit::PerWeek => " h a week",
        snug_core::kinds::Unit::Total => " h in all",
        snug_core::kinds::Unit::Percent => " %",
    };
    format!("{project}, {}{unit}", snug_core::cell::amount_text(booking.amount))
}
