//! Calendar files that are brought in: shown first, then taken over, all of it or nothing.

use super::{Asked, CalendarsPage, LARGEST, check, reading, refresh, refused, says, view};
use crate::{AppState, Error, answer, auth::User, words};
use askama::Template as _;
use axum::{
    extract::{Multipart, Path, State},
    response::{Html, IntoResponse as _, Redirect, Response},
};
use snug_core::{
    Command, Role,
    calendars::{Purpose, changes},
    change::Change,
};
use snug_exchange::ical::Said;
use snug_store::uploads;

/// What a file would do.
pub struct FilePreview {
    pub upload: String,
    pub name: String,
    pub what: String,
    pub added: usize,
    pub changed: usize,
    pub removed: usize,
    pub first: Vec<String>,
    pub problems: Vec<String>,
    pub left_out: usize,
    pub reasons: Vec<String>,
}

/// Takes a file in and shows what it would do.
pub async fn bring(State(state): State<AppState>, user: User, mut form: Multipart) -> Result<Response, Error> {
    if user.account.role == Role::Viewer {
        return Err(Error::NotAllowed(crate::auth::TOO_SMALL));
    }
    let mut asked = Asked::default();
    let mut file: Option<(String, Vec<u8>)> = None;
    // The end, or a form without a single part, ends it.
    while let Ok(Some(field)) = form.next_field().await {
        let (key, name) = (field.name().unwrap_or_default().to_owned(), field.file_name().map(str::to_owned));
        let Ok(bytes) = field.bytes().await else {
            let reason = format!("A calendar may have {} MB.", LARGEST >> 20);
            return refused(&state, &user, asked, ("file", reason)).await;
        };
        if let Some(name) = name.filter(|name| !name.is_empty()) {
            file = Some((name, bytes.to_vec()));
            continue;
        }
        let text = String::from_utf8_lossy(&bytes).into_owned();
        match key.as_str() {
            "purpose" => asked.purpose = text,
            "calendar" => asked.calendar = text,
            "person" => asked.person = text,
            _ => {}
        }
    }
    let Some(file) = file else {
        return refused(&state, &user, asked, ("file", "Choose an iCalendar file (.ics).".to_owned())).await;
    };
    let plan = state.keeper.plan();
    match asked.purpose(&plan) {
        Err(problem) => refused(&state, &user, asked, problem).await,
        Ok(purpose) => {
            check(&user, &plan, &purpose)?;
            let meant = serde_json::json!([asked.purpose, asked.calendar, asked.person]).to_string();
            let files = [file, ("what it is".to_owned(), meant.into_bytes())];
            let id = uploads::keep(state.keeper.db(), user.account.id, &files).await?;
            Ok(Redirect::to(&format!("/setup/calendars/file/{id}")).into_response())
        }
    }
}

/// A file that waits: its name, what is in it, and what it is of.
async fn waiting(state: &AppState, user: &User, id: &str) -> Result<(String, Vec<u8>, Purpose), Error> {
    let files = uploads::waiting(state.keeper.db(), user.account.id, id).await?.ok_or(Error::NotFound)?;
    let Ok([(name, bytes), (_, meant)]) = <[_; 2]>::try_from(files) else { return Err(Error::NotFound) };
    let [purpose, calendar, person]: [String; 3] = serde_json::from_slice(&meant).map_err(|_| Error::NotFound)?;
    let asked = Asked { purpose, calendar, person, ..Asked::default() };
    let purpose = asked.purpose(&state.keeper.plan()).map_err(|(_, reason)| Error::BadRequest(reason))?;
    Ok((name, bytes, purpose))
}

/// What a file that waits comes to, and what it says; the reasons, where it cannot be read.
async fn compared(
    state: &AppState,
    name: &str,
    bytes: Vec<u8>,
    purpose: &Purpose,
) -> Result<Result<(Vec<Change>, Said), Vec<String>>, Error> {
    let window = refresh::window(state.today());
    let said = match reading::read(state, bytes, purpose, window).await? {
        Ok(said) => said,
        Err(unreadable) => return Ok(Err(unreadable.0)),
    };
    let source = format!("file-{}", words::slug(name));
    let mut found = changes(&state.keeper.plan(), &source, purpose, &said.occurrences, window);
    if matches!(purpose, Purpose::Holidays(_)) {
        // A file adds to a holiday calendar; only an address that is read again and again holds all of it.
        found.retain(Change::adds);
    }
    Ok(Ok((found, said)))
}

pub async fn show(State(state): State<AppState>, user: User, Path(id): Path<String>) -> Result<Html<String>, Error> {
    let (name, bytes, purpose) = waiting(&state, &user, &id).await?;
    let plan = state.keeper.plan();
    let ((changes, said), problems) = match compared(&state, &name, bytes, &purpose).await? {
        Ok(found) => (found, Vec::new()),
        Err(problems) => (<(Vec<Change>, Said)>::default(), problems),
    };
    let count = |fits: &dyn Fn(&Change) -> bool| changes.iter().filter(|change| fits(change)).count();
    let order = plan.settings.date_order;
    let line = |change: &Change| match change {
        Change::Holiday(edit) => {
            edit.either().map(|holiday| format!("{}: {}", words::date(holiday.date, order), holiday.name))
        }
        Change::Absence(edit) => edit.either().map(|off| format!("{}: {}", off.kind, words::time_off(off, order))),
        _ => None,
    };
    let preview = FilePreview {
        upload: id,
        what: says(&plan, &purpose),
        added: count(&Change::adds),
        removed: count(&Change::removes),
        changed: count(&|change| !change.adds() && !change.removes()),
        first: changes.iter().take(20).filter_map(line).collect(),
        problems,
        left_out: said.left_out,
        reasons: said.reasons,
        name,
    };
    Ok(Html(CalendarsPage { preview: Some(preview), ..view(&state, &user).await? }.render()?))
}

pub async fn take_over(State(state): State<AppState>, user: User, Path(id): Path<String>) -> Result<Response, Error> {
    let (name, bytes, purpose) = waiting(&state, &user, &id).await?;
    let Ok((changes, _)) = compared(&state, &name, bytes, &purpose).await? else {
        return Ok(Redirect::to(&format!("/setup/calendars/file/{id}")).into_response());
    };
    let outcome = answer::carry_out(&state, &user, Command::ReadCalendar { name: name.clone(), changes }).await?;
    uploads::forget(state.keeper.db(), &id).await?;
    answer::back_to(&user, "/setup/calendars", crate::setup::summary(outcome.changes.len(), &name), &outcome).await
}
