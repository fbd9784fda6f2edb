//! Records of every kind: list, read, make, change, remove.

use super::{
    body,
    extract::{Asked, Body, Id, Writer, not_there},
    page_size, submit, submit_once, told,
};
use crate::{AppState, Error, auth::Program, columns::record as standing};
use axum::{
    Json,
    extract::State,
    http::{HeaderMap, HeaderValue, StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value, json};
use snug_core::{
    Command, Eyes, Plan,
    change::Change,
    import::{Dataset, keeping_parts, record},
    kinds::Kind,
};
use snug_store::{
    accounts::Account,
    idempotency::{self, Known, Once},
};

/// A page of a list.
#[derive(Debug, Default, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct PageParams {
    /// At most so many, up to 500; 100 when left out.
    limit: Option<u32>,
    /// Only those after this one: the `next` of the page before.
    after: Option<i32>,
}

fn page_of<T>(
    params: &PageParams,
    ids: impl Iterator<Item = i32>,
    read: impl Fn(i32) -> Option<T>,
) -> Result<(Vec<T>, Option<i32>), Error> {
    let limit = usize::try_from(page_size(params.limit.map(u64::from))?).unwrap_or(usize::MAX);
    let after = params.after.unwrap_or(0);
    if after < 0 {
        return Err(Error::Api(StatusCode::UNPROCESSABLE_ENTITY, "after: is not less than 0".to_owned()));
    }
    let mut ids: Vec<i32> = ids.filter(|id| *id > after).collect();
    ids.sort_unstable();
    let next = (ids.len() > limit).then(|| ids[limit - 1]);
    Ok((ids.into_iter().take(limit).filter_map(read).collect(), next))
}

/// What is wrong with a body, by column, as one problem.
fn refused(problems: &[(String, String)]) -> Error {
    let parts = problems
        .iter()
        .map(|(column, reason)| if column.is_empty() { reason.clone() } else { format!("{column}: {reason}") });
    let field = problems.first().map(|(column, _)| column.clone()).filter(|column| !column.is_empty());
    Error::ApiField(StatusCode::UNPROCESSABLE_ENTITY, parts.collect::<Vec<_>>().join("; "), field)
}

/// The record that a body describes. What a body does not speak of, as later patterns and rates of a person, stays as it stands.
fn read(
    plan: &Plan,
    kind: Kind,
    body: &Map<String, Value>,
    id: i32,
    standing: Option<&Change>,
) -> Result<Change, Error> {
    let cells = body::cells(kind, body).map_err(|problems| refused(&problems))?;
    let data = Dataset::of_row(kind.about().file, cells.iter().map(|(name, value)| (name.as_str(), value.as_str())));
    let made = record(plan, kind, &data, id).map_err(|problems| refused(&problems))?;
    Ok(match standing {
        Some(standing) => keeping_parts(made, standing),
        None => made,
    })
}

fn shown(eyes: &Eyes<'_>, change: &Change) -> Option<Value> {
    change.record().map(|record| body::shown(eyes, record))
}

/// The tag by which a record as it stands is known to whoever sees all of it.
fn tag(eyes: &Eyes<'_>, change: &Change) -> Option<String> {
    change.record().and_then(|record| eyes.tag(record)).map(|tag| format!("\"{tag}\""))
}

fn tagged(status: StatusCode, eyes: &Eyes<'_>, change: &Change, body: impl Serialize) -> Response {
    let mut response = (status, Json(body)).into_response();
    if let Some(value) = tag(eyes, change).and_then(|tag| HeaderValue::from_str(&tag).ok()) {
        response.headers_mut().insert(header::ETAG, value);
    }
    response
}

/// Refuses where the request says which version it means, and another one stands. Whoever does not see all of it is not told, and
/// may not change it either.
fn matches(headers: &HeaderMap, eyes: &Eyes<'_>, standing: &Change) -> Result<(), Error> {
    let Some(tag) = tag(eyes, standing) else { return Ok(()) };
    match headers.get(header::IF_MATCH).and_then(|value| value.to_str().ok()) {
        Some(wanted) if wanted != "*" && wanted != tag => {
            let message = "Somebody else has changed this record since you read it; read it again.".to_owned();
            Err(Error::Api(StatusCode::PRECONDITION_FAILED, message))
        }
        _ => Ok(()),
    }
}

/// A page of them, by identity.
pub fn list(
    kind: Kind,
    State(state): State<AppState>,
    Program { account, .. }: Program,
    Asked(params): Asked<PageParams>,
) -> Result<Json<Value>, Error> {
    let plan = state.keeper.plan();
    let eyes = account.actor().eyes(&plan);
    let ids = eyes.all(kind).into_iter().map(|record| record.number());
    let (items, next) = page_of(&params, ids, |id| eyes.one(kind, id).map(|record| body::shown(&eyes, &*record)))?;
    Ok(Json(json!({ "items": items, "next": next })))
}

