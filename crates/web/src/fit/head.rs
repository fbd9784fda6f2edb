//! Rows that sum up people, and rows of work with no person yet.

use super::{
    angle::group_word,
    colour::{NONE, Palette},
    figures::{label, spoken},
    query::FitQuery,
    row::{CellView, project_name},
    shapes::{Band, Line, Pile, Rect},
    zoom::named,
};
use crate::words;
use snug_core::{
    Plan, ProjectId,
    budget::Budget,
    cells::{Band as State, Bucket, Cell, WHOLE},
    demand::landed,
    kinds::{Booking, Certainty, Who},
    load::{Groups, RowKey},
    plan::Entry,
};
use std::collections::{BTreeMap, BTreeSet};

/// The head of a group of rows, with the strata of all of them.
pub struct HeadView {
    /// The key in addresses.
    pub group: String,
    pub name: String,
    pub says: String,
    /// What a budget leaves, for projects.
    pub gap: String,
    pub gap_is_over: bool,
    pub folded: bool,
    pub turn: String,
    pub cells: Vec<CellView>,
    pub bands: Vec<(usize, Vec<Rect>)>,
    pub spill: Vec<Rect>,
    pub rims: Vec<Line>,
    pub picture: u32,
    pub projects: BTreeSet<ProjectId>,
}

/// A group before it is drawn.
pub struct Head<'a> {
    pub key: RowKey,
    pub people: Vec<&'a Entry>,
    pub seats: usize,
    pub folded: bool,
    pub budget: Option<Budget>,
}

/// The name of a group.
pub fn name_of(plan: &Plan, key: &RowKey) -> String {
    match key {
        RowKey::Team(id) => {
            id.and_then(|id| plan.records.teams.get(&id)).map_or("No team".to_owned(), |team| team.name.clone())
        }
        RowKey::Role(role) if role.is_empty() => "No role".to_owned(),
        RowKey::Skill(skill) if skill.is_empty() => "No skill".to_owned(),
        RowKey::Role(text) | RowKey::Skill(text) => words::capital(text),
        RowKey::Project(None) => "Holds".to_owned(),
        RowKey::Project(id) => project_name(plan, *id),
    }
}

/// Draws the sum of a group.
pub fn head(groups: &Groups<'_>, plan: &Plan, head: &Head<'_>, query: &FitQuery, palette: &Palette<'_>) -> HeadView {
    let days = usize::try_from(query.days()).unwrap_or(0);
    let of_project = matches!(head.key, RowKey::Project(_));
    // The picture shows what the figures say: everybody in the group, whoever is let in by the filter.
    #[allow(clippy::cast_precision_loss)] // a picture
    let minutes = |days: Vec<i64>| days.into_iter().map(|part| part as f64 / WHOLE as f64).collect::<Vec<f64>>();
    let drawn = groups.days(&head.key);
    let slots: BTreeMap<_, Vec<f64>> = drawn.projects.into_iter().map(|(id, days)| (id, minutes(days))).collect();
    let limits = drawn.limit.map(minutes);
    // A group is as tall as a person: its fullest day stands for ten hours.
    let sums = (0..days).map(|at| slots.values().map(|sum| sum[at]).sum::<f64>());
    let most = limits.iter().flatten().copied().reduce(f64::max).unwrap_or_else(|| sums.fold(0.0, f64::max)).max(1.0);
    let scale = 480.0 / most;
    // A project has no limit: nothing is cut at a rim.
    let limits = limits
        .map_or_else(|| vec![1_000.0; days], |limits| limits.iter().map(|limit| (limit * scale).round()).collect());
    let mut pile = Pile::new(limits, query.height);
    let mut laid: Vec<(usize, Band)> = Vec::new();
    for (project, minutes) in &slots {
        #[allow(clippy::cast_possible_truncation)] // a scaled share of a day
        let minutes: Vec<i32> = minutes.iter().map(|minutes| (minutes * scale).round() as i32).collect();
        laid.push((palette.of_booking(*project, Certainty::Firm), pile.lay(&minutes)));
    }
    let group = group_word(plan, &head.key);
    let figures = groups.row(&head.key);
    let cells =
        query.buckets.iter().zip(&figures).map(|(bucket, cell)| cell_of(plan, head, query, &group, *bucket, cell));
    let seats = match head.seats {
        0 => String::new(),
        1 => " · 1 open seat".to_owned(),
        many => format!(" · {many} open seats"),
    };
    let people = match head.people.len() {
        0 => "Nobody".to_owned(),
        1 => "1 person or thing".to_owned(),
        many => format!("{many} people and things"),
    };
    let gap = head.budget.as_ref().and_then(Budget::gap);
    HeadView {
        name: name_of(plan, &head.key),
        says: format!("{people}{seats}"),
        gap: match (gap, &head.budget) {
            (Some(gap), _) if gap < 0 => format!("{} beyond its budget", words::hours(-gap)),
            (Some(gap), _) => format!("{} of its budget free", words::hours(gap)),
            _ => String::new(),
        },
        gap_is_over: gap.is_some_and(|gap| gap < 0),
        folded: head.folded,
        turn: turned(query, &group).href("/fit"),
        cells: cells.collect(),
        bands: laid.iter().map(|(hue, band)| (*hue, pile.shapes(band))).collect(),
        spill: if of_project { Vec::new() } else { pile.spill() },
        rims: if of_project { Vec::new() } else { pile.rims() },
        picture: query.height.picture(),
        projects: slots.keys().flatten().copied().collect(),
        group,
    }
}

