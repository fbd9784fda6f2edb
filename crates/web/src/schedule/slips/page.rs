//! The slips as a page.

use super::{
    parts::{self, RowsPart},
    query::{PATH, Params, SPANS, SlipsQuery},
    sheet,
    tray::{self, TrayView},
};
use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::zoom_title,
    frame::{Frame, Room},
    grid::Head,
    kept::Kept,
    looks::LooksView,
    offers,
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
use snug_core::{
    Day, Plan,
    cells::{Bucket, Grain},
    kinds::Priority,
};
use std::{collections::BTreeSet, sync::Arc};

/// A filter with its choices: word, name, and which is taken.
struct Filter {
    name: &'static str,
    label: &'static str,
    none: &'static str,
    taken: String,
    offers: Vec<(String, String)>,
}

#[derive(Template)]
#[template(path = "schedule/slips/page.html")]
struct SlipsPage {
    frame: Frame,
    query: SlipsQuery,
    views: Vec<(String, &'static str, bool)>,
    heads: Vec<Head>,
    part: RowsPart,
    tray: TrayView,
    looks: LooksView,
    sheet: Option<String>,
    shown: String,
    dates: String,
    spans: Vec<(String, String, bool)>,
    filters: Vec<Filter>,
    kept: Vec<(String, String)>,
    kept_find: Vec<(String, String)>,
    /// Where today's line stands, in percent of the width.
    today: Option<String>,
    day_wide: String,
    earlier: String,
    later: String,
    now: String,
    clear: String,
    people_in_all: usize,
    is_filtered: bool,
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
        let to = SlipsQuery::read(from, &plan, today).followed(&params.cell);
        return Ok(Redirect::to(&to).into_response());
    }
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let query = SlipsQuery::read(params, &plan, today).beside_live(state.live_plan());
    let unselected = query.href(PATH, |params| (params.person, params.at, params.offset) = Default::default());
    let looks = LooksView::of(&state, &user, "slips", unselected).await?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let may_change = user.books();
        let at =
            |from: Day| query.href(PATH, |params| (params.from, params.offset) = (from.to_string(), String::new()));
        let jump = (query.weeks / 2).max(1) * 7;
        let weeks = |weeks: i32| words::count(usize::try_from(weeks).unwrap_or(0), "week", "weeks");
        let part = parts::chunk(&kept, &plan, &query, may_change);
        let is_filtered = query.is_filtered() || query.team.is_some() || !query.params.q.trim().is_empty();
        let page = SlipsPage {
            views: ways(View::Slips, &query.params.project),
            heads: heads(&query),
            tray: tray::view(&kept, &plan, &query, may_change),
            sheet: sheet::view(&plan, &query, &user).map_err(|error| askama::Error::custom(error.to_string()))?,
            shown: words::count(part.total, "person or thing", "people and equipment"),
            dates: words::range(query.from, query.to(), query.order),
            spans: SPANS.map(|(span, ..)| (span.to_string(), weeks(span), span == query.weeks)).to_vec(),
            filters: filters(&kept, &plan, &query),
            kept: pairs(
                &query.params,
                &["weeks", "q", "team", "project", "stage", "kind", "priority", "offset", "cell"],
            ),
            kept_find: pairs(&query.params, &["find", "offset", "cell"]),
            today: today_at(today, (query.from, query.to())),
            day_wide: format!("{:.4}", f64::from(query.days()) / 1064.0),
            earlier: at(query.from - jump),
            later: at(query.from + jump),
            now: query.href(PATH, |params| (params.from, params.offset) = Default::default()),
            clear: query.href(PATH, |params| {
                *params = Params { from: params.from.clone(), weeks: params.weeks.clone(), ..Params::default() };
            }),
            people_in_all: plan.people.len(),
            is_filtered,
            looks,
            part,
            may_change,
            frame,
            query,
        };
        page.render()
    })
    .await
    .map(IntoResponse::into_response)
}

fn heads(query: &SlipsQuery) -> Vec<Head> {
    let grain = if query.by_day() { Grain::Day } else { Grain::Week };
    let title = |bucket: &Bucket| match (query.by_day(), query.weeks) {
        (true, 1) => words::weekday(bucket.from, query.order),
        _ => zoom_title(grain, *bucket, query.buckets.len(), query.order),
    };
    query.buckets.iter().map(|bucket| Head::of(*bucket, title(bucket), !query.by_day())).collect()
}

/// The stages and kinds that open tasks have, gathered once for a plan.
struct Used {
    stages: BTreeSet<String>,
    kinds: BTreeSet<String>,
}

impl Used {
    fn of(plan: &Plan) -> Self {
        let (mut stages, mut kinds) = (BTreeSet::new(), BTreeSet::new());
        for task in plan.tasks.values().filter(|task| !task.is_done()) {
            for (word, words) in [(&task.stage, &mut stages), (&task.kind, &mut kinds)] {
                if !word.is_empty() && !words.contains(word) {
                    words.insert(word.clone());
                }
            }
        }
        Self { stages, kinds }
    }
}

fn filters(kept: &Kept, plan: &Plan, query: &SlipsQuery) -> Vec<Filter> {
    let params = &query.params;
    let used = kept.get(plan, String::new(), || Used::of(plan));
    let offered = |words: &BTreeSet<String>| words.iter().map(|word| (word.clone(), words::capital(word))).collect();
    let mut teams: Vec<(String, String)> =
        plan.records.teams.values().map(|team| (team.code.clone(), team.name.clone())).collect();
    teams.sort_by_cached_key(|(_, name)| name.to_lowercase());
    let projects = offers::projects(plan, |it| offers::is_open(it) || it.code == params.project);
    let filter = |name, label, none, taken: &String, offers| Filter { name, label, none, taken: taken.clone(), offers };
    vec![
        filter("team", "Team", "All teams", &params.team, teams),
        filter(
            "project",
            "Project",
            "All projects",
            &params.project,
            projects.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
        ),
        filter("stage", "Stage", "Any stage", &params.stage, offered(&used.stages)),
        filter("kind", "Kind of work", "Any kind", &params.kind, offered(&used.kinds)),
        filter(
            "priority",
            "Priority",
            "Any priority",
            &params.priority,
            Priority::ALL.iter().map(|it| (it.to_string(), words::capital(&it.to_string()))).collect(),
        ),
    ]
}