/// One of them.
pub fn one(
    kind: Kind,
    State(state): State<AppState>,
    Program { account, .. }: Program,
    Id(id): Id<i32>,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let eyes = account.actor().eyes(&plan);
    let standing = eyes.one(kind, id).map(|record| record.as_new()).ok_or_else(not_there)?;
    let record = shown(&eyes, &standing).ok_or_else(not_there)?;
    Ok(tagged(StatusCode::OK, &eyes, &standing, record))
}

/// Makes one. With an Idempotency-Key the same request made twice within a day is done once.
pub async fn create(
    kind: Kind,
    State(state): State<AppState>,
    Writer(program): Writer,
    headers: HeaderMap,
    body: Body<Map<String, Value>>,
) -> Result<Response, Error> {
    let account = &program.account;
    let key = headers.get("idempotency-key").map(|key| key.to_str().unwrap_or_default().to_owned());
    if key.as_ref().is_some_and(|key| key.is_empty() || key.len() > 200) {
        let message = "Idempotency-Key: has between 1 and 200 plain characters".to_owned();
        return Err(Error::Api(StatusCode::BAD_REQUEST, message));
    }
    let once = key.map(|key| Once::new(account.id, &key, &format!("POST {} {}", kind.about().file, body.text)));
    if let Some(once) = &once
        && let Some(answer) = answered(&state, kind, account, once).await?
    {
        return Ok(answer);
    }
    let made = read(&state.keeper.plan(), kind, &body.value, 0, None)?;
    let command = Command::Edit { changes: vec![made] };
    match (submit_once(&state, account, command, once.clone()).await, once) {
        (Ok(outcome), _) => created(kind, &account.actor().eyes(&outcome.after), &outcome.changes),
        // The same request was under way at the same time, and came first.
        (Err(Error::Store(snug_store::Error::DoneBefore)), Some(once)) => {
            answered(&state, kind, account, &once).await?.ok_or_else(not_there)
        }
        (Err(error), _) => Err(error.for_program()),
    }
}

/// What is answered where a record was made.
fn created(kind: Kind, eyes: &Eyes<'_>, changes: &[Change]) -> Result<Response, Error> {
    let made = changes.iter().find(|change| change.subject().0 == kind).ok_or_else(not_there)?;
    let record = shown(eyes, made).ok_or_else(not_there)?;
    Ok(tagged(StatusCode::CREATED, eyes, &made.clone().only_after().unwrap_or_else(|| made.clone()), record))
}

/// What is answered to a request that was done before: the record as it was made then.
async fn answered(state: &AppState, kind: Kind, account: &Account, once: &Once) -> Result<Option<Response>, Error> {
    let db = state.keeper.db();
    match idempotency::look(db, once).await.map_err(told)? {
        Known::New => Ok(None),
        Known::Done(revision) => {
            let changes = state.keeper.ledger().changes_of(revision).await.map_err(told)?;
            created(kind, &account.actor().eyes(&state.keeper.plan()), &changes).map(Some)
        }
        Known::Other => {
            let message = "This Idempotency-Key came with another request before; send a new one.".to_owned();
            Err(Error::Api(StatusCode::UNPROCESSABLE_ENTITY, message))
        }
    }
}

/// Puts another value in its place. With If-Match it is refused where another version stands.
pub async fn change(
    kind: Kind,
    State(state): State<AppState>,
    Writer(program): Writer,
    Id(id): Id<i32>,
    headers: HeaderMap,
    body: Body<Map<String, Value>>,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let standing = standing(&plan, kind, id).ok_or_else(not_there)?;
    matches(&headers, &program.account.actor().eyes(&plan), &standing)?;
    let to = read(&plan, kind, &body.value, id, Some(&standing))?;
    let changes = Change::between(&standing, &to).into_iter().collect();
    let outcome = submit(&state, &program.account, Command::Edit { changes }).await?;
    let now = outcome.after.standing(&to);
    let eyes = program.account.actor().eyes(&outcome.after);
    let record = shown(&eyes, &now).ok_or_else(not_there)?;
    Ok(tagged(StatusCode::OK, &eyes, &now, record))
}

/// Removes it.
pub async fn remove(
    kind: Kind,
    State(state): State<AppState>,
    Writer(program): Writer,
    Id(id): Id<i32>,
    headers: HeaderMap,
) -> Result<StatusCode, Error> {
    let plan = state.keeper.plan();
    let standing = standing(&plan, kind, id).ok_or_else(not_there)?;
    matches(&headers, &program.account.actor().eyes(&plan), &standing)?;
    submit(&state, &program.account, Command::Edit { changes: vec![standing.inverse()] }).await?;
    Ok(StatusCode::NO_CONTENT)
}
