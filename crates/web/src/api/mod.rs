//! The API for programs: JSON in and out, a token in the header, `OpenAPI` 3.1 at `/api/v1/openapi.json`.
//!
//! Records have the columns of the files, so a program, a form and a file are refused by the same rules in the same words.

mod belongs;
mod body;
mod describe;
mod extract;
mod ledger;
mod load;
mod network;
mod records;
mod refusals;

use crate::{AppState, Error};
use axum::{Json, Router, http::StatusCode, routing::get};
use serde::Serialize;
use snug_core::{Command, kinds::Kind};
use snug_store::{Outcome, accounts::Account, idempotency::Once};
use utoipa::{
    Modify, OpenApi, ToSchema,
    openapi::security::{HttpAuthScheme, HttpBuilder, SecurityScheme},
};
use utoipa_axum::{router::OpenApiRouter, routes};

#[derive(OpenApi)]
#[openapi(
    info(
        title = "Snug Roster",
        description = "Allocate people's hours across projects, inside everyone's limits.\n\nSend a token as `Authorization: Bearer snug_…`; make one on your account page. A token that reads may use GET only. What is refused is answered with a problem document (RFC 9457) whose `detail` is a sentence for people."
    ),
    modifiers(&Tokens),
    security(("token" = [])),
    components(schemas(Problem)),
    tags(
        (name = "load", description = "The load table, the same figures as the Fit room"),
        (name = "network", description = "What is critical, and what moves if this moves; the same figures as the Gantt"),
        (name = "ledger", description = "Every change in order, and how to take it back"),
    )
)]
struct Doc;

struct Tokens;

impl Modify for Tokens {
    fn modify(&self, doc: &mut utoipa::openapi::OpenApi) {
        let scheme = SecurityScheme::Http(HttpBuilder::new().scheme(HttpAuthScheme::Bearer).build());
        doc.components.get_or_insert_default().add_security_scheme("token", scheme);
    }
}

/// Why something cannot be done (RFC 9457).
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// The status in words.
    pub title: String,
    /// The status.
    pub status: u16,
    /// What is wrong and what would do, in a sentence.
    pub detail: String,
    /// The column it is about, where it is about one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<String>,
}

pub fn routes() -> Router<AppState> {
    let api = OpenApiRouter::new()
        .routes(routes!(load::load))
        .routes(routes!(network::network))
        .routes(routes!(network::take))
        .routes(routes!(belongs::written, belongs::say))
        .routes(routes!(belongs::bring))
        .routes(routes!(belongs::content))
        .routes(routes!(ledger::entries))
        .routes(routes!(ledger::take_back));
    let (router, doc) = OpenApiRouter::with_openapi(Doc::openapi()).nest("/api/v1", api).split_for_parts();
    let mut doc = serde_json::to_value(doc).unwrap_or_default();
    describe::add_records(&mut doc);
    describe::open_kinds()
        .fold(router, with_records)
        .route("/api/v1/openapi.json", get(async move || Json(doc)))
        .route("/api/v1/{*path}", axum::routing::any(unknown))
}

/// The addresses of one kind of record.
fn with_records(router: Router<AppState>, kind: Kind) -> Router<AppState> {
    let path = format!("/api/v1/{}", kind.about().path);
    let all = get(async move |state, program, asked| records::list(kind, state, program, asked))
        .post(move |state, program, headers, body| records::create(kind, state, program, headers, body));
    let one = get(async move |state, program, id| records::one(kind, state, program, id))
        .put(move |state, program, id, headers, body| records::change(kind, state, program, id, headers, body))
        .delete(move |state, program, id, headers| records::remove(kind, state, program, id, headers));
    router.route(&path, all).route(&format!("{path}/{{id}}"), one)
}

async fn unknown() -> Error {
    Error::Api(StatusCode::NOT_FOUND, "There is no such address in the API.".to_owned())
}

/// The method is not one of an address's.
pub async fn wrong_method() -> Error {
    Error::Api(StatusCode::METHOD_NOT_ALLOWED, "This address does not know this method.".to_owned())
}

/// What the database or the rules say, as a problem document.
fn told(error: snug_store::Error) -> Error {
    Error::from(error).for_program()
}

/// Carries a command out for the account of a token, if its role allows it.
async fn submit(state: &AppState, account: &Account, command: Command) -> Result<Outcome, Error> {
    submit_once(state, account, command, None).await.map_err(Error::for_program)
}

/// The same for a request that is to be done once.
async fn submit_once(
    state: &AppState,
    account: &Account,
    command: Command,
    once: Option<Once>,
) -> Result<Outcome, Error> {
    if !account.actor().may(&state.keeper.plan(), &command) {
        return Err(Error::Api(StatusCode::FORBIDDEN, "The account of this token may not do that.".to_owned()));
    }
    state.keeper.submit_once(&account.email, command, state.today(), once).await.map_err(Error::from)
}

/// How many a page has, as asked.
fn page_size(limit: Option<u64>) -> Result<u64, Error> {
    let limit = limit.unwrap_or(100);
    if (1..=500).contains(&limit) {
        return Ok(limit);
    }
    Err(Error::Api(StatusCode::UNPROCESSABLE_ENTITY, "limit: lies between 1 and 500".to_owned()))
}
