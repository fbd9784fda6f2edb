//! One person's row: their strata under their rim, the labels above, and what an opened row tells.

use super::{
    angle::Overlay,
    colour::Palette,
    figures::{label, spoken},
    query::FitQuery,
    shapes::{Band, Line, Pile, Pour, Rect, pixels, runs},
    zoom::named,
};
use crate::words;
use snug_core::{
    Day, PersonId, Plan, ProjectId,
    by_day::ByDay,
    cells::{Bucket, Cell},
    demand::{PersonLoad, TaskPart, booking_minutes},
    kinds::{Booking, Certainty, PersonKind, Who},
    load::{Groups, PersonCells, row_of as figures_of},
    plan::{BookingRow, Entry},
};
use std::collections::BTreeSet;

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

/// A task inside its booking.
pub struct Lane {
    pub hue: usize,
    pub title: String,
    pub late: bool,
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
    /// How many days it stands for.
    pub days: i32,
    pub selected: bool,
}

/// A line of an opened row.
pub struct Detail {
    pub hue: usize,
    pub hold: bool,
    pub pencilled: bool,
    pub name: String,
    pub amount: String,
    pub dates: String,
    pub here: String,
    pub inside: Vec<String>,
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
    pub lanes: Vec<Lane>,
    pub free: Vec<Rect>,
    pub spill: Vec<Rect>,
    pub rims: Vec<Line>,
    /// Pixels an hour, for the hand that draws a top edge.
    pub hour: f64,
    /// The height of the picture.
    pub picture: u32,
    /// What the row is made of, where it is open.
    pub details: Option<Vec<Detail>>,
    /// Opens or closes the row.
    pub turn: String,
    /// The projects that are drawn, for the key.
    pub projects: BTreeSet<ProjectId>,
}

/// Draws one person's row.
pub fn row(groups: &Groups<'_>, plan: &Plan, entry: &Entry, query: &FitQuery, palette: &Palette<'_>) -> RowView {
    let window = query.window();
    let cells = PersonCells::of(plan, entry, &window, query.zoom, true);
    let load = &cells.load;
    let shown = load.days.indexes(window.from, window.to);
    let list = |of: &ByDay| of.days(shown.clone()).collect::<Vec<i32>>();
    let mut pile = Pile::new(load.days.rim().days(shown.clone()).map(f64::from).collect(), query.height);
    let mut booked = booked(plan, entry, load, query);
    // What is in view lies lowest, so that it is read off the floor.
    booked.sort_by_key(|(booking, _)| palette.is_other(booking.project));
    let mut laid: Vec<(Layer, Option<ProjectId>, Band)> = Vec::new();
    for (booking, minutes) in &booked {
        let minutes = list(minutes);
        if minutes.iter().any(|minutes| *minutes > 0) {
            let band = pile.lay(&minutes);
            laid.push((booking_layer(plan, booking, palette), booking.project, band));
        }
    }
    for slot in &load.slots {
        let Some(project) = slot.project.and_then(|id| plan.records.projects.get(&id)) else { continue };
        let held = booked.iter().filter(|(booking, _)| booking.project == slot.project);
        let held: Vec<&ByDay> = held.map(|(_, minutes)| minutes).collect();
        let beyond = |at: usize| (slot.load[at] - held.iter().map(|minutes| minutes[at]).sum::<i32>()).max(0);
        let beyond: Vec<i32> = shown.clone().map(beyond).collect();
        if beyond.iter().any(|minutes| *minutes > 0) {
            let layer = Layer {
                seen: String::new(),
                booking: 0,
                hue: palette.of_booking(slot.project, Certainty::Firm),
                pencilled: false,
                hold: false,
                title: format!("{}: tasks beyond what is booked", project.name),
                start: String::new(),
                end: String::new(),
                rects: Vec::new(),
            };
            laid.push((layer, slot.project, pile.lay(&beyond)));
        }
    }
    let lanes = if query.shows(Overlay::Tasks) || query.colour.of_tasks() {
        lanes(plan, load, &laid, &pile, palette, shown.clone())
    } else {
        Vec::new()
    };
    let free = if query.shows(Overlay::Free) { pile.shapes(&pile.free()) } else { Vec::new() };
    let projects = laid.iter().filter_map(|(_, project, _)| *project).collect();
    let layers = laid.into_iter().map(|(layer, _, band)| Layer { rects: pile.shapes(&band), ..layer }).collect();
    let shown_cells: Vec<(Bucket, Cell)> =
        query.buckets.iter().copied().zip(figures(groups, entry, &cells, query)).collect();
    let (usual, usual_fill) = usual_week(entry, query.today);
    let id = entry.person.id.0;
    let is_open = query.open.contains(&id);
    RowView {
        id,
        name: entry.person.name.clone(),
        role: subtitle(entry),
        usual,
        usual_fill,
        cells: shown_cells.iter().map(|(bucket, cell)| cell_view(plan, entry, query, *bucket, cell)).collect(),
        off: pile.off_days(&list(&load.days.available), &list(&load.days.pattern)),
        layers,
        lanes,
        free,
        spill: pile.spill(),
        rims: pile.rims(),
        hour: query.height.hour(),
        picture: query.height.picture(),
        details: is_open.then(|| details(plan, load, &booked, shown, query, palette)),
        turn: turned(query, id).href("/fit"),
        projects,
    }
}

