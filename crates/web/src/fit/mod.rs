//! The Fit room: who has room, and who is over their limit.

mod horizon;
mod people;
mod query;
mod sheet;
mod strata;
#[cfg(test)]
mod tests;

pub use horizon::Horizons;
pub use query::{FitParams, FitQuery};
pub use strata::{hue, row_of};

use crate::{
    AppState, Error,
    auth::User,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    Router,
    extract::{Path, Query, State},
    response::Html,
    routing::get,
};
use horizon::HorizonView;
use people::{Item, PAGE, chosen, items};
use sheet::SheetView;
use snug_core::{
    Plan,
    cells::{Band, Grain},
    load::{Group, Measure, team_row},
};
use std::sync::Arc;
use strata::{HeadView, RowView};

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/fit", get(page))
        .route("/fit/rows", get(rows))
        .route("/fit/rows/{person}", get(one_row))
        .route("/fit/horizon", get(strip))
        .route("/fit/sheet", get(side_sheet))
}

/// A line of the list as it is drawn.
enum Drawn {
    Head(HeadView),
    Row(RowView),
}

/// A vertical mark: today, or a milestone.
struct Mark {
    x: String,
    title: String,
    today: bool,
}

/// The head of a column.
struct Column {
    title: String,
    letters: Vec<(char, bool)>,
}

#[derive(Template)]
#[template(path = "fit/page.html")]
struct FitPage {
    frame: Frame,
    query: FitQuery,
    columns: usize,
    heads: Vec<Column>,
    marks: Vec<Mark>,
    lines: Vec<Drawn>,
    more: Option<String>,
    shown: String,
    dates: String,
    people_in_all: usize,
    horizon: Option<HorizonView>,
    horizon_href: String,
    sheet: Option<SheetView>,
    teams: Vec<(String, String)>,
    roles: Vec<String>,
    earlier: String,
    later: String,
    now: String,
    week_zoom: String,
    day_zoom: String,
    wider: String,
    narrower: String,
    grouped: String,
    clear: String,
    may_book: bool,
}

#[derive(Template)]
#[template(path = "fit/rows.html")]
struct RowsPart {
    lines: Vec<Drawn>,
    more: Option<String>,
    columns: usize,
    may_book: bool,
}

#[derive(Template)]
#[template(path = "fit/row.html")]
pub struct RowPart {
    pub row: RowView,
    pub columns: usize,
    pub may_book: bool,
}

/// The largest workspace whose horizon comes with the page; a larger one's is fetched behind it.
const HORIZON_AT_ONCE: usize = 400;

async fn page(
    State(state): State<AppState>,
    user: User,
    Query(params): Query<FitParams>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = FitQuery::read(&params, &plan, state.today());
    let frame = Frame::of(&state, &user, Room::Fit).await?;
    let may_book = user.books();
    let horizons = Arc::clone(&state.horizons);
    crate::computed(move || {
        let people = chosen(&plan, &query);
        let (lines, more) = draw(&plan, &query, &people);
        let horizon = (plan.people.len() <= HORIZON_AT_ONCE).then(|| strip_of(&horizons, &plan, &query));
        let step = |weeks: i32| query.at_window(query.from + weeks * 7, query.weeks, query.by_day).href("/fit");
        let zoom = |weeks: i32| query.at_window(query.from, weeks.clamp(1, 26), query.by_day).href("/fit");
        let stride = if query.by_day { 1 } else { (query.weeks / 2).max(1) };
        let now = FitQuery::read(&FitParams::default(), &plan, query.today).from;
        let count = people.len();
        let what = if count == 1 { "1 row".to_owned() } else { format!("{count} people and equipment") };
        let page = FitPage {
            columns: columns(&query),
            heads: heads(&plan, &query),
            marks: marks(&plan, &query),
            lines,
            more,
            shown: what,
            dates: words::range(query.from, query.to(), query.order),
            people_in_all: plan.people.len(),
            horizon,
            horizon_href: query.href("/fit/horizon"),
            sheet: sheet::view(&plan, &query, may_book),
            teams: teams(&plan),
            roles: roles(&plan),
            earlier: step(-stride),
            later: step(stride),
            now: query.at_window(now, query.weeks, query.by_day).href("/fit"),
            week_zoom: query.at_window(query.from, 6, false).href("/fit"),
            day_zoom: query.at_window(query.from, 2, true).href("/fit"),
            wider: zoom(if query.by_day { query.weeks + 1 } else { query.weeks + 2 }),
            narrower: zoom(if query.by_day { query.weeks - 1 } else { query.weeks - 2 }),
            grouped: FitQuery { by_team: !query.by_team, ..query.clone() }.href("/fit"),
            clear: FitQuery { q: String::new(), team: String::new(), role: String::new(), band: None, ..query.clone() }
                .href("/fit"),
            may_book,
            frame,
            query,
        };
        page.render()
    })
    .await
}

async fn rows(
    State(state): State<AppState>,
    user: User,
    Query(params): Query<FitParams>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = FitQuery::read(&params, &plan, state.today());
    crate::computed(move || {
        let people = chosen(&plan, &query);
        let (lines, more) = draw(&plan, &query, &people);
        RowsPart { lines, more, columns: columns(&query), may_book: user.books() }.render()
    })
    .await
}