/// The same view with a group folded, or unfolded.
fn turned(query: &FitQuery, group: &str) -> FitQuery {
    let mut next = query.clone();
    if !next.turned.remove(group) {
        next.turned.insert(group.to_owned());
    }
    next
}

fn cell_of(plan: &Plan, head: &Head<'_>, query: &FitQuery, group: &str, bucket: Bucket, cell: &Cell) -> CellView {
    let mark = plan.settings.snug_mark;
    let over = cell.over > 0 && cell.limit.is_some();
    let name = name_of(plan, &head.key);
    let label =
        if over && query.measure.counts_minutes() { format!("{} over", cell.over) } else { label(cell, query, mark) };
    let people = if cell.over == 1 { "1 person is over".to_owned() } else { format!("{} people are over", cell.over) };
    CellView {
        href: query.selecting_group(group, bucket.from).href("/fit"),
        band: if over { "over" } else { cell.band(mark).map_or("open", State::as_str) },
        spoken: format!(
            "{label}. {name}, {}: {} {people}.",
            named(query.zoom, bucket, query.order),
            spoken(cell, query, mark)
        ),
        label,
        from: bucket.from.to_string(),
        days: bucket.to.since(bucket.from) + 1,
        selected: query.group == group && query.at == Some(bucket.from),
    }
}

/// The row of an open seat, or of a team's booking: work that has no name yet.
pub struct SeatView {
    pub id: i32,
    pub seen: String,
    pub name: String,
    pub says: String,
    pub hue: usize,
    pub pencilled: bool,
    pub title: String,
    pub start: String,
    pub end: String,
    pub rects: Vec<Rect>,
    /// First day, days, hours.
    pub cells: Vec<(String, i32, String)>,
    /// The row is the one in the side sheet.
    pub href: String,
    pub picture: u32,
    pub hour: f64,
}

/// Draws an open seat.
pub fn seat(plan: &Plan, booking: &Booking, query: &FitQuery, palette: &Palette<'_>) -> SeatView {
    let (days, minutes, _) = landed(plan, booking);
    let shown: Vec<i32> =
        (0..query.days()).map(|at| days.index(query.from + at).map_or(0, |index| minutes[index])).collect();
    let mut pile = Pile::new(vec![1_440.0; shown.len()], query.height);
    let band = pile.lay(&shown);
    let sum = |bucket: &Bucket| {
        let range = days.indexes(bucket.from, bucket.to);
        let minutes: i64 = if range.is_empty() { 0 } else { minutes.sum(range) };
        let hours = if minutes == 0 { String::new() } else { words::hours(minutes) };
        (bucket.from.to_string(), bucket.to.since(bucket.from) + 1, hours)
    };
    let (project, amount) = (project_name(plan, booking.project), words::amount(booking.amount));
    let name = match &booking.who {
        Who::Role(role) => format!("Open seat: {role}"),
        Who::Team(id) => {
            format!("{}, no name yet", plan.records.teams.get(id).map_or("A team", |team| team.name.as_str()))
        }
        Who::Person(_) => String::new(),
    };
    SeatView {
        id: booking.id.0,
        seen: serde_json::to_string(booking).unwrap_or_default(),
        says: format!("{project}, {amount}"),
        hue: booking.project.map_or(NONE, |_| palette.of_booking(booking.project, booking.certainty)),
        pencilled: booking.certainty == Certainty::Pencilled,
        title: format!("{name}. {project}: {amount}, {}", words::range(booking.start, booking.end, query.order)),
        name,
        start: booking.start.to_string(),
        end: booking.end.to_string(),
        rects: pile.shapes(&band),
        cells: query.buckets.iter().map(sum).collect(),
        picture: query.height.picture(),
        hour: query.height.hour(),
        href: query.selecting_group(&format!("seat:{}", booking.id), query.from).href("/fit"),
    }
}
