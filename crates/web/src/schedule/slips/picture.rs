//! Somebody's days as they are drawn: a slip as tall as its hours that day, one on the other under the rim.

use super::query::SlipsQuery;
use crate::{
    drafts::beside,
    fit,
    grid::{CellView, Rect, Rim, Shapes},
    schedule::layers::{Label, Layer, hue_of, percent},
    words,
};
use snug_core::{
    Day, Plan, ProjectId, Tag,
    cells::{Band, Bucket, Cell, Grain},
    demand::{PersonLoad, Window},
    kinds::{PersonKind, Task},
    load::PersonCells,
    plan::Entry,
    slips::{Slip, SlipOf, slips},
};
use std::collections::{BTreeSet, HashMap};

/// Spill is never drawn thinner, in pixels.
const LEAST_SPILL: f64 = 4.0;
/// A label has this height, in pixels; a slip that is thinner says what it is to whoever points at it.
const LABEL: f64 = 13.0;
/// The hue of what is not looked for, and of holds.
const NO_HUE: usize = 13;

/// A row.
pub struct RowView {
    pub key: i32,
    pub name: String,
    pub role: String,
    pub off: Shapes,
    pub rim: Rim,
    /// Where the live plan has something else than a draft, as a line.
    pub live: Rim,
    pub slips: Vec<Layer>,
    pub labels: Vec<Label>,
    /// Words in days off: percent across, and what they say.
    pub notes: Vec<(String, String)>,
    pub spill: Shapes,
    pub cells: Vec<CellView>,
}

/// What all rows of a view are drawn from.
pub struct Drawing<'a> {
    pub plan: &'a Plan,
    pub query: &'a SlipsQuery,
    pub hues: HashMap<ProjectId, usize>,
    pub may_change: bool,
}

/// A slip where it lies: its lower and upper edge on each day of the window, in minutes.
struct Laid<'l> {
    slip: &'l Slip,
    edges: Vec<(i32, i32)>,
}

impl<'a> Drawing<'a> {
    pub fn new(plan: &'a Plan, query: &'a SlipsQuery, may_change: bool) -> Self {
        Self { plan, query, hues: fit::hues(plan), may_change }
    }

    /// One person's row.
    pub fn row(&self, entry: &Entry) -> RowView {
        let query = self.query;
        let window = Window::new(query.from, query.to(), query.today);
        let grain = if query.by_day() { Grain::Day } else { Grain::Week };
        let cells = PersonCells::of(self.plan, entry, &window, grain, true);
        let load = &cells.load;
        let shown = load.days.indexes(query.from, query.to());
        let all = slips(self.plan, load);
        let mut heights = vec![0; shown.len()];
        let mut laid = Vec::with_capacity(all.len());
        for slip in &all {
            let edge = |(at, minutes): (usize, i32)| {
                let low = heights[at];
                heights[at] += minutes;
                (low, heights[at])
            };
            laid.push(Laid { slip, edges: slip.minutes.days(shown.clone()).enumerate().map(edge).collect() });
        }
        let rims: Vec<i32> = load.days.rim().days(shown.clone()).collect();
        let mut labels = Vec::new();
        let slips = laid.iter().filter_map(|laid| self.slip(laid, &rims, &mut labels)).collect();
        let off = self.off(load, shown.clone());
        RowView {
            key: entry.person.id.0,
            name: entry.person.name.clone(),
            role: subtitle(entry),
            notes: self.notes(entry, load, &off),
            off,
            rim: self.rim(&rims),
            live: self.in_live(entry, &window, &heights),
            slips,
            labels,
            spill: self.spill(&rims, &heights),
            cells: query.buckets.iter().map(|bucket| self.cell(entry, &cells.cell(*bucket), *bucket)).collect(),
        }
    }

    /// Pixels from the top at which minutes stand.
    fn y(&self, minutes: i32) -> f64 {
        (self.query.picture - f64::from(minutes) / 60.0 * self.query.hour).max(0.0)
    }

