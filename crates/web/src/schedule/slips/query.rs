//! What the address of the slips says: whose days, which weeks, which work is in view, what is selected.

use crate::schedule::address::href;
use serde::{Deserialize, Serialize};
use snug_core::{
    Day, PersonId, Plan, ProjectId, TeamId,
    cells::{Bucket, Grain},
    kinds::{Kind, Priority, Task},
    settings::DateOrder,
};
use std::{collections::BTreeSet, sync::Arc};

/// Where the slips lie.
pub const PATH: &str = "/schedule/slips";

/// Rows a chunk.
pub const PAGE: usize = 40;

/// How many weeks are seen at once: the number, pixels of an hour, and the height of a row's picture.
pub const SPANS: [(i32, f64, f64); 4] = [(1, 8.6, 92.0), (2, 6.0, 66.0), (4, 4.5, 50.0), (8, 3.4, 38.0)];

/// The address as it comes. A number or a day that makes no sense is taken as not said.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(default)]
pub struct Params {
    pub from: String,
    pub weeks: String,
    /// Name, role or skill.
    pub q: String,
    /// Code of a team.
    pub team: String,
    /// Code of a project, with those inside it.
    pub project: String,
    pub stage: String,
    pub kind: String,
    pub priority: String,
    /// What is looked for in the tray.
    pub find: String,
    /// Who is selected, by number, and the day.
    pub person: String,
    pub at: String,
    pub offset: String,
    /// A cell that is to be selected in the view one comes from: its row's key, a point, and its place in the row.
    pub cell: String,
}

/// The address as it is meant.
#[derive(Clone, Debug)]
pub struct SlipsQuery {
    pub params: Params,
    pub today: Day,
    pub from: Day,
    pub weeks: i32,
    /// Pixels of an hour, and the height of the picture.
    pub hour: f64,
    pub picture: f64,
    pub buckets: Vec<Bucket>,
    pub order: DateOrder,
    pub offset: usize,
    pub team: Option<TeamId>,
    /// The projects in view; nothing where all are.
    pub projects: Option<BTreeSet<ProjectId>>,
    pub priority: Option<Priority>,
    /// The live plan beside a draft that is shown.
    pub live: Option<Arc<Plan>>,
}

impl SlipsQuery {
    /// Reads an address.
    pub fn read(params: Params, plan: &Plan, today: Day) -> Self {
        let weeks = params.weeks.parse().unwrap_or(1);
        let span = SPANS.into_iter().rev().find(|span| span.0 <= weeks).unwrap_or(SPANS[0]);
        let from: Day = params.from.parse().unwrap_or(today);
        let from = Grain::Week.start_of(from.clamp(Day::MIN + 14, Day::MAX - 70), &plan.settings);
        let grain = if span.0 > 2 { Grain::Week } else { Grain::Day };
        let project = plan.find(Kind::Project, &params.project).map(ProjectId);
        Self {
            buckets: grain.buckets(from, from + span.0 * 7 - 1, &plan.settings),
            team: plan.find(Kind::Team, &params.team).map(TeamId),
            projects: project.map(|id| plan.project_and_inner(id)),
            priority: params.priority.parse().ok(),
            offset: params.offset.parse().unwrap_or(0),
            order: plan.settings.date_order,
            live: None,
            weeks: span.0,
            hour: span.1,
            picture: span.2,
            today,
            from,
            params,
        }
    }

    /// The same for a draft, beside the live plan.
    pub fn beside_live(self, live: Option<Arc<Plan>>) -> Self {
        Self { live, ..self }
    }

    /// How many days the window has.
    pub fn days(&self) -> i32 {
        self.weeks * 7
    }

    /// The last day of the window.
    pub fn to(&self) -> Day {
        self.from + self.days() - 1
    }

    /// Whether a column is a day.
    pub fn by_day(&self) -> bool {
        self.weeks <= 2
    }

    /// Who is selected.
    pub fn person(&self) -> Option<PersonId> {
        self.params.person.parse().ok().map(PersonId)
    }

    /// The selected day, inside the window.
    pub fn at(&self) -> Day {
        let at: Option<Day> = self.params.at.parse().ok();
        at.filter(|day| (self.from..=self.to()).contains(day)).unwrap_or(self.from)
    }

    /// The column of a day.
    pub fn bucket(&self, day: Day) -> Bucket {
        let found = self.buckets.iter().copied().rev().find(|bucket| bucket.from <= day);
        found.unwrap_or(Bucket { from: self.from, to: self.to() })
    }

    /// Whether some work is looked for, so that other work stands back.
    pub fn is_filtered(&self) -> bool {
        let Params { stage, kind, .. } = &self.params;
        self.projects.is_some() || self.priority.is_some() || !stage.is_empty() || !kind.is_empty()
    }

    /// Whether a task is what is looked for.
    pub fn shows(&self, task: &Task) -> bool {
        let Params { stage, kind, .. } = &self.params;
        self.projects.as_ref().is_none_or(|inside| inside.contains(&task.project))
            && self.priority.is_none_or(|priority| task.priority == priority)
            && (stage.is_empty() || task.stage == *stage)
            && (kind.is_empty() || task.kind == *kind)
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
                row.clone_into(&mut params.person);
                let bucket = at.parse().ok().and_then(|at: usize| self.buckets.get(at));
                params.at = bucket.map(|bucket| bucket.from.to_string()).unwrap_or_default();
            }
        })
    }
}
