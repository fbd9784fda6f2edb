//! The rows of the long view as they are drawn: what is given to a team piled under its rim, and what does not fit above it.

use super::query::LongQuery;
use crate::{
    fit,
    grid::{CellView, Rect, Rim, Shapes},
    schedule::layers::{Label, Layer, hue_of},
    words,
};
use snug_core::{
    Plan, ProjectId, Tag, TeamId,
    cells::{Band, Bucket, Cell, Grain},
    demand::is_parent,
    kinds::Task,
    load::Groups,
    long_view::{Item, ItemOf, TeamRow, own_rim, team_row},
    network::{leaves, span},
};
use std::collections::HashMap;

/// The height of a row's picture, where its floor lies, and how high its rim is drawn, in pixels.
pub const PICTURE: f64 = 136.0;
const FLOOR: f64 = 134.0;
const RIM: f64 = 98.0;
/// Spill is never drawn thinner, and words stand in nothing thinner than this, in pixels.
const LEAST_SPILL: f64 = 4.0;
const LABEL: f64 = 11.0;
/// The hue of what is done besides.
const OTHER: usize = 13;

/// A row.
pub struct RowView {
    pub key: String,
    pub depth: usize,
    pub name: String,
    /// `148 h in this week`.
    pub capacity: String,
    /// Pixels of an hour in a column.
    pub hour: String,
    pub columns: String,
    pub layers: Vec<Layer>,
    pub labels: Vec<Label>,
    pub spill: Shapes,
    pub rim: Rim,
    /// Where the live plan has something else than a draft, as a line.
    pub live: Rim,
    pub cells: Vec<CellView>,
}

/// What all rows of a view are drawn from.
pub struct Drawing<'a> {
    pub plan: &'a Plan,
    pub query: &'a LongQuery,
    pub groups: Groups<'a>,
    /// The same of the live plan beside a draft.
    live: Option<Groups<'a>>,
    pub hues: HashMap<ProjectId, usize>,
    pub may_change: bool,
}

impl<'a> Drawing<'a> {
    pub fn new(plan: &'a Plan, query: &'a LongQuery, may_change: bool) -> Self {
        let live = query.live.as_deref().map(|live| Groups::new(live, query.load()));
        Self { plan, query, groups: Groups::new(plan, query.load()), live, hues: fit::hues(plan), may_change }
    }

    fn at(&self, day: snug_core::Day) -> usize {
        usize::try_from(day.since(self.query.from).clamp(0, self.query.days())).unwrap_or(0)
    }

    /// One team's row.
    pub fn row(&self, team: TeamId) -> Option<RowView> {
        let record = self.plan.records.teams.get(&team)?;
        let row = team_row(&self.groups, team);
        let most = row.cells.iter().filter_map(|cell| cell.limit).max().filter(|most| *most > 0).unwrap_or(2_400);
        #[allow(clippy::cast_precision_loss)] // minutes of a team as pixels
        let minute = RIM / most as f64;
        let pile = Pile { drawing: self, row: &row, minute };
        let (layers, labels) = pile.layers();
        let now = self.query.buckets.iter().position(|bucket| bucket.to >= self.query.today).unwrap_or(0);
        let limit = row.cells.get(now).and_then(|cell| cell.limit).unwrap_or(0);
        let word = match self.query.zoom {
            Grain::Month => "month",
            Grain::Quarter => "quarter",
            _ => "week",
        };
        Some(RowView {
            key: format!("t{team}"),
            depth: self.plan.team_line(team).count() - 1,
            name: record.name.clone(),
            capacity: if limit == 0 { "nobody in it".to_owned() } else { format!("{} a {word}", words::hours(limit)) },
            hour: format!("{:.4}", minute * 60.0),
            columns: self.columns(),
            spill: pile.spill(),
            rim: pile.line(&limits(&row)),
            live: pile.in_live(team),
            cells: self
                .query
                .buckets
                .iter()
                .zip(&row.cells)
                .map(|(bucket, cell)| self.cell(team, *bucket, cell))
                .collect(),
            layers,
            labels,
        })
    }

