//! Rows that sum up people, and rows of work with no person yet.

use crate::{
    fit::{
        address::{angle::group_word, query::FitQuery},
        list::Head,
        names::{group_name, project_name},
        picture::{
            cells::{of_group, of_seat},
            palette::{NONE, Palette},
            shapes::{Band, Pile},
        },
    },
    grid::{CellView, Rim, Shapes},
    words,
};
use snug_core::{
    Plan, ProjectId, Tag,
    budget::Budget,
    cells::{Bucket, WHOLE},
    demand::landed,
    kinds::{Booking, Certainty, Who},
    load::{Groups, RowKey},
};
use std::collections::{BTreeMap, BTreeSet};

/// The head of a group of rows, with the strata of all of them.
pub struct HeadView {
    /// The key in addresses, and the same as it is written there.
    pub group: String,
    pub key: String,
    pub name: String,
    pub says: String,
    /// What a budget leaves, for projects.
    pub gap: String,
    pub gap_is_over: bool,
    pub folded: bool,
    pub cells: Vec<CellView>,
    pub bands: Vec<(usize, Shapes)>,
    pub spill: Shapes,
    pub rim: Rim,
    /// Days across the picture, and its height in pixels.
    pub days: i32,
    pub picture: u32,
    pub projects: BTreeSet<ProjectId>,
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
    let cells = query.buckets.iter().zip(&figures).map(|(bucket, cell)| of_group(plan, query, &group, *bucket, cell));
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
        name: group_name(plan, &head.key),
        says: format!("{people}{seats}"),
        gap: match (gap, &head.budget) {
            (Some(gap), _) if gap < 0 => format!("{} beyond its budget", words::hours(-gap)),
            (Some(gap), _) => format!("{} of its budget free", words::hours(gap)),
            _ => String::new(),
        },
        gap_is_over: gap.is_some_and(|gap| gap < 0),
        folded: head.folded,
        cells: cells.collect(),
        bands: laid.iter().map(|(hue, band)| (*hue, pile.shapes(band))).collect(),
        spill: if of_project { Shapes::default() } else { pile.spill() },
        rim: if of_project { Rim::default() } else { pile.rim() },
        days: query.days(),
        picture: query.height.picture(),
        key: words::escaped(&group),
        projects: slots.keys().flatten().copied().collect(),
        group,
    }
}

/// The row of an open seat, or of a team's booking: work that has no name yet.
pub struct SeatView {
    /// The key in addresses.
    pub key: String,
    /// The tag of the booking as it is drawn.
    pub tag: Tag,
    pub name: String,
    pub says: String,
    pub hue: usize,
    pub pencilled: bool,
    pub title: String,
    /// Whether it began before the window, and whether it goes on after it.
    pub cut: (bool, bool),
    pub shapes: Shapes,
    pub cells: Vec<CellView>,
    pub days: i32,
    pub picture: u32,
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
        of_seat(query, *bucket, if minutes == 0 { String::new() } else { words::hours(minutes) })
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
        key: format!("seat:{}", booking.id),
        tag: Tag::of(booking),
        says: format!("{project}, {amount}"),
        hue: booking.project.map_or(NONE, |_| palette.of_booking(booking.project, booking.certainty)),
        pencilled: booking.certainty == Certainty::Pencilled,
        title: format!("{name}. {project}: {amount}, {}", words::range(booking.start, booking.end, query.order)),
        name,
        cut: (booking.start < query.from, booking.end > query.to()),
        shapes: pile.shapes(&band),
        cells: query.buckets.iter().map(sum).collect(),
        days: query.days(),
        picture: query.height.picture(),
    }
}