/// The same view with a row opened, or closed.
fn turned(query: &FitQuery, id: i32) -> FitQuery {
    let mut next = query.clone();
    if !next.open.remove(&id) {
        next.open.insert(id);
    }
    next
}

/// The cells by the measure that is asked for.
fn figures(groups: &Groups<'_>, entry: &Entry, cells: &PersonCells<'_>, query: &FitQuery) -> Vec<Cell> {
    if query.measure.counts_minutes() {
        query.buckets.iter().map(|bucket| cells.cell(*bucket)).collect()
    } else {
        figures_of(groups, entry)
    }
}

/// The tasks of a person where they lie inside the layers of their projects.
fn lanes(
    plan: &Plan,
    load: &PersonLoad,
    laid: &[(Layer, Option<ProjectId>, Band)],
    pile: &Pile,
    palette: &Palette<'_>,
    shown: std::ops::Range<usize>,
) -> Vec<Lane> {
    let mut found = Vec::new();
    let mut projects: Vec<ProjectId> = laid.iter().filter_map(|(_, project, _)| *project).collect();
    projects.sort_unstable();
    projects.dedup();
    for project in projects {
        let bands: Vec<&Band> = laid.iter().filter(|(_, of, _)| *of == Some(project)).map(|(.., band)| band).collect();
        let mut pour = Pour::into(&bands, shown.len());
        for part in load.tasks.iter().filter(|part| stands_under(plan, load, part, project)) {
            let Some(task) = plan.tasks.get(&part.task) else { continue };
            let rects: Vec<Rect> = pour
                .pour(&part.minutes.days(shown.clone()).collect::<Vec<_>>())
                .iter()
                .flat_map(|band| pile.shapes(band))
                .collect();
            if !rects.is_empty() {
                let late = if part.late { ", late" } else { "" };
                let title = format!("{} · {}, {}{late}", task.title, task.stage, task.priority);
                found.push(Lane { hue: palette.of_task(task), title, late: part.late, rects });
            }
        }
    }
    found
}

/// Whether a task lies under a project: its own, or the nearest one above it that has a layer.
fn stands_under(plan: &Plan, load: &PersonLoad, part: &TaskPart, project: ProjectId) -> bool {
    let has_layer = |id: ProjectId| load.slots.iter().any(|slot| slot.project == Some(id));
    let nearest = plan.project_line(part.project).map(|above| above.id).find(|id| has_layer(*id));
    nearest.unwrap_or(part.project) == project
}

fn details(
    plan: &Plan,
    load: &PersonLoad,
    booked: &[(Booking, ByDay)],
    shown: std::ops::Range<usize>,
    query: &FitQuery,
    palette: &Palette<'_>,
) -> Vec<Detail> {
    let sum = |of: &ByDay| of.sum(shown.clone());
    let mut list = Vec::new();
    let mut told = BTreeSet::new();
    for (booking, minutes) in booked {
        let here = sum(minutes);
        if booking.start > query.to() || booking.end < query.from {
            continue;
        }
        let fresh = booking.project.is_some_and(|id| told.insert(id));
        list.push(Detail {
            hue: palette.of_booking(booking.project, booking.certainty),
            hold: booking.project.is_none(),
            pencilled: booking.certainty == Certainty::Pencilled,
            name: project_name(plan, booking.project),
            amount: words::amount(booking.amount),
            dates: words::range(booking.start, booking.end, query.order),
            here: if here == 0 { "lands nowhere here".to_owned() } else { words::hours(here) },
            inside: booking.project.filter(|_| fresh).map(|id| tasks_inside(plan, load, id, &sum)).unwrap_or_default(),
        });
    }
    for slot in &load.slots {
        let Some(id) = slot.project.filter(|id| !told.contains(id)) else { continue };
        if sum(&slot.load) > 0 {
            list.push(Detail {
                hue: palette.of_booking(slot.project, Certainty::Firm),
                hold: false,
                pencilled: false,
                name: project_name(plan, slot.project),
                amount: "tasks, nothing booked".to_owned(),
                dates: String::new(),
                here: words::hours(sum(&slot.load)),
                inside: tasks_inside(plan, load, id, &sum),
            });
        }
    }
    list
}

