//! The room as a page.

use super::{
    alerts::AlertsView,
    angle::{Angle, Overlay},
    colour::{Colour, Palette},
    figures::counts,
    horizon::HorizonView,
    lines::{Line, PAGE, chosen, heads_of, lines, with_budgets},
    looks::LooksView,
    parts::{self, Drawn, SheetHtml},
    query::{FitParams, FitQuery},
    tray,
    view::View,
    zoom::{self, Height, ZOOMS},
};
use crate::{
    AppState, Error,
    auth::User,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{extract::State, response::Html};
use snug_core::{
    Day, Plan, ProjectId,
    cells::{Band, Bucket, Grain},
    kinds::ProjectStatus,
    load::{Groups, Measure},
};
use snug_store::looks;
use std::{collections::BTreeSet, sync::Arc};

/// A vertical mark: today, a milestone, a holiday.
pub struct Mark {
    pub x: String,
    pub title: String,
    pub kind: &'static str,
}

/// The head of a column.
struct Column {
    title: String,
    days: i32,
    letters: Vec<(char, bool)>,
}

/// A choice in a list: its word, its name, whether it is taken.
struct Offer {
    word: String,
    name: String,
    on: bool,
}

/// A filter with its choices.
struct Filter {
    name: &'static str,
    label: &'static str,
    none: &'static str,
    offers: Vec<Offer>,
}

/// A way to another view.
struct Way {
    href: String,
    name: &'static str,
    on: bool,
}

#[derive(Template)]
#[template(path = "fit/page.html")]
struct FitPage {
    frame: Frame,
    query: FitQuery,
    heads: Vec<Column>,
    marks: Vec<Mark>,
    lines: Vec<Drawn>,
    more: Option<String>,
    /// All lines of the list.
    total: usize,
    shown: String,
    dates: String,
    people_in_all: usize,
    horizon: Option<HorizonView>,
    alerts: Option<AlertsView>,
    tray: Option<Arc<tray::TrayView>>,
    looks: LooksView,
    sheet: Option<SheetHtml>,
    key: Vec<(usize, String)>,
    angles: Vec<Way>,
    measures: Vec<Offer>,
    colours: Vec<Offer>,
    zooms: Vec<Offer>,
    heights: Vec<Offer>,
    overlays: Vec<Offer>,
    filters: Vec<Filter>,
    /// What each form of the head keeps of the address.
    kept_look: Vec<(&'static str, String)>,
    kept_filter: Vec<(&'static str, String)>,
    kept_layers: Vec<(&'static str, String)>,
    earlier: String,
    later: String,
    now: String,
    wider: String,
    narrower: String,
    clear: String,
    may_book: bool,
}

/// The largest workspace whose horizon, warnings and tray come with the page; a larger one's are fetched behind it.
const AT_ONCE: usize = 400;

pub async fn page(
    State(state): State<AppState>,
    user: User,
    View { plan, query }: View,
) -> Result<Html<String>, Error> {
    let frame = Frame::of(&state, &user, Room::Fit).await?;
    let saved = looks::of_room(state.keeper.db(), user.account.id, "fit").await?;
    let may_book = user.books();
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let people = chosen(&kept, &plan, &query);
        let groups = Groups::new(&plan, query.load());
        let palette = Palette::new(&plan, query.colour, query.project);
        let mut list = lines(&plan, &query, &people, &groups);
        let total = list.len();
        let end = (query.offset + PAGE).min(total);
        let page_of = &mut list[query.offset.min(end)..end];
        if plan.people.len() <= AT_ONCE {
            with_budgets(&kept, &plan, &query, &mut heads_of(page_of));
        }
        let drawn = parts::draw(&groups, &plan, page_of, &query, &palette);
        let projects: BTreeSet<ProjectId> = drawn.iter().flat_map(Drawn::projects).collect();
        let small = plan.people.len() <= AT_ONCE;
        let now =
            FitQuery::read(&FitParams { zoom: query.zoom.to_string(), ..FitParams::default() }, &plan, query.today)
                .from;
        let jump = if query.zoom == Grain::Day { 1 } else { (query.span / 2).max(1) };
        let step = if query.zoom == Grain::Day {
            7
        } else if query.span > 4 {
            2
        } else {
            1
        };
        let span = |span: i32| query.at_window(&plan, query.zoom, query.from, span).href("/fit");
        let page = FitPage {
            heads: heads(&query),
            marks: marks(&plan, &query),
            more: parts::more(&query, total),
            lines: drawn,
            total,
            shown: shown(&query, &people, &list),
            dates: words::range(query.from, query.to(), query.order),
            people_in_all: plan.people.len(),
            horizon: small.then(|| parts::strip_of(&kept, &plan, &query)),
            alerts: small.then(|| super::alerts::view(&kept, &plan, &query)),
            tray: small.then(|| tray::view(&kept, &plan, &query, may_book)),
            looks: LooksView::new(saved, &user, &query),
            sheet: parts::sheet_of(&plan, &query, may_book)?,
            key: palette.key(&projects, query.project.is_some() || query.angle == Angle::Project),
            angles: angles(&query),
            measures: measures(&plan, &query),
            colours: Colour::choices(&plan)
                .into_iter()
                .map(|(colour, word, name)| Offer { word, name, on: colour == query.colour })
                .collect(),
            zooms: ZOOMS
                .iter()
                .map(|zoom| Offer { word: zoom.0.to_string(), name: zoom.1.to_owned(), on: zoom.0 == query.zoom })
                .collect(),
            heights: Height::ALL
                .iter()
                .map(|(height, word)| Offer {
                    word: (*word).to_owned(),
                    name: words::capital(word),
                    on: *height == query.height,
                })
                .collect(),
            overlays: Overlay::ALL
                .iter()
                .map(|known| Offer { word: known.1.to_owned(), name: known.2.to_owned(), on: query.shows(known.0) })
                .collect(),
            filters: filters(&plan, &query),
            kept_look: query.kept_besides(&["measure", "colour", "zoom", "span", "rows"]),
            kept_filter: query.kept_besides(&["q", "team", "role", "skill", "project", "tag", "band"]),
            kept_layers: query.kept_besides(&["layers"]),
            earlier: query.moved(&plan, -jump).href("/fit"),
            later: query.moved(&plan, jump).href("/fit"),
            now: query.at_window(&plan, query.zoom, now, query.span).href("/fit"),
            wider: span(query.span + step),
            narrower: span(query.span - step),
            clear: cleared(&query).href("/fit"),
            may_book,
            frame,
            query,
        };
        page.render()
    })
    .await
}

fn filters(plan: &Plan, query: &FitQuery) -> Vec<Filter> {
    let in_view = |project: &&Arc<snug_core::kinds::Project>| {
        project.status != ProjectStatus::Closed || Some(project.id) == query.project
    };
    let projects =
        plan.records.projects.values().filter(in_view).map(|project| (project.code.as_str(), project.name.as_str()));
    let roles = plan.spellings().held_roles().map(|role| (role, role));
    let skills = plan.spellings().held_skills().map(|skill| (skill, skill));
    let band = |(band, name): &(Band, &str)| Offer {
        word: band.to_string(),
        name: (*name).to_owned(),
        on: query.band == Some(*band),
    };
    let filter = |name, label, none, offers| Filter { name, label, none, offers };
    let teams = plan.records.teams.values().map(|team| (team.code.as_str(), team.name.as_str()));
    let tags = plan.tasks.values().flat_map(|task| &task.tags).map(|tag| (tag.as_str(), tag.as_str()));
    vec![
        filter("project", "Project in view", "All projects", offers(projects, &query.project_code)),
        filter("team", "Team", "All teams", offers(teams, &query.team)),
        filter("role", "Role", "All roles", offers(roles, &query.role)),
        filter("skill", "Skill", "All skills", offers(skills, &query.skill)),
        filter("tag", "Tag of their tasks", "Any tag", offers(tags, &query.tag)),
        filter("band", "State", "Any state", BANDS.iter().map(band).collect()),
    ]
}

/// The same view with everybody in it.
fn cleared(query: &FitQuery) -> FitQuery {
    let none = String::new;
    FitQuery {
        q: none(),
        team: none(),
        role: none(),
        skill: none(),
        tag: none(),
        project: None,
        project_code: none(),
        band: None,
        alert: None,
        ..query.unselected()
    }
}

/// Choices by name, each word once.
fn offers<'a>(all: impl Iterator<Item = (&'a str, &'a str)>, taken: &str) -> Vec<Offer> {
    let once: BTreeSet<(&str, &str)> = all.filter(|(word, _)| !word.is_empty()).collect();
    let offer =
        |(word, name): (&str, &str)| Offer { on: word == taken, word: word.to_owned(), name: words::capital(name) };
    let mut list: Vec<Offer> = once.into_iter().map(offer).collect();
    list.sort_by_key(|offer| offer.name.to_lowercase());
    list
}

fn angles(query: &FitQuery) -> Vec<Way> {
    let way = |(angle, _, name): &(Angle, &'static str, &'static str)| {
        // Switching keeps window, filter and selection; a warning that counts people says nothing of equipment.
        let to = FitQuery { angle: *angle, turned: BTreeSet::new(), offset: 0, ..query.clone() };
        Way { href: to.href("/fit"), name, on: *angle == query.angle }
    };
    Angle::ALL.iter().map(way).collect()
}

fn measures(plan: &Plan, query: &FitQuery) -> Vec<Offer> {
    let names = ["Hours", "Percent of limit", "Projects at a time", "Tasks at a time", "Points"];
    let plain =
        Measure::PLAIN.iter().zip(names).map(|((measure, word), name)| (*measure, (*word).to_owned(), name.to_owned()));
    let fields = Measure::fields(plan)
        .into_iter()
        .map(|field| (Measure::Field(field.id), format!("field {}", field.name), field.name.clone()));
    plain.chain(fields).map(|(measure, word, name)| Offer { word, name, on: measure == query.measure }).collect()
}

/// `26 people and equipment · hours`.
fn shown(query: &FitQuery, people: &[&snug_core::plan::Entry], list: &[Line<'_>]) -> String {
    let heads = list.iter().filter(|line| matches!(line, Line::Head(_))).count();
    let many =
        |count: usize, one: &str, many: &str| if count == 1 { format!("1 {one}") } else { format!("{count} {many}") };
    let what = match query.angle {
        Angle::Person => many(people.len(), "row", "people and equipment"),
        Angle::Equipment => many(people.len(), "piece of equipment", "pieces of equipment"),
        Angle::Project => many(heads, "project", "projects"),
        Angle::Team => many(heads, "team", "teams"),
        Angle::Role => many(heads, "role", "roles"),
        Angle::Skill => many(heads, "skill", "skills"),
    };
    format!("{what} · {}", counts(query))
}

fn heads(query: &FitQuery) -> Vec<Column> {
    let free = |day: Day| day.weekday() >= 5;
    let letter = |day: Day| (['M', 'T', 'W', 'T', 'F', 'S', 'S'][day.weekday()], free(day));
    let has_letters = query.days() <= 84;
    let column = |bucket: &Bucket| Column {
        title: zoom::title(query.zoom, *bucket, query.buckets.len(), query.order),
        days: bucket.to.since(bucket.from) + 1,
        letters: if has_letters { bucket.from.through(bucket.to).map(letter).collect() } else { Vec::new() },
    };
    query.buckets.iter().map(column).collect()
}

/// What stands at single days of the window, as far as its overlay is on.
pub fn marks(plan: &Plan, query: &FitQuery) -> Vec<Mark> {
    let days = f64::from(query.days());
    let at = |day: Day, part: f64| format!("{:.3}%", 100.0 * (f64::from(day.since(query.from)) + part) / days);
    let inside = |day: Day| (query.from..=query.to()).contains(&day);
    let mut marks = Vec::new();
    if query.shows(Overlay::Milestones) {
        let ours = |milestone: &&Arc<snug_core::kinds::Milestone>| {
            query.project.is_none_or(|one| milestone.projects.is_empty() || milestone.projects.contains(&one))
        };
        for milestone in plan.records.milestones.values().filter(|milestone| inside(milestone.date)).filter(ours) {
            let projects =
                milestone.projects.iter().filter_map(|id| plan.records.projects.get(id)).map(|p| p.name.as_str());
            let projects: Vec<&str> = projects.collect();
            let of = if projects.is_empty() { String::new() } else { format!(" ({})", projects.join(", ")) };
            let title = format!("{}: {}{of}", words::weekday(milestone.date, query.order), milestone.name);
            marks.push(Mark { x: at(milestone.date, 1.0), title, kind: "milestone" });
        }
    }
    if query.shows(Overlay::Holidays) {
        let all =
            plan.calendars.values().flat_map(|calendar| &calendar.holidays).filter(|holiday| inside(holiday.date));
        let mut days: Vec<(Day, String)> =
            all.map(|holiday| (holiday.date, format!("{} ({})", holiday.name, holiday.calendar))).collect();
        days.sort();
        for (day, name) in days {
            let title = format!("{}: {name}", words::weekday(day, query.order));
            marks.push(Mark { x: at(day, 0.5), title, kind: "holiday" });
        }
    }
    if inside(query.today) {
        let title = format!("Today, {}", words::weekday(query.today, query.order));
        marks.push(Mark { x: at(query.today, 0.5), title, kind: "today" });
    }
    marks
}

/// The words of the filter by band.
const BANDS: [(Band, &str); 5] = [
    (Band::Over, "Over the limit"),
    (Band::Brim, "Full to the brim"),
    (Band::Snug, "Snug"),
    (Band::Open, "Open"),
    (Band::Away, "Away"),
];
