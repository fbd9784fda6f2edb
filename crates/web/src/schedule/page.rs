//! The Gantt as a page.

use super::{
    address::{Said, before},
    outline::{Of, outline, tasks_of},
    parts::{self, RowsPart},
    people::PeopleView,
    picture::key,
    query::{GanttQuery, PATH, Params, ZOOMS},
    sheet, tuck,
    views::{View, today_at, ways},
};
use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::zoom_title,
    frame::{Frame, Room},
    grid::Head,
    offers, words,
};
use askama::Template;
use axum::{
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
};
use snug_core::{Day, Plan, cells::Bucket, kinds::BaselineKind};
use std::sync::Arc;

/// A choice in a list: its word, its name, whether it is taken.
struct Offer {
    word: String,
    name: String,
    on: bool,
}

#[derive(Template)]
#[template(path = "schedule/page.html")]
struct GanttPage {
    frame: Frame,
    query: GanttQuery,
    heads: Vec<Head>,
    part: RowsPart,
    people: Option<PeopleView>,
    sheet: Option<String>,
    shown: String,
    dates: String,
    key: Vec<(usize, String)>,
    zooms: Vec<Offer>,
    projects: Vec<Offer>,
    baselines: Vec<Offer>,
    /// Where today's line stands, in percent of the width.
    today: Option<String>,
    day_wide: String,
    earlier: String,
    later: String,
    now: String,
    modes: [(String, &'static str, bool); 2],
    network: (String, bool),
    hours: (String, bool),
    clear: String,
    views: Vec<(String, &'static str, bool)>,
    tuck: String,
    picture: String,
    kept: Vec<(String, String)>,
    kept_cols: Vec<(String, String)>,
    tasks_in_all: usize,
    may_change: bool,
}

pub async fn page(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Said(params): Said<Params>,
) -> Result<Response, Error> {
    let (plan, today) = (state.keeper.plan(), state.today());
    if !params.cell.is_empty() || !params.turn.is_empty() {
        let before = before(&headers, PATH).unwrap_or_else(|| params.clone());
        let to = GanttQuery::read(before, &plan, today).followed(&params);
        return Ok(Redirect::to(&to).into_response());
    }
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let kept = Arc::clone(&state.kept);
    let query = GanttQuery::read(params, &plan, today).beside_live(state.live_plan());
    let texts = sheet::texts_of(&state, &query).await?;
    crate::computed(move || {
        let may_change = user.books();
        let outline = outline(&kept, &plan, &query);
        let part = parts::chunk(&kept, (&plan, &query), &outline, may_change);
        let sheet = sheet::view(&state, (&plan, &query), &user, &texts)?;
        let projects =
            outline.lines.iter().filter_map(|line| if let Of::Project(id) = line.of { Some(id) } else { None });
        let jump = (query.weeks / 2).max(1) * 7;
        let at =
            |from: Day| query.href(PATH, |params| (params.from, params.offset) = (from.to_string(), String::new()));
        let mode = |word: &str, name| {
            let on = (query.params.mode == "carry") == (word == "carry");
            let word = if word == "carry" { word.to_owned() } else { String::new() };
            (query.href(PATH, |params| params.mode = word), name, on)
        };
        let toggled = |word: &str| if word == "no" { String::new() } else { "no".to_owned() };
        let page = GanttPage {
            heads: heads(&query),
            people: (query.params.people != "no").then(|| parts::people_part(&kept, &plan, &query)),
            shown: shown(&plan, tasks_of(&outline.lines).len()),
            dates: words::range(query.from, query.to(), query.order),
            key: key(&plan, projects),
            zooms: ZOOMS
                .iter()
                .map(|zoom| Offer { word: zoom.0.to_string(), name: zoom.1.to_owned(), on: zoom.0 == query.zoom })
                .collect(),
            projects: project_offers(&plan, &query),
            baselines: baseline_offers(&plan, &query),
            today: today_at(today, (query.from, query.to())),
            day_wide: format!("{:.4}", f64::from(query.days()) / 940.0),
            earlier: at(query.from - jump),
            later: at(query.from + jump),
            now: query.href(PATH, |params| (params.from, params.offset) = Default::default()),
            modes: [mode("push", "Push"), mode("carry", "Carry")],
            network: (query.href(PATH, |params| params.network = toggled(&params.network)), query.shows_network()),
            hours: (query.href(PATH, |params| params.people = toggled(&params.people)), query.params.people != "no"),
            clear: query.href(PATH, |params| (params.q, params.project) = Default::default()),
            views: ways(View::Gantt, &query.params.project),
            tuck: tuck::way(&query.params.project, "", &frame.here),
            picture: query.href("/schedule/gantt/export/svg", |_| {}),
            kept: query.kept_besides(&["project", "q", "zoom", "weeks", "beside", "offset"]),
            kept_cols: query.kept_besides(&["cols", "offset"]),
            tasks_in_all: plan.tasks.len(),
            part,
            sheet,
            may_change,
            frame,
            query,
        };
        page.render()
    })
    .await
    .map(IntoResponse::into_response)
}

fn shown(plan: &Plan, tasks: usize) -> String {
    let all = plan.tasks.len();
    if tasks == all { format!("{all} tasks") } else { format!("{tasks} of {all} tasks") }
}

fn heads(query: &GanttQuery) -> Vec<Head> {
    let has_letters = query.days() <= 63 && query.buckets.len() < usize::try_from(query.days()).unwrap_or(0);
    let title = |bucket: &Bucket| zoom_title(query.zoom, *bucket, query.buckets.len(), query.order);
    query.buckets.iter().map(|bucket| Head::of(*bucket, title(bucket), has_letters)).collect()
}

fn project_offers(plan: &Plan, query: &GanttQuery) -> Vec<Offer> {
    let shown = offers::projects(plan, |it| offers::is_open(it) || query.projects.contains(&it.id));
    let offer = |it: &snug_core::kinds::Project| Offer {
        word: it.code.clone(),
        name: it.name.clone(),
        on: query.projects.contains(&it.id),
    };
    shown.into_iter().map(offer).collect()
}

/// Baselines of plans; what sprints and seasons promised is seen in their own rooms.
fn baseline_offers(plan: &Plan, query: &GanttQuery) -> Vec<Offer> {
    let of_plans =
        plan.records.baselines.values().filter(|it| !matches!(it.kind, BaselineKind::Sprint | BaselineKind::Season));
    let offer = |it: &Arc<snug_core::kinds::Baseline>| Offer {
        word: it.code.clone(),
        name: format!("{} ({})", it.name, words::day(it.date, query.order)),
        on: query.beside == Some(it.id),
    };
    of_plans.map(offer).collect()
}
