//! The room as a page.

use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::{
        address::{
            angle::{Angle, Overlay},
            colour::Colour,
            query::{FitParams, FitQuery},
            view::{Params, View, before},
            zoom::{self, Height, ZOOMS},
        },
        even::Asked,
        parts::{self, SheetHtml, Shown},
        picture::{
            drawn::{Drawn, RowsPart},
            figures::counts,
            marks::{Mark, marks},
            palette::Palette,
        },
        strips::{
            alerts::{self, AlertsView},
            horizon::HorizonView,
            tray,
        },
    },
    frame::{Frame, Room},
    grid::Head,
    kept::Kept,
    looks::LooksView,
    words,
};
use askama::Template;
use axum::{
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
};
use snug_core::{
    Plan, ProjectId,
    cells::{Band, Bucket, Grain},
    kinds::ProjectStatus,
    load::Measure,
};
use std::{collections::BTreeSet, sync::Arc};

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
    taken: String,
    offers: Words,
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
    heads: Vec<Head>,
    marks: Vec<Mark>,
    part: RowsPart,
    /// A pixel in days, where the picture is as wide as it usually is; scripts know better.
    day_wide: String,
    shown: String,
    dates: String,
    people_in_all: usize,
    horizon: Option<HorizonView>,
    alerts: Option<AlertsView>,
    tray: Option<Arc<tray::TrayView>>,
    /// Where what is seen is evened out.
    even_out: String,
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
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Params(params): Params,
    View { plan, query }: View,
) -> Result<Response, Error> {
    if !params.cell.is_empty() || !params.turn.is_empty() {
        let from = before(&headers).map_or(query, |params| FitQuery::read(&params, &plan, state.today()));
        return Ok(Redirect::to(&from.followed(&params).href("/fit")).into_response());
    }
    let frame = Frame::of(&state, &user, Room::Fit).await?;
    let looks = LooksView::of(&state, &user, "fit", query.unselected().href("/fit")).await?;
    let may_book = user.books();
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let query = query.seen_by(&user.eyes(&plan));
        let (part, counted) = parts::part_of_list(&kept, &plan, &query, may_book);
        let palette = Palette::new(&plan, query.colour, query.project);
        let projects: BTreeSet<ProjectId> = part.lines.iter().flat_map(Drawn::projects).collect();
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
            day_wide: format!("{:.4}", f64::from(query.days()) / 1064.0),
            shown: shown(&query, &counted),
            dates: words::range(query.from, query.to(), query.order),
            people_in_all: plan.people.len(),
            horizon: small.then(|| parts::strip_of(&kept, &plan, &query)),
            alerts: small.then(|| alerts::view(&kept, &plan, &query)),
            tray: small.then(|| tray::view(&kept, &plan, &query, may_book)),
            even_out: Asked::in_fit(&query, &in_view(&part, &query)).address(),
            looks,
            sheet: parts::sheet_of(&user.eyes(&plan), &query, may_book)?,
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
            filters: filters(&kept, &plan, &query),
            kept_look: query.kept_besides(&["measure", "colour", "zoom", "span", "rows"]),
            kept_filter: query.kept_besides(&["q", "team", "role", "skill", "project", "tag", "band"]),
            kept_layers: query.kept_besides(&["layers"]),
            earlier: query.moved(&plan, -jump).href("/fit"),
            later: query.moved(&plan, jump).href("/fit"),
            now: query.at_window(&plan, query.zoom, now, query.span).href("/fit"),
            wider: span(query.span + step),
            narrower: span(query.span - step),
            clear: cleared(&query).href("/fit"),
            part,
            may_book,
            frame,
            query,
        };
        page.render()
    })
    .await
    .map(IntoResponse::into_response)
}

/// The people who are looked for, where all of them are here.
fn in_view(part: &RowsPart, query: &FitQuery) -> Vec<i32> {
    if !query.is_filtered() || part.more.is_some() {
        return Vec::new();
    }
    let person = |line: &Drawn| if let Drawn::Row(row) = line { Some(row.id) } else { None };
    let people: BTreeSet<i32> = part.lines.iter().filter_map(person).collect();
    people.into_iter().collect()
}

/// Words with their names, by name.
type Words = Arc<Vec<(String, String)>>;

