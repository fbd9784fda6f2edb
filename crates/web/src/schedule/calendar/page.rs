//! The calendar as a page.

use super::{
    day::{DayView, HoursOf, day},
    parts::RowsPart,
    picture::Drawing,
    query::{CalendarQuery, PATH, Params, Span},
    sheet,
};
use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit,
    frame::{Frame, Room},
    looks::LooksView,
    offers,
    schedule::{
        address::{Said, before, list, pairs},
        views::{View, ways},
    },
    words,
};
use askama::Template;
use axum::{
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
};
use snug_core::{Day, Plan, kinds::ProjectStatus};
use std::collections::BTreeSet;

/// A project that can be seen or not: its hue, its name, whether it is on, and the view with that turned.
struct Turn {
    hue: usize,
    name: String,
    on: bool,
    href: String,
}

#[derive(Template)]
#[template(path = "schedule/calendar/page.html")]
struct CalendarPage {
    frame: Frame,
    query: CalendarQuery,
    views: Vec<(String, &'static str, bool)>,
    spans: Vec<(String, &'static str, bool)>,
    heads: Vec<(String, String)>,
    part: RowsPart,
    /// The days of the list.
    list: Vec<DayView>,
    looks: LooksView,
    sheet: Option<String>,
    title: String,
    class: &'static str,
    shown: String,
    projects: Vec<(String, String, bool)>,
    teams: Vec<(String, String, bool)>,
    also: Vec<(String, String, bool)>,
    turns: Vec<Turn>,
    kept: Vec<(String, String)>,
    day_wide: String,
    earlier: String,
    later: String,
    now: String,
    clear: String,
    file: String,
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
        let to = CalendarQuery::read(from, &plan, today).followed(&params.cell);
        return Ok(Redirect::to(&to).into_response());
    }
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let query = CalendarQuery::read(params, &plan, today).beside_live(state.live_plan());
    let looks = LooksView::of(&state, &user, "calendar", query.href(PATH, |params| params.at = String::new())).await?;
    crate::computed(move || {
        let may_change = user.books();
        let drawing = Drawing::new(&plan, &query, may_change);
        let at = |from: Day| query.href(PATH, |params| params.from = from.to_string());
        let span = |(span, word, name): (Span, &str, &'static str)| {
            let word = if span == Span::Month { String::new() } else { word.to_owned() };
            (query.href(PATH, |params| params.span = word), name, span == query.span)
        };
        let is_list = query.span == Span::List;
        let part = if is_list { RowsPart::none() } else { RowsPart::of(&drawing) };
        let days = if is_list { all_days(&drawing, &query) } else { Vec::new() };
        let sheet = sheet::view(&plan, &query, &user).map_err(|error| askama::Error::custom(error.to_string()))?;
        let params = &query.params;
        let page = CalendarPage {
            views: ways(View::Calendar, &params.project),
            spans: Span::ALL.map(span).to_vec(),
            heads: heads(&query),
            list: days,
            title: title(&query),
            class: Span::ALL.iter().find(|it| it.0 == query.span).map_or("month", |it| it.1),
            shown: format!(
                "{} · {}",
                words::count(drawing.agenda.tasks.len(), "task", "tasks"),
                words::count(drawing.agenda.people.len(), "person’s days", "people’s days")
            ),
            projects: offers::projects(&plan, |it| offers::is_open(it) || it.code == params.project)
                .into_iter()
                .map(|it| (it.code.clone(), it.name.clone(), it.code == params.project))
                .collect(),
            teams: teams(&plan, &params.team),
            also: teams(&plan, &params.also),
            turns: turns(&plan, &query, &drawing),
            kept: pairs(params, &["team", "also", "project", "without", "cell"]),
            day_wide: format!("{:.4}", f64::from(query.days) / 1180.0),
            earlier: at(query.moved(-1)),
            later: at(query.moved(1)),
            now: query.href(PATH, |params| (params.from, params.at) = Default::default()),
            file: query.href("/schedule/calendar/export.ics", |_| {}),
            clear: query.href(PATH, |params| {
                *params = Params { span: params.span.clone(), from: params.from.clone(), ..Params::default() };
            }),
            is_filtered: [&params.project, &params.without, &params.team, &params.also].iter().any(|it| !it.is_empty()),
            sheet,
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

fn all_days(drawing: &Drawing<'_>, query: &CalendarQuery) -> Vec<DayView> {
    let hours = HoursOf::new(drawing, query.from(), query.to());
    let days = query.rows.iter().map(|at| day(drawing, &hours, *at));
    // A day on which nothing lies and nobody works is left out.
    days.filter(|day| !day.tasks.is_empty() || !day.milestones.is_empty() || !day.notes.is_empty() || day.is_today)
        .collect()
}

/// The days of the columns: the first one's date, for scripts, and its name.
fn heads(query: &CalendarQuery) -> Vec<(String, String)> {
    let first = query.from();
    let name = |day: Day| match query.span {
        Span::Month => day.date().format("%a").to_string(),
        _ => words::weekday(day, query.order),
    };
    first.through(first + query.days - 1).map(|day| (day.to_string(), name(day))).collect()
}

/// `March 2026`, or the days.
fn title(query: &CalendarQuery) -> String {
    match query.span {
        Span::Month => query.day.date().format("%B %Y").to_string(),
        Span::Day => words::weekday(query.day, query.order),
        Span::Week | Span::List => words::range(query.from(), query.to(), query.order),
    }
}

fn teams(plan: &Plan, taken: &str) -> Vec<(String, String, bool)> {
    let taken = list(taken);
    let all = plan.records.teams.values();
    let mut found: Vec<_> =
        all.map(|team| (team.code.clone(), team.name.clone(), taken.contains(&team.code))).collect();
    found.sort_by_cached_key(|(_, name, _)| name.to_lowercase());
    found
}

/// The projects with work in these days, and those that are off.
fn turns(plan: &Plan, query: &CalendarQuery, drawing: &Drawing<'_>) -> Vec<Turn> {
    /// More than one can look through says nothing.
    const MOST: usize = 24;
    let off: BTreeSet<String> = list(&query.params.without).into_iter().collect();
    let here: BTreeSet<_> = drawing.agenda.tasks.iter().map(|task| task.project).collect();
    let all = plan.records.projects.values().filter(|it| it.status != ProjectStatus::Closed);
    let mut shown: Vec<_> = all.filter(|it| here.contains(&it.id) || off.contains(&it.code)).collect();
    shown.sort_by_cached_key(|project| project.name.to_lowercase());
    let turn = |project: &std::sync::Arc<snug_core::kinds::Project>| {
        let on = !off.contains(&project.code);
        let mut without = off.clone();
        if on {
            without.insert(project.code.clone());
        } else {
            without.remove(&project.code);
        }
        let without = without.into_iter().collect::<Vec<_>>().join(",");
        Turn {
            hue: fit::hue(plan, project.id),
            name: project.name.clone(),
            on,
            href: query.href(PATH, |params| params.without = without),
        }
    };
    shown.into_iter().take(MOST).map(turn).collect()
}
