//! Parts of the Gantt that are fetched one by one: chunks of rows, a row, the side sheet, who does it.

use super::{
    address::Said,
    links::{LinkView, links},
    outline::{Line, Of, Outline, line_of, outline, tasks_of},
    people::{PeopleView, people},
    picture::{Drawing, PICTURE, RowView},
    query::{GanttQuery, PAGE, Params},
    sheet,
};
use crate::{Error, auth::User, drafts::Here, grid::part_of, kept::Kept, worked_out};
use askama::Template;
use axum::{extract::Path, response::Html};
use snug_core::Plan;
use std::sync::Arc;

/// A chunk of rows with the links that are seen in it.
#[derive(Template)]
#[template(path = "schedule/rows.html")]
pub struct RowsPart {
    pub rows: Vec<RowView>,
    pub links: Vec<LinkView>,
    pub total: usize,
    pub more: Option<String>,
    pub days: i32,
    picture: f64,
    height: f64,
}

#[derive(Template)]
#[template(path = "schedule/row.html")]
struct RowPart<'a> {
    row: &'a RowView,
    days: i32,
    picture: f64,
}

/// A row as it is drawn.
pub fn row_html(drawing: &Drawing<'_>, line: Line) -> Result<Option<String>, Error> {
    let Some(row) = drawing.row(line) else { return Ok(None) };
    Ok(Some(RowPart { row: &row, days: drawing.query.days(), picture: PICTURE }.render()?))
}

/// The part of the outline that is asked for.
pub fn chunk(kept: &Kept, (plan, query): (&Plan, &GanttQuery), outline: &Outline, may_change: bool) -> RowsPart {
    let total = outline.lines.len();
    let (range, next) = part_of(total, query.offset, PAGE);
    let lines = &outline.lines[range.clone()];
    let drawing = Drawing::new(kept, plan, query, &query.figured(plan, tasks_of(lines)), may_change);
    let links = if query.shows_network() { links(&drawing.ground, query, outline, &range) } else { Vec::new() };
    #[allow(clippy::cast_precision_loss)] // rows of a chunk, as pixels
    let height = range.len() as f64 * super::links::ROW;
    RowsPart {
        rows: lines.iter().filter_map(|line| drawing.row(*line)).collect(),
        links,
        total,
        more: next.map(|next| query.href(super::PATH, |params| params.offset = next)),
        days: query.days(),
        picture: PICTURE,
        height,
    }
}

pub async fn rows(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = GanttQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let outline = outline(&kept, &plan, &query);
        chunk(&kept, (&plan, &query), &outline, user.books()).render()
    })
    .await
}

pub async fn one_row(
    Here(state): Here,
    user: User,
    Path(key): Path<String>,
    Said(params): Said<Params>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = GanttQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let of = Of::of_key(&key).ok_or(Error::NotFound)?;
    let line = line_of(&plan, &query, of).ok_or(Error::NotFound)?;
    let kept = Arc::clone(&state.kept);
    let html = worked_out(move || {
        let tasks = query.figured(&plan, tasks_of(&[line]));
        row_html(&Drawing::new(&kept, &plan, &query, &tasks, user.books()), line)
    });
    Ok(Html(html.await??.ok_or(Error::NotFound)?))
}

pub async fn side_sheet(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = GanttQuery::read(params, &plan, state.today());
    let texts = sheet::texts_of(&state, &query).await?;
    let sheet = worked_out(move || sheet::view(&state, (&plan, &query), &user, &texts)).await??;
    Ok(Html(sheet.ok_or(Error::NotFound)?))
}

/// The hours of who does what is seen.
pub async fn who_does_it(Here(state): Here, _: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = GanttQuery::read(params, &plan, state.today());
    let kept = Arc::clone(&state.kept);
    crate::computed(move || people_part(&kept, &plan, &query).render()).await
}

/// The hours of who does the tasks of this part of the outline.
pub fn people_part(kept: &Kept, plan: &Plan, query: &GanttQuery) -> PeopleView {
    people(plan, query, &outline(kept, plan, query))
}