/// `Crate drawings · 12 h`: the tasks that stand under a project.
pub fn tasks_inside(plan: &Plan, load: &PersonLoad, project: ProjectId, sum: &dyn Fn(&ByDay) -> i64) -> Vec<String> {
    let inside = load.tasks.iter().filter(|part| stands_under(plan, load, part, project));
    let line = |part: &TaskPart| {
        let (minutes, task) = (sum(&part.minutes), plan.tasks.get(&part.task)?);
        let late = if part.late { ", late" } else { "" };
        (minutes > 0).then(|| format!("{} · {}{late}", task.title, words::hours(minutes)))
    };
    inside.filter_map(line).collect()
}

/// A project's name; “Hold” for none.
pub fn project_name(plan: &Plan, project: Option<ProjectId>) -> String {
    project
        .and_then(|id| plan.records.projects.get(&id))
        .map_or_else(|| "Hold".to_owned(), |project| project.name.clone())
}

fn subtitle(entry: &Entry) -> String {
    let person = &entry.person;
    let role = match (person.role.as_str(), person.kind) {
        ("", PersonKind::Equipment) => "Equipment",
        ("", _) => "No role",
        (role, _) => role,
    };
    let role = words::capital(role);
    match person.week_limit {
        Some(week) => format!("{role}, {}", words::hours(i64::from(week))),
        None => role,
    }
}

/// Each booking that counts and touches the span, with its minutes by index.
pub fn booked(plan: &Plan, entry: &Entry, load: &PersonLoad, query: &FitQuery) -> Vec<(Booking, ByDay)> {
    let counted = query.counted();
    let touching = entry
        .bookings()
        .filter(|row| row.brick.touches(load.days.first, load.days.last()) && counted.takes(&row.brick));
    let who = Who::Person(entry.person.id);
    let landed = |row: BookingRow<'_>| (row.booking(who.clone()), booking_minutes(plan, entry, &load.days, &row));
    let mut found: Vec<(Booking, ByDay)> = touching.map(landed).collect();
    // Firm below pencilled, then by project, so that layers keep their place from week to week.
    found.sort_by_key(|(booking, _)| (booking.certainty == Certainty::Pencilled, booking.project, booking.id));
    found
}

fn booking_layer(plan: &Plan, booking: &Booking, palette: &Palette<'_>) -> Layer {
    let name = project_name(plan, booking.project);
    let certainty = if booking.certainty == Certainty::Pencilled { ", pencilled" } else { "" };
    let note = if booking.note.is_empty() { String::new() } else { format!(" ({})", booking.note) };
    let (amount, range) =
        (words::amount(booking.amount), words::range(booking.start, booking.end, plan.settings.date_order));
    Layer {
        seen: serde_json::to_string(booking).unwrap_or_default(),
        booking: booking.id.0,
        hue: palette.of_booking(booking.project, booking.certainty),
        pencilled: booking.certainty == Certainty::Pencilled,
        hold: booking.project.is_none(),
        title: format!("{name}: {amount}, {range}{certainty}{note}"),
        start: booking.start.to_string(),
        end: booking.end.to_string(),
        rects: Vec::new(),
    }
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
    CellView {
        href: query.selecting(id, bucket.from).href("/fit"),
        band: cell.band(mark).map_or("open", snug_core::cells::Band::as_str),
        spoken: format!(
            "{}. {}, {}: {}",
            label(cell, query, mark),
            entry.person.name,
            named(query.zoom, bucket, query.order),
            spoken(cell, query, mark)
        ),
        label: label(cell, query, mark),
        from: bucket.from.to_string(),
        days: bucket.to.since(bucket.from) + 1,
        selected: query.person == Some(id) && query.at == Some(bucket.from),
    }
}

/// One person's row by identity.
pub fn row_of(plan: &Plan, person: i32, query: &FitQuery) -> Option<RowView> {
    let entry = plan.people.get(&PersonId(person))?;
    let groups = Groups::new(plan, query.load());
    Some(row(&groups, plan, entry, query, &Palette::new(plan, query.colour, query.project)))
}
