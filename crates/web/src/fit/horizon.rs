//! The horizon strip: half a year of everyone's demand under everyone's supply, and the window in it.

use super::{kept::Kept, lines::chosen, query::FitQuery};
use crate::words;
use askama::Template;
use snug_core::{
    Day, Plan,
    cells::{Bucket, Cell, Grain},
    demand::Window,
    load::PersonCells,
};
use std::{collections::BTreeSet, sync::Arc};

/// What the strip shows: half a year.
const WEEKS: i32 = 26;

/// One week of all who are shown.
#[derive(Clone, Debug)]
pub struct Week {
    from: Day,
    limit: i64,
    load: i64,
    spill: i64,
}

/// The weeks of a strip for who is shown, computed once for each plan and filter.
pub fn weeks(kept: &Kept, plan: &Plan, query: &FitQuery, first: Day) -> Arc<Vec<Week>> {
    // What the strip adds up depends on the filter and on what counts, not on the selection or the measure.
    let asked = FitQuery { open: BTreeSet::new(), turned: BTreeSet::new(), ..query.unselected() }.href("");
    kept.horizons.get(plan, format!("{first} {} {asked}", query.today), || compute(kept, plan, query, first))
}

/// Where the strip starts: two weeks before today, unless the window lies elsewhere.
pub fn first_day(query: &FitQuery, plan: &Plan) -> Day {
    let params = super::query::FitParams::default();
    let now = FitQuery::read(&params, plan, query.today).from - 14;
    let inside = query.from >= now && query.to() < now + WEEKS * 7;
    if inside { now } else { Grain::Week.start_of(query.from, &plan.settings) - 14 }
}

fn compute(kept: &Kept, plan: &Plan, query: &FitQuery, first: Day) -> Vec<Week> {
    let window = Window { counted: query.counted(), ..Window::new(first, first + (WEEKS * 7 - 1), query.today) };
    let buckets: Vec<Bucket> = Grain::Week.buckets(window.from, window.to, &plan.settings);
    let mut weeks: Vec<Week> =
        buckets.iter().map(|bucket| Week { from: bucket.from, limit: 0, load: 0, spill: 0 }).collect();
    for entry in chosen(kept, plan, query) {
        let cells = PersonCells::of(plan, entry, &window, Grain::Week, false);
        for (week, bucket) in weeks.iter_mut().zip(&buckets) {
            let Cell { limit, load, spill, peak, .. } = cells.cell(*bucket);
            week.limit += limit.unwrap_or(0);
            week.load += load;
            week.spill += spill.max(peak);
        }
    }
    weeks
}

/// A bar of the strip.
pub struct Bar {
    pub href: String,
    pub x: String,
    pub width: String,
    pub y: String,
    pub height: String,
    pub rim: String,
    pub rim_to: String,
    pub spill_y: String,
    pub spill_height: String,
    pub inside: bool,
    pub title: String,
    pub from: String,
    pub month: Option<String>,
    pub rim_y: String,
}

#[derive(Template)]
#[template(path = "fit/horizon.html")]
pub struct HorizonView {
    pub bars: Vec<Bar>,
    pub brush_x: String,
    pub brush_width: String,
}

/// The height above which nothing is drawn, and the floor, in pixels.
const TOP: f64 = 8.0;
const FLOOR: f64 = 52.0;

/// Draws the strip.
#[allow(clippy::cast_precision_loss)] // minutes of everybody, as pixels
pub fn view(plan: &Plan, query: &FitQuery, weeks: &[Week]) -> HorizonView {
    let most = weeks.iter().map(|week| week.limit.max(week.load)).max().unwrap_or(1).max(1) as f64;
    let height = |minutes: i64| minutes as f64 / most * (FLOOR - TOP);
    let step = 100.0 / f64::from(WEEKS);
    let mut last_month = String::new();
    let bar = |(index, week): (usize, &Week)| {
        let x = step * index as f64;
        // What is over somebody's limit is spill, however much room others have.
        let inside_minutes = (week.load - week.spill).max(0);
        let spill_height = if week.spill > 0 { height(week.spill).max(4.0) } else { 0.0 };
        let month = week.from.date().format("%b").to_string();
        let shown = (month != last_month).then(|| month.clone());
        last_month = month;
        let free = (week.limit - inside_minutes).max(0);
        Bar {
            href: query.at_window(plan, query.zoom, week.from, query.span).href("/fit"),
            x: format!("{:.3}%", x + step * 0.05),
            width: format!("{:.3}%", step * 0.9),
            y: format!("{:.1}", FLOOR - height(inside_minutes)),
            height: format!("{:.1}", height(inside_minutes)),
            rim: format!("{x:.3}%"),
            rim_to: format!("{:.3}%", x + step),
            spill_y: format!("{:.1}", (FLOOR - height(inside_minutes) - spill_height).max(0.0)),
            spill_height: format!("{spill_height:.1}"),
            inside: week.from >= query.from && week.from <= query.to(),
            title: format!(
                "Week of {}: {} planned of {}, {} of room, {} over",
                words::day(week.from, query.order),
                words::hours(week.load),
                words::hours(week.limit),
                words::hours(free),
                words::hours(week.spill),
            ),
            from: week.from.to_string(),
            month: shown,
            rim_y: format!("{:.1}", FLOOR - height(week.limit)),
        }
    };
    let bars: Vec<Bar> = weeks.iter().enumerate().map(bar).collect();
    let first = weeks.first().map_or(query.from, |week| week.from);
    HorizonView {
        bars,
        brush_x: format!("{:.3}%", f64::from(query.from.since(first)) / 7.0 * step),
        brush_width: format!("{:.3}%", f64::from(query.days().min(WEEKS * 7)) / 7.0 * step),
    }
}
