//! The side sheet of a day.

use super::{
    day::{DayView, HoursOf, day},
    picture::Drawing,
    query::{CalendarQuery, PATH},
};
use crate::{Error, auth::User, offers};
use askama::Template;
use snug_core::Plan;

#[derive(Template)]
#[template(path = "schedule/calendar/sheet.html")]
struct SheetView {
    one: DayView,
    projects: Vec<(String, String)>,
    project: String,
    people: Vec<(String, String)>,
    day: String,
    back: String,
    close: String,
    may_change: bool,
}

/// The sheet of the selected day, if one is selected.
pub fn view(plan: &Plan, query: &CalendarQuery, user: &User) -> Result<Option<String>, Error> {
    let Some(at) = query.at() else { return Ok(None) };
    let drawing = Drawing::new(plan, query, user.books());
    let projects = offers::projects(plan, offers::is_open);
    let people = drawing.agenda.people.iter().filter_map(|id| plan.people.get(id));
    let mut people: Vec<(String, String)> =
        people.map(|entry| (entry.person.id.to_string(), entry.person.name.clone())).collect();
    people.sort_by_cached_key(|(_, name)| name.to_lowercase());
    let sheet = SheetView {
        one: day(&drawing, &HoursOf::new(&drawing, at, at), at),
        projects: projects.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
        project: query.params.project.clone(),
        people,
        day: at.to_string(),
        back: query.href(PATH, |_| {}),
        close: query.href(PATH, |params| params.at = String::new()),
        may_change: user.books(),
    };
    Ok(Some(sheet.render()?))
}
