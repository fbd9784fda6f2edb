//! Import and export: files are shown with what they would do, and taken over all or nothing.

mod job;

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::listed,
    doors::{self, Deed, Peer},
    drafts::Here,
    frame::{Frame, Room},
    unpacking, words, worked_out,
};
use askama::Template;
use axum::{
    Router,
    extract::{DefaultBodyLimit, Multipart, Path, Query},
    http::{StatusCode, header},
    response::{Html, IntoResponse as _, Redirect, Response},
    routing::{get, post},
};
use serde::Deserialize;
use snug_core::{
    Role,
    change::Change,
    import::{Dataset, Preview, Problem, Tally, preview_beside},
    kinds::{self, Kind},
};
use snug_exchange::{archive, csv, spreadsheet::guarded};
use snug_store::uploads::{self, File};
use std::collections::BTreeSet;

/// The largest upload, in bytes.
const LARGEST: usize = 64 << 20;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/setup/import", get(page).post(upload).layer(DefaultBodyLimit::max(LARGEST)))
        .route("/setup/import/{upload}", get(show).post(job::begin))
        .route("/setup/import/{upload}/way", get(job::show))
        .route("/setup/import/{upload}/way/stop", post(job::stop))
        .route("/setup/export.zip", get(export))
        .route("/setup/export/{file}", get(export_one))
}

/// What an import would do.
pub struct PreviewView {
    broken: Option<String>,
    upload: String,
    files: Vec<(String, Tally)>,
    problems: Vec<Problem>,
    left_out: usize,
    unknown: Vec<(String, String)>,
    changes: usize,
    source: String,
}

#[derive(Template)]
#[template(path = "setup/import.html")]
struct ImportPage {
    frame: Frame,
    preview: Option<PreviewView>,
    problem: Option<String>,
    may_import: bool,
    files: Vec<(&'static str, String)>,
}

async fn view(
    state: &AppState,
    user: &User,
    preview: Option<PreviewView>,
    problem: Option<String>,
) -> Result<ImportPage, Error> {
    let plan = state.keeper.plan();
    let columns = |file: &kinds::File| (file.name, csv::header(&plan, file.name).join(", "));
    Ok(ImportPage {
        frame: Frame::of(state, user, Room::Setup).await?,
        preview,
        problem,
        may_import: user.account.role >= Role::Manager,
        files: kinds::files().iter().map(columns).collect(),
    })
}

async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    Ok(Html(view(&state, &user, None, None).await?.render()?))
}

/// Reads what was sent: CSV files by name or by their header, alone or folded into archives.
pub fn read_upload(files: &[File]) -> Dataset {
    let mut data = Dataset::default();
    let whole = |file: &str, reason: &str| Problem {
        file: file.to_owned(),
        line: 0,
        column: String::new(),
        reason: reason.to_owned(),
    };
    let mut plain: Vec<File> = Vec::new();
    let mut left = archive::MOST_BYTES;
    for (name, bytes) in files {
        if archive::is_archive(bytes) {
            match archive::unfold(bytes, &mut left) {
                Ok(inner) if inner.is_empty() => data.problems.push(whole(name, "holds no CSV file")),
                Ok(inner) => plain.extend(inner),
                Err(reason) => data.problems.push(whole(name, &reason)),
            }
        } else {
            plain.push((name.clone(), bytes.clone()));
        }
    }
    for (name, bytes) in &plain {
        let known = kinds::file(&name.to_lowercase()).or_else(|| {
            let head = bytes.split(|byte| *byte == b'\n').next().unwrap_or_default();
            let head = String::from_utf8_lossy(&head[..head.len().min(4_096)]).into_owned();
            kinds::guess(&head.trim_start_matches('\u{feff}').trim().split(',').collect::<Vec<_>>())
        });
        if let Some(file) = known {
            csv::read_file(&mut data, file.name, bytes.as_slice());
        } else {
            let reason = "is none of the files of a workspace, by its name or by its header; save spreadsheets as CSV";
            data.problems.push(whole(name, reason));
        }
    }
    data
}

/// `people.csv and bookings.csv`.
fn names(files: &[File]) -> String {
    let names: Vec<&str> = files.iter().map(|(name, _)| name.as_str()).collect();
    match names.as_slice() {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [rest @ .., last] => format!("{} and {last}", rest.join(", ")),
    }
}

fn preview_view(found: Preview, upload: String, source: String) -> PreviewView {
    /// More problems than this nobody reads; a wrong file has as many as it has lines.
    const MOST: usize = 100;
    PreviewView {
        upload,
        broken: found.says_broken(),
        files: found.files.into_iter().collect(),
        left_out: found.problems.len().saturating_sub(MOST),
        problems: found.problems.into_iter().take(MOST).collect(),
        unknown: found.unknown_columns,
        changes: found.changes.len(),
        source,
    }
}

