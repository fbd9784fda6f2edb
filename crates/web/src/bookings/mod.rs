//! Booking by hand: forms and gestures become commands, and a preview says what they would do.

mod asked;

use crate::{
    AppState, Error,
    answer::{self, is_script, refused, safe_back},
    auth::User,
    drafts::Here,
    effects::says,
    fit::{self, FitParams, FitQuery},
    frame::Flash,
    readable::LARGEST_MOVE,
    words,
};
use asked::Asked;
use axum::{
    Form, Json, Router,
    extract::{DefaultBodyLimit, Path},
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
    routing::post,
};
use serde::Deserialize;
use serde_json::{Value, json};
use snug_core::{
    Command, Eyes, Role,
    change::{Change, Edit},
    effect::{only_rows_of, people_touched},
    kinds::Who,
};

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/bookings", post(place))
        .route("/bookings/{deed}", post(act))
        .layer(DefaultBodyLimit::max(LARGEST_MOVE))
        .route("/undo", post(undo))
        .route("/redo", post(redo))
}

async fn place(Here(state): Here, user: User, headers: HeaderMap, Form(form): Form<Asked>) -> Response {
    carry_out(&state, &user, &headers, &form, "place").await
}

async fn act(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Path(deed): Path<String>,
    Form(form): Form<Asked>,
) -> Response {
    if deed == "preview" {
        return preview(&state, &user, &form).unwrap_or_else(IntoResponse::into_response);
    }
    carry_out(&state, &user, &headers, &form, &deed).await
}

async fn carry_out(state: &AppState, user: &User, headers: &HeaderMap, form: &Asked, what: &str) -> Response {
    let done = async {
        // Before anything that was sent is looked at.
        user.at_least(Role::Lead)?;
        let plan = state.keeper.plan();
        let command = form.command(&plan, what, state.today())?;
        let title = command.done(&plan);
        submit(state, user, command, title).await
    };
    match done.await {
        Err(error) if is_script(headers) => asked_back(error, &user.eyes(&state.keeper.plan()), &form.amount),
        done => answer(state, user, done, headers, &form.back).await,
    }
}

/// A refusal; where a bare number was typed as an amount, with what it could have meant.
fn asked_back(error: Error, eyes: &Eyes<'_>, amount: &str) -> Response {
    let number = amount.trim();
    let bare = !number.is_empty() && number.chars().all(|c| c.is_ascii_digit() || c == '.' || c == ',');
    let about_it = matches!(&error, Error::Store(snug_store::Error::Refused(refusal)) if refusal.field == "amount");
    if bare && about_it {
        let meant = ["h/d", "h/w", "h", "%"].map(|unit| format!("{number}{unit}"));
        let message = error.to_string();
        let body = json!({ "message": message, "field": "amount", "ask": meant, "standing": null });
        return (error.status(), Json(body)).into_response();
    }
    refused(error, eyes)
}

/// Submits a command; the answer says what was done and what to look out for.
async fn submit(state: &AppState, user: &User, command: Command, title: String) -> Result<Value, Error> {
    let outcome = answer::carry_out(state, user, command).await?;
    let says = says(&outcome.before, &outcome.after, &outcome.changes, state.today());
    let people = only_rows_of(&outcome.changes).map(|people| people.into_iter().map(|id| id.0).collect::<Vec<i32>>());
    let mut done = answer::done(state, user, title, &outcome).await?;
    done["says"] = json!(says);
    // Where more than people's bookings changed, the page reads everything again.
    done["people"] = json!(people);
    Ok(done)
}

