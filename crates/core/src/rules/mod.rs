//! What a record must be like, wherever it comes from: by hand, by file, through the API.

mod between;

pub use between::{
    Nesting, bounded, free_key, link_cycle, most_levels, nesting, overfull_day, overloaded, too_much, whole,
};

use crate::{
    Day, PersonId, Plan,
    change::Change,
    people::{Absence, Holiday, Pattern, Person},
    work::{Assignees, Booking, Milestone, Project, Task, Team, TimeEntry, Unit},
};

/// Why something cannot be done, in a sentence that a planner understands.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{message}")]
pub struct Refusal {
    /// A short name of the rule, for programs.
    pub code: RefusalCode,
    /// The sentence.
    pub message: String,
    /// The field it is about; empty for the whole.
    pub field: &'static str,
    /// The value that stands now, where somebody else altered it.
    pub standing: Option<Box<Change>>,
}

/// The rule that refuses.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum RefusalCode {
    /// A value that cannot be.
    BadValue,
    /// Something that is not there, or no longer.
    NotFound,
    /// Somebody else altered it since it was looked at.
    ChangedMeanwhile,
    /// The role does not allow it.
    NotAllowed,
    /// The state of the plan does not allow it.
    NotNow,
}

impl Refusal {
    /// A refusal of a value in a field.
    #[must_use]
    pub fn value(field: &'static str, message: impl Into<String>) -> Self {
        Self { code: RefusalCode::BadValue, message: message.into(), field, standing: None }
    }

    /// A refusal of the whole.
    #[must_use]
    pub fn whole(code: RefusalCode, message: impl Into<String>) -> Self {
        Self { code, message: message.into(), field: "", standing: None }
    }
}

/// The longest range that a booking or a task may have, ten years, so that no figure has to be looked for without end.
pub const LONGEST_DAYS: i32 = 3_660;
/// The most levels that anything nests: with them the walks up a line stay short, and nobody can read more.
pub const MOST_LEVELS: usize = 1_000;
/// The most minutes that one person, team or role may hold in all, 10 million hours, so that every sum of a row fits.
pub const MOST_MINUTES: i64 = 600_000_000;
/// The longest word on a booking, in characters.
pub const LONGEST_NOTE: usize = 2_000;

/// A range must not end before it starts, nor last for more than ten years, nor reach beyond the days that a plan may speak of.
pub fn range(start: Option<Day>, end: Option<Day>) -> Result<(), String> {
    if [start, end].into_iter().flatten().any(|day| !(Day::MIN..=Day::MAX).contains(&day)) {
        return Err(format!("lies outside {} to {}", Day::MIN, Day::MAX));
    }
    let (Some(start), Some(end)) = (start, end) else { return Ok(()) };
    if end < start {
        return Err(format!("ends on {end}, before it starts on {start}"));
    }
    if end.since(start) > LONGEST_DAYS {
        return Err("lasts for more than ten years".to_owned());
    }
    Ok(())
}

/// What every booking must keep to.
pub fn booking(booking: &Booking) -> Result<(), Refusal> {
    range(Some(booking.start), Some(booking.end)).map_err(|message| Refusal::value("end", message))?;
    let most = match booking.amount.unit {
        Unit::PerDay => 24 * 60,
        Unit::PerWeek => 7 * 24 * 60,
        Unit::Total => 100_000 * 60,
        Unit::Percent => 100_000,
    };
    if !(1..=most).contains(&booking.amount.value) {
        let accepted = match booking.amount.unit {
            Unit::PerDay => "hours a day lie between 0 and 24",
            Unit::PerWeek => "hours a week lie between 0 and 168",
            Unit::Total => "hours in all lie between 0 and 100,000",
            Unit::Percent => "percent lie between 0 and 1,000",
        };
        return Err(Refusal::value("amount", format!("{accepted}, and something must be booked")));
    }
    if booking.note.chars().count() > LONGEST_NOTE {
        return Err(Refusal::value("note", format!("is longer than {LONGEST_NOTE} characters")));
    }
    Ok(())
}

/// The longest name, title or other line, in characters.
const LONGEST_LINE: usize = 300;
/// The longest effort, 100,000 hours in minutes.
const MOST_EFFORT: i64 = 6_000_000;

/// A name that must be there.
fn named(field: &'static str, text: &str, what: &str) -> Result<(), Refusal> {
    if text.trim().is_empty() {
        return Err(Refusal::value(field, what));
    }
    line(field, text)
}

