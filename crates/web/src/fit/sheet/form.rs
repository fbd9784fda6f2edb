//! The forms of a booking: what it says, what could be done with it, and from what one chooses.

use crate::{
    fit::{address::query::FitQuery, names::project_name, picture::palette::Palette},
    words,
};
use snug_core::{
    Day, PersonId, Plan, ProjectId, Tag,
    cells::Bucket,
    kinds::{Booking, Certainty, ProjectStatus, Unit, Who},
};

/// A booking with the forms that change it.
pub struct BookingForm {
    /// The tag of the booking as it is shown; empty for a new one.
    pub seen: String,
    pub id: i32,
    pub hue: usize,
    pub hold: bool,
    pub title: String,
    pub summary: String,
    pub person: i32,
    /// Their address.
    pub email: String,
    /// The role or skill of an open seat.
    pub seat: String,
    /// The team that has no name yet; 0 for none.
    pub team: i32,
    pub project: Option<i32>,
    /// Its code.
    pub code: String,
    pub start: String,
    pub end: String,
    pub amount: String,
    pub unit: &'static str,
    pub pencilled: bool,
    pub days_off: bool,
    pub note: String,
    /// The line of the budget; empty for none of one's own choice.
    pub line: String,
    /// The lines to choose from.
    pub lines: Vec<String>,
    /// Where it could be cut, and until when it could repeat.
    pub cut: String,
    pub until: String,
    /// Who else could take it: an address to ask.
    pub takers: String,
}

impl BookingForm {
    pub fn is_for(&self, project: i32) -> bool {
        self.project == Some(project)
    }
}

/// Somebody or something that a form can choose.
pub struct Choice {
    pub id: i32,
    pub name: String,
}

/// What a form lets one choose from; where there is more than one looks through, one types and is offered what fits.
pub struct Choices {
    pub projects: Option<Vec<Choice>>,
    pub people: Option<Vec<Choice>>,
}

/// The forms of one booking, somebody's or an open seat's.
pub fn form_of(
    plan: &Plan,
    booking: &Booking,
    person: i32,
    summary: String,
    bucket: Bucket,
    query: &FitQuery,
    palette: &Palette<'_>,
) -> BookingForm {
    let cut = if bucket.from > booking.start { bucket.from } else { (bucket.to + 1).min(booking.end) };
    let takers = crate::words::address(&query.href("/fit/takers"), [("booking", booking.id.to_string().as_str())]);
    BookingForm {
        seen: Tag::of(booking).to_string(),
        id: booking.id.0,
        hue: palette.of_booking(booking.project, booking.certainty),
        hold: booking.project.is_none(),
        title: project_name(plan, booking.project),
        summary,
        person,
        email: email_of(plan, person),
        seat: match &booking.who {
            Who::Role(role) => role.clone(),
            _ => String::new(),
        },
        team: match &booking.who {
            Who::Team(id) => id.0,
            _ => 0,
        },
        project: booking.project.map(|id| id.0),
        code: code_of(plan, booking.project),
        start: booking.start.to_string(),
        end: booking.end.to_string(),
        amount: words::amount_typed(booking.amount),
        unit: booking.amount.unit.as_str(),
        pencilled: booking.certainty == Certainty::Pencilled,
        days_off: booking.days_off,
        note: booking.note.clone(),
        line: booking.line.clone(),
        lines: lines_of(plan, booking.project),
        cut: cut.to_string(),
        until: (booking.start + 28).to_string(),
        takers,
    }
}

/// The lines of the budgets that work of a project may be on, those of the project first.
fn lines_of(plan: &Plan, project: Option<ProjectId>) -> Vec<String> {
    let of = |project: &std::sync::Arc<snug_core::kinds::Project>| {
        let id = project.id;
        let lines = plan.records.budget_lines.values().filter(move |line| line.project == id);
        lines.map(|line| line.line.clone()).collect::<Vec<_>>()
    };
    project.into_iter().flat_map(|id| plan.project_line(id)).flat_map(of).collect()
}

fn code_of(plan: &Plan, project: Option<ProjectId>) -> String {
    project.and_then(|id| plan.records.projects.get(&id)).map(|project| project.code.clone()).unwrap_or_default()
}

fn email_of(plan: &Plan, person: i32) -> String {
    plan.people.get(&PersonId(person)).map(|entry| entry.person.email.clone()).unwrap_or_default()
}

/// An empty form for somebody's cell, or for an open seat.
pub fn fresh(plan: &Plan, person: i32, seat: String, bucket: Bucket, project: Option<ProjectId>) -> BookingForm {
    let text = |day: Day| day.to_string();
    BookingForm {
        seen: String::new(),
        id: 0,
        hue: 0,
        hold: false,
        title: "Book time".to_owned(),
        summary: String::new(),
        person,
        email: email_of(plan, person),
        seat,
        team: 0,
        project: project.map(|id| id.0),
        code: code_of(plan, project),
        start: text(bucket.from),
        end: text(bucket.to),
        amount: String::new(),
        unit: Unit::PerDay.as_str(),
        pencilled: false,
        days_off: false,
        note: String::new(),
        line: String::new(),
        lines: lines_of(plan, project),
        cut: String::new(),
        until: String::new(),
        takers: String::new(),
    }
}

/// The most that a form lists.
const MOST_CHOICES: usize = 40;

impl Choices {
    /// The projects that are open, and everybody.
    pub fn of(plan: &Plan) -> Self {
        let listed = |mut list: Vec<Choice>| {
            list.sort_by_key(|choice| choice.name.to_lowercase());
            list
        };
        let open = || plan.records.projects.values().filter(|project| project.status != ProjectStatus::Closed);
        let projects = (open().take(MOST_CHOICES + 1).count() <= MOST_CHOICES)
            .then(|| listed(open().map(|project| Choice { id: project.id.0, name: project.name.clone() }).collect()));
        let people = (plan.people.len() <= MOST_CHOICES).then(|| {
            let all = plan.people.values().map(|entry| &entry.person);
            listed(all.map(|person| Choice { id: person.id.0, name: person.name.clone() }).collect())
        });
        Self { projects, people }
    }
}