async fn upload(Here(state): Here, user: User, mut form: Multipart) -> Result<Response, Error> {
    user.at_least(Role::Manager)?;
    let mut files: Vec<File> = Vec::new();
    loop {
        match form.next_field().await {
            Ok(Some(field)) => {
                let name = field.file_name().unwrap_or_default().to_owned();
                match field.bytes().await {
                    Ok(bytes) if !name.is_empty() => files.push((name, bytes.to_vec())),
                    Ok(_) => {}
                    Err(error) if error.status() == StatusCode::PAYLOAD_TOO_LARGE => {
                        return too_large(&state, &user).await;
                    }
                    Err(error) => return Err(Error::BadRequest(error.body_text())),
                }
            }
            Err(error) if error.status() == StatusCode::PAYLOAD_TOO_LARGE => return too_large(&state, &user).await,
            // The end, or a form without a single part.
            Ok(None) | Err(_) => break,
        }
    }
    if files.is_empty() {
        let page =
            view(&state, &user, None, Some("Choose one or several CSV files, or a ZIP of them.".to_owned())).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response());
    }
    let id = match uploads::keep(state.keeper.db(), user.account.id, &files).await {
        Err(error @ snug_store::Error::TooMuchWaits) => {
            let page = view(&state, &user, None, Some(words::capital(&format!("{error}.")))).await?;
            return Ok((StatusCode::TOO_MANY_REQUESTS, Html(page.render()?)).into_response());
        }
        kept => kept?,
    };
    Ok(Redirect::to(&format!("/setup/import/{id}")).into_response())
}

/// What the files that wait would do to the plan as it stands now.
async fn show(Here(state): Here, user: User, Path(id): Path<String>) -> Result<Response, Error> {
    user.at_least(Role::Manager)?;
    let Some(files) = uploads::waiting(state.keeper.db(), user.account.id, &id).await? else {
        return gone(&state, &user).await;
    };
    let source = names(&files);
    let found = compared(&state, &user, files).await?;
    let page = view(&state, &user, Some(preview_view(found, id, source)), None).await?;
    Ok(Html(page.render()?).into_response())
}

async fn gone(state: &AppState, user: &User) -> Result<Response, Error> {
    let reason = "These files have waited too long, or were taken over already. Choose them again.".to_owned();
    let page = view(state, user, None, Some(reason)).await?;
    Ok((StatusCode::CONFLICT, Html(page.render()?)).into_response())
}

async fn too_large(state: &AppState, user: &User) -> Result<Response, Error> {
    let reason = format!("These files cannot be read whole; together they may have {} MB.", LARGEST >> 20);
    let page = view(state, user, None, Some(reason)).await?;
    Ok((StatusCode::PAYLOAD_TOO_LARGE, Html(page.render()?)).into_response())
}

/// Holds files against the plan, on a thread of its own.
async fn compared(state: &AppState, user: &User, files: Vec<File>) -> Result<Preview, Error> {
    let _place = unpacking::place(state, user.actor()).await;
    let data = worked_out(move || read_upload(&files)).await?;
    let (plan, beside) = (state.keeper.plan(), state.keeper.texts_beside(&data).await?);
    let today = state.today();
    worked_out(move || preview_beside(&plan, &data, &beside, today)).await
}

/// Where records of the kinds that were taken over are seen.
fn links(changes: &[Change]) -> Vec<(String, String)> {
    let kinds: BTreeSet<Kind> = changes.iter().map(|change| change.subject().0).collect();
    let lists = listed().filter(|kind| kinds.contains(kind));
    let mut links: Vec<(String, String)> =
        lists.map(|kind| (format!("/{}", kind.about().path), kind.about().list_title())).collect();
    links.extend(kinds.contains(&Kind::Booking).then(|| ("/fit".to_owned(), "Bookings in Fit".to_owned())));
    links.extend(
        kinds.contains(&Kind::TimeEntry).then(|| ("/hours/actuals".to_owned(), "Estimate and actual".to_owned())),
    );
    links
}

/// What an import did, in a sentence.
pub fn summary(changes: usize, source: &str) -> String {
    match changes {
        0 => format!("Everything in {source} stands in the plan already"),
        1 => format!("One record taken over from {source}"),
        count => format!("{count} records taken over from {source}"),
    }
}

/// For what a file is taken out.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct For {
    /// `spreadsheet`: nothing in it is taken for a formula. Else it is exact, for importing it again.
    r#for: String,
}

impl For {
    /// The text, made fit for what it is for.
    pub fn fit(&self, csv: String) -> String {
        if self.r#for == "spreadsheet" { guarded(&csv) } else { csv }
    }
}

async fn export(Here(state): Here, user: User, peer: Peer, Query(wanted): Query<For>) -> Result<Response, Error> {
    doors::note(&state, Deed::Export, &user.account, &peer, "everything").await?;
    let (plan, texts) = (state.keeper.plan(), state.keeper.all_texts().await?);
    let folded = worked_out(move || {
        let files = csv::files_of(&user.eyes(&plan), &texts);
        let files: Vec<_> = files.into_iter().map(|(name, text)| (name, wanted.fit(text))).collect();
        archive::fold(files.iter().map(|(name, text)| (*name, text.as_bytes())))
    });
    let bytes = folded.await?.map_err(snug_store::Error::Damaged)?;
    let name = format!("attachment; filename=\"snug-roster-{}.zip\"", state.today());
    let head = [(header::CONTENT_TYPE, "application/zip".to_owned()), (header::CONTENT_DISPOSITION, name)];
    Ok((head, bytes).into_response())
}

async fn export_one(
    Here(state): Here,
    user: User,
    peer: Peer,
    Path(name): Path<String>,
    Query(wanted): Query<For>,
) -> Result<Response, Error> {
    let file = kinds::file(&name).ok_or(Error::NotFound)?;
    doors::note(&state, Deed::Export, &user.account, &peer, file.name).await?;
    let plan = state.keeper.plan();
    let texts = if file.kind == Kind::Text { state.keeper.all_texts().await? } else { Vec::new() };
    let text = worked_out(move || wanted.fit(csv::file_text(&user.eyes(&plan), &texts, file.name))).await?;
    Ok(answer::csv(file.name, text))
}
