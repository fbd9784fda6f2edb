//! The hours of who does what is seen, day by day under everyone's rim.

use super::{
    outline::{Of, Outline},
    query::{GanttQuery, PAGE},
};
use crate::{
    grid::{Rect, Rim, Shapes},
    words,
};
use askama::Template;
use snug_core::{PersonId, Plan, cells::Grain, demand::Window, load::PersonCells, plan::Entry};
use std::collections::BTreeMap;

/// The height of a picture in pixels, and of an hour.
const PICTURE: f64 = 24.0;
const HOUR: f64 = 2.0;
/// As many people as stand beneath the picture.
const MOST: usize = 5;

/// Somebody's days.
pub struct Strata {
    name: String,
    href: String,
    says: String,
    load: Shapes,
    spill: Shapes,
    off: Shapes,
    rim: Rim,
}

/// The days of some people.
#[derive(Template)]
#[template(path = "schedule/people.html")]
pub struct PeopleView {
    rows: Vec<Strata>,
    /// How many do what is seen.
    in_all: usize,
    days: i32,
    picture: f64,
}

/// Those who do most of what this part of the outline shows.
pub fn people(plan: &Plan, query: &GanttQuery, outline: &Outline) -> PeopleView {
    let mut counts: BTreeMap<PersonId, i64> = BTreeMap::new();
    let seen = |task: &snug_core::kinds::Task| {
        task.start.zip(task.finish).is_some_and(|(start, finish)| start <= query.to() && finish >= query.from)
    };
    // Whose row is selected comes first.
    let selected = query.task();
    for line in outline.lines.iter().skip(query.offset).take(PAGE) {
        let Of::Task(id) = line.of else { continue };
        let Some(task) = plan.tasks.get(&id).filter(|task| seen(task)) else { continue };
        let weight = if selected == Some(id) { 1_000 } else { 1 };
        task.assignees.people().for_each(|person| *counts.entry(person).or_default() += weight);
    }
    let mut ranked: Vec<(PersonId, i64)> = counts.into_iter().collect();
    ranked.sort_by_key(|(person, count)| (-count, *person));
    let in_all = ranked.len();
    let shown = ranked.into_iter().take(MOST).filter_map(|(person, _)| plan.people.get(&person));
    let rows = shown.map(|entry| strata(plan, query, entry)).collect();
    PeopleView { rows, in_all, days: query.days(), picture: PICTURE }
}

fn strata(plan: &Plan, query: &GanttQuery, entry: &Entry) -> Strata {
    let window = Window::new(query.from, query.to(), query.today);
    let cells = PersonCells::of(plan, entry, &window, Grain::Day, false);
    let load = &cells.load;
    let y = |minutes: i32| (PICTURE - f64::from(minutes) / 60.0 * HOUR).max(0.0);
    let (mut filled, mut spilled, mut free) = (Shapes::default(), Shapes::default(), Shapes::default());
    let mut rim = Rim::default();
    let (mut worst, mut over) = (0, 0);
    for (at, index) in load.days.indexes(query.from, query.to()).enumerate() {
        let (limit, minutes) = (load.days.rim()[index], load.load[index]);
        let rect = |top: f64, floor: f64| Rect { from: at, to: at + 1, top, floor };
        if minutes > 0 {
            filled.0.push(rect(y(minutes.min(limit)), PICTURE));
        }
        if minutes > limit {
            // Spill is never drawn thinner than four pixels.
            let floor = y(limit);
            spilled.0.push(rect(y(minutes).min(floor - 4.0).max(0.0), floor.max(4.0)));
            over += i64::from(minutes - limit);
            worst = worst.max(minutes - limit);
        }
        if load.days.available[index] == 0 {
            free.0.push(rect(0.0, PICTURE));
        }
        match rim.0.last_mut().filter(|(_, _, height)| height.to_bits() == y(limit).to_bits()) {
            Some(last) => last.1 = at + 1,
            None => rim.0.push((at, at + 1, y(limit))),
        }
    }
    let says = if over > 0 {
        format!("{} over in this window, {} on one day at most", words::hours(over), words::hours(worst.into()))
    } else {
        "inside every day's limit in this window".to_owned()
    };
    Strata {
        href: words::address("/fit", [("q", entry.person.name.as_str()), ("from", query.from.to_string().as_str())]),
        name: entry.person.name.clone(),
        says,
        load: filled,
        spill: spilled,
        off: free,
        rim,
    }
}