/// A line of text that may be empty.
fn line(field: &'static str, text: &str) -> Result<(), Refusal> {
    if text.chars().count() > LONGEST_LINE {
        return Err(Refusal::value(field, format!("is longer than {LONGEST_LINE} characters")));
    }
    if text.contains(['\n', '\r', '\0']) {
        return Err(Refusal::value(field, "is more than one line"));
    }
    Ok(())
}

/// What one record must keep to by itself, whatever else is in the plan but its own fields' definitions.
pub fn record(plan: &Plan, change: &Change, today: Day) -> Result<(), Refusal> {
    fn after<T>(edit: &crate::change::Edit<T>, check: impl Fn(&T) -> Result<(), Refusal>) -> Result<(), Refusal> {
        edit.after.as_ref().map_or(Ok(()), check)
    }
    match change {
        Change::Settings(edit) => after(edit, crate::settings::Settings::check),
        Change::Field(edit) => after(edit, crate::fields::Field::check),
        Change::Person(edit) => after(edit, |it| person(it).and_then(|()| field_values(plan, &it.fields))),
        Change::Holiday(edit) => after(edit, holiday),
        Change::Absence(edit) => after(edit, absence),
        Change::Team(edit) => after(edit, team),
        Change::Project(edit) => after(edit, |it| project(it).and_then(|()| field_values(plan, &it.fields))),
        Change::Task(edit) => after(edit, |it| task(it).and_then(|()| field_values(plan, &it.fields))),
        Change::Link(edit) => after(edit, |link| line("note", &link.note)),
        Change::Booking(edit) => after(edit, booking),
        Change::TimeEntry(edit) => after(edit, |it| time_entry(it, today)),
        Change::Milestone(edit) => after(edit, milestone),
        Change::Text(edit) => after(edit, crate::text::Text::check),
    }
}

fn field_values(plan: &Plan, values: &crate::fields::FieldValues) -> Result<(), Refusal> {
    for (id, value) in values {
        let Some(field) = plan.fields.get(id) else { continue };
        field.value(value).map_err(|reason| Refusal::value("fields", format!("{}: {reason}", field.name)))?;
    }
    Ok(())
}

/// What everybody, and all equipment, must keep to.
pub fn person(person: &Person) -> Result<(), Refusal> {
    named("name", &person.name, "Give a name.")?;
    line("email", &person.email)?;
    line("role", &person.role)?;
    line("holiday_calendar", &person.calendar)?;
    let address = person.email.split_once('@').is_some_and(|(name, host)| !name.is_empty() && !host.is_empty());
    if !address || person.email.contains(char::is_whitespace) {
        let message = format!("“{}” is no e-mail address; write one as mira@example.test.", person.email);
        return Err(Refusal::value("email", message));
    }
    if person.patterns.is_empty() {
        return Err(Refusal::value("pattern", "Say how many hours a day are worked."));
    }
    person.patterns.iter().try_for_each(|dated| pattern(&dated.pattern))?;
    let most = |field, value: Option<i32>, most: i32, says: &'static str| match value {
        Some(value) if !(0..=most).contains(&value) => Err(Refusal::value(field, says)),
        _ => Ok(()),
    };
    most("day_limit_h", person.day_limit, 1_440, "A day has 24 hours.")?;
    most("week_limit_h", person.week_limit, 10_080, "A week has 168 hours.")?;
    most("max_projects", person.max_projects, 1_000, "Write a number of projects from 0 to 1,000.")?;
    most("max_tasks", person.max_tasks, 1_000, "Write a number of tasks from 0 to 1,000.")?;
    person.skills.iter().try_for_each(|skill| line("skills", skill))
}

fn pattern(pattern: &Pattern) -> Result<(), Refusal> {
    let possible = !pattern.0.is_empty() && pattern.0.iter().flatten().all(|minutes| (0..=1_440).contains(minutes));
    if possible { Ok(()) } else { Err(Refusal::value("pattern", "A day has between 0 and 24 hours.")) }
}

fn holiday(holiday: &Holiday) -> Result<(), Refusal> {
    named("calendar", &holiday.calendar, "Say whose calendar this is, as a region.")?;
    line("name", &holiday.name)?;
    if (1..=1_000_000).contains(&holiday.fraction) {
        return Ok(());
    }
    Err(Refusal::value("fraction", "Write 1 for the whole day, 0.5 for half of it."))
}

