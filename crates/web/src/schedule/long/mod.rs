//! The long view: teams against weeks or months, work that is given to them without names, and what does not fit.

mod axis;
mod page;
mod parts;
mod picture;
pub mod query;
mod sheet;

pub use query::{PAGE, team_of};

use super::would::{Rows, Would};
use crate::{AppState, Error};
use axum::{Router, routing::get};
use picture::Drawing;
use query::{LongQuery, Params};
use serde_json::Value;
use snug_core::{
    Day, Plan, TeamId,
    cells::Bucket,
    effect::people_touched,
    load::{Groups, team_shares},
    long_view::{ItemOf, team_row, teams_touched},
};
use std::collections::BTreeSet;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route(query::PATH, get(page::page))
        .route("/schedule/long/rows", get(parts::rows))
        .route("/schedule/long/rows/{key}", get(parts::one_row))
        .route("/schedule/long/sheet", get(parts::side_sheet))
}

/// The rows of every team touched as they would be.
pub fn would(would: &Would<'_>) -> Result<Rows, Error> {
    /// As many rows are drawn as fit on a screen, and some.
    const ROWS: usize = 12;
    let query = LongQuery::read(would.params(), would.after, would.today).beside_live(would.live.clone());
    let mut teams: BTreeSet<TeamId> = teams_touched(would.before, would.after, would.changes);
    let people = people_touched(would.before, would.after, would.changes);
    if !people.is_empty() {
        let shares = team_shares(would.after);
        teams.extend(people.iter().filter_map(|id| shares.get(id)).flatten().map(|(team, _)| *team));
    }
    let drawing = Drawing::new(would.after, &query, true);
    let mut rows = Rows::new();
    for team in teams.into_iter().take(ROWS) {
        if let Some(html) = parts::row_html(&drawing, team)? {
            rows.insert(format!("t{team}"), Value::String(html));
        }
    }
    Ok(rows)
}

/// The minutes that a task has in a column of a team's row, in the view whose address is given as JSON.
pub fn minutes_in(plan: &Plan, room: &str, team: TeamId, task: snug_core::TaskId, at: Day, today: Day) -> i64 {
    let params: Params = serde_json::from_str(room).unwrap_or_default();
    let query = LongQuery::read(params, plan, today);
    let Some(column) = query.buckets.iter().position(|bucket: &Bucket| (bucket.from..=bucket.to).contains(&at)) else {
        return 0;
    };
    let row = team_row(&Groups::for_one(plan, query.load()), team);
    let item = row.items.into_iter().find(|item| item.of == ItemOf::Task(task));
    item.map_or(0, |item| item.minutes[column])
}
