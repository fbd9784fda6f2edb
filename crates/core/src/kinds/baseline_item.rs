//! Items of baselines: what was meant of each task (`rules/queue.md`, `rules/hours.md`).

use super::{
    About, BaselineId, Column, Key, Record, Room, TaskId, TeamId,
    codec::{Date, Hours, Number, ShareOut, To},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal,
    rules::{MOST_EFFORT, range},
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

identity!(
    /// An item of a baseline.
    BaselineItemId of BaselineItem
);

/// What was meant of a task.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct BaselineItem {
    /// Identity inside the plan.
    pub id: BaselineItemId,
    /// The baseline.
    pub baseline: BaselineId,
    /// The task.
    pub task: TaskId,
    /// First day.
    pub start: Option<Day>,
    /// Last day.
    pub finish: Option<Day>,
    /// Minutes.
    pub effort: Option<i64>,
    /// Size in points.
    pub points: Option<Decimal>,
    /// Whose it was, each team alone or all with a share in hundredths of a percent that add up to 10 000.
    pub teams: Vec<(TeamId, Option<i32>)>,
}

impl Record for BaselineItem {
    has_id!(BaselineItemId);

    const ABOUT: About = About {
        counts: ("item of a baseline", "items of baselines"),
        key: Key::Pair,
        key_column: "task",
        title: "task",
        room: Room::Schedule,
        says: "What the baselines say of each task.",
        usual: &["task", "baseline", "start", "finish", "effort_h", "points", "teams"],
        facets: &["baseline"],
        ..About::new("baseline item", "baseline items", "baseline_items.csv", "baseline-items")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("baseline", "Baseline", at!(baseline: To)).example("B-build-5"),
        must("task", "Task", at!(task: To)),
        may("start", "First day", at!(start: Date)),
        may("finish", "Last day", at!(finish: Date)),
        may("effort_h", "Effort", at!(effort: Hours)).bounds(0, 100_000).adds_up(),
        may("points", "Points", at!(points: Number)).bounds(0, 1_000_000),
        may("teams", "Teams", at!(teams: ShareOut))
            .hint("Codes with ; between: alone, or all with a share (build=60)."),
    ];

    fn blank() -> Self {
        Self {
            id: BaselineItemId(0),
            baseline: BaselineId(0),
            task: TaskId(0),
            start: None,
            finish: None,
            effort: None,
            points: None,
            teams: Vec::new(),
        }
    }
    fn key(&self) -> String {
        format!("{}\n{}", self.baseline, self.task)
    }
    fn name(&self) -> String {
        String::new()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        range(self.start, self.finish).map_err(|message| Refusal::value("finish", message))?;
        if self.effort.is_some_and(|minutes| !(0..=MOST_EFFORT).contains(&minutes)) {
            return Err(Refusal::value("effort_h", "Write a number of hours up to 100,000."));
        }
        let shares: Vec<i32> = self.teams.iter().filter_map(|(_, share)| *share).collect();
        let in_all: i32 = shares.iter().sum();
        if !shares.is_empty() && (shares.len() < self.teams.len() || in_all != 10_000) {
            return Err(Refusal::value("teams", "Give a share to every team, 100 % in all, or to none."));
        }
        Ok(())
    }

    stands_in!(records.baseline_items);
}