/// A script gets what happened as JSON; a plain form is led back to its page.
async fn answer(
    state: &AppState,
    user: &User,
    done: Result<Value, Error>,
    headers: &HeaderMap,
    back: &str,
) -> Response {
    let script = is_script(headers);
    match done {
        Ok(value) if script => Json(value).into_response(),
        Ok(value) => {
            let flash = Flash {
                message: value["message"].as_str().unwrap_or_default().to_owned(),
                says: serde_json::from_value(value["says"].clone()).unwrap_or_default(),
                undo: value["undo"].as_bool().unwrap_or_default(),
                redo: value["redo"].as_bool().unwrap_or_default(),
                ..Flash::plain(String::new())
            };
            match flash.leave(&user.session).await {
                Ok(()) => Redirect::to(safe_back(back)).into_response(),
                Err(error) => error.into_response(),
            }
        }
        Err(error) if script => refused(error, &user.eyes(&state.keeper.plan())),
        Err(error) => error.into_response(),
    }
}

/// What a gesture or a form would do: the rows as they would look, and sentences. Nothing is written.
fn preview(state: &AppState, user: &User, form: &Asked) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let plan = state.keeper.plan();
    let today = state.today();
    let decided = form.command(&plan, &form.what, today).and_then(|command| {
        user.check(&plan, &command)?;
        Ok(plan.decide(&command, today)?)
    });
    let changes = match decided {
        Ok(changes) => changes,
        Err(error) => return Ok(asked_back(error, &user.eyes(&plan), &form.amount)),
    };
    let after = plan.with(&changes);
    let params: FitParams = serde_json::from_str(&form.room).unwrap_or_default();
    let query = FitQuery::read(&params, &plan, today).seen_by(&user.eyes(&plan));
    let mut rows = serde_json::Map::new();
    let mut touched = people_touched(&plan, &after, &changes);
    let seen = form.all_seen(&plan).unwrap_or_default();
    for seen in &seen {
        if let Who::Person(person) = seen.who {
            touched.insert(person);
        }
    }
    for person in touched {
        if let Some(row) = fit::row_part(&after, person.0, &query, user.books())? {
            rows.insert(person.0.to_string(), row.into());
        }
    }
    let tip = match changes.first() {
        Some(Change::Booking(Edit { after: Some(_), .. })) if seen.len() > 1 => {
            Some(format!("{} bookings", changes.len()))
        }
        Some(Change::Booking(Edit { after: Some(booking), .. })) => Some(format!(
            "{}, {}",
            words::amount(booking.amount),
            words::range(booking.start, booking.end, plan.settings.date_order)
        )),
        Some(Change::Task(Edit { after: Some(task), .. })) => {
            let days = task.start.zip(task.finish);
            days.map(|(from, to)| format!("{}, {}", task.title, words::range(from, to, plan.settings.date_order)))
        }
        _ => None,
    };
    Ok(Json(json!({ "rows": rows, "says": says(&plan, &after, &changes, today), "tip": tip })).into_response())
}

#[derive(Default, Deserialize)]
#[serde(default)]
struct Back {
    back: String,
}

async fn undo(Here(state): Here, user: User, headers: HeaderMap, Form(form): Form<Back>) -> Response {
    answer(&state, &user, take_back(&state, &user, false).await, &headers, &form.back).await
}

async fn redo(Here(state): Here, user: User, headers: HeaderMap, Form(form): Form<Back>) -> Response {
    answer(&state, &user, take_back(&state, &user, true).await, &headers, &form.back).await
}

async fn take_back(state: &AppState, user: &User, forward: bool) -> Result<Value, Error> {
    let (undo, redo) = state.keeper.ledger().undo_and_redo(user.actor()).await?;
    let Some(entry) = (if forward { redo } else { undo }) else {
        let message =
            if forward { "There is nothing to bring back." } else { "There is nothing of yours to take back." };
        return Ok(json!({ "message": message, "says": [], "people": [], "undo": false }));
    };
    let changes = state.keeper.ledger().changes_of(entry.revision).await?;
    let command = Command::Undo { revision: entry.revision, changes };
    let title = if forward { "Brought back".to_owned() } else { format!("Taken back: {}", entry.title) };
    let mut done = submit(state, user, command, title).await?;
    // What was taken back is brought back by Redo; Undo would take back what came before it.
    (done["undo"], done["redo"]) = (json!(forward), json!(!forward));
    Ok(done)
}
