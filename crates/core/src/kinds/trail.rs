//! Trails: what a task was at the end of each day on which something of it changed (`rules/queue.md`, Trail).

use super::{
    About, Column, Input, Keys, Kind, ListId, MilestoneId, Part, Put, Record, ReleaseId, Spec, SprintId, Task, Wrong,
    codec::{Codec, Date, Hours, MayTo, Number, To, ToSeveral},
    column::spec,
    part::put_by,
    record::{has_id, identity},
};
use crate::{Day, Plan, Refusal, cell, demand::left_of, edit::Edit};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::{borrow::Cow, sync::Arc};

identity!(
    /// A task's trail; the number is the task's.
    TrailId of Trail
);

/// What one task was, day by day; a day without a row is like the last one before it, and before the first the task was not there.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Trail {
    /// The task's identity.
    pub id: TrailId,
    /// In the order of days, one row a day.
    pub days: Vec<TrailDay>,
}

/// What a task was at the end of a day.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct TrailDay {
    /// The day.
    pub date: Day,
    /// The stage; `done` is finished.
    pub stage: Arc<str>,
    /// E in minutes.
    pub estimate: Option<i64>,
    /// R in minutes, of a parent its unbroken remainder; 0 when done.
    pub remaining: Option<i64>,
    /// Size in points.
    pub points: Option<Decimal>,
    /// The sprint it was in.
    pub sprint: Option<SprintId>,
    /// The lists it was on, with its rank there.
    pub lists: Box<[(ListId, Decimal)]>,
    /// The release it was part of.
    pub release: Option<ReleaseId>,
    /// The milestones that waited for it.
    pub milestones: Box<[MilestoneId]>,
    /// The codes of the seasons it was in, as files have them.
    pub season: Box<str>,
    /// Its teams there, as files have them.
    pub teams: Box<str>,
    /// Percent done, typed.
    pub progress: Option<Decimal>,
}

impl TrailDay {
    fn blank(date: Day) -> Self {
        Self {
            date,
            stage: Arc::from(""),
            estimate: None,
            remaining: None,
            points: None,
            sprint: None,
            lists: Box::default(),
            release: None,
            milestones: Box::default(),
            season: Box::default(),
            teams: Box::default(),
            progress: None,
        }
    }

    /// What a task on these lists is at the end of a day on which nothing more happens. What trails alone know stays as it was.
    #[must_use]
    pub fn of(plan: &Plan, task: &Task, date: Day, lists: &[(ListId, Decimal)], last: Option<&Self>) -> Self {
        let heads = task.assignees.heads();
        Self {
            date,
            stage: Arc::from(task.stage.as_str()),
            estimate: task.estimate.map(|minutes| minutes * heads),
            remaining: if task.is_done() { Some(0) } else { left_of(plan, task) },
            points: task.points,
            sprint: task.sprint,
            lists: lists.into(),
            release: task.release,
            milestones: task.milestones.clone().into(),
            season: last.map(|last| last.season.clone()).unwrap_or_default(),
            teams: last.map(|last| last.teams.clone()).unwrap_or_default(),
            progress: task.progress,
        }
    }

    /// Whether nothing differs but the day.
    #[must_use]
    pub fn is_like(&self, other: &Self) -> bool {
        *self == Self { date: self.date, ..other.clone() }
    }
}

impl Trail {
    /// What the task was at the end of a day; `None` before it was there.
    #[must_use]
    pub fn on(&self, day: Day) -> Option<&TrailDay> {
        self.days[..self.days.partition_point(|row| row.date <= day)].last()
    }

    /// Puts a row in, in place of the one of its day.
    pub(crate) fn put_day(&mut self, row: TrailDay) -> Put {
        put_by(&mut self.days, row, |row| row.date)
    }
}

const DAYS: Part<Trail> = Part {
    name: "trail",
    file: "trail.csv",
    title: "Trail",
    says: "What each task was at the end of each day on which something of it changed.",
    columns: &[
        Spec { must: true, ..spec("task", "Task", Input::One(Kind::Task)) },
        Spec { must: true, ..spec("date", "Date", Input::Date) },
        Spec { must: true, ..spec("stage", "Stage", Input::Line) },
        spec("estimate_h", "Estimate", Input::Hours),
        spec("remaining_h", "Remaining", Input::Hours),
        spec("points", "Points", Input::Number),
        spec("sprint", "Sprint", Input::One(Kind::Sprint)),
        spec("list", "Lists", Input::Line),
        spec("release", "Release", Input::One(Kind::Release)),
        spec("milestones", "Milestones", Input::Several(Kind::Milestone)),
        spec("rank", "Ranks", Input::Line),
        spec("season", "Seasons", Input::Line),
        spec("teams", "Teams", Input::Line),
        spec("progress", "Progress, %", Input::Number),
    ],
    twice: "Two rows are of one day.",
    rows: |trail, plan| trail.days.iter().map(|day| row(day, plan)).collect(),
    put: put_row,
    keep: |trail, standing| trail.days.clone_from(&standing.days),
};

