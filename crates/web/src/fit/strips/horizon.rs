//! The horizon strip: half a year of everyone's demand under everyone's supply, and the window in it.

use crate::{
    fit::{address::query::FitQuery, list::chosen},
    kept::Kept,
    words,
};
use askama::Template;
use snug_core::{
    Day, Plan,
    cells::Grain,
    demand::Window,
    horizon::{self, Stretch},
};
use std::{collections::BTreeSet, sync::Arc};

/// What the strip shows: half a year.
const WEEKS: i32 = 26;

/// The weeks of a strip for who is shown, computed once for each plan and filter.
pub fn weeks(kept: &Kept, plan: &Plan, query: &FitQuery, first: Day) -> Arc<Vec<Stretch>> {
    // What the strip adds up depends on the filter and on what counts, not on the selection or the measure.
    let asked = FitQuery { open: BTreeSet::new(), turned: BTreeSet::new(), ..query.unselected() }.href("");
    kept.get(plan, format!("{first} {} {asked}", query.today), || {
        let window = Window { counted: query.counted(), ..Window::new(first, first + (WEEKS * 7 - 1), query.today) };
        horizon::weeks(plan, chosen(kept, plan, query).into_iter(), &window)
    })
}

/// Where the strip starts: two weeks before today, unless the window lies elsewhere.
pub fn first_day(query: &FitQuery, plan: &Plan) -> Day {
    let params = crate::fit::address::query::FitParams::default();
    let now = FitQuery::read(&params, plan, query.today).from - 14;
    let inside = query.from >= now && query.to() < now + WEEKS * 7;
    if inside { now } else { Grain::Week.start_of(query.from, &plan.settings) - 14 }
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
#[template(path = "fit/strips/horizon.html")]
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
pub fn view(plan: &Plan, query: &FitQuery, weeks: &[Stretch]) -> HorizonView {
    let most = weeks.iter().map(|week| week.limit.max(week.load)).max().unwrap_or(1).max(1) as f64;
    let height = |minutes: i64| minutes as f64 / most * (FLOOR - TOP);
    let step = 100.0 / f64::from(WEEKS);
    let mut last_month = String::new();
    let bar = |(index, week): (usize, &Stretch)| {
        let x = step * index as f64;
        let inside = week.inside();
        let spill_height = if week.spill > 0 { height(week.spill).max(4.0) } else { 0.0 };
        let month = week.from.date().format("%b").to_string();
        let shown = (month != last_month).then(|| month.clone());
        last_month = month;
        Bar {
            href: query.at_window(plan, query.zoom, week.from, query.span).href("/fit"),
            x: format!("{:.3}%", x + step * 0.05),
            width: format!("{:.3}%", step * 0.9),
            y: format!("{:.1}", FLOOR - height(inside)),
            height: format!("{:.1}", height(inside)),
            rim: format!("{x:.3}%"),
            rim_to: format!("{:.3}%", x + step),
            spill_y: format!("{:.1}", (FLOOR - height(inside) - spill_height).max(0.0)),
            spill_height: format!("{spill_height:.1}"),
            inside: week.from >= query.from && week.from <= query.to(),
            title: format!(
                "Week of {}: {} planned of {}, {} of room, {} over",
                words::day(week.from, query.order),
                words::hours(week.load),
                words::hours(week.limit),
                words::hours(week.room()),
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
