//! Parts of the calendar that are fetched one by one: its rows, one of them, the side sheet.

use super::{
    picture::{Drawing, RowView},
    query::{CalendarQuery, Params},
    sheet,
};
use crate::{AppState, Error, auth::User, schedule::address::Said, worked_out};
use askama::Template;
use axum::{
    extract::{Path, State},
    response::Html,
};
use snug_core::{Day, Plan};

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

pub async fn rows(
    State(state): State<AppState>,
    user: User,
    Said(params): Said<Params>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = CalendarQuery::read(params, &plan, state.today());
    crate::computed(move || RowsPart::of(&Drawing::new(&plan, &query, user.books())).render()).await
}

pub async fn one_row(
    State(state): State<AppState>,
    user: User,
    Path(key): Path<String>,
    Said(params): Said<Params>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = CalendarQuery::read(params, &plan, state.today());
    let from: Day = key.parse().ok().filter(|day| query.rows.contains(day)).ok_or(Error::NotFound)?;
    crate::computed(move || {
        let drawing = Drawing::new(&plan, &query, user.books());
        RowsPart { rows: vec![drawing.row(from)], days: query.days, picture: drawing.picture() }.render()
    })
    .await
}

pub async fn side_sheet(
    State(state): State<AppState>,
    user: User,
    Said(params): Said<Params>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = CalendarQuery::read(params, &plan, state.today());
    let sheet = worked_out(move || sheet::view(&plan, &query, &user)).await??;
    Ok(Html(sheet.ok_or(Error::NotFound)?))
}
