//! The long view as a page.

use super::{
    axis::{Mark, marks},
    parts::{self, RowsPart, teams},
    query::{LongQuery, PATH, Params, ZOOMS},
    sheet,
};
use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::{zoom_stepped, zoom_title},
    frame::{Frame, Room},
    grid::Head,
    looks::LooksView,
    schedule::{
        address::{Said, before, pairs},
        views::{View, today_at, ways},
    },
    words,
};
use askama::Template;
use axum::{
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
};
use snug_core::Day;
use std::sync::Arc;

#[derive(Template)]
#[template(path = "schedule/long/page.html")]
struct LongPage {
    frame: Frame,
    query: LongQuery,
    views: Vec<(String, &'static str, bool)>,
    heads: Vec<Head>,
    marks: Vec<Mark>,
    part: RowsPart,
    looks: LooksView,
    sheet: Option<String>,
    shown: String,
    dates: String,
    zooms: Vec<(String, &'static str, bool)>,
    kept: Vec<(String, String)>,
    today: Option<String>,
    day_wide: String,
    earlier: String,
    later: String,
    now: String,
    clear: String,
    teams_in_all: usize,
    may_change: bool,
}

pub async fn page(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Said(params): Said<Params>,
) -> Result<Response, Error> {
    let (plan, today) = (state.keeper.plan(), state.today());
    if !params.cell.is_empty() {
        let from = before(&headers, PATH).unwrap_or_else(|| params.clone());
        let to = LongQuery::read(from, &plan, today).followed(&params.cell);
        return Ok(Redirect::to(&to).into_response());
    }
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let query = LongQuery::read(params, &plan, today).beside_live(state.live_plan());
    let unselected = query.href(PATH, |params| (params.row, params.at, params.offset) = Default::default());
    let looks = LooksView::of(&state, &user, "long", unselected).await?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let may_change = user.books();
        let count = i32::try_from(query.buckets.len()).unwrap_or(2);
        let stepped = |steps: i32| zoom_stepped(query.zoom, query.from, steps, &plan.settings);
        let at =
            |from: Day| query.href(PATH, |params| (params.from, params.offset) = (from.to_string(), String::new()));
        let part = parts::chunk(&kept, &plan, &query, may_change);
        let page = LongPage {
            views: ways(View::Long, ""),
            heads: query
                .buckets
                .iter()
                .map(|bucket| {
                    Head::of(*bucket, zoom_title(query.zoom, *bucket, query.buckets.len(), query.order), false)
                })
                .collect(),
            marks: marks(&plan, &query, &teams(&kept, &plan, &query)),
            sheet: sheet::view(&plan, &query, &user).map_err(|error| askama::Error::custom(error.to_string()))?,
            shown: words::count(part.total, "team", "teams"),
            dates: words::range(query.from, query.to(), query.order),
            zooms: ZOOMS.map(|(grain, name, _)| (grain.to_string(), name, grain == query.zoom)).to_vec(),
            kept: pairs(&query.params, &["q", "zoom", "offset", "cell"]),
            today: today_at(today, (query.from, query.to())),
            day_wide: format!("{:.4}", f64::from(query.days()) / 1064.0),
            earlier: at(stepped(-(count / 2).max(1))),
            later: at(stepped((count / 2).max(1))),
            now: query.href(PATH, |params| (params.from, params.offset) = Default::default()),
            clear: query.href(PATH, |params| params.q = String::new()),
            teams_in_all: plan.records.teams.len(),
            looks,
            part,
            may_change,
            frame,
            query: query.clone(),
        };
        page.render()
    })
    .await
    .map(IntoResponse::into_response)
}
