//! One person's row: their strata under their rim, the labels above, and what an opened row tells.

use crate::{
    drafts::beside,
    fit::{
        address::{angle::Overlay, query::FitQuery},
        names::project_name,
        picture::{
            alike::Alike,
            cells::of_person as cell_view,
            palette::Palette,
            shapes::{Band, Pile, Pour, runs},
        },
    },
    grid::{CellView, Rect, Rim, Shapes},
    words,
};
use snug_core::{
    Day, PersonId, Plan, ProjectId, Tag,
    by_day::ByDay,
    cells::{Bucket, Cell},
    demand::{PersonLoad, TaskPart, booking_minutes},
    kinds::{Booking, Certainty, PersonKind, Who, week_in_force},
    load::{Groups, PersonCells, row_of as figures_of},
    plan::{BookingRow, Entry},
};
use std::collections::BTreeSet;

/// One layer: a booking, or tasks that no booking holds.
pub struct Layer {
    /// The tag of the booking as it is drawn; nothing for tasks.
    pub tag: Option<Tag>,
    pub hue: usize,
    pub pencilled: bool,
    pub hold: bool,
    pub title: String,
    /// Whether it began before the window, and whether it goes on after it.
    pub cut: (bool, bool),
    pub shapes: Shapes,
}

/// A task inside its booking.
pub struct Lane {
    pub hue: usize,
    pub title: String,
    pub late: bool,
    pub shapes: Shapes,
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
    /// The usual week, the days off and the rim.
    pub usual: Alike,
    pub off: Alike,
    pub rim: Alike,
    pub cells: Vec<CellView>,
    pub layers: Vec<Layer>,
    pub lanes: Vec<Lane>,
    pub free: Shapes,
    /// What was worked on past days; nothing where it is not asked for, or not seen.
    pub worked: Rim,
    /// What the live plan has, where a draft is shown that has something else.
    pub live: Rim,
    pub spill: Shapes,
    /// Days across the picture, and its height in pixels.
    pub days: i32,
    pub picture: u32,
    /// What the row is made of, where it is open.
    pub details: Option<Vec<Detail>>,
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
            laid.push((booking_layer(plan, booking, palette, query), booking.project, band));
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
                tag: None,
                hue: palette.of_booking(slot.project, Certainty::Firm),
                pencilled: false,
                hold: false,
                title: format!("{}: tasks beyond what is booked", project.name),
                cut: (false, false),
                shapes: Shapes::default(),
            };
            laid.push((layer, slot.project, pile.lay(&beyond)));
        }
    }
    let lanes = if query.shows(Overlay::Tasks) || query.colour.of_tasks() {
        lanes(plan, load, &laid, &pile, palette, shown.clone())
    } else {
        Vec::new()
    };
    let free = if query.shows(Overlay::Free) { pile.shapes(&pile.free()) } else { Shapes::default() };
    let projects = laid.iter().filter_map(|(_, project, _)| *project).collect();
    let layers = laid.into_iter().map(|(layer, _, band)| Layer { shapes: pile.shapes(&band), ..layer }).collect();
    let shown_cells: Vec<(Bucket, Cell)> =
        query.buckets.iter().copied().zip(figures(groups, entry, &cells, query)).collect();
    let id = entry.person.id.0;
    let is_open = query.open.contains(&id);
    RowView {
        id,
        name: entry.person.name.clone(),
        role: subtitle(entry),
        usual: Alike::Drawn(usual_week(entry, query.today)),
        off: Alike::path("off", &pile.off_days(&list(&load.days.available), &list(&load.days.pattern))),
        rim: Alike::path("rim", &pile.rim()),
        cells: shown_cells.iter().map(|(bucket, cell)| cell_view(plan, entry, query, *bucket, cell)).collect(),
        layers,
        lanes,
        free,
        worked: worked(plan, entry, query, &pile),
        live: in_live(entry, query, &list(&load.load), &pile),
        spill: pile.spill(),
        days: query.days(),
        picture: query.height.picture(),
        details: is_open.then(|| details(plan, load, &booked, shown, query, palette)),
        projects,
    }
}