    fn columns(&self) -> String {
        let begins = self.query.buckets.iter().skip(1).map(|bucket| bucket.from.since(self.query.from));
        begins.map(|day| format!("M{day} 0V{PICTURE}")).collect::<Vec<_>>().concat()
    }

    fn cell(&self, team: TeamId, bucket: Bucket, cell: &Cell) -> CellView {
        let mark = self.plan.settings.snug_mark;
        let band = cell.band(mark);
        let label = words::label(cell, mark);
        let days = (self.query.zoom != Grain::Week).then(|| bucket.to.since(bucket.from) + 1);
        CellView {
            band: band.map_or("open", Band::as_str),
            spoken: format!("{label}. {} of {}", words::hours(cell.load), words::hours(cell.limit.unwrap_or(0))),
            label,
            days,
            selected: self.query.team() == Some(team) && self.query.bucket() == Some(bucket),
        }
    }
}

/// A row while it is piled up.
struct Pile<'p, 'a> {
    drawing: &'p Drawing<'a>,
    row: &'p TeamRow,
    /// Pixels of a minute.
    minute: f64,
}

impl Pile<'_, '_> {
    fn y(&self, minutes: i64) -> f64 {
        #[allow(clippy::cast_precision_loss)] // minutes of a team as pixels
        let height = minutes as f64 * self.minute;
        (FLOOR - height).max(0.0)
    }

    /// Rectangles from lower and upper edges, bucket by bucket; alike ones in a row are one.
    fn rects(&self, edges: &[(i64, i64)], least: f64) -> Shapes {
        let mut found: Vec<Rect> = Vec::new();
        for (bucket, (low, high)) in self.drawing.query.buckets.iter().zip(edges).filter(|(_, (low, high))| high > low)
        {
            let floor = self.y(*low);
            let top = self.y(*high).min(floor - least).max(0.0);
            let (from, to) = (self.drawing.at(bucket.from), self.drawing.at(bucket.to + 1));
            let rect = Rect { from, to, top, floor: floor.max(top + least) };
            match found.last_mut().filter(|last| {
                last.to == from
                    && last.top.to_bits() == rect.top.to_bits()
                    && last.floor.to_bits() == rect.floor.to_bits()
            }) {
                Some(last) => last.to = to,
                None => found.push(rect),
            }
        }
        Shapes(found)
    }

    fn layers(&self) -> (Vec<Layer>, Vec<Label>) {
        let mut heights = vec![0; self.row.cells.len()];
        let mut lay = |minutes: &[i64]| -> Vec<(i64, i64)> {
            let edge = |(height, minutes): (&mut i64, &i64)| {
                let low = *height;
                *height += minutes;
                (low, *height)
            };
            heights.iter_mut().zip(minutes).map(edge).collect()
        };
        let mut labels = Vec::new();
        let besides = self.rects(&lay(&self.row.other), 0.0);
        let mut layers = vec![Layer {
            tag: String::new(),
            hue: OTHER,
            class: " other",
            cut: (true, true),
            title: "What the members do by name".to_owned(),
            shapes: besides,
        }];
        for item in &self.row.items {
            let shapes = self.rects(&lay(&item.minutes), 0.0);
            layers.extend(self.item(item, shapes, &mut labels));
        }
        layers.retain(|layer| !layer.shapes.is_empty());
        (layers, labels)
    }

