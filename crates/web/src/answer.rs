//! What a request is answered: a script gets JSON, a plain form is led back to where it came from with a message there.

use crate::{
    AppState, Error,
    auth::User,
    columns::{columns, shown},
    frame::Flash,
    words,
};
use axum::{
    Json,
    http::{HeaderMap, StatusCode, header},
    response::{IntoResponse, Redirect, Response},
};
use serde_json::{Value, json};
use snug_core::{Command, Eyes, Role, change::Change, settings::DateOrder};
use snug_exchange::csv::row_of;
use snug_store::Outcome;

/// Whether a script asks, which wants JSON.
pub fn is_script(headers: &HeaderMap) -> bool {
    headers.get("x-requested-with").is_some()
}

/// Carries a command out for somebody, if their role allows it.
pub async fn carry_out(state: &AppState, user: &User, command: Command) -> Result<Outcome, Error> {
    user.check(&state.keeper.plan(), &command)?;
    state.keeper.submit(user.actor(), command, state.today()).await.map_err(Error::from)
}

/// What undo and redo would do next.
pub async fn steps(state: &AppState, user: &User) -> Result<Value, Error> {
    let (undo, redo) = state.keeper.ledger().undo_and_redo(user.actor()).await?;
    Ok(json!({ "undo": undo.map(|entry| entry.title), "redo": redo.map(|entry| entry.title) }))
}

/// What was done, for a script.
pub async fn done(state: &AppState, user: &User, message: String, outcome: &Outcome) -> Result<Value, Error> {
    let undo = !outcome.changes.is_empty();
    let message = if undo { message } else { "Nothing to change".to_owned() };
    Ok(json!({
        "message": message, "says": [], "revision": outcome.revision, "undo": undo, "steps": steps(state, user).await?,
    }))
}

/// Leads a plain form back; the page there confirms what was done and offers to undo it.
pub async fn back_to(user: &User, path: &str, message: String, outcome: &Outcome) -> Result<Response, Error> {
    let undo = !outcome.changes.is_empty();
    let message = if undo { message } else { "Nothing to change".to_owned() };
    Flash { undo, ..Flash::plain(message) }.leave(&user.session).await?;
    Ok(Redirect::to(path).into_response())
}

/// Leads a plain form back to a page that says why nothing was done.
pub async fn again(user: &User, path: &str, message: String) -> Result<Response, Error> {
    Flash::problem(message).leave(&user.session).await?;
    Ok(Redirect::to(path).into_response())
}

/// A CSV file to be taken along, under a name.
pub fn csv(name: &str, text: String) -> Response {
    let disposition = format!("attachment; filename=\"{name}\"");
    let head =
        [(header::CONTENT_TYPE, "text/csv; charset=utf-8".to_owned()), (header::CONTENT_DISPOSITION, disposition)];
    (head, text).into_response()
}

/// The media type of workbooks.
pub const WORKBOOK: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

/// A workbook to be taken along, under a name.
pub fn workbook(name: &str, bytes: Vec<u8>) -> Response {
    let disposition = format!("attachment; filename=\"{name}\"");
    let head = [(header::CONTENT_TYPE, WORKBOOK.to_owned()), (header::CONTENT_DISPOSITION, disposition)];
    (head, bytes).into_response()
}

/// An address inside the application, whatever a form says.
pub fn safe_back(back: &str) -> &str {
    let inside = back.starts_with('/') && !back.starts_with("//") && !back.contains(['\\', '\n', '\r']);
    if inside { back } else { "/fit" }
}

/// A refusal for a script: the sentence, the field it is about, and the value that stands where somebody was quicker.
pub fn refused(error: Error, eyes: &Eyes<'_>) -> Response {
    match error {
        Error::Store(snug_store::Error::Refused(refusal)) => {
            let code = refusal.code;
            let standing = refusal.standing.as_deref().map(|change| {
                let seen = change.record().map(|record| record.tag().to_string());
                json!({ "seen": seen, "says": says(eyes, change) })
            });
            let body =
                json!({ "message": refusal.message, "field": refusal.field, "code": code, "standing": standing });
            (Error::from(refusal).status(), Json(body)).into_response()
        }
        error => {
            let status = error.status();
            if status.is_server_error() {
                // Logs what happened; what is said is said here.
                return (error.into_response().status(), Json(json!({ "message": HIDDEN, "field": "" })))
                    .into_response();
            }
            let message = error.to_string();
            let status = if status.is_redirection() { StatusCode::UNAUTHORIZED } else { status };
            (status, Json(json!({ "message": message, "field": "" }))).into_response()
        }
    }
}

/// What a script is told when something fails here.
const HIDDEN: &str = "That did not work, and nothing was changed. Try again in a while.";

/// A record in words, as these eyes see it: `6 h a day, 9 March – 13 March`, or its columns.
pub fn says(eyes: &Eyes<'_>, record: &Change) -> String {
    let plan = eyes.plan;
    let order: DateOrder = plan.settings.date_order;
    if let Change::Booking(edit) = record {
        let booking = edit.after.as_ref();
        return booking.map_or_else(String::new, |booking| {
            format!("{}, {}", words::amount(booking.amount), words::range(booking.start, booking.end, order))
        });
    }
    if record.record().is_none() {
        return record.name();
    }
    let columns = columns(plan, record.subject().0, Role::Viewer);
    let cells = row_of(eyes, record).unwrap_or_default();
    let filled = cells.iter().filter(|(_, value)| !value.is_empty());
    let cell = filled.filter_map(|(name, value)| {
        let column = columns.iter().find(|column| column.name == *name)?;
        Some(format!("{} {}", column.label, shown(plan, column, value)))
    });
    cell.collect::<Vec<_>>().join(", ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_form_leads_back_inside_only() {
        for inside in ["/fit", "/tasks?q=oak", "/people/12#comments"] {
            assert_eq!(safe_back(inside), inside);
        }
        for outside in
            ["", "fit", "//elsewhere.test", "https://elsewhere.test", "/\\elsewhere.test", "/a\r\nSet-Cookie: x"]
        {
            assert_eq!(safe_back(outside), "/fit", "{outside}");
        }
    }
}