fn absence(absence: &Absence) -> Result<(), Refusal> {
    range(Some(absence.start), Some(absence.end)).map_err(|message| Refusal::value("end", message))?;
    line("kind", &absence.kind)?;
    match (absence.minutes, absence.at) {
        (Some(minutes), _) if !(1..=1_440).contains(&minutes) => {
            Err(Refusal::value("hours_per_day", "Write hours between 0 and 24, or nothing for the whole day."))
        }
        (None, Some(_)) => Err(Refusal::value("at", "A time of day needs the hours that it takes, too.")),
        (Some(minutes), Some(at)) if at < 0 || at + minutes > 1_440 => {
            Err(Refusal::value("at", "Write a time from which the hours end before midnight, as 09:30."))
        }
        _ => Ok(()),
    }
}

/// What every team must keep to by itself.
pub fn team(team: &Team) -> Result<(), Refusal> {
    named("code", &team.code, "Give a short code; files use it.")?;
    named("name", &team.name, "Give the team a name.")?;
    if team.week_capacity.is_some_and(|minutes| !(0..=60_000_000).contains(&minutes)) {
        return Err(Refusal::value("week_capacity_h", "Write a number of hours a week."));
    }
    let mut members: Vec<PersonId> = team.members.iter().map(|(id, _)| *id).collect();
    members.sort_unstable();
    if members.windows(2).any(|pair| pair[0] == pair[1]) {
        return Err(Refusal::value("members", "Somebody is named twice."));
    }
    if team.members.iter().any(|(_, share)| !(1..=10_000).contains(share)) {
        return Err(Refusal::value("members", "A share lies between 0 and 100 percent."));
    }
    Ok(())
}

/// What every project must keep to by itself.
pub fn project(project: &Project) -> Result<(), Refusal> {
    named("code", &project.code, "Give a short code; files use it.")?;
    named("name", &project.name, "Give the project a name.")?;
    range(project.start, project.finish).map_err(|message| Refusal::value("finish", message))?;
    if project.budget_minutes.is_some_and(|minutes| !(0..=60_000_000).contains(&minutes)) {
        return Err(Refusal::value("budget_h", "Write a number of hours up to 1,000,000."));
    }
    if project.budget_money.is_some_and(|money| money.is_sign_negative()) {
        return Err(Refusal::value("budget_money", "A budget is not less than nothing."));
    }
    Ok(())
}

fn time_entry(entry: &TimeEntry, today: Day) -> Result<(), Refusal> {
    if !(1..=1_440).contains(&entry.minutes) {
        return Err(Refusal::value("hours", "Log between a minute and 24 hours."));
    }
    if entry.date > today + 7 {
        return Err(Refusal::value("date", "Time is logged once it is worked; this day is more than a week ahead."));
    }
    if entry.note.chars().count() > LONGEST_NOTE {
        return Err(Refusal::value("note", format!("is longer than {LONGEST_NOTE} characters")));
    }
    Ok(())
}

fn milestone(milestone: &Milestone) -> Result<(), Refusal> {
    named("name", &milestone.name, "Say what happens on the day.")
}

/// What every task must keep to.
pub fn task(task: &Task) -> Result<(), Refusal> {
    range(task.start, task.finish).map_err(|message| Refusal::value("finish", message))?;
    named("title", &task.title, "Say what is to be done.")?;
    for (field, text) in [("kind", &task.kind), ("stage", &task.stage), ("requester", &task.requester)] {
        line(field, text)?;
    }
    for (field, effort) in [("estimate_h", task.estimate), ("remaining_h", task.remaining)] {
        if effort.is_some_and(|minutes| !(0..=MOST_EFFORT).contains(&minutes)) {
            return Err(Refusal::value(field, "Write a number of hours up to 100,000."));
        }
    }
    if task.progress.is_some_and(|percent| percent.is_sign_negative() || percent > 100.into()) {
        return Err(Refusal::value("progress", "Progress lies between 0 and 100 percent."));
    }
    if task.parent == Some(task.id) && task.id.0 != 0 {
        return Err(Refusal::value("parent", "A task cannot be inside itself."));
    }
    if let Assignees::Shares(shares) = &task.assignees {
        let sum: i32 = shares.iter().map(|(_, share)| share).sum();
        if sum != 10_000 {
            return Err(Refusal::value(
                "assignees",
                format!("the shares add up to {} %, not to 100 %", f64::from(sum) / 100.0),
            ));
        }
    }
    let mut people: Vec<_> = task.assignees.people().collect();
    people.sort_unstable();
    if people.windows(2).any(|pair| pair[0] == pair[1]) {
        return Err(Refusal::value("assignees", "somebody is named twice"));
    }
    Ok(())
}
