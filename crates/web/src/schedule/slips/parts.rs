//! Parts of the slips that are fetched one by one: chunks of rows, a row, the side sheet, the tray.

use super::{
    people::people,
    picture::{Drawing, RowView},
    query::{PAGE, PATH, Params, SlipsQuery},
    sheet, tray,
};
use crate::{Error, auth::User, drafts::Here, grid::part_of, kept::Kept, schedule::address::Said, worked_out};
use askama::Template;
use axum::{extract::Path, response::Html};
use snug_core::{PersonId, Plan};

/// A chunk of rows.
#[derive(Template)]
#[template(path = "schedule/slips/rows.html")]
pub struct RowsPart {
    pub rows: Vec<RowView>,
    pub total: usize,
    pub more: Option<String>,
    days: i32,
    picture: f64,
    note_y: f64,
}

#[derive(Template)]
#[template(path = "schedule/slips/row.html")]
struct RowPart<'a> {
    row: &'a RowView,
    days: i32,
    picture: f64,
    note_y: f64,
}

/// The part of the list that is asked for.
pub fn chunk(kept: &Kept, plan: &Plan, query: &SlipsQuery, may_change: bool) -> RowsPart {
    let all = people(kept, plan, query);
    let (range, next) = part_of(all.len(), query.offset, PAGE);
    let drawing = Drawing::new(plan, query, may_change);
    RowsPart {
        rows: all[range].iter().filter_map(|id| plan.people.get(id)).map(|entry| drawing.row(entry)).collect(),
        total: all.len(),
        more: next.map(|next| query.href(PATH, |params| params.offset = next)),
        days: query.days(),
        picture: query.picture,
        note_y: query.picture - 5.0,
    }
}

/// One row as it is drawn.
pub fn row_html(drawing: &Drawing<'_>, person: PersonId) -> Result<Option<String>, Error> {
    let Some(entry) = drawing.plan.people.get(&person) else { return Ok(None) };
    let row = drawing.row(entry);
    let (days, picture) = (drawing.query.days(), drawing.query.picture);
    Ok(Some(RowPart { row: &row, days, picture, note_y: picture - 5.0 }.render()?))
}

pub async fn rows(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = SlipsQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    crate::computed(move || chunk(&state.kept, &plan, &query, user.books()).render()).await
}

pub async fn one_row(
    Here(state): Here,
    user: User,
    Path(person): Path<i32>,
    Said(params): Said<Params>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = SlipsQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let html = worked_out(move || row_html(&Drawing::new(&plan, &query, user.books()), PersonId(person))).await??;
    Ok(Html(html.ok_or(Error::NotFound)?))
}

pub async fn side_sheet(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = SlipsQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let sheet = worked_out(move || sheet::view(&plan, &query, &user)).await??;
    Ok(Html(sheet.ok_or(Error::NotFound)?))
}

/// What waits, as far as it is looked for.
pub async fn tray_strip(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = SlipsQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    crate::computed(move || tray::view(&state.kept, &plan, &query, user.books()).render()).await
}
