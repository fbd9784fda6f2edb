//! What belongs to a task besides its columns: what is written about it, and its files.

use super::{
    Problem,
    extract::{Asked, Body, Id, Writer, not_there},
    refusals::{OfBody, OfChanging},
    told,
};
use crate::{AppState, Error, auth::Program, files, task};
use axum::{
    Json,
    body::Body as AnyBody,
    extract::State,
    http::StatusCode,
    response::{IntoResponse, Response},
};
use serde::{Deserialize, Serialize};
use snug_core::{
    TaskId,
    change::Change,
    kinds::{AttachmentId, FilesOf},
    text::{Text, TextOn},
};
use utoipa::{IntoParams, ToSchema};

/// A description or a comment.
#[derive(Serialize, ToSchema)]
pub struct Written {
    /// description or comment.
    kind: String,
    /// Who wrote it, by address.
    by: String,
    /// The day.
    at: String,
    /// The words, in Markdown.
    text: String,
}

impl From<&Text> for Written {
    fn from(text: &Text) -> Self {
        let (kind, at) = (text.slot.to_string(), text.day.to_string());
        Self { kind, by: text.author.clone(), at, text: text.body.clone() }
    }
}

/// A comment.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Said {
    /// The words, in Markdown; `@` and a name tells somebody.
    #[schema(min_length = 1, max_length = 20_000)]
    text: String,
}

/// What is written about a task: its description, if it has one, and its comments, the oldest first.
#[utoipa::path(get, path = "/tasks/{id}/texts", tag = "tasks",
    params(("id" = i32, Path)),
    responses(
        (status = 200, body = Vec<Written>, description = "What is written, the oldest first"),
        (status = UNAUTHORIZED, body = Problem, content_type = "application/problem+json", description = "No token, or one that is unknown"),
        (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such record"),
    ))]
pub async fn written(State(state): State<AppState>, _: Program, Id(id): Id<i32>) -> Result<Json<Vec<Written>>, Error> {
    there(&state, id)?;
    let texts = state.keeper.texts_of(TextOn::Task, id).await.map_err(told)?;
    Ok(Json(texts.iter().map(Written::from).collect()))
}

fn there(state: &AppState, id: i32) -> Result<(), Error> {
    state.keeper.plan().tasks.contains_key(&TaskId(id)).then_some(()).ok_or_else(not_there)
}

/// Adds a comment to a task. Whoever follows it, or is mentioned, is told by mail.
#[utoipa::path(post, path = "/tasks/{id}/texts", tag = "tasks", request_body = Said,
    params(("id" = i32, Path)),
    responses(
        (status = 201, body = Written, description = "Added"),
        OfChanging, OfBody,
        (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such record"),
    ))]
pub async fn say(
    State(state): State<AppState>,
    Writer(program): Writer,
    Id(id): Id<i32>,
    body: Body<Said>,
) -> Result<Response, Error> {
    there(&state, id)?;
    let outcome = task::comment(&state, &program.account, (TextOn::Task, id), body.value.text).await;
    let outcome = outcome.map_err(Error::for_program)?;
    let text = outcome.changes.iter().find_map(|change| match change {
        Change::Text(edit) => edit.after.as_ref(),
        _ => None,
    });
    Ok((StatusCode::CREATED, Json(text.map(Written::from))).into_response())
}

/// What a file is called.
#[derive(Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Named {
    /// Its name, with its ending.
    #[param(min_length = 1, max_length = 200)]
    name: String,
}

/// A file that was brought.
#[derive(Serialize, ToSchema)]
pub struct Brought {
    /// Its identity among the attachments.
    id: i32,
    /// What it is called; another name than was sent, where one of that name was there already.
    name: String,
    /// Its media type.
    #[serde(rename = "type")]
    media: String,
    /// Its size.
    bytes: i32,
    /// SHA-256 of its bytes, in hexadecimal.
    sum: String,
}

/// Adds a file to a task: the bytes are the body, 25 MB at most.
#[utoipa::path(post, path = "/tasks/{id}/files", tag = "tasks",
    params(("id" = i32, Path), Named),
    request_body(content = String, content_type = "application/octet-stream"),
    responses(
        (status = 201, body = Brought, description = "Added"),
        OfChanging, OfBody,
        (status = BAD_REQUEST, body = Problem, content_type = "application/problem+json", description = "What is asked cannot be read"),
        (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such record"),
    ))]
pub async fn bring(
    State(state): State<AppState>,
    Writer(program): Writer,
    Id(id): Id<i32>,
    Asked(named): Asked<Named>,
    body: AnyBody,
) -> Result<Response, Error> {
    there(&state, id)?;
    let whose = FilesOf::Task(TaskId(id));
    if !files::may_bring(&state, program.account.actor(), whose) {
        return Err(Error::Api(StatusCode::FORBIDDEN, "The account of this token may not do that.".to_owned()));
    }
    let _place = files::place().await?;
    let brought = files::bring(&state, &program.account, whose, vec![(named.name, files::whole(body).await?)]).await;
    let outcome = brought.map_err(Error::for_program)?;
    let file = outcome.changes.iter().find_map(|change| match change {
        Change::Attachment(edit) => edit.after.clone(),
        _ => None,
    });
    let shown = file.map(|file| Brought {
        id: file.id.0,
        name: file.name,
        media: file.media,
        bytes: file.bytes,
        sum: file.sum,
    });
    Ok((StatusCode::CREATED, Json(shown)).into_response())
}

/// What is in a file.
#[utoipa::path(get, path = "/attachments/{id}/content", tag = "attachments",
    params(("id" = i32, Path)),
    responses(
        (status = 200, description = "Its bytes", body = String, content_type = "application/octet-stream"),
        (status = UNAUTHORIZED, body = Problem, content_type = "application/problem+json", description = "No token, or one that is unknown"),
        (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such record"),
    ))]
pub async fn content(State(state): State<AppState>, _: Program, Id(id): Id<i32>) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let file = plan.records.attachments.get(&AttachmentId(id)).ok_or_else(not_there)?;
    files::content(&state, file).await.map_err(|error| match error {
        Error::NotFound => not_there(),
        error => error.for_program(),
    })
}