    fn item(&self, item: &Item, shapes: Shapes, labels: &mut Vec<Label>) -> Option<Layer> {
        let Drawing { plan, query, hues, may_change, .. } = self.drawing;
        let (all, above) = item.sums();
        let (task, project) = match item.of {
            ItemOf::Task(id) => plan.tasks.get(&id).map(|task| (Some(task), Some(task.project)))?,
            ItemOf::Booked(project) => (None, project),
        };
        let of_project = || project.and_then(|id| hues.get(&id).copied()).unwrap_or(OTHER);
        let hue = task.map_or_else(of_project, |task| hue_of(task, hues));
        let project = project.and_then(|id| plan.records.projects.get(&id)).map_or("Hold", |it| it.name.as_str());
        let name = task.map_or(project, |task| task.title.as_str()).to_owned();
        let own = task.and_then(|task| own_rim(plan, task)).map_or(0, |own| own.spill());
        let mut says = vec![words::hours(all)];
        if above > 0 {
            says.push(format!("{} above the rim", words::hours(above)));
        }
        if own > 0 {
            says.push(format!("{} more inside than its estimate", words::hours(own)));
        }
        let dates = task.and_then(|task| dates(plan, task));
        let told = dates.map(|(from, to)| format!(", {}", words::range(from, to, query.order))).unwrap_or_default();
        if let Some(widest) = widest(&shapes) {
            let hours = if above > 0 { format!("+{}", words::hours(above)) } else { words::hours(all) };
            labels.push(Label::on(&widest, query.days(), hue, (task.is_some(), above > 0), &name, hours));
        }
        let whole = task.is_some_and(|task| is_parent(plan, task.id));
        let cut = dates.map_or((true, true), |(from, to)| {
            (whole || from < query.from || from < query.today, whole || to > query.to())
        });
        Some(Layer {
            tag: task.filter(|_| *may_change).map(|task| Tag::of(&**task).to_string()).unwrap_or_default(),
            hue,
            class: if task.is_some() { "" } else { " booked" },
            cut,
            title: format!("{name}, {project}: {}{told}", says.join(", ")),
            shapes,
        })
    }

    fn spill(&self) -> Shapes {
        let edges: Vec<(i64, i64)> = self
            .row
            .cells
            .iter()
            .map(|cell| {
                let limit = cell.limit.unwrap_or(i64::MAX);
                (limit.min(cell.load), cell.load)
            })
            .collect();
        self.rects(&edges, LEAST_SPILL)
    }

    /// What the live plan has in columns in which a draft has something else, as a line over its pile.
    fn in_live(&self, team: TeamId) -> Rim {
        let Some(live) = &self.drawing.live else { return Rim::default() };
        self.line(&loads(&team_row(live, team))).apart_from(&self.line(&loads(self.row)))
    }

    /// A line at the height of minutes, column by column.
    fn line(&self, minutes: &[i64]) -> Rim {
        let mut found: Vec<(usize, usize, f64)> = Vec::new();
        for (bucket, minutes) in self.drawing.query.buckets.iter().zip(minutes) {
            let y = self.y(*minutes);
            let (from, to) = (self.drawing.at(bucket.from), self.drawing.at(bucket.to + 1));
            match found.last_mut().filter(|last| last.2.to_bits() == y.to_bits()) {
                Some(last) => last.1 = to,
                None => found.push((from, to, y)),
            }
        }
        Rim(found)
    }
}

fn limits(row: &TeamRow) -> Vec<i64> {
    row.cells.iter().map(|cell| cell.limit.unwrap_or(0)).collect()
}

fn loads(row: &TeamRow) -> Vec<i64> {
    row.cells.iter().map(|cell| cell.load).collect()
}

/// The longest stretch of an item in which words fit on one line: rectangles that follow one another, as far as they have that line in
/// common.
fn widest(shapes: &Shapes) -> Option<Rect> {
    let mut best: Option<Rect> = None;
    for (at, first) in shapes.0.iter().enumerate() {
        let mut run = *first;
        for next in &shapes.0[at + 1..] {
            let (top, floor) = (run.top.max(next.top), run.floor.min(next.floor));
            if next.from != run.to || floor - top < LABEL {
                break;
            }
            run = Rect { to: next.to, top, floor, ..run };
        }
        let is_wider = best.is_none_or(|best| run.to - run.from > best.to - best.from);
        if run.floor - run.top >= LABEL && is_wider {
            best = Some(run);
        }
    }
    best
}

/// The dates of a task: its own, or those of everything inside it.
pub fn dates(plan: &Plan, task: &Task) -> Option<(snug_core::Day, snug_core::Day)> {
    if !is_parent(plan, task.id) {
        return task.start.zip(task.finish);
    }
    let inside = leaves(plan, task.id).into_iter().filter_map(|id| plan.tasks.get(&id).cloned());
    span(inside.filter_map(|task| task.start.zip(task.finish)))
}
