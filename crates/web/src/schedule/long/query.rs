//! What the address of the long view says: which weeks or months, which teams, what is selected.

use crate::{fit::zoom_stepped, schedule::address::href};
use serde::{Deserialize, Serialize};
use snug_core::{
    Day, Plan, TeamId,
    cells::{Bucket, Grain},
    demand::Window,
    load::{Group, Measure, Query},
    settings::DateOrder,
};
use std::sync::Arc;

/// Where the long view lies.
pub const PATH: &str = "/schedule/long";

/// Rows a chunk: each holds what all members of a team do.
pub const PAGE: usize = 12;

/// The zooms: what a column is, its name, and how many are seen.
pub const ZOOMS: [(Grain, &str, i32); 3] =
    [(Grain::Week, "Weeks", 10), (Grain::Month, "Months", 9), (Grain::Quarter, "Quarters", 6)];

/// The address as it comes. A number or a day that makes no sense is taken as not said.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(default)]
pub struct Params {
    pub zoom: String,
    pub from: String,
    /// A part of a team's name.
    pub q: String,
    /// The team that is selected, by the key of its row, and the column.
    pub row: String,
    pub at: String,
    pub offset: String,
    /// A cell that is to be selected in the view one comes from: its row's key, a point, and its place in the row.
    pub cell: String,
}

/// The address as it is meant.
#[derive(Clone, Debug)]
pub struct LongQuery {
    pub params: Params,
    pub today: Day,
    pub zoom: Grain,
    pub from: Day,
    pub buckets: Vec<Bucket>,
    pub order: DateOrder,
    pub offset: usize,
    /// The live plan beside a draft that is shown.
    pub live: Option<Arc<Plan>>,
}

impl LongQuery {
    /// Reads an address.
    pub fn read(params: Params, plan: &Plan, today: Day) -> Self {
        let zoom: Grain = params.zoom.parse().unwrap_or(Grain::Week);
        let (zoom, _, count) = ZOOMS.into_iter().find(|known| known.0 == zoom).unwrap_or(ZOOMS[0]);
        let from: Day = params.from.parse().unwrap_or(today);
        let from = zoom.start_of(from.clamp(Day::MIN + 400, Day::MAX - 1_500), &plan.settings);
        let last = zoom_stepped(zoom, from, count, &plan.settings) - 1;
        Self {
            buckets: zoom.buckets(from, last, &plan.settings),
            offset: params.offset.parse().unwrap_or(0),
            order: plan.settings.date_order,
            live: None,
            params,
            today,
            zoom,
            from,
        }
    }

    /// The same for a draft, beside the live plan.
    pub fn beside_live(self, live: Option<Arc<Plan>>) -> Self {
        Self { live, ..self }
    }

    /// The last day of the window.
    pub fn to(&self) -> Day {
        self.buckets.last().map_or(self.from, |bucket| bucket.to)
    }

    /// How many days the window has.
    pub fn days(&self) -> i32 {
        self.to().since(self.from) + 1
    }

    /// What is asked of the load table.
    pub fn load(&self) -> Query {
        Query {
            window: Window::new(self.from, self.to(), self.today),
            grain: self.zoom,
            group: Group::Team,
            measure: Measure::Minutes,
        }
    }

    /// The team that is selected.
    pub fn team(&self) -> Option<TeamId> {
        team_of(&self.params.row)
    }

    /// The column that is selected, the first where none is.
    pub fn bucket(&self) -> Option<Bucket> {
        let at: Day = self.params.at.parse().unwrap_or(self.from);
        self.buckets.iter().copied().rev().find(|bucket| bucket.from <= at).or(self.buckets.first().copied())
    }

    /// The address of this view, or of a part of it, with some words said otherwise.
    pub fn href(&self, path: &str, alter: impl FnOnce(&mut Params)) -> String {
        let mut params = self.params.clone();
        alter(&mut params);
        href(path, &params)
    }

    /// The view that a followed link means.
    pub fn followed(&self, cell: &str) -> String {
        self.href(PATH, |params| {
            if let Some((row, at)) = cell.rsplit_once('.') {
                row.clone_into(&mut params.row);
                let bucket = at.parse().ok().and_then(|at: usize| self.buckets.get(at));
                params.at = bucket.map(|bucket| bucket.from.to_string()).unwrap_or_default();
            }
        })
    }
}

/// The team of a row, by its key.
pub fn team_of(key: &str) -> Option<TeamId> {
    key.strip_prefix('t').and_then(|id| id.parse().ok()).map(TeamId)
}
