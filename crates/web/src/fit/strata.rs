//! From figures to shapes: the strata of a row. Across, everything is in percent of the window, so that the picture stretches with
//! its box; upwards in pixels, so that thickness is hours wherever one looks.

use crate::words;
use snug_core::{
    Day, PersonId, Plan, ProjectId,
    cells::{Bucket, Cell, Grain},
    demand::{PersonLoad, booking_minutes, person_load},
    load::PersonCells,
    plan::{BookingRow, Entry},
    work::{Booking, Certainty},
};

use super::query::FitQuery;
use std::collections::BTreeMap;

/// The floor on which the strata stand, from the top.
const FLOOR: f64 = 50.0;
/// Pixels an hour of a day.
const HOUR: f64 = 4.0;
/// Spill is never drawn thinner.
const LEAST_SPILL: f64 = 4.0;

/// A rectangle: percent across, pixels downwards.
pub struct Rect {
    pub x: String,
    pub width: String,
    pub y: String,
    pub height: String,
}

/// A line of a rim.
pub struct Line {
    pub x1: String,
    pub x2: String,
    pub y1: String,
    pub y2: String,
}

/// One layer: a booking, or tasks that no booking holds.
pub struct Layer {
    /// The booking as the page saw it, as JSON; empty for tasks.
    pub seen: String,
    pub booking: i32,
    pub hue: usize,
    pub pencilled: bool,
    pub hold: bool,
    pub title: String,
    /// First and last day, for the hand.
    pub start: String,
    pub end: String,
    pub rects: Vec<Rect>,
}

/// One cell above the picture.
pub struct CellView {
    pub href: String,
    pub label: String,
    pub band: &'static str,
    /// What a screen reader says.
    pub spoken: String,
    pub from: String,
    pub selected: bool,
}

/// A row of the room.
pub struct RowView {
    pub id: i32,
    pub name: String,
    pub role: String,
    pub usual: Vec<Line>,
    pub usual_fill: Vec<Rect>,
    pub cells: Vec<CellView>,
    pub off: Vec<Rect>,
    pub layers: Vec<Layer>,
    pub spill: Vec<Rect>,
    pub rims: Vec<Line>,
    /// Pixels an hour, for the hand that draws a top edge.
    pub hour: f64,
}

fn percent(index: usize, days: usize) -> String {
    let (index, days) = (f64::from(u32::try_from(index).unwrap_or(0)), f64::from(u32::try_from(days).unwrap_or(1)));
    format!("{:.4}%", 100.0 * index / days)
}

fn pixels(value: f64) -> String {
    format!("{value:.1}")
}

fn height_of(minutes: f64) -> f64 {
    (minutes / 60.0 * HOUR).clamp(0.0, FLOOR)
}

/// Which of the twelve hues a project has.
pub fn hue(plan: &Plan, project: ProjectId) -> usize {
    plan.projects.keys().position(|id| *id == project).unwrap_or(0) % 12
}

/// Makes runs of equal values: index of the first, index after the last, value.
fn runs<T: PartialEq + Copy>(values: &[T]) -> Vec<(usize, usize, T)> {
    let mut found: Vec<(usize, usize, T)> = Vec::new();
    for (index, value) in values.iter().enumerate() {
        match found.last_mut() {
            Some((_, end, last)) if last == value => *end = index + 1,
            _ => found.push((index, index + 1, *value)),
        }
    }
    found
}

/// The limits as they are drawn: where the week limit binds, each day's limit × week limit / Σ limits of the week.
fn drawn_limits(entry: &Entry, load: &PersonLoad) -> Vec<f64> {
    let mut drawn = Vec::with_capacity(load.days.len());
    for week in load.days.limit.chunks(7) {
        let sum: i32 = week.iter().sum();
        let factor = match entry.person.week_limit {
            Some(most) if sum > most => f64::from(most) / f64::from(sum),
            _ => 1.0,
        };
        drawn.extend(week.iter().map(|minutes| f64::from(*minutes) * factor));
    }
    drawn
}

/// A layer of a team's sum: one project, all its people.
pub struct Band {
    pub hue: usize,
    pub rects: Vec<Rect>,
}

/// The head of a group of rows, with the strata of all of them.
pub struct HeadView {
    pub name: String,
    pub people: usize,
    pub cells: Vec<CellView>,
    pub bands: Vec<Band>,
    pub spill: Vec<Rect>,
    pub rims: Vec<Line>,
}