    fn slip(&self, laid: &Laid<'_>, rims: &[i32], labels: &mut Vec<Label>) -> Option<Layer> {
        let (plan, query, slip) = (self.plan, self.query, laid.slip);
        let task = match slip.of {
            SlipOf::Task(id) => Some(plan.tasks.get(&id)?),
            SlipOf::Booked(_) => None,
        };
        let is_other = match task {
            Some(task) => !query.shows(task),
            None => {
                query.is_filtered()
                    && !slip
                        .project
                        .is_some_and(|id| query.projects.as_ref().is_some_and(|in_view| in_view.contains(&id)))
            }
        };
        let of_project = || slip.project.and_then(|id| self.hues.get(&id).copied());
        let hue = task.map_or_else(of_project, |task| Some(hue_of(task, &self.hues)));
        let hue = hue.filter(|_| !is_other).unwrap_or(NO_HUE);
        let project = slip.project.and_then(|id| plan.records.projects.get(&id)).map(|project| project.name.as_str());
        let name = match task {
            Some(task) => task.title.clone(),
            None => project.unwrap_or("Hold").to_owned(),
        };
        let mut rects = Vec::new();
        for (from, to, (low, top)) in self.pieces(&laid.edges) {
            let rect = Rect { from, to, top: self.y(top), floor: self.y(low) };
            rects.push(rect);
            let hours = words::hours(i64::from(top - low));
            let is_told = !is_other && rect.floor - rect.top >= LABEL && self.is_wide(to - from);
            if is_told {
                let is_over = rims[from..to].iter().any(|rim| top > *rim);
                let is_spread = to - from > 1 && self.is_wide((to - from) / 3);
                let hours = if is_spread { format!("{hours} a day") } else { hours };
                labels.push(Label::on(&rect, query.days(), hue, (task.is_some(), is_over), &name, hours));
            }
        }
        if rects.is_empty() {
            return None;
        }
        let title = match task {
            Some(task) => self.title(task, project, slip),
            None => format!("{name}: booked, no task yet"),
        };
        Some(Layer {
            tag: task.filter(|_| self.may_change).map(|task| Tag::of(&**task).to_string()).unwrap_or_default(),
            hue,
            class: match slip.of {
                SlipOf::Booked(None) => " hold",
                SlipOf::Booked(_) => " booked",
                SlipOf::Task(_) if is_other => " other",
                SlipOf::Task(_) if slip.late => " late",
                SlipOf::Task(_) => "",
            },
            cut: task.and_then(|task| task.start.zip(task.finish)).map_or((true, true), |(start, finish)| {
                (slip.late || start < query.from || start < query.today, slip.late || finish > query.to())
            }),
            title,
            shapes: Shapes(rects),
        })
    }

    /// `Crater relief, Moon Garden: 12 h from 9 to 13 March, late`.
    fn title(&self, task: &Task, project: Option<&str>, slip: &Slip) -> String {
        let all = snug_core::demand::left_of(self.plan, task).map(words::hours);
        let dates = task.start.zip(task.finish).map(|(from, to)| words::range(from, to, self.query.order));
        let late = if slip.late { ", late" } else { "" };
        let stuck = if task.is_stuck() { ", stuck" } else { "" };
        let told: Vec<String> = all.map(|all| format!("{all} left")).into_iter().chain(dates).collect();
        format!("{}, {}: {}{late}{stuck}", task.title, project.unwrap_or_default(), told.join(", "))
    }

    /// Where a slip lies alike from day to day; in a single week each day is one of its own.
    fn pieces(&self, edges: &[(i32, i32)]) -> Vec<(usize, usize, (i32, i32))> {
        let mut found: Vec<(usize, usize, (i32, i32))> = Vec::new();
        for (at, edge) in edges.iter().enumerate().filter(|(_, (low, top))| top > low) {
            match found.last_mut().filter(|last| self.query.weeks > 1 && last.1 == at && last.2 == *edge) {
                Some(last) => last.1 = at + 1,
                None => found.push((at, at + 1, *edge)),
            }
        }
        found
    }

    /// Whether words fit across so many days, in a window as wide as it usually is.
    fn is_wide(&self, days: usize) -> bool {
        f64::from(u32::try_from(days).unwrap_or(0)) * 900.0 / f64::from(self.query.days()) >= 56.0
    }

