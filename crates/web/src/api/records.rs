//! People, projects, tasks, bookings, time: list, read, make, change, remove.

use super::{
    Problem,
    bodies::{
        BookingBody, BookingRecord, Columns, PersonBody, PersonRecord, ProjectBody, ProjectRecord, TaskBody,
        TaskRecord, TimeBody, TimeRecord,
    },
    extract::{Asked, Body, Id, Writer, not_there},
    page_size,
    refusals::{OfAsking, OfBody, OfChanging},
    submit, told,
};
use crate::{
    AppState, Error,
    auth::Program,
    records::{altered, record as standing},
    words,
};
use axum::{
    Json,
    extract::State,
    http::{HeaderMap, HeaderValue, StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::{Deserialize, Serialize};
use snug_core::{Command, Plan, change::Change, import::record};
use snug_exchange::csv::{read_row, row_of};
use snug_store::{accounts::Account, answers};
use utoipa::{IntoParams, ToSchema};

/// A page of a list.
#[derive(Debug, Default, Deserialize, IntoParams)]
#[serde(default, deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct PageParams {
    /// At most so many, up to 500; 100 when left out.
    #[param(minimum = 1, maximum = 500)]
    limit: Option<u32>,
    /// Only those after this one: the `next` of the page before.
    #[param(minimum = 0)]
    after: Option<i32>,
}

/// A page of records.
#[derive(Debug, Serialize, ToSchema)]
pub struct Page<T> {
    /// The records, by identity.
    pub items: Vec<T>,
    /// What to send as `after` for the next page; nothing on the last one.
    pub next: Option<i32>,
}

fn page_of<T>(
    params: &PageParams,
    ids: impl Iterator<Item = i32>,
    read: impl Fn(i32) -> Option<T>,
) -> Result<Page<T>, Error> {
    let limit = usize::try_from(page_size(params.limit.map(u64::from))?).unwrap_or(usize::MAX);
    let after = params.after.unwrap_or(0);
    if after < 0 {
        return Err(Error::Api(StatusCode::UNPROCESSABLE_ENTITY, "after: is not less than 0".to_owned()));
    }
    let mut ids: Vec<i32> = ids.filter(|id| *id > after).collect();
    ids.sort_unstable();
    let next = (ids.len() > limit).then(|| ids[limit - 1]);
    Ok(Page { items: ids.into_iter().take(limit).filter_map(read).collect(), next })
}

/// What is wrong with a body, by column, as one problem.
fn refused(problems: &[(String, String)]) -> Error {
    let parts = problems
        .iter()
        .map(|(column, reason)| if column.is_empty() { reason.clone() } else { format!("{column}: {reason}") });
    let field = problems.first().map(|(column, _)| column.clone()).filter(|column| !column.is_empty());
    Error::ApiField(StatusCode::UNPROCESSABLE_ENTITY, parts.collect::<Vec<_>>().join("; "), field)
}

/// The record that a body describes. A new person has no later patterns and rates; a changed one keeps them.
fn read<B: Columns>(plan: &Plan, body: &B, id: i32, standing: Option<&Change>) -> Result<Change, Error> {
    let cells = body.cells();
    if let Some((name, _)) = cells.iter().find(|(_, value)| value.contains(['\n', '\r']) && !value.is_empty()) {
        return Err(refused(&[(name.clone(), "is more than one line".to_owned())]));
    }
    let data = read_row(B::FILE, cells.iter().map(|(name, value)| (name.as_str(), value.as_str())));
    let made = record(plan, &data, id).map_err(|problems| refused(&problems))?;
    Ok(match (made, standing) {
        (Change::Person(mut edit), Some(Change::Person(standing))) => {
            if let (Some(person), Some(standing)) = (&mut edit.after, &standing.after) {
                person.patterns.extend(standing.patterns.iter().filter(|dated| dated.from.is_some()).cloned());
                person.rates.extend(standing.rates.iter().filter(|rate| rate.from.is_some()).cloned());
            }
            Change::Person(edit)
        }
        (made, _) => made,
    })
}

fn shown<B: Columns, R: From<(i32, B)>>(plan: &Plan, change: &Change) -> Option<R> {
    let id = change.subject().1;
    row_of(plan, change).map(|cells| R::from((id, B::of(&cells))))
}

/// The tag by which a record as it stands is known.
fn tag(change: &Change) -> String {
    use sha2::Digest as _;
    let text = serde_json::to_string(change).unwrap_or_default();
    let digest = sha2::Sha256::digest(text.as_bytes());
    format!("\"{}\"", words::hex(&digest[..12]))
}

fn tagged(status: StatusCode, change: &Change, body: impl Serialize) -> Response {
    let mut response = (status, Json(body)).into_response();
    if let Ok(value) = HeaderValue::from_str(&tag(change)) {
        response.headers_mut().insert(header::ETAG, value);
    }
    response
}

/// Refuses where the request says which version it means, and another one stands.
fn matches(headers: &HeaderMap, standing: &Change) -> Result<(), Error> {
    match headers.get(header::IF_MATCH).and_then(|value| value.to_str().ok()) {
        Some(wanted) if wanted != "*" && wanted != tag(standing) => {
            let message = "Somebody else has changed this record since you read it; read it again.".to_owned();
            Err(Error::Api(StatusCode::PRECONDITION_FAILED, message))
        }
        _ => Ok(()),
    }
}

async fn create<B: Columns + Send, R: From<(i32, B)> + Serialize>(
    state: &AppState,
    account: &Account,
    headers: &HeaderMap,
    body: Body<B>,
) -> Result<Response, Error> {
    let db = state.keeper.db();
    let key = headers.get("idempotency-key").map(|key| key.to_str().unwrap_or_default().to_owned());
    if key.as_ref().is_some_and(|key| key.is_empty() || key.len() > 200) {
        let message = "Idempotency-Key: has between 1 and 200 plain characters".to_owned();
        return Err(Error::Api(StatusCode::BAD_REQUEST, message));
    }
    let request = format!("POST {} {}", B::FILE, body.text);
    if let Some(key) = &key {
        let kept = answers::look(db, account.id, key, &request).await.map_err(told)?;
        match kept {
            answers::Kept::Nothing => {}
            answers::Kept::Same(status, body) => {
                return Ok((StatusCode::from_u16(status).unwrap_or(StatusCode::OK), Json(body)).into_response());
            }
            answers::Kept::Other => {
                let message = "This Idempotency-Key came with another request before; send a new one.".to_owned();
                return Err(Error::Api(StatusCode::UNPROCESSABLE_ENTITY, message));
            }
        }
    }
    let made = read(&state.keeper.plan(), &body.value, 0, None)?;
    let kind = made.subject().0;
    let outcome = submit(state, account, Command::Edit { changes: vec![made] }).await?;
    let made = outcome.changes.iter().find(|change| change.subject().0 == kind).ok_or_else(not_there)?;
    let record: R = shown(&outcome.after, made).ok_or_else(not_there)?;
    if let Some(key) = &key {
        let value = serde_json::to_value(&record).unwrap_or_default();
        let kept = answers::keep(db, account.id, key, &request, StatusCode::CREATED.as_u16(), &value).await;
        kept.map_err(told)?;
    }
    Ok(tagged(StatusCode::CREATED, &made.clone().only_after().unwrap_or_else(|| made.clone()), record))
}

async fn alter<B: Columns + Send, R: From<(i32, B)> + Serialize>(
    state: &AppState,
    account: &Account,
    headers: &HeaderMap,
    standing: Option<Change>,
    body: Body<B>,
) -> Result<Response, Error> {
    let standing = standing.ok_or_else(not_there)?;
    matches(headers, &standing)?;
    let id = standing.subject().1;
    let to = read(&state.keeper.plan(), &body.value, id, Some(&standing))?;
    let changes = altered(standing, to.clone()).into_iter().collect();
    let outcome = submit(state, account, Command::Edit { changes }).await?;
    let now = outcome.after.standing(&to);
    let record: R = shown(&outcome.after, &now).ok_or_else(not_there)?;
    Ok(tagged(StatusCode::OK, &now, record))
}

async fn take_off(
    state: &AppState,
    account: &Account,
    headers: &HeaderMap,
    standing: Option<Change>,
) -> Result<StatusCode, Error> {
    let standing = standing.ok_or_else(not_there)?;
    matches(headers, &standing)?;
    submit(state, account, Command::Edit { changes: vec![standing.inverse()] }).await?;
    Ok(StatusCode::NO_CONTENT)
}

macro_rules! resource {
    ($module:ident, $tag:literal, $path:literal, $path_id:literal, $body:ident, $record:ident, $kind:literal, $ids:expr) => {
        pub mod $module {
            use super::*;

            /// A page of them, by identity.
            #[utoipa::path(get, path = $path, tag = $tag, params(PageParams), responses(
                (status = OK, body = Page<$record>, description = "A page of them"),
                OfAsking,
            ))]
            pub async fn list(
                State(state): State<AppState>,
                _: Program,
                Asked(params): Asked<PageParams>,
            ) -> Result<Json<Page<$record>>, Error> {
                let plan = state.keeper.plan();
                let ids: fn(&Plan) -> Vec<i32> = $ids;
                let read = |id| standing(&plan, $kind, id).and_then(|change| shown::<$body, $record>(&plan, &change));
                page_of(&params, ids(&plan).into_iter(), read).map(Json)
            }

            /// One of them.
            #[utoipa::path(get, path = $path_id, tag = $tag, params(("id" = i32, Path)), responses(
                (status = OK, body = $record, description = "The record; its ETag names this version"),
                (status = UNAUTHORIZED, body = Problem, content_type = "application/problem+json", description = "No token, or one that is unknown"),
                (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such record"),
            ))]
            pub async fn one(State(state): State<AppState>, _: Program, Id(id): Id<i32>) -> Result<Response, Error> {
                let plan = state.keeper.plan();
                let standing = standing(&plan, $kind, id).ok_or_else(not_there)?;
                let record = shown::<$body, $record>(&plan, &standing).ok_or_else(not_there)?;
                Ok(tagged(StatusCode::OK, &standing, record))
            }

            /// Makes one. With an Idempotency-Key the same request made twice within a day is done once.
            #[utoipa::path(post, path = $path, tag = $tag, request_body = $body, params(("Idempotency-Key" = Option<String>, Header, min_length = 1, max_length = 200)), responses(
                (status = CREATED, body = $record, description = "Made"),
                (status = BAD_REQUEST, body = Problem, content_type = "application/problem+json", description = "A header cannot be read"),
                OfChanging,
                OfBody,
            ))]
            pub async fn create(
                State(state): State<AppState>,
                Writer(program): Writer,
                headers: HeaderMap,
                body: Body<$body>,
            ) -> Result<Response, Error> {
                super::create::<$body, $record>(&state, &program.account, &headers, body).await
            }

            /// Puts another value in its place. With If-Match it is refused where another version stands.
            #[utoipa::path(put, path = $path_id, tag = $tag, request_body = $body, params(("id" = i32, Path), ("If-Match" = Option<String>, Header)), responses(
                (status = OK, body = $record, description = "Changed"),
                OfChanging,
                (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such record"),
                OfBody,
                (status = PRECONDITION_FAILED, body = Problem, content_type = "application/problem+json", description = "Another version stands"),
            ))]
            pub async fn change(
                State(state): State<AppState>,
                Writer(program): Writer,
                Id(id): Id<i32>,
                headers: HeaderMap,
                body: Body<$body>,
            ) -> Result<Response, Error> {
                let standing = standing(&state.keeper.plan(), $kind, id);
                super::alter::<$body, $record>(&state, &program.account, &headers, standing, body).await
            }

            /// Removes it.
            #[utoipa::path(delete, path = $path_id, tag = $tag, params(("id" = i32, Path), ("If-Match" = Option<String>, Header)), responses(
                (status = NO_CONTENT, description = "Removed"),
                OfChanging,
                (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such record"),
                (status = CONFLICT, body = Problem, content_type = "application/problem+json", description = "Others still belong to it"),
                (status = PRECONDITION_FAILED, body = Problem, content_type = "application/problem+json", description = "Another version stands"),
            ))]
            pub async fn remove(
                State(state): State<AppState>,
                Writer(program): Writer,
                Id(id): Id<i32>,
                headers: HeaderMap,
            ) -> Result<StatusCode, Error> {
                let standing = standing(&state.keeper.plan(), $kind, id);
                take_off(&state, &program.account, &headers, standing).await
            }
        }
    };
}

resource!(people, "people", "/people", "/people/{id}", PersonBody, PersonRecord, "person", |plan| plan
    .people
    .keys()
    .map(|id| id.0)
    .collect());
resource!(projects, "projects", "/projects", "/projects/{id}", ProjectBody, ProjectRecord, "project", |plan| plan
    .projects
    .keys()
    .map(|id| id.0)
    .collect());
resource!(tasks, "tasks", "/tasks", "/tasks/{id}", TaskBody, TaskRecord, "task", |plan| plan
    .tasks
    .keys()
    .map(|id| id.0)
    .collect());
resource!(bookings, "bookings", "/bookings", "/bookings/{id}", BookingBody, BookingRecord, "booking", |plan| plan
    .bookings()
    .map(|booking| booking.id.0)
    .collect());
resource!(time, "time", "/time", "/time/{id}", TimeBody, TimeRecord, "time entry", |plan| plan
    .time_entries
    .keys()
    .map(|id| id.0)
    .collect());
