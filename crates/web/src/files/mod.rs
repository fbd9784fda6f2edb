//! Files of tasks and projects: brought, shown, taken away.

mod receipt;
mod shelf;
mod taken;

pub use receipt::ReceiptView;
pub use shelf::Shelf;

use crate::{
    AppState, Error,
    answer::{self, safe_back},
    auth::User,
    drafts::Here,
    worked_out,
};
use axum::{
    Form, Router,
    body::Body,
    extract::{DefaultBodyLimit, Multipart, Path},
    http::{HeaderValue, StatusCode, header},
    response::{IntoResponse as _, Response},
    routing::{get, post},
};
use percent_encoding::{NON_ALPHANUMERIC, utf8_percent_encode};
use serde::Deserialize;
use snug_core::{
    Command, Plan, ProjectId, Refusal, Role, Tag, TaskId,
    change::{Change, Edit},
    kinds::{Attachment, AttachmentId, FilesOf, LARGEST_FILE, Record as _},
};
use snug_store::Outcome;
use taken::Taken;
use tokio::sync::{Semaphore, SemaphorePermit};

/// Uploads that are held in memory at once.
static AT_ONCE: Semaphore = Semaphore::const_new(4);

/// Files that come at once.
const MOST: usize = 10;

/// The most files that one task or project has.
const MOST_OF_ONE: usize = 200;

/// The largest upload, in bytes: one file of the largest size, or several smaller ones.
const LARGEST_UPLOAD: usize = 26_000_000;

pub fn routes() -> Router<AppState> {
    let limit = DefaultBodyLimit::max(LARGEST_UPLOAD);
    Router::new()
        .route("/tasks/{id}/files", post(to_task).layer(limit))
        .route("/projects/{id}/files", post(to_project).layer(limit))
        .route("/expenses/{id}/receipt", get(receipt::show).post(receipt::bring).layer(limit))
        .route("/expenses/{id}/receipt/small", get(receipt::small))
        .route("/expenses/{id}/receipt/remove", post(receipt::remove))
        .route("/files/{id}", get(show))
        .route("/files/{id}/small", get(small))
        .route("/files/{id}/remove", post(remove))
}

/// A place among the uploads that are held in memory and looked over at once; whoever comes waits for one, before anything is read.
///
/// # Errors
/// Never, as long as the server runs.
pub async fn place() -> Result<SemaphorePermit<'static>, Error> {
    AT_ONCE.acquire().await.map_err(|error| Error::Files(error.to_string()))
}

/// The bytes of a body that is one file.
///
/// # Errors
/// It is too large, or did not arrive whole.
pub async fn whole(body: Body) -> Result<Vec<u8>, Error> {
    let read = axum::body::to_bytes(body, LARGEST_UPLOAD).await;
    let too_large = |_| Error::Api(StatusCode::PAYLOAD_TOO_LARGE, "A file has at most 25 MB.".to_owned());
    Ok(read.map_err(too_large)?.to_vec())
}

fn blank(whose: FilesOf, user: &str, state: &AppState) -> Attachment {
    let (task, project) = whose.columns();
    Attachment { task, project, author: user.to_owned(), day: state.today(), ..Attachment::blank() }
}

/// Whether somebody may bring files there at all, asked before anything that they send is read.
pub fn may_bring(state: &AppState, actor: snug_core::Actor<'_>, whose: FilesOf) -> bool {
    let file = blank(whose, actor.email, state);
    actor.may(&state.keeper.plan(), &Command::Edit { changes: vec![Change::Attachment(Edit::new(file))] })
}

/// The names of the files that stand there.
fn names(plan: &Plan, whose: FilesOf) -> Result<Vec<String>, Error> {
    let there = match whose {
        FilesOf::Task(task) => plan.tasks.contains_key(&task),
        FilesOf::Project(project) => plan.records.projects.contains_key(&project),
    };
    if there { Ok(plan.files_of(whose).map(|file| file.name.clone()).collect()) } else { Err(Error::NotFound) }
}

/// A name that none of these has: `relief.pdf`, `relief (2).pdf`.
fn free_name(name: &str, taken: &[String]) -> String {
    let (stem, ending) = name.rsplit_once('.').unwrap_or((name, ""));
    let numbered = (2..).map(|number| format!("{stem} ({number}).{ending}"));
    let mut names = std::iter::once(name.to_owned()).chain(numbered);
    names.find(|name| !taken.contains(name)).unwrap_or_default()
}

