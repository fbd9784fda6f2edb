//! The ledger: every change in order, and taking entries back.

use super::{
    Problem,
    extract::{Asked, Id, Writer, not_there},
    page_size,
    refusals::{OfAsking, OfChanging},
    submit, told,
};
use crate::{AppState, Error, auth::Program};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use snug_core::Command;
use snug_store::ledger::{self, Filter};
use utoipa::{IntoParams, ToSchema};

/// Which entries.
#[derive(Default, Deserialize, IntoParams)]
#[serde(default, deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct LedgerParams {
    /// Only those before this one, for the next page.
    #[param(minimum = 1)]
    before: Option<i64>,
    /// At most so many, up to 500; 100 when left out.
    #[param(minimum = 1, maximum = 500)]
    limit: Option<u64>,
    /// Only by this author.
    actor: Option<String>,
}

/// An entry of the ledger.
#[derive(Serialize, ToSchema)]
pub struct LedgerEntry {
    /// Its number.
    revision: i64,
    /// When.
    at: chrono::DateTime<chrono::Utc>,
    /// Who, by address.
    actor: String,
    /// What was done.
    title: String,
    /// The entry that it takes back.
    undoes: Option<i64>,
    /// How many records it changed.
    changes: i32,
}

impl From<ledger::Entry> for LedgerEntry {
    fn from(entry: ledger::Entry) -> Self {
        Self {
            revision: entry.revision,
            at: entry.at,
            actor: entry.actor,
            title: entry.title,
            undoes: entry.undoes,
            changes: entry.changes,
        }
    }
}

/// Entries, the newest first.
#[utoipa::path(get, path = "/ledger", tag = "ledger", params(LedgerParams), responses(
    (status = OK, body = Vec<LedgerEntry>, description = "The entries"),
    OfAsking,
))]
pub async fn entries(
    State(state): State<AppState>,
    _: Program,
    Asked(params): Asked<LedgerParams>,
) -> Result<Json<Vec<LedgerEntry>>, Error> {
    let limit = page_size(params.limit)?;
    if params.before.is_some_and(|before| before < 1) {
        return Err(Error::Api(StatusCode::UNPROCESSABLE_ENTITY, "before: is not less than 1".to_owned()));
    }
    let filter = Filter { actor: params.actor, before: params.before, limit, ..Filter::default() };
    let found = state.keeper.ledger().entries(&filter).await.map_err(told)?;
    Ok(Json(found.into_iter().map(LedgerEntry::from).collect()))
}

/// Takes an entry back. It is refused where what it changed has been changed again since.
#[utoipa::path(post, path = "/ledger/{revision}/undo", tag = "ledger", params(("revision" = i64, Path)), responses(
    (status = OK, body = LedgerEntry, description = "The entry that takes it back"),
    OfChanging,
    (status = NOT_FOUND, body = Problem, content_type = "application/problem+json", description = "There is no such entry"),
    (status = CONFLICT, body = Problem, content_type = "application/problem+json", description = "It cannot be taken back as the plan stands"),
))]
pub async fn take_back(
    State(state): State<AppState>,
    Writer(program): Writer,
    Id(revision): Id<i64>,
) -> Result<Json<LedgerEntry>, Error> {
    let ledger = state.keeper.ledger();
    ledger.entry(revision).await.map_err(told)?.ok_or_else(not_there)?;
    if !ledger.taken_back(&[revision]).await.map_err(told)?.is_empty() {
        return Err(Error::Api(StatusCode::CONFLICT, format!("Entry {revision} has been taken back already.")));
    }
    let changes = ledger.changes_of(revision).await.map_err(told)?;
    let command = Command::Undo { revision, changes };
    let outcome = submit(&state, &program.account, command).await?;
    let made = ledger.entry(outcome.revision).await.map_err(told)?.ok_or_else(not_there)?;
    Ok(Json(made.into()))
}
