//! A small grid of made-up benches, to try the live grid without a plan: what is moved is said, drawn while it is in the hand, and
//! not kept.

use super::is_shown;
use crate::{
    AppState, Error,
    auth::User,
    grid::{CellView, Rect, Shapes},
    words,
};
use askama::Template;
use axum::{
    Form, Json,
    extract::{Path, Query, State},
    response::Html,
};
use serde::Deserialize;
use serde_json::{Value, json};
use snug_core::{Day, settings::DateOrder};

/// Days across, in weeks.
pub const DAYS: i32 = 28;
/// The height of a picture, in pixels, and of an hour.
const PICTURE: f64 = 46.0;
const HOUR: f64 = 2.9;

/// A bar on a bench.
#[derive(Clone)]
struct Bar {
    id: i32,
    bench: usize,
    title: &'static str,
    hue: usize,
    /// The first day, counted from the first of the window, how many days, and how many minutes each.
    from: i32,
    days: i32,
    minutes: i32,
}

const BENCHES: [&str; 3] = ["North bench", "South bench", "Paint booth"];

fn bars() -> [Bar; 4] {
    let bar = |id, bench, title, hue, (from, days), minutes| Bar { id, bench, title, hue, from, days, minutes };
    [
        bar(1, 0, "Lantern frames", 0, (0, 5), 360),
        bar(2, 0, "Keel jig", 4, (9, 10), 240),
        bar(3, 1, "Sand trays", 2, (7, 12), 480),
        bar(4, 2, "First coat", 3, (14, 4), 300),
    ]
}

/// A bench with what lies on it.
struct Bench {
    key: usize,
    name: &'static str,
    bars: Vec<(String, usize, &'static str, Shapes)>,
    cells: Vec<CellView>,
}

#[derive(Template)]
#[template(path = "styleguide/sample_rows.html")]
pub struct Rows {
    benches: Vec<Bench>,
    total: Option<usize>,
    days: i32,
    picture: f64,
}

fn bench(key: usize, bars: &[Bar]) -> Bench {
    let own = || bars.iter().filter(move |bar| bar.bench == key);
    let shape = |bar: &Bar| {
        let day = |day: i32| usize::try_from(day.clamp(0, DAYS)).unwrap_or(0);
        let (from, to) = (day(bar.from), day(bar.from + bar.days));
        // A bar lies on those before it that it meets.
        let meets = |other: &&Bar| other.from < bar.from + bar.days && bar.from < other.from + other.days;
        let below: i32 = own().take_while(|other| other.id != bar.id).filter(meets).map(|other| other.minutes).sum();
        let y = |minutes: i32| (PICTURE - f64::from(minutes) / 60.0 * HOUR).max(0.0);
        let (floor, top) = (y(below), y(below + bar.minutes));
        let rects = if from < to { vec![Rect { from, to, top, floor }] } else { Vec::new() };
        (format!("{}-0", bar.id), bar.hue, bar.title, Shapes(rects))
    };
    let cell = |week: i32| {
        let days = |bar: &Bar| ((bar.from + bar.days).min(week * 7 + 7) - bar.from.max(week * 7)).max(0);
        let minutes: i64 = own().map(|bar| i64::from(days(bar) * bar.minutes)).sum();
        let label = words::hours(minutes);
        CellView { spoken: format!("{label} of work"), label, band: "open", days: None, selected: false }
    };
    Bench { key, name: BENCHES[key], bars: own().map(shape).collect(), cells: (0..DAYS / 7).map(cell).collect() }
}

/// The benches as they lie at first.
pub fn at_first() -> Rows {
    let benches = (0..BENCHES.len()).map(|key| bench(key, &bars())).collect();
    Rows { benches, total: Some(BENCHES.len()), days: DAYS, picture: PICTURE }
}

fn one(key: usize, bars: &[Bar]) -> Rows {
    Rows { benches: vec![bench(key, bars)], total: None, days: DAYS, picture: PICTURE }
}

/// All rows.
pub async fn rows(State(state): State<AppState>, _: User) -> Result<Html<String>, Error> {
    is_shown(&state)?;
    Ok(Html(at_first().render()?))
}

/// One row.
pub async fn row(State(state): State<AppState>, _: User, Path(key): Path<usize>) -> Result<Html<String>, Error> {
    is_shown(&state)?;
    if key >= BENCHES.len() {
        return Err(Error::NotFound);
    }
    Ok(Html(one(key, &bars()).render()?))
}

/// Which bench is looked at.
#[derive(Deserialize)]
pub struct Looked {
    bench: usize,
}

/// The side sheet of a bench.
pub async fn sheet(
    State(state): State<AppState>,
    _: User,
    Query(looked): Query<Looked>,
) -> Result<Html<String>, Error> {
    is_shown(&state)?;
    let name = BENCHES.get(looked.bench).ok_or(Error::NotFound)?;
    let titles: Vec<&str> = bars().iter().filter(|bar| bar.bench == looked.bench).map(|bar| bar.title).collect();
    Ok(Html(Sheet { name, titles }.render()?))
}

#[derive(Template)]
#[template(path = "styleguide/sample_sheet.html")]
struct Sheet {
    name: &'static str,
    titles: Vec<&'static str>,
}

/// What a hand says.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Gesture {
    seen: String,
    shift: i32,
    start_shift: i32,
    end_shift: i32,
    to: Option<usize>,
    minutes: Option<i32>,
}

/// What a gesture would do, or does: it is drawn and said, and not kept.
pub async fn act(
    State(state): State<AppState>,
    _: User,
    Path(deed): Path<String>,
    Form(gesture): Form<Gesture>,
) -> Result<Json<Value>, Error> {
    is_shown(&state)?;
    let mut all = bars();
    let bar = all.iter_mut().find(|bar| gesture.seen == format!("{}-0", bar.id)).ok_or(Error::NotFound)?;
    let before = bar.bench;
    let inside = |day: i32| day.clamp(-DAYS, DAYS);
    bar.from = inside(bar.from + inside(gesture.shift) + inside(gesture.start_shift));
    bar.days = inside(bar.days - inside(gesture.start_shift) + inside(gesture.end_shift)).max(1);
    bar.bench = gesture.to.filter(|to| *to < BENCHES.len()).unwrap_or(before);
    bar.minutes = gesture.minutes.unwrap_or(bar.minutes).clamp(15, 720);
    let first = super::first_day();
    let range = |bar: &Bar| words::range(first + bar.from, first + bar.from + bar.days - 1, DateOrder::DayMonth);
    let tip = format!("{}, {}", bar.title, range(bar));
    let after = bar.bench;
    if deed != "preview" {
        return Ok(Json(json!({ "message": format!("{tip}. Samples are not kept."), "says": [], "undo": false })));
    }
    let drawn = |key: usize| Ok::<_, Error>((key.to_string(), one(key, &all).render()?));
    let rows = [before, after].into_iter().map(drawn).collect::<Result<std::collections::BTreeMap<_, _>, _>>()?;
    Ok(Json(json!({ "rows": rows, "says": ["Samples are not kept."], "tip": tip })))
}

/// The first day of each week, with its head.
pub fn weeks() -> Vec<(Day, String)> {
    let first = super::first_day();
    let week = |at: i32| (first + at * 7, words::day(first + at * 7, DateOrder::DayMonth));
    (0..DAYS / 7).map(week).collect()
}
