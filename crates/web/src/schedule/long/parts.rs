//! Parts of the long view that are fetched one by one: chunks of rows, a row, the side sheet.

use super::{
    picture::{Drawing, PICTURE, RowView},
    query::{LongQuery, PAGE, PATH, Params, team_of},
    sheet,
};
use crate::{Error, auth::User, drafts::Here, grid::part_of, kept::Kept, schedule::address::Said, worked_out};
use askama::Template;
use axum::{extract::Path, response::Html};
use snug_core::{Plan, TeamId, kinds::Team};
use std::{collections::BTreeMap, sync::Arc};

/// A chunk of rows.
#[derive(Template)]
#[template(path = "schedule/long/rows.html")]
pub struct RowsPart {
    pub rows: Vec<RowView>,
    pub total: usize,
    pub more: Option<String>,
    days: i32,
    picture: f64,
}

#[derive(Template)]
#[template(path = "schedule/long/row.html")]
struct RowPart<'a> {
    row: &'a RowView,
    days: i32,
    picture: f64,
}

/// The teams in order: by name, those inside a team below it.
struct InOrder(Vec<TeamId>);

/// The teams in order, as far as their names fit.
pub fn teams(kept: &Kept, plan: &Plan, query: &LongQuery) -> Vec<TeamId> {
    let all = kept.get(plan, String::new(), || {
        let mut inside: BTreeMap<Option<TeamId>, Vec<&Arc<Team>>> = BTreeMap::new();
        for team in plan.records.teams.values() {
            let parent = team.parent.filter(|id| plan.records.teams.contains_key(id));
            inside.entry(parent).or_default().push(team);
        }
        for teams in inside.values_mut() {
            teams.sort_by_cached_key(|team| std::cmp::Reverse(team.name.to_lowercase()));
        }
        let mut left = inside.get(&None).cloned().unwrap_or_default();
        let mut found = Vec::new();
        while let Some(team) = left.pop() {
            found.push(team.id);
            left.extend(inside.get(&Some(team.id)).into_iter().flatten());
        }
        InOrder(found)
    });
    let words = query.params.q.trim().to_lowercase();
    let fits = |id: &&TeamId| {
        words.is_empty() || plan.records.teams.get(*id).is_some_and(|team| team.name.to_lowercase().contains(&words))
    };
    all.0.iter().filter(fits).copied().collect()
}

/// The part of the list that is asked for.
pub fn chunk(kept: &Kept, plan: &Plan, query: &LongQuery, may_change: bool) -> RowsPart {
    let all = teams(kept, plan, query);
    let (range, next) = part_of(all.len(), query.offset, PAGE);
    let drawing = Drawing::new(plan, query, may_change);
    RowsPart {
        rows: all[range].iter().filter_map(|team| drawing.row(*team)).collect(),
        total: all.len(),
        more: next.map(|next| query.href(PATH, |params| params.offset = next)),
        days: query.days(),
        picture: PICTURE,
    }
}

/// One row as it is drawn.
pub fn row_html(drawing: &Drawing<'_>, team: TeamId) -> Result<Option<String>, Error> {
    let Some(row) = drawing.row(team) else { return Ok(None) };
    Ok(Some(RowPart { row: &row, days: drawing.query.days(), picture: PICTURE }.render()?))
}

pub async fn rows(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = LongQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    crate::computed(move || chunk(&state.kept, &plan, &query, user.books()).render()).await
}

pub async fn one_row(
    Here(state): Here,
    user: User,
    Path(key): Path<String>,
    Said(params): Said<Params>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = LongQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let team = team_of(&key).ok_or(Error::NotFound)?;
    let html = worked_out(move || row_html(&Drawing::new(&plan, &query, user.books()), team)).await??;
    Ok(Html(html.ok_or(Error::NotFound)?))
}

pub async fn side_sheet(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = LongQuery::read(params, &plan, state.today()).beside_live(state.live_plan());
    let sheet = worked_out(move || sheet::view(&plan, &query, &user)).await??;
    Ok(Html(sheet.ok_or(Error::NotFound)?))
}