/// Draws the sum of a team's people, each by the share they give.
pub fn head(plan: &Plan, name: &str, people: &[(&Entry, i64)], figures: &[Cell], query: &FitQuery) -> HeadView {
    let window = query.window();
    let mut limits: Vec<f64> = Vec::new();
    let mut slots: BTreeMap<Option<ProjectId>, Vec<f64>> = BTreeMap::new();
    for (entry, share) in people {
        let part = f64::from(i32::try_from(*share).unwrap_or(0)) / 10_000.0;
        let load = person_load(plan, entry, &window, true);
        let shown = load.days.indexes(window.from, window.to);
        limits.resize(shown.len(), 0.0);
        let drawn = drawn_limits(entry, &load);
        limits.iter_mut().zip(&drawn[shown.clone()]).for_each(|(sum, limit)| *sum += part * limit);
        for slot in &load.slots {
            let sum = slots.entry(slot.project).or_insert_with(|| vec![0.0; shown.len()]);
            sum.iter_mut().zip(&slot.load[shown.clone()]).for_each(|(sum, m)| *sum += part * f64::from(*m));
        }
    }
    // A team is as tall as a person: its fullest day stands for ten hours.
    let most = limits.iter().copied().fold(1.0, f64::max);
    let scale = 480.0 / most;
    for limit in &mut limits {
        *limit = (*limit * scale).round();
    }
    let mut pile = Pile::new(limits);
    let lay = |(project, minutes): (Option<ProjectId>, Vec<f64>)| {
        #[allow(clippy::cast_possible_truncation)] // a scaled share of a day
        let minutes: Vec<i32> = minutes.iter().map(|minutes| (minutes * scale).round() as i32).collect();
        Band { hue: project.map_or(12, |id| hue(plan, id)), rects: pile.lay(&minutes) }
    };
    let bands = slots.into_iter().map(lay).collect();
    let grain = if query.by_day { Grain::Day } else { Grain::Week };
    let buckets = grain.buckets(window.from, window.to, &plan.settings);
    let mark = plan.settings.snug_mark;
    let cell = |(bucket, cell): (&Bucket, &Cell)| CellView {
        href: String::new(),
        label: if cell.over > 0 { format!("{} over", cell.over) } else { words::label(cell, mark) },
        band: if cell.over > 0 { "over" } else { cell.band(mark).map_or("open", snug_core::cells::Band::as_str) },
        spoken: format!(
            "{name}, from {}: {} planned of {}, {} of room, {} over.",
            words::day(bucket.from, plan.settings.date_order),
            words::hours(cell.load),
            words::hours(cell.limit.unwrap_or(0)),
            words::hours(cell.room),
            if cell.over == 1 { "1 person".to_owned() } else { format!("{} people", cell.over) },
        ),
        from: bucket.from.to_string(),
        selected: false,
    };
    let cells = buckets.iter().zip(figures).map(cell).collect();
    let (spill, rims) = (pile.spill(), rims(&pile.limits));
    HeadView { name: name.to_owned(), people: people.len(), cells, bands, spill, rims }
}

/// Draws one person's row.
pub fn row(plan: &Plan, entry: &Entry, query: &FitQuery) -> RowView {
    let window = query.window();
    let grain = if query.by_day { Grain::Day } else { Grain::Week };
    let cells = PersonCells::of(plan, entry, &window, grain, true);
    let load = &cells.load;
    let shown = load.days.indexes(window.from, window.to);
    let limits = drawn_limits(entry, load);
    let mut pile = Pile::new(limits[shown.clone()].to_vec());
    let mut layers = Vec::new();
    let booked = booked(plan, entry, load);
    for (booking, minutes) in &booked {
        if minutes[shown.clone()].iter().any(|minutes| *minutes > 0) {
            let rects = pile.lay(&minutes[shown.clone()]);
            layers.push(booking_layer(plan, booking, rects));
        }
    }
    for slot in &load.slots {
        let Some(project) = slot.project.and_then(|id| plan.projects.get(&id)) else { continue };
        let held = booked.iter().filter(|(booking, _)| booking.project == slot.project);
        let held: Vec<&Vec<i32>> = held.map(|(_, minutes)| minutes).collect();
        let beyond = |at: usize| (slot.load[at] - held.iter().map(|minutes| minutes[at]).sum::<i32>()).max(0);
        let beyond: Vec<i32> = shown.clone().map(beyond).collect();
        if beyond.iter().any(|minutes| *minutes > 0) {
            layers.push(Layer {
                seen: String::new(),
                booking: 0,
                hue: hue(plan, project.id),
                pencilled: false,
                hold: false,
                title: format!("{}: tasks beyond what is booked", project.name),
                start: String::new(),
                end: String::new(),
                rects: pile.lay(&beyond),
            });
        }
    }
    let buckets = grain.buckets(window.from, window.to, &plan.settings);
    let (usual, usual_fill) = usual_week(entry, query.today);
    RowView {
        id: entry.person.id.0,
        name: entry.person.name.clone(),
        role: subtitle(entry),
        usual,
        usual_fill,
        cells: buckets.iter().map(|bucket| cell_view(plan, entry, query, *bucket, &cells.cell(*bucket))).collect(),
        off: off_days(&load.days.available[shown.clone()], &load.days.pattern[shown]),
        layers,
        spill: pile.spill(),
        rims: rims(&pile.limits),
        hour: HOUR,
    }
}