async fn one_row(
    State(state): State<AppState>,
    user: User,
    Path(person): Path<i32>,
    Query(params): Query<FitParams>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = FitQuery::read(&params, &plan, state.today());
    let row = row_of(&plan, person, &query).ok_or(Error::NotFound)?;
    Ok(Html(RowPart { row, columns: columns(&query), may_book: user.books() }.render()?))
}

async fn strip(State(state): State<AppState>, _: User, Query(params): Query<FitParams>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = FitQuery::read(&params, &plan, state.today());
    crate::computed(move || strip_of(&state.horizons, &plan, &query).render()).await
}

fn strip_of(horizons: &Horizons, plan: &Plan, query: &FitQuery) -> HorizonView {
    let first = horizon::first_day(query, plan);
    horizon::view(query, &horizons.weeks(plan, query, first))
}

async fn side_sheet(
    State(state): State<AppState>,
    user: User,
    Query(params): Query<FitParams>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = FitQuery::read(&params, &plan, state.today());
    let sheet = sheet::view(&plan, &query, user.books()).ok_or(Error::NotFound)?;
    Ok(Html(sheet.render()?))
}

/// How many cells stand in a row.
pub fn columns(query: &FitQuery) -> usize {
    usize::try_from(if query.by_day { query.weeks * 7 } else { query.weeks }).unwrap_or(1)
}

/// The part of the list that is asked for, and the address of the next part.
fn draw(plan: &Plan, query: &FitQuery, people: &[&snug_core::plan::Entry]) -> (Vec<Drawn>, Option<String>) {
    let items = items(plan, query, people);
    let more = items.len() > query.offset + PAGE;
    let more = more.then(|| format!("{}&offset={}", query.href("/fit/rows"), query.offset + PAGE));
    let line = |item: &Item<'_>| match item {
        Item::Row(entry) => Drawn::Row(strata::row(plan, entry, query)),
        Item::Head(team, members) => {
            let grain = if query.by_day { Grain::Day } else { Grain::Week };
            let window = query.window();
            let buckets = grain.buckets(window.from, window.to, &plan.settings);
            let load = snug_core::load::Query { window, grain, group: Group::Team, measure: Measure::Minutes };
            let figures = team_row(plan, &load, &buckets, *team);
            let name = team.and_then(|id| plan.teams.get(&id)).map_or("No team", |team| team.name.as_str());
            Drawn::Head(strata::head(plan, name, members, &figures, query))
        }
    };
    (items.iter().skip(query.offset).take(PAGE).map(line).collect(), more)
}

fn heads(plan: &Plan, query: &FitQuery) -> Vec<Column> {
    let free = |day: snug_core::Day| day.weekday() >= 5;
    let letter = |day: snug_core::Day| (['M', 'T', 'W', 'T', 'F', 'S', 'S'][day.weekday()], free(day));
    let grain = if query.by_day { Grain::Day } else { Grain::Week };
    let buckets = grain.buckets(query.from, query.to(), &plan.settings);
    let column = |bucket: &snug_core::cells::Bucket| {
        let title = if query.by_day || query.weeks > 8 {
            words::day_short(bucket.from, query.order)
        } else {
            words::day(bucket.from, query.order)
        };
        let letters = if query.weeks > 12 { Vec::new() } else { bucket.from.through(bucket.to).map(letter).collect() };
        Column { title, letters }
    };
    buckets.iter().map(column).collect()
}

fn marks(plan: &Plan, query: &FitQuery) -> Vec<Mark> {
    let days = f64::from(query.weeks * 7);
    let at =
        |day: snug_core::Day, part: f64| format!("{:.3}%", 100.0 * (f64::from(day.since(query.from)) + part) / days);
    let inside = |day: snug_core::Day| (query.from..=query.to()).contains(&day);
    let mut marks = Vec::new();
    for milestone in plan.milestones.values().filter(|milestone| inside(milestone.date)) {
        let projects = milestone.projects.iter().filter_map(|id| plan.projects.get(id)).map(|p| p.name.as_str());
        let projects: Vec<&str> = projects.collect();
        let of = if projects.is_empty() { String::new() } else { format!(" ({})", projects.join(", ")) };
        let title = format!("{}: {}{of}", words::weekday(milestone.date, query.order), milestone.name);
        marks.push(Mark { x: at(milestone.date, 1.0), title, today: false });
    }
    if inside(query.today) {
        let title = format!("Today, {}", words::weekday(query.today, query.order));
        marks.push(Mark { x: at(query.today, 0.5), title, today: true });
    }
    marks
}

fn teams(plan: &Plan) -> Vec<(String, String)> {
    let mut teams: Vec<(String, String)> =
        plan.teams.values().map(|team| (team.code.clone(), team.name.clone())).collect();
    teams.sort_by_key(|(_, name)| name.to_lowercase());
    teams
}

fn roles(plan: &Plan) -> Vec<String> {
    let roles = plan.people.values().map(|entry| entry.person.role.clone()).filter(|role| !role.is_empty());
    let mut roles: Vec<String> = roles.collect();
    roles.sort();
    roles.dedup();
    roles
}

/// The words of the filter by band.
const BANDS: [(Band, &str); 5] = [
    (Band::Over, "over the limit"),
    (Band::Brim, "full to the brim"),
    (Band::Snug, "snug"),
    (Band::Open, "open"),
    (Band::Away, "away"),
];