/// A row of the file, without the task. Several lists and their ranks stand with a bar between them, in the same order.
fn row(day: &TrailDay, plan: &Plan) -> Vec<String> {
    let bars = |parts: Vec<String>| parts.join("|");
    vec![
        day.date.to_string(),
        day.stage.to_string(),
        Hours.write(&day.estimate, plan),
        Hours.write(&day.remaining, plan),
        Number.write(&day.points, plan),
        MayTo.write(&day.sprint, plan),
        bars(day.lists.iter().map(|(list, _)| To.write(list, plan)).collect()),
        MayTo.write(&day.release, plan),
        ToSeveral.write(&day.milestones.to_vec(), plan),
        bars(day.lists.iter().map(|(_, rank)| rank.to_string()).collect()),
        day.season.to_string(),
        day.teams.to_string(),
        Number.write(&day.progress, plan),
    ]
}

fn put_row(trail: &mut Trail, cells: &[&str], keys: &Keys) -> Result<Put, Wrong> {
    fn read<T, C: Codec<Option<T>>>(
        codec: &C,
        text: &str,
        column: &'static str,
        keys: &Keys,
    ) -> Result<Option<T>, Wrong> {
        if text.is_empty() { Ok(None) } else { codec.read(text, keys).map_err(|reason| (column, reason)) }
    }
    let at = |column: &'static str| {
        let place = DAYS.columns[1..].iter().position(|spec| spec.name == column);
        place.and_then(|place| cells.get(place)).copied().unwrap_or_default()
    };
    for column in ["date", "stage"] {
        if at(column).is_empty() {
            return Err((column, "is empty".to_owned()));
        }
    }
    let bars = |column| at(column).split('|').map(str::trim).filter(|part| !part.is_empty());
    let lists: Vec<ListId> =
        bars("list").map(|code| To.read(code, keys)).collect::<Result<_, _>>().map_err(|e| ("list", e))?;
    let ranks: Vec<Decimal> = bars("rank").map(cell::number).collect::<Result<_, _>>().map_err(|e| ("rank", e))?;
    if lists.len() != ranks.len() {
        return Err(("rank", "has not as many ranks as there are lists".to_owned()));
    }
    let date: Day = Codec::<Day>::read(&Date, at("date"), keys).map_err(|reason| ("date", reason))?;
    let milestones: Vec<MilestoneId> = match at("milestones") {
        "" => Vec::new(),
        text => ToSeveral.read(text, keys).map_err(|reason| ("milestones", reason))?,
    };
    Ok(trail.put_day(TrailDay {
        stage: Arc::from(at("stage")),
        estimate: read(&Hours, at("estimate_h"), "estimate_h", keys)?,
        remaining: read(&Hours, at("remaining_h"), "remaining_h", keys)?,
        points: read(&Number, at("points"), "points", keys)?,
        sprint: read(&MayTo, at("sprint"), "sprint", keys)?,
        lists: lists.into_iter().zip(ranks).collect(),
        release: read(&MayTo, at("release"), "release", keys)?,
        milestones: milestones.into(),
        season: at("season").into(),
        teams: at("teams").into(),
        progress: read(&Number, at("progress"), "progress", keys)?,
        ..TrailDay::blank(date)
    }))
}

impl Record for Trail {
    has_id!(TrailId);

    const ABOUT: About = About { key_column: "", title: "", ..About::new("trail", "trails", "", "") };
    const COLUMNS: &'static [Column<Self>] = &[];
    const PARTS: &'static [Part<Self>] = &[DAYS];

    fn blank() -> Self {
        Self { id: TrailId(0), days: Vec::new() }
    }
    fn key(&self) -> String {
        String::new()
    }
    fn name(&self) -> String {
        String::new()
    }
    fn check(&self, _: Day) -> Result<(), Refusal> {
        Ok(())
    }

    // A trail is known by its task, and every task has one.
    fn owner(key: &str, keys: &Keys) -> Result<i32, String> {
        keys.known(Kind::Task, key)
    }
    fn owner_key(&self, plan: &Plan) -> String {
        plan.key_of(Kind::Task, self.id.0)
    }
    fn fresh(id: TrailId) -> Option<Self> {
        Some(Self { id, ..Self::blank() })
    }

    // A trail outlives what it speaks of: that of a task which is gone is out of sight, and there again when the removal is taken back.
    fn each_named(&self, _: &mut dyn FnMut(&'static str, Kind, i32)) {}
    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        let seen = |trail: &&Arc<Self>| plan.tasks.contains_key(&super::TaskId(trail.id.0));
        Box::new(plan.records.trails.values().filter(seen).map(|trail| Cow::Borrowed(&**trail)))
    }
    fn find(plan: &Plan, id: TrailId) -> Option<Cow<'_, Self>> {
        plan.records.trails.get(&id).map(|trail| Cow::Borrowed(&**trail))
    }
    fn put(plan: &mut Plan, edit: &Edit<Self>) {
        crate::plan::put(&mut plan.records.trails, edit);
    }
}
