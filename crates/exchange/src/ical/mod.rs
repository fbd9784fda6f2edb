//! iCalendar (RFC 5545), in and out.
//!
//! Out: what is booked for somebody, tasks and milestones as all-day events, and meetings of projects at their time.

mod read;
mod recurring;
mod zones;

pub use read::{Occurrence, Said, Unreadable, When, read, unfolded};

use chrono::{DateTime, TimeDelta, TimeZone as _, Utc};
use chrono_tz::Tz;
use icalendar::{Calendar, Component as _, Event, EventLike as _};
use snug_core::{
    Day, PersonId, Plan, ProjectId,
    demand::is_parent,
    kinds::{Booking, Certainty, Meeting, Milestone, Task, Who},
};
use std::collections::BTreeSet;

/// A calendar while it is written.
struct Written {
    calendar: Calendar,
    now: DateTime<Utc>,
}

impl Written {
    fn new(name: &str, now: DateTime<Utc>) -> Self {
        let mut calendar = Calendar::new();
        calendar.name(name);
        Self { calendar, now }
    }

    fn put(&mut self, uid: &str, title: &str, (start, end): (Day, Day), says: &str, tentative: bool) {
        let mut event = Event::new();
        // The end of an all-day event is the day after its last.
        event.uid(uid).summary(title).starts(start.date()).ends((end + 1).date()).timestamp(self.now);
        if !says.is_empty() {
            event.description(says);
        }
        if tentative {
            event.status(icalendar::EventStatus::Tentative);
        }
        // A plan does not block the calendar of whoever subscribes to it.
        event.add_property("TRANSP", "TRANSPARENT");
        self.calendar.push(event.done());
    }

    fn task(&mut self, plan: &Plan, task: &Task, days: (Day, Day)) {
        let project = plan.records.projects.get(&task.project).map_or("", |project| project.name.as_str());
        self.put(&format!("task-{}@snug-roster", task.id), &format!("{} ({project})", task.title), days, "", false);
    }

    fn milestone(&mut self, milestone: &Milestone) {
        let uid = format!("milestone-{}@snug-roster", milestone.id);
        self.put(&uid, &milestone.name, (milestone.date, milestone.date), "", false);
    }

    /// A meeting on each of its days from `from` on, for half a year, at its time in the workspace's zone. These do take one's time.
    fn meeting(&mut self, plan: &Plan, meeting: &Meeting, from: Day) {
        let zone: Tz = plan.settings.time_zone.parse().unwrap_or(Tz::UTC);
        for day in meeting.days().filter(|day| (from..from + 183).contains(day)) {
            let midnight = day.date().and_hms_opt(0, 0, 0).unwrap_or_default();
            let begins = midnight + TimeDelta::minutes(meeting.at.into());
            // An hour that the clocks leave out has no instant; the meeting is then as much later.
            let Some(begins) = zone
                .from_local_datetime(&begins)
                .earliest()
                .or_else(|| zone.from_local_datetime(&(begins + TimeDelta::hours(1))).earliest())
            else {
                continue;
            };
            let begins = begins.with_timezone(&Utc);
            let mut event = Event::new();
            event.uid(&format!("meeting-{}-{day}@snug-roster", meeting.id)).summary(&meeting.title);
            event.starts(begins).ends(begins + TimeDelta::minutes(meeting.minutes.into())).timestamp(self.now);
            self.calendar.push(event.done());
        }
    }

    fn text(&self) -> String {
        self.calendar.to_string()
    }
}

/// A person's bookings, placed tasks, meetings of projects and the milestones of their projects, as long as they are not over before
/// `from`. `now` is the time stamp of the file.
#[must_use]
pub fn of_person(plan: &Plan, id: PersonId, from: Day, now: DateTime<Utc>) -> Option<String> {
    let entry = plan.people.get(&id)?;
    let mut written = Written::new(&format!("{} · {}", entry.person.name, plan.settings.name), now);
    let mut projects = Vec::new();
    for row in entry.bookings().filter(|row| row.brick.end >= from) {
        let booking = row.booking(Who::Person(id));
        projects.extend(booking.project);
        let uid = format!("booking-{}@snug-roster", booking.id);
        let pencilled = booking.certainty == Certainty::Pencilled;
        written.put(&uid, &title(plan, &booking), (booking.start, booking.end), &booking.note, pencilled);
    }
    for task in entry.tasks.iter().filter_map(|task| plan.tasks.get(task)).filter(|task| !task.is_done()) {
        let Some(days) = task.start.zip(task.finish).filter(|(_, finish)| *finish >= from) else { continue };
        written.task(plan, task, days);
        projects.push(task.project);
    }
    for meeting in entry.meetings.iter() {
        written.meeting(plan, meeting, from);
    }
    for milestone in plan.records.milestones.values().filter(|milestone| milestone.date >= from) {
        if milestone.projects.is_empty() || milestone.projects.iter().any(|id| projects.contains(id)) {
            written.milestone(milestone);
        }
    }
    Some(written.text())
}

/// The placed tasks of projects that are not done, their meetings and their milestones, as long as they are not over before `from`.
/// `name` is what the calendar is called.
#[must_use]
pub fn of_projects(plan: &Plan, name: &str, projects: &BTreeSet<ProjectId>, from: Day, now: DateTime<Utc>) -> String {
    let mut written = Written::new(&format!("{name} · {}", plan.settings.name), now);
    let open = |task: &&std::sync::Arc<Task>| !task.is_done() && projects.contains(&task.project);
    for task in plan.tasks.values().filter(open).filter(|task| !is_parent(plan, task.id)) {
        if let Some(days) = task.start.zip(task.finish).filter(|(_, finish)| *finish >= from) {
            written.task(plan, task, days);
        }
    }
    for meeting in plan.records.meetings.values().filter(|meeting| projects.contains(&meeting.project)) {
        written.meeting(plan, meeting, from);
    }
    for milestone in plan.records.milestones.values().filter(|milestone| milestone.date >= from) {
        if milestone.projects.is_empty() || milestone.projects.iter().any(|id| projects.contains(id)) {
            written.milestone(milestone);
        }
    }
    written.text()
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
