//! The network of tasks: what is critical, and what moves if this moves.

use super::{
    Problem,
    extract::{Asked, Body, Writer},
    refusals::{OfAsking, OfBody, OfChanging},
    submit,
};
use crate::{AppState, Error, auth::Program, worked_out};
use axum::{
    Json,
    extract::State,
    http::{StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::{Deserialize, Serialize};
use snug_core::{
    Command, Day, Plan, TaskId,
    change::{Change, Edit},
    kinds::{Kind, Task},
    network::{Mode, figures},
};
use snug_exchange::{Form, network::passes};
use utoipa::ToSchema;

/// Nothing is asked but the whole.
#[derive(Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Nothing {}

/// What the network says of a leaf; days as 2026-03-23.
#[derive(Serialize, ToSchema)]
pub struct NetworkRow {
    /// The task.
    #[serde(rename = "ref")]
    reference: String,
    /// Where it stands.
    start: Option<String>,
    /// Where it stands.
    finish: Option<String>,
    /// How many working days it takes.
    days: i32,
    /// Where it could stand at the earliest, from today on.
    earliest_start: Option<String>,
    /// Where it could stand at the earliest, from today on.
    earliest_finish: Option<String>,
    /// Where it may stand at the latest.
    latest_start: Option<String>,
    /// Where it may stand at the latest.
    latest_finish: Option<String>,
    /// Working days by which it may slip.
    total_float: Option<i32>,
    /// Working days by which it may slip without moving anything else.
    free_float: Option<i32>,
    /// `yes`, where nothing may slip.
    critical: Option<String>,
    /// How many links into it are broken.
    broken: i32,
}

/// The two passes over every leaf that has a reference, the same figures as `snug-roster network` and the Gantt.
#[utoipa::path(get, path = "/network", tag = "network", responses(
    (status = OK, body = Vec<NetworkRow>, description = "The leaves, sorted by their references"),
    OfAsking,
))]
pub async fn network(State(state): State<AppState>, _: Program, Asked(_): Asked<Nothing>) -> Result<Response, Error> {
    let (plan, today) = (state.keeper.plan(), state.today());
    let text =
        worked_out(move || passes(&plan, &figures(&plan, today), Form::Json)).await.map_err(Error::for_program)?;
    Ok(([(header::CONTENT_TYPE, "application/json")], text).into_response())
}

/// A task and the day it goes to.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Step {
    /// The task's ref.
    #[schema(example = "T13")]
    task: String,
    /// The day of its start, or of that end which is stretched.
    #[schema(example = "2026-03-30", pattern = r"^\d{4}-\d{2}-\d{2}$")]
    to: String,
}

/// Tasks that go to other days.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Move {
    /// Which tasks, 1 to 200.
    #[schema(min_items = 1, max_items = 200)]
    moves: Vec<Step>,
    /// push, carry, start or finish; push when left out.
    #[serde(default)]
    #[schema(pattern = "^(push|carry|start|finish)$")]
    mode: Option<String>,
    /// Whether it is only shown what would move.
    #[serde(default)]
    preview: bool,
}

/// A leaf that moves.
#[derive(Serialize, ToSchema)]
pub struct MovedTask {
    /// The task.
    #[serde(rename = "ref")]
    reference: String,
    /// Its new first day.
    start: String,
    /// Its new last day.
    finish: String,
}

/// The most tasks that are moved at once.
const MOST: usize = 200;

fn wanted(plan: &Plan, steps: &[Step]) -> Result<Vec<(Task, Day)>, Error> {
    let bad = |reason: String| Error::Api(StatusCode::UNPROCESSABLE_ENTITY, format!("moves: {reason}"));
    if steps.is_empty() || steps.len() > MOST {
        return Err(bad(format!("names between 1 and {MOST} tasks")));
    }
    let step = |step: &Step| {
        let task = plan.find(Kind::Task, &step.task).and_then(|id| plan.tasks.get(&TaskId(id)));
        let task = task.ok_or_else(|| bad(format!("there is no task “{}”", step.task)))?;
        let day = step.to.parse().map_err(|error: snug_core::NoDay| bad(error.to_string()))?;
        Ok(((**task).clone(), day))
    };
    steps.iter().map(step).collect()
}

/// The dates that changes give to tasks.
fn moved(changes: &[Change]) -> Vec<MovedTask> {
    let row = |change: &Change| match change {
        Change::Task(Edit { after: Some(task), .. }) => {
            let (start, finish) = task.start.zip(task.finish)?;
            let [start, finish] = [start, finish].map(|day| day.to_string());
            Some(MovedTask { reference: task.reference.clone(), start, finish })
        }
        _ => None,
    };
    changes.iter().filter_map(row).collect()
}

/// Gives tasks other days, and what follows with them: in one entry of the ledger, which is taken back as one.
#[utoipa::path(post, path = "/network/move", tag = "network", request_body = Move, responses(
    (status = OK, body = Vec<MovedTask>, description = "The leaves that change, the moved ones among them"),
    OfChanging,
    OfBody,
    (status = BAD_REQUEST, body = Problem, content_type = "application/problem+json", description = "The body cannot be read"),
))]
pub async fn take(
    State(state): State<AppState>,
    Writer(program): Writer,
    body: Body<Move>,
) -> Result<Json<Vec<MovedTask>>, Error> {
    let (plan, asked) = (state.keeper.plan(), body.value);
    let mode = match asked.mode.as_deref() {
        None => Mode::Push,
        Some(word) => word.parse().map_err(|error: snug_core::NoSuchWord| {
            Error::Api(StatusCode::UNPROCESSABLE_ENTITY, format!("mode: {error}"))
        })?,
    };
    let command = Command::MoveTasks { tasks: wanted(&plan, &asked.moves)?, mode };
    if !asked.preview {
        return Ok(Json(moved(&submit(&state, &program.account, command).await?.changes)));
    }
    let today = state.today();
    let decided = worked_out(move || plan.decide(&command, today)).await.map_err(Error::for_program)?;
    Ok(Json(moved(&decided.map_err(|refusal| Error::from(refusal).for_program())?)))
}