/// A file that was looked over.
struct Looked {
    taken: Taken,
    sum: String,
    bytes: Vec<u8>,
}

impl Looked {
    /// Looks a file over. This computes: call it off the async threads.
    fn over(name: &str, bytes: Vec<u8>) -> Result<Self, Error> {
        let taken = taken::take(name, &bytes).map_err(|reason| Refusal::value("file", reason))?;
        Ok(Self { taken, sum: shelf::sum(&bytes), bytes })
    }

    /// Lays it down; a picture made small, too.
    async fn lay_down(self, shelf: &Shelf) -> Result<(), Error> {
        if let Some(small) = self.taken.small {
            shelf.put(shelf::Size::Small, &self.sum, small).await?;
        }
        shelf.put(shelf::Size::Whole, &self.sum, self.bytes).await
    }
}

impl Shelf {
    /// Lays a file down whose record comes from elsewhere, as in an import.
    ///
    /// # Errors
    /// Why it is not taken, or that the store of files does not answer.
    pub async fn lay_down(&self, name: &str, bytes: Vec<u8>) -> Result<(), Error> {
        Looked::over(name, bytes)?.lay_down(self).await
    }
}

/// Lays files down and makes their records, all or none.
pub async fn bring(
    state: &AppState,
    account: &snug_store::accounts::Account,
    whose: FilesOf,
    files: Vec<(String, Vec<u8>)>,
) -> Result<Outcome, Error> {
    let mut names = names(&state.keeper.plan(), whose)?;
    if names.len() + files.len() > MOST_OF_ONE {
        return Err(Refusal::value("file", format!("At most {MOST_OF_ONE} files are kept in one place.")).into());
    }
    let look = |(name, bytes): (String, Vec<u8>)| Looked::over(&name, bytes);
    let looked_over = worked_out(move || files.into_iter().map(look).collect::<Result<Vec<_>, Error>>());
    let mut changes = Vec::new();
    for looked in looked_over.await?? {
        let name = free_name(&looked.taken.name, &names);
        names.push(name.clone());
        let file = Attachment {
            name,
            media: looked.taken.media.clone(),
            bytes: i32::try_from(looked.bytes.len()).unwrap_or(LARGEST_FILE),
            sum: looked.sum.clone(),
            ..blank(whose, &account.email, state)
        };
        looked.lay_down(&state.options.files).await?;
        changes.push(Change::Attachment(Edit::new(file)));
    }
    state.keeper.submit(&account.email, Command::Edit { changes }, state.today()).await.map_err(Error::from)
}

async fn to_task(Here(state): Here, user: User, Path(id): Path<i32>, parts: Multipart) -> Result<Response, Error> {
    upload(&state, &user, FilesOf::Task(TaskId(id)), parts).await
}

async fn to_project(Here(state): Here, user: User, Path(id): Path<i32>, parts: Multipart) -> Result<Response, Error> {
    upload(&state, &user, FilesOf::Project(ProjectId(id)), parts).await
}

/// What a form with files sends.
#[derive(Default)]
struct Sent {
    /// Names and bytes.
    files: Vec<(String, Vec<u8>)>,
    fields: Vec<(String, String)>,
}

impl Sent {
    /// Reads all of it, within bounds.
    async fn read(mut parts: Multipart) -> Result<Self, Error> {
        let unclear = |error: axum::extract::multipart::MultipartError| {
            let message = if error.status() == StatusCode::PAYLOAD_TOO_LARGE {
                "Files have at most 25 MB together."
            } else {
                "The files did not arrive whole; send them again."
            };
            Error::BadRequest(message.to_owned())
        };
        let mut sent = Self::default();
        while let Some(part) = parts.next_field().await.map_err(unclear)? {
            let (name, field) = (part.file_name().map(str::to_owned), part.name().map(str::to_owned));
            match (name, field) {
                // A field in which nothing was chosen comes without a name and empty.
                (Some(name), _) if !name.is_empty() => {
                    sent.files.push((name, part.bytes().await.map_err(unclear)?.to_vec()));
                }
                (None, Some(field)) => sent.fields.push((field, part.text().await.map_err(unclear)?)),
                _ => {}
            }
            if sent.files.len() > MOST || sent.fields.len() > MOST {
                return Err(Refusal::value("file", format!("Bring at most {MOST} files at once.")).into());
            }
        }
        Ok(sent)
    }