/// The cells by the measure that is asked for.
fn figures(groups: &Groups<'_>, entry: &Entry, cells: &PersonCells<'_>, query: &FitQuery) -> Vec<Cell> {
    if query.measure.counts_minutes() {
        query.buckets.iter().map(|bucket| cells.cell(*bucket)).collect()
    } else {
        figures_of(groups, entry)
    }
}

/// What somebody worked on the days before today, as a line over what was planned for them.
fn worked(plan: &Plan, entry: &Entry, query: &FitQuery, pile: &Pile) -> Rim {
    let person = entry.person.id;
    let past =
        usize::try_from(query.today.since(query.from)).unwrap_or(0).min(usize::try_from(query.days()).unwrap_or(0));
    if past == 0 || !query.known.contains(&person) {
        return Rim::default();
    }
    let mut minutes = vec![0; past];
    for logged in plan.log_of(person, query.from, query.today - 1) {
        let at = usize::try_from(logged.date.since(query.from)).ok();
        if let Some(sum) = at.and_then(|at| minutes.get_mut(at)) {
            *sum += logged.minutes;
        }
    }
    pile.line(&minutes)
}

/// What the live plan has on days on which a draft has something else, as a line over its strata.
fn in_live(entry: &Entry, query: &FitQuery, drawn: &[i32], pile: &Pile) -> Rim {
    let there = beside::minutes(query.live.as_ref(), entry.person.id, &query.window());
    there.map_or_else(Rim::default, |minutes| pile.line(&minutes).apart_from(&pile.line(drawn)))
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
            let bands = pour.pour(&part.minutes.days(shown.clone()).collect::<Vec<_>>());
            let shapes = Shapes(bands.iter().flat_map(|band| pile.shapes(band).0).collect());
            if !shapes.is_empty() {
                let late = if part.late { ", late" } else { "" };
                let title = format!("{} · {}, {}{late}", task.title, task.stage, task.priority);
                found.push(Lane { hue: palette.of_task(task), title, late: part.late, shapes });
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

fn booking_layer(plan: &Plan, booking: &Booking, palette: &Palette<'_>, query: &FitQuery) -> Layer {
    let name = project_name(plan, booking.project);
    let certainty = if booking.certainty == Certainty::Pencilled { ", pencilled" } else { "" };
    let note = if booking.note.is_empty() { String::new() } else { format!(" ({})", booking.note) };
    let (amount, range) =
        (words::amount(booking.amount), words::range(booking.start, booking.end, plan.settings.date_order));
    Layer {
        tag: Some(Tag::of(booking)),
        hue: palette.of_booking(booking.project, booking.certainty),
        pencilled: booking.certainty == Certainty::Pencilled,
        hold: booking.project.is_none(),
        title: format!("{name}: {amount}, {range}{certainty}{note}"),
        cut: (booking.start < query.from, booking.end > query.to()),
        shapes: Shapes::default(),
    }
}

/// The small picture at the left of a row: the usual week as a rim and what is under it, 34 × 24 pixels.
fn usual_week(entry: &Entry, today: Day) -> String {
    /// The floor, in pixels from the top.
    const FLOOR: f64 = 22.0;
    let week = week_in_force(&entry.person.patterns, today).copied().unwrap_or_default();
    let y = |minutes: i32| FLOOR - f64::from(minutes.min(720)) / 60.0 * 1.8;
    let week: Vec<_> = runs(&week).into_iter().map(|(from, to, minutes)| (from, to, y(minutes))).collect();
    let under = week.iter().filter(|(.., top)| *top < FLOOR);
    let under = Shapes(under.map(|(from, to, top)| Rect { from: *from, to: *to, top: *top, floor: FLOOR }).collect());
    let (under, rim) = (Alike::path("usual-under", &under), Alike::path("usual-rim", &Rim(week)));
    format!("<g transform=\"scale(4.8 1)\">{under}{rim}</g>")
}

/// One person's row by identity.
pub fn row_of(plan: &Plan, person: i32, query: &FitQuery) -> Option<RowView> {
    let entry = plan.people.get(&PersonId(person))?;
    let groups = Groups::new(plan, query.load());
    Some(row(&groups, plan, entry, query, &Palette::new(plan, query.colour, query.project)))
}