/// What one can filter by, gathered once for a plan.
struct Gathered {
    projects: Words,
    teams: Words,
    roles: Words,
    skills: Words,
    tags: Words,
}

impl Gathered {
    fn of(plan: &Plan, in_view: Option<ProjectId>) -> Self {
        let shown = |project: &&Arc<snug_core::kinds::Project>| {
            project.status != ProjectStatus::Closed || Some(project.id) == in_view
        };
        let projects = plan.records.projects.values().filter(shown);
        Self {
            projects: by_name(projects.map(|project| (project.code.as_str(), project.name.as_str()))),
            teams: by_name(plan.records.teams.values().map(|team| (team.code.as_str(), team.name.as_str()))),
            roles: by_name(plan.spellings().held_roles().map(|role| (role, role))),
            skills: by_name(plan.spellings().held_skills().map(|skill| (skill, skill))),
            tags: by_name(plan.tasks.values().flat_map(|task| &task.tags).map(|tag| (tag.as_str(), tag.as_str()))),
        }
    }
}

fn filters(kept: &Kept, plan: &Plan, query: &FitQuery) -> Vec<Filter> {
    let found = kept.get(plan, query.project_code.clone(), || Gathered::of(plan, query.project));
    let filter = |name, label, none, taken: &str, offers: &Words| Filter {
        name,
        label,
        none,
        taken: taken.to_owned(),
        offers: Arc::clone(offers),
    };
    let band = query.band.map(|band| band.to_string()).unwrap_or_default();
    let bands = BANDS.iter().map(|(band, name)| (band.to_string(), (*name).to_owned())).collect();
    vec![
        filter("project", "Project in view", "All projects", &query.project_code, &found.projects),
        filter("team", "Team", "All teams", &query.team, &found.teams),
        filter("role", "Role", "All roles", &query.role, &found.roles),
        filter("skill", "Skill", "All skills", &query.skill, &found.skills),
        filter("tag", "Tag of their tasks", "Any tag", &query.tag, &found.tags),
        filter("band", "State", "Any state", &band, &Arc::new(bands)),
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
fn by_name<'a>(all: impl Iterator<Item = (&'a str, &'a str)>) -> Words {
    let once: BTreeSet<(&str, &str)> = all.filter(|(word, _)| !word.is_empty()).collect();
    let offer = |(word, name): (&str, &str)| (word.to_owned(), words::capital(name));
    let mut list: Vec<(String, String)> = once.into_iter().map(offer).collect();
    list.sort_by_cached_key(|(_, name)| name.to_lowercase());
    Arc::new(list)
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
    let plain = Measure::PLAIN.iter().map(|about| (about.measure, about.word.to_owned(), about.name.to_owned()));
    let fields = Measure::fields(plan)
        .into_iter()
        .map(|field| (Measure::Field(field.id), format!("field {}", field.name), field.name.clone()));
    plain.chain(fields).map(|(measure, word, name)| Offer { word, name, on: measure == query.measure }).collect()
}

/// `26 people and equipment · hours`.
fn shown(query: &FitQuery, Shown { people, heads }: &Shown) -> String {
    let what = match query.angle {
        Angle::Person => words::count(*people, "row", "people and equipment"),
        Angle::Equipment => words::count(*people, "piece of equipment", "pieces of equipment"),
        Angle::Project => words::count(*heads, "project", "projects"),
        Angle::Team => words::count(*heads, "team", "teams"),
        Angle::Role => words::count(*heads, "role", "roles"),
        Angle::Skill => words::count(*heads, "skill", "skills"),
    };
    format!("{what} · {}", counts(query))
}

fn heads(query: &FitQuery) -> Vec<Head> {
    let has_letters = query.days() <= 84;
    let title = |bucket: &Bucket| zoom::title(query.zoom, *bucket, query.buckets.len(), query.order);
    query.buckets.iter().map(|bucket| Head::of(*bucket, title(bucket), has_letters)).collect()
}

/// The words of the filter by band.
const BANDS: [(Band, &str); 5] = [
    (Band::Over, "Over the limit"),
    (Band::Brim, "Full to the brim"),
    (Band::Snug, "Snug"),
    (Band::Open, "Open"),
    (Band::Away, "Away"),
];