    fn field(&self, name: &str) -> &str {
        self.fields.iter().find(|(known, _)| known == name).map_or("", |(_, value)| value)
    }
}

async fn upload(state: &AppState, user: &User, whose: FilesOf, parts: Multipart) -> Result<Response, Error> {
    if !may_bring(state, user.account.actor(), whose) {
        return Err(Error::NotAllowed(crate::auth::TOO_SMALL));
    }
    let _place = place().await?;
    let sent = Sent::read(parts).await?;
    if sent.files.is_empty() {
        return Err(Refusal::value("file", "Choose a file first.").into());
    }
    let (count, back) = (sent.files.len(), sent.field("back").to_owned());
    let outcome = bring(state, &user.account, whose, sent.files).await?;
    let message = if count == 1 { "File added".to_owned() } else { format!("{count} files added") };
    answer::back_to(user, safe_back(&back), message, &outcome).await
}

/// The file of an address, if there is one.
fn found(state: &AppState, id: i32) -> Result<Attachment, Error> {
    let plan = state.keeper.plan();
    let file = plan.records.attachments.get(&AttachmentId(id)).ok_or(Error::NotFound)?;
    Ok((**file).clone())
}

/// What is in a file: a picture to look at, everything else to be saved. Nothing of it runs here, whatever it is.
pub async fn content(state: &AppState, file: &Attachment) -> Result<Response, Error> {
    let Some(found) = state.options.files.get(shelf::Size::Whole, &file.sum).await? else {
        return Err(Error::NotFound);
    };
    let is_picture = file.media.starts_with("image/") && file.media != "image/svg+xml";
    let (shown, media) =
        if is_picture { ("inline", file.media.as_str()) } else { ("attachment", "application/octet-stream") };
    let name = utf8_percent_encode(&file.name, NON_ALPHANUMERIC);
    let size = found.meta.size;
    let mut response = Body::from_stream(found.into_stream()).into_response();
    let headers = response.headers_mut();
    let value = |text: &str| HeaderValue::from_str(text).map_err(|error| Error::Files(error.to_string()));
    headers.insert(header::CONTENT_TYPE, value(media)?);
    headers.insert(header::CONTENT_DISPOSITION, value(&format!("{shown}; filename*=UTF-8''{name}"))?);
    headers.insert(header::CONTENT_LENGTH, size.into());
    headers.insert(header::CONTENT_SECURITY_POLICY, HeaderValue::from_static("default-src 'none'; sandbox"));
    Ok(response)
}

async fn show(Here(state): Here, _: User, Path(id): Path<i32>) -> Result<Response, Error> {
    content(&state, &found(&state, id)?).await
}

/// A picture made small.
async fn small(Here(state): Here, _: User, Path(id): Path<i32>) -> Result<Response, Error> {
    small_content(&state, &found(&state, id)?).await
}

async fn small_content(state: &AppState, file: &Attachment) -> Result<Response, Error> {
    let found = state.options.files.get(shelf::Size::Small, &file.sum).await?.ok_or(Error::NotFound)?;
    let bytes = found.bytes().await.map_err(|error| Error::Files(error.to_string()))?;
    let media = taken::media_of_small(&bytes);
    let kept = "private, max-age=86400";
    Ok(([(header::CONTENT_TYPE, media), (header::CACHE_CONTROL, kept)], bytes).into_response())
}

/// What a form that takes a file away sends.
#[derive(Deserialize)]
struct Gone {
    seen: String,
    #[serde(default)]
    back: String,
}

async fn remove(Here(state): Here, user: User, Path(id): Path<i32>, Form(gone): Form<Gone>) -> Result<Response, Error> {
    user.at_least(Role::Member)?;
    let file: Attachment = state.keeper.plan().record_as_seen(gone.seen.parse::<Tag>()?)?;
    if file.id.0 != id {
        return Err(snug_core::NoTag.into());
    }
    let command = Command::Edit { changes: vec![Change::Attachment(Edit::remove(file))] };
    let outcome = answer::carry_out(&state, &user, command).await?;
    answer::back_to(&user, safe_back(&gone.back), "File taken away".to_owned(), &outcome).await
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_that_is_there_already_gets_a_number() {
        let there = ["relief.pdf".to_owned(), "relief (2).pdf".to_owned()];
        assert_eq!(free_name("relief.pdf", &there), "relief (3).pdf");
        assert_eq!(free_name("other.pdf", &there), "other.pdf");
    }
}