fn subtitle(entry: &Entry) -> String {
    let person = &entry.person;
    let role = match (person.role.as_str(), person.kind) {
        ("", snug_core::people::PersonKind::Equipment) => "Equipment",
        ("", _) => "No role",
        (role, _) => role,
    };
    let role: String = role.chars().take(1).flat_map(char::to_uppercase).chain(role.chars().skip(1)).collect();
    match person.week_limit {
        Some(week) => format!("{role}, {}", words::hours(i64::from(week))),
        None => role,
    }
}

/// Each booking that touches the span, with its minutes by index.
pub fn booked(plan: &Plan, entry: &Entry, load: &PersonLoad) -> Vec<(Booking, Vec<i32>)> {
    let last = load.days.day(load.days.len() - 1);
    let touching = entry.bookings.iter().filter(|row| row.start <= last && row.end >= load.days.first);
    let landed = |row: &BookingRow| (row.booking(entry.person.id), booking_minutes(plan, entry, &load.days, row).0);
    let mut found: Vec<(Booking, Vec<i32>)> = touching.map(landed).collect();
    // Firm below pencilled, then by project, so that layers keep their place from week to week.
    found.sort_by_key(|(booking, _)| (booking.certainty == Certainty::Pencilled, booking.project, booking.id));
    found
}

fn booking_layer(plan: &Plan, booking: &Booking, rects: Vec<Rect>) -> Layer {
    let project = booking.project.and_then(|id| plan.projects.get(&id));
    let name = project.map_or("Hold", |project| project.name.as_str());
    let certainty = if booking.certainty == Certainty::Pencilled { ", pencilled" } else { "" };
    let note = if booking.note.is_empty() { String::new() } else { format!(" ({})", booking.note) };
    let (amount, range) =
        (words::amount(booking.amount), words::range(booking.start, booking.end, plan.settings.date_order));
    Layer {
        seen: serde_json::to_string(booking).unwrap_or_default(),
        booking: booking.id.0,
        hue: booking.project.map_or(0, |id| hue(plan, id)),
        pencilled: booking.certainty == Certainty::Pencilled,
        hold: booking.project.is_none(),
        title: format!("{name}: {amount}, {range}{certainty}{note}"),
        start: booking.start.to_string(),
        end: booking.end.to_string(),
        rects,
    }
}

/// Layers on top of each other, under a rim.
struct Pile {
    limits: Vec<f64>,
    heights: Vec<f64>,
}

impl Pile {
    fn new(limits: Vec<f64>) -> Self {
        Self { heights: vec![0.0; limits.len()], limits }
    }

    /// Lays minutes on top and returns the shapes of what lies under the rim.
    fn lay(&mut self, minutes: &[i32]) -> Vec<Rect> {
        let mut shapes = Vec::with_capacity(minutes.len());
        for (at, minutes) in minutes.iter().enumerate() {
            let low = self.heights[at];
            let high = low + f64::from(*minutes);
            self.heights[at] = high;
            let top = high.min(self.limits[at].max(low.min(self.limits[at])));
            shapes.push((low.min(top), top, *minutes > 0));
        }
        let days = shapes.len();
        let runs = runs(&shapes).into_iter().filter(|(_, _, (low, top, any))| *any && top > low);
        runs.map(|(from, to, (low, top, _))| rect(from, to, days, low, top)).collect()
    }

    /// What stands above the rim.
    fn spill(&self) -> Vec<Rect> {
        let above: Vec<(f64, f64)> = self.heights.iter().copied().zip(self.limits.iter().copied()).collect();
        let days = above.len();
        let runs = runs(&above).into_iter().filter(|(_, _, (height, limit))| *height > *limit + 0.5);
        runs.map(|(from, to, (height, limit))| {
            let floor = FLOOR - height_of(limit);
            let thick = (height_of(height) - height_of(limit)).max(LEAST_SPILL);
            Rect {
                x: percent(from, days),
                width: percent(to - from, days),
                y: pixels((floor - thick).max(0.0)),
                height: pixels(thick),
            }
        })
        .collect()
    }
}

