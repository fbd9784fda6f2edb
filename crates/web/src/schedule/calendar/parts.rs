//! Parts of the calendar that are fetched one by one: its rows, one of them, the side sheet.

use super::{
    picture::{Drawing, RowView},
    query::{CalendarQuery, Params},
    sheet,
};
use crate::{Error, auth::User, calendars::as_calendar, drafts::Here, schedule::address::Said, worked_out};
use askama::Template;
use axum::{
    extract::Path,
    http::header,
    response::{Html, Response},
};
use chrono::Utc;
use snug_core::{Day, Plan, ProjectId, kinds::ProjectStatus};
use snug_exchange::ical;

/// All rows.
#[derive(Template)]
#[template(source = r#"{% for row in rows %}{% include "schedule/calendar/row.html" %}{% endfor %}"#, ext = "html")]
pub struct RowsPart {
    pub rows: Vec<RowView>,
    days: i32,
    picture: f64,
}

impl RowsPart {
    /// No rows, where days are read as a list.
    pub fn none() -> Self {
        Self { rows: Vec::new(), days: 1, picture: 1.0 }
    }

    pub fn of(drawing: &Drawing<'_>) -> Self {
        Self {
            rows: drawing.query.rows.iter().map(|from| drawing.row(*from)).collect(),
            days: drawing.query.days,
            picture: drawing.picture(),
        }
    }
}

/// Each row as it is drawn, by its key.
pub fn rows_html(plan: &Plan, query: &CalendarQuery, may_change: bool) -> Result<Vec<(String, String)>, Error> {
    let drawing = Drawing::new(plan, query, may_change);
    let html = |from: &Day| -> Result<_, Error> {
        let part = RowsPart { rows: vec![drawing.row(*from)], days: query.days, picture: drawing.picture() };
        Ok((from.to_string(), part.render()?))
    };
    query.rows.iter().map(html).collect()
}

pub async fn rows(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = CalendarQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    crate::computed(move || RowsPart::of(&Drawing::new(&plan, &query, user.books())).render()).await
}

pub async fn one_row(
    Here(state): Here,
    user: User,
    Path(key): Path<String>,
    Said(params): Said<Params>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = CalendarQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let from: Day = key.parse().ok().filter(|day| query.rows.contains(day)).ok_or(Error::NotFound)?;
    crate::computed(move || {
        let drawing = Drawing::new(&plan, &query, user.books());
        RowsPart { rows: vec![drawing.row(from)], days: query.days, picture: drawing.picture() }.render()
    })
    .await
}

pub async fn side_sheet(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = CalendarQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let sheet = worked_out(move || sheet::view(&plan, &query, &user)).await??;
    Ok(Html(sheet.ok_or(Error::NotFound)?))
}

/// What is in view as a file for other calendars.
pub async fn export(Here(state): Here, _: User, Said(params): Said<Params>) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let query = CalendarQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let text = worked_out(move || {
        let open = |id: &ProjectId| {
            plan.records.projects.get(id).is_some_and(|project| project.status != ProjectStatus::Closed)
        };
        let all = || plan.records.projects.keys().copied().filter(open).collect();
        let projects = query.scope.projects.clone().unwrap_or_else(all);
        ical::of_projects(&plan, "Calendar", &projects, query.today - 30, Utc::now())
    });
    let mut answer = as_calendar(text.await?);
    answer
        .headers_mut()
        .insert(header::CONTENT_DISPOSITION, header::HeaderValue::from_static("attachment; filename=\"calendar.ics\""));
    Ok(answer)
}
