//! What the address of the Gantt says: which projects, which window, what is folded, beside which baseline, what is selected. The
//! address is the whole state of the room, so that it can be sent.

use super::{
    address::{href, list, pairs},
    columns::{Col, chosen},
};
use serde::{Deserialize, Serialize};
use snug_core::{
    Day, Plan, ProjectId, TaskId,
    cells::{Bucket, Grain},
    kinds::{BaselineId, Kind},
    network::leaves,
    settings::DateOrder,
};
use std::{collections::BTreeSet, sync::Arc};

/// Where the Gantt stands.
pub const PATH: &str = "/schedule/gantt";

/// The zooms: what a column is, its name, and the usual number of weeks that are seen.
pub const ZOOMS: [(Grain, &str, i32); 4] = [
    (Grain::Day, "Days", 3),
    (Grain::Week, "Weeks", 7),
    (Grain::Month, "Months", 26),
    (Grain::Quarter, "Quarters", 78),
];

/// Rows a chunk.
pub const PAGE: usize = 40;

/// The most weeks of a window.
const MOST_WEEKS: i32 = 156;

/// The address as it comes. A number or a day that makes no sense is taken as not said.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(default)]
pub struct Params {
    /// Codes of projects, with commas between; all that are not closed where none is said.
    pub project: String,
    pub q: String,
    pub zoom: String,
    pub from: String,
    pub weeks: String,
    /// Keys of rows that are folded, with commas between.
    pub fold: String,
    /// The row that is selected.
    pub row: String,
    pub at: String,
    pub offset: String,
    /// The code of the baseline beside which the plan is seen.
    pub beside: String,
    /// `carry`, where what follows moves along.
    pub mode: String,
    /// `no`, where what floats, is critical or linked is not drawn.
    pub network: String,
    /// `no`, where the hours of who does it are folded away.
    pub people: String,
    /// Words of the columns of the outline, with commas between.
    pub cols: String,
    /// A cell that is to be selected in the view one comes from: its row's key, a point, and its place in the row.
    pub cell: String,
    /// A row that is to be folded or unfolded there, by its key.
    pub turn: String,
}

/// The address as it is meant.
#[derive(Clone, Debug)]
pub struct GanttQuery {
    pub params: Params,
    pub today: Day,
    pub from: Day,
    pub weeks: i32,
    pub zoom: Grain,
    pub buckets: Vec<Bucket>,
    /// The projects in view; none where all are.
    pub projects: Vec<ProjectId>,
    pub fold: BTreeSet<String>,
    pub offset: usize,
    pub beside: Option<BaselineId>,
    pub order: DateOrder,
    /// The columns of the outline.
    pub cols: Vec<Col>,
    /// The live plan beside a draft that is shown.
    pub live: Option<Arc<Plan>>,
}

impl GanttQuery {
    /// Reads an address.
    pub fn read(params: Params, plan: &Plan, today: Day) -> Self {
        let zoom = params.zoom.parse().unwrap_or(Grain::Week);
        let usual = ZOOMS.iter().find(|known| known.0 == zoom).unwrap_or(&ZOOMS[1]);
        let weeks = params.weeks.parse().unwrap_or(usual.2).clamp(1, MOST_WEEKS);
        let from: Day = params.from.parse().unwrap_or(today - 7);
        let from = from.clamp(Day::MIN + 14, Day::MAX - MOST_WEEKS * 7 - 14);
        let from = Grain::Week.start_of(from, &plan.settings);
        let codes = list(&params.project);
        let projects = codes.iter().filter_map(|code| plan.find(Kind::Project, code));
        Self {
            buckets: usual.0.buckets(from, from + weeks * 7 - 1, &plan.settings),
            projects: projects.map(ProjectId).collect(),
            fold: list(&params.fold).into_iter().collect(),
            offset: params.offset.parse().unwrap_or(0),
            beside: plan.find(Kind::Baseline, &params.beside).map(BaselineId),
            order: plan.settings.date_order,
            cols: chosen(&params.cols),
            live: None,
            zoom: usual.0,
            today,
            from,
            weeks,
            params,
        }
    }

    /// The same for a draft, beside the live plan.
    pub fn beside_live(self, live: Option<Arc<Plan>>) -> Self {
        Self { live, ..self }
    }

    /// Whether a column of the outline is shown.
    pub fn shows(&self, word: &str) -> bool {
        self.cols.iter().any(|col| col.word == word)
    }

    /// The tasks whose figures rows need: their own, and where floats are shown those inside parents.
    pub fn figured(&self, plan: &Plan, mut tasks: Vec<TaskId>) -> Vec<TaskId> {
        if self.shows("float") {
            tasks = tasks.into_iter().flat_map(|task| leaves(plan, task)).collect();
            tasks.sort_unstable();
            tasks.dedup();
        }
        tasks
    }

    /// How many days the window has.
    pub fn days(&self) -> i32 {
        self.weeks * 7
    }

    /// The last day of the window.
    pub fn to(&self) -> Day {
        self.from + self.days() - 1
    }

    /// The task whose row is selected.
    pub fn task(&self) -> Option<TaskId> {
        self.params.row.parse().ok().map(TaskId)
    }

    /// Whether links, floats and what is critical are drawn.
    pub fn shows_network(&self) -> bool {
        self.params.network != "no"
    }

    /// The address of this view, or of a part of it, with some words said otherwise.
    pub fn href(&self, path: &str, alter: impl FnOnce(&mut Params)) -> String {
        let mut params = self.params.clone();
        alter(&mut params);
        href(path, &params)
    }

    /// The words of the address for a form that says some of them itself.
    pub fn kept_besides(&self, said: &[&str]) -> Vec<(String, String)> {
        pairs(&self.params, said)
    }

    /// The view that a followed link means: a cell selected, or a row turned.
    pub fn followed(&self, link: &Params) -> String {
        self.href(PATH, |params| {
            if let Some((row, at)) = link.cell.rsplit_once('.') {
                row.clone_into(&mut params.row);
                let bucket = at.parse().ok().and_then(|at: usize| self.buckets.get(at));
                params.at = bucket.map(|bucket| bucket.from.to_string()).unwrap_or_default();
            }
            if !link.turn.is_empty() {
                params.fold = self.turned(&link.turn);
            }
        })
    }

    /// What is folded when one more row, by its key, is folded or unfolded.
    pub fn turned(&self, row: &str) -> String {
        let mut fold = self.fold.clone();
        if !fold.remove(row) {
            fold.insert(row.to_owned());
        }
        fold.into_iter().collect::<Vec<_>>().join(",")
    }
}