    /// What the live plan has on days on which a draft has something else, as a line over its slips.
    fn in_live(&self, entry: &Entry, window: &Window, heights: &[i32]) -> Rim {
        let there = beside::minutes(self.query.live.as_ref(), entry.person.id, window);
        there.map_or_else(Rim::default, |minutes| self.rim(&minutes).apart_from(&self.rim(heights)))
    }

    /// A line at the height of minutes, day by day.
    fn rim(&self, rims: &[i32]) -> Rim {
        let mut found: Vec<(usize, usize, f64)> = Vec::new();
        for (at, minutes) in rims.iter().enumerate() {
            let y = self.y(*minutes);
            match found.last_mut().filter(|last| last.2.to_bits() == y.to_bits()) {
                Some(last) => last.1 = at + 1,
                None => found.push((at, at + 1, y)),
            }
        }
        Rim(found)
    }

    fn spill(&self, rims: &[i32], heights: &[i32]) -> Shapes {
        let over = rims.iter().zip(heights).enumerate().filter(|(_, (rim, height))| height > rim);
        let shape = |(at, (rim, height)): (usize, (&i32, &i32))| {
            let floor = self.y(*rim);
            let top = self.y(*height).min(floor - LEAST_SPILL).max(0.0);
            Rect { from: at, to: at + 1, top, floor: floor.max(top + LEAST_SPILL) }
        };
        Shapes(over.map(shape).collect())
    }

    /// Days on which nobody expects them: sand, as high as a usual day.
    fn off(&self, load: &PersonLoad, shown: std::ops::Range<usize>) -> Shapes {
        let usual = load.days.pattern.days(shown.clone()).max().unwrap_or(0).max(240);
        let mut rects: Vec<Rect> = Vec::new();
        for (at, index) in shown.enumerate().filter(|(_, index)| load.days.available[*index] == 0) {
            // One with a pattern is off for once, and says so by itself.
            let is_usual = load.days.pattern[index] == 0;
            match rects.last_mut().filter(|last| last.to == at && is_usual) {
                Some(last) => last.to = at + 1,
                None => rects.push(Rect { from: at, to: at + 1, top: self.y(usual), floor: self.query.picture }),
            }
        }
        Shapes(rects)
    }

    /// `time off`, `holiday` or `day off` in the sand, where it fits.
    fn notes(&self, entry: &Entry, load: &PersonLoad, off: &Shapes) -> Vec<(String, String)> {
        if self.query.weeks > 2 {
            return Vec::new();
        }
        let holidays: BTreeSet<Day> = self.plan.holidays_of(&entry.person).iter().map(|(day, _)| *day).collect();
        let word = |day: Day| {
            let usual = load.days.index(day).is_some_and(|at| load.days.pattern[at] > 0);
            match (usual, holidays.contains(&day)) {
                (false, _) => "day off",
                (true, true) => "holiday",
                (true, false) => "time off",
            }
        };
        let note = |rect: &Rect| {
            let day = self.query.from + i32::try_from(rect.from).unwrap_or(0);
            (percent(rect.from, self.query.days()), word(day).to_owned())
        };
        off.0.iter().map(note).collect()
    }

    fn cell(&self, entry: &Entry, cell: &Cell, bucket: Bucket) -> CellView {
        let query = self.query;
        let mark = self.plan.settings.snug_mark;
        let band = cell.band(mark);
        let label = match band {
            Some(Band::Snug) => format!("{} room", words::hours(cell.room)),
            _ => words::label(cell, mark),
        };
        let spoken = format!("{}. {}", words::hours(cell.load), words::sentence(cell, mark));
        CellView {
            band: band.map_or("open", Band::as_str),
            spoken: if label.is_empty() { spoken } else { format!("{label}. {spoken}") },
            label,
            days: None,
            selected: query.person() == Some(entry.person.id) && query.bucket(query.at()) == bucket,
        }
    }
}

fn subtitle(entry: &Entry) -> String {
    let person = &entry.person;
    let role = match (person.role.as_str(), person.kind) {
        ("", PersonKind::Equipment) => "Equipment",
        ("", _) => "No role",
        (role, _) => role,
    };
    let role = words::capital(role);
    person.week_limit.map_or(role.clone(), |week| format!("{role}, {}", words::hours(i64::from(week))))
}