fn rect(from: usize, to: usize, days: usize, low: f64, top: f64) -> Rect {
    Rect {
        x: percent(from, days),
        width: percent(to - from, days),
        y: pixels(FLOOR - height_of(top)),
        height: pixels(height_of(top) - height_of(low)),
    }
}

/// Days on which nothing is available: sand, from the floor up to where a usual day would reach.
fn off_days(available: &[i32], pattern: &[i32]) -> Vec<Rect> {
    let off: Vec<bool> = available.iter().map(|minutes| *minutes == 0).collect();
    let usual = f64::from(pattern.iter().copied().max().unwrap_or(0).max(240));
    let runs = runs(&off).into_iter().filter(|(_, _, off)| *off);
    runs.map(|(from, to, _)| rect(from, to, off.len(), 0.0, usual)).collect()
}

fn rims(limits: &[f64]) -> Vec<Line> {
    let days = limits.len();
    let mut lines = Vec::new();
    let mut last: Option<String> = None;
    for (from, to, limit) in runs(limits) {
        let y = pixels(FLOOR - height_of(limit));
        let (x1, x2) = (percent(from, days), percent(to, days));
        if let Some(last) = last.filter(|last| *last != y) {
            lines.push(Line { x1: x1.clone(), x2: x1.clone(), y1: last, y2: y.clone() });
        }
        lines.push(Line { x1, x2, y1: y.clone(), y2: y.clone() });
        last = Some(y);
    }
    lines
}

/// The small picture at the left of a row: the usual week as a rim, 34 × 24 pixels.
fn usual_week(entry: &Entry, today: Day) -> (Vec<Line>, Vec<Rect>) {
    let dated = entry.person.patterns.iter().rev().find(|dated| dated.from.is_none_or(|from| from <= today));
    let week = dated.and_then(|dated| dated.pattern.week(dated.anchor(), today)).copied().unwrap_or_default();
    let y = |minutes: i32| 22.0 - f64::from(minutes.min(720)) / 60.0 * 1.8;
    let x = |at: usize| pixels(f64::from(u32::try_from(at).unwrap_or(0)) * 4.8);
    let mut lines = Vec::new();
    let mut fill = Vec::new();
    let mut last: Option<i32> = None;
    for (from, to, minutes) in runs(&week) {
        if let Some(last) = last {
            lines.push(Line { x1: x(from), x2: x(from), y1: pixels(y(last)), y2: pixels(y(minutes)) });
        }
        lines.push(Line { x1: x(from), x2: x(to), y1: pixels(y(minutes)), y2: pixels(y(minutes)) });
        if minutes > 0 {
            let width = f64::from(u32::try_from(to - from).unwrap_or(0)) * 4.8;
            let top = y(minutes);
            fill.push(Rect { x: x(from), width: pixels(width), y: pixels(top), height: pixels(22.0 - top) });
        }
        last = Some(minutes);
    }
    (lines, fill)
}

fn cell_view(plan: &Plan, entry: &Entry, query: &FitQuery, bucket: Bucket, cell: &Cell) -> CellView {
    let mark = plan.settings.snug_mark;
    let id = entry.person.id.0;
    let when = if query.by_day {
        words::weekday(bucket.from, plan.settings.date_order)
    } else {
        format!("week of {}", words::day(bucket.from, plan.settings.date_order))
    };
    let label = words::label(cell, mark);
    let limit = words::hours(cell.limit.unwrap_or(0));
    let label = if query.by_day || query.weeks > 8 { label.replace(" room", "") } else { label };
    CellView {
        href: query.selecting(id, bucket.from).href("/fit"),
        band: cell.band(mark).map_or("open", snug_core::cells::Band::as_str),
        spoken: format!(
            "{label}. {}, {when}: {}. {} planned of {limit}.",
            entry.person.name,
            words::sentence(cell, mark),
            words::hours(cell.load),
        ),
        label,
        from: bucket.from.to_string(),
        selected: query.person == Some(id) && query.at == Some(bucket.from),
    }
}

/// One person's row by identity.
pub fn row_of(plan: &Plan, person: i32, query: &FitQuery) -> Option<RowView> {
    plan.people.get(&PersonId(person)).map(|entry| row(plan, entry, query))
}
