//! What hands and forms do to tasks and links here: each becomes one command, and a preview says what it would do.

use super::{
    asked::Asked,
    calendar, hands, long,
    outline::{Of, line_of},
    parts::row_html,
    picture::Drawing,
    query::GanttQuery,
    says::{by_hand, says, tip, written},
    sheet_deeds::{self, is_for_members},
    slips,
    views::View,
    would::{Rows, Would},
};
use crate::{
    AppState, Error,
    answer::{self, is_script, refused, safe_back},
    auth::User,
    drafts::{self, Here},
};
use axum::{
    Form, Json,
    extract::{Path, State},
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
};
use serde_json::{Value, json};
use snug_core::{
    Command, Day, Plan, Refusal, RefusalCode, Role, TaskId,
    change::{Change, Edit},
    network::line,
};
use std::collections::{BTreeSet, HashMap};

/// What a deed asks for; `by` is who asks, by their address.
fn command(asked: &Asked, plan: &Plan, deed: &str, (today, by): (Day, &str)) -> Result<Command, Error> {
    if sheet_deeds::knows(deed) {
        return sheet_deeds::command(asked, plan, deed, by);
    }
    if hands::knows(deed) {
        return hands::command(asked, plan, deed, today);
    }
    asked.command(plan, deed, today)
}

/// What a gesture or a form would do: the rows of the view as they would look, and sentences. Nothing is written.
fn preview(state: &AppState, user: &User, view: View, asked: &Asked) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let (plan, today) = (state.keeper.plan(), state.today());
    let command = command(asked, &plan, &asked.what, (today, user.actor()))?;
    user.check(&plan, &command)?;
    let changes = plan.decide(&command, today)?;
    if matches!(command, Command::WriteDown { .. }) {
        return Ok(Json(json!({ "lines": written(&plan, &changes), "says": [] })).into_response());
    }
    let after = plan.with(&changes);
    let live = state.live_plan();
    let would = Would { before: &plan, after: &after, changes: &changes, today, live, room: &asked.room };
    let rows = match view {
        View::Slips => slips::would(&would)?,
        View::Calendar => calendar::would(&would)?,
        View::Long => long::would(&would)?,
        _ => gantt_rows(state, &would)?,
    };
    let says = says(&plan, &after, &changes, &by_hand(&command), today);
    Ok(Json(json!({ "rows": rows, "says": says, "tip": tip(&plan, &changes, &command) })).into_response())
}

/// The bars that move, as they stand, with where they would be.
fn gantt_rows(state: &AppState, would: &Would<'_>) -> Result<Rows, Error> {
    /// As many rows are drawn as fit on a screen, and some.
    const ROWS: usize = 80;
    let plan = would.before;
    let query = GanttQuery::read(would.params(), plan, would.today).beside_live(would.live.clone());
    let mut to = HashMap::new();
    let mut rows: BTreeSet<TaskId> = BTreeSet::new();
    for change in would.changes {
        if let Change::Task(Edit { after: Some(task), .. }) = change
            && let Some(dates) = task.start.zip(task.finish)
            && plan.tasks.contains_key(&task.id)
        {
            to.insert(task.id, dates);
            rows.extend(line(plan, task.id));
        }
    }
    let shown: Vec<TaskId> = rows.iter().copied().take(ROWS).collect();
    let drawing = Drawing { would: to, ..Drawing::new(&state.kept, plan, &query, &shown, true) };
    let mut drawn = Rows::new();
    for id in shown {
        if let Some(line) = line_of(plan, &query, Of::Task(id))
            && let Some(html) = row_html(&drawing, line)?
        {
            drawn.insert(id.to_string(), Value::String(html));
        }
    }
    Ok(drawn)
}

async fn carry_out(state: &AppState, user: &User, asked: &Asked, deed: &str) -> Result<Value, Error> {
    // Before anything that was sent is looked at; whoever does a task ticks it off.
    user.at_least(if is_for_members(deed) { Role::Member } else { Role::Lead })?;
    let plan = state.keeper.plan();
    let command = command(asked, &plan, deed, (state.today(), user.actor()))?;
    let (title, held) = (command.done(&plan), by_hand(&command));
    let outcome = answer::carry_out(state, user, command).await?;
    let says = says(&outcome.before, &outcome.after, &outcome.changes, &held, state.today());
    let mut done = answer::done(state, user, title, &outcome).await?;
    done["says"] = json!(says);
    // Links, floats and what is critical may change anywhere.
    done["people"] = Value::Null;
    Ok(done)
}

/// Does something in a draft that is made for it, and goes there.
async fn try_out(
    live: &AppState,
    state: &AppState,
    user: &User,
    headers: &HeaderMap,
    (asked, deed): (&Asked, &str),
) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let plan = state.keeper.plan();
    let command = command(asked, &plan, deed, (state.today(), user.actor()))?;
    let name = command.done(&plan);
    if let Err(problem) = drafts::made(live, state, user, (&name, false), Some(command)).await? {
        return Err(Refusal::whole(RefusalCode::NotNow, problem).into());
    }
    let back = safe_back(&asked.back);
    if is_script(headers) {
        return Ok(Json(json!({ "go": back })).into_response());
    }
    Ok(Redirect::to(back).into_response())
}

/// Does something, or says what it would do.
pub async fn act(
    State(live): State<AppState>,
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Path((view, deed)): Path<(String, String)>,
    Form(asked): Form<Asked>,
) -> Result<Response, Error> {
    let view = View::of_word(&view).ok_or(Error::NotFound)?;
    let done = if deed == "preview" {
        let (state, user) = (state.clone(), user.clone());
        crate::worked_out(move || preview(&state, &user, view, &asked)).await?
    } else if asked.tried.is_empty() {
        let back = safe_back(&asked.back).to_owned();
        match carry_out(&state, &user, &asked, &deed).await {
            Ok(value) if is_script(&headers) => Ok(Json(value).into_response()),
            Ok(value) => {
                let message = value["message"].as_str().unwrap_or_default().to_owned();
                let says = serde_json::from_value(value["says"].clone()).unwrap_or_default();
                let undo = value["undo"].as_bool().unwrap_or_default();
                crate::frame::Flash { says, undo, ..crate::frame::Flash::plain(message) }.leave(&user.session).await?;
                Ok(Redirect::to(&back).into_response())
            }
            Err(error) => Err(error),
        }
    } else {
        try_out(&live, &state, &user, &headers, (&asked, &deed)).await
    };
    match done {
        Err(error) if is_script(&headers) => Ok(refused(error, &user.eyes(&state.keeper.plan()))),
        done => done,
    }
}
