//! What a request of the room looks at: the plan as it stands, and the view that the address means.

use super::query::{FitParams, FitQuery};
use crate::{AppState, Error};
use axum::{
    extract::{FromRequestParts, Query},
    http::{HeaderMap, Uri, header, request::Parts},
};
use snug_core::Plan;
use std::sync::Arc;

/// The plan and the view of it.
pub struct View {
    pub plan: Arc<Plan>,
    pub query: FitQuery,
}

impl FromRequestParts<AppState> for View {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        // An address that cannot be read is one that says nothing.
        let params =
            Query::<FitParams>::from_request_parts(parts, state).await.map(|Query(params)| params).unwrap_or_default();
        let plan = state.keeper.plan();
        let query = FitQuery::read(&params, &plan, state.today());
        Ok(Self { plan, query })
    }
}

/// The view of the room that a link was followed from, as the browser tells it.
pub fn before(headers: &HeaderMap) -> Option<FitParams> {
    let from: Uri = headers.get(header::REFERER)?.to_str().ok()?.parse().ok()?;
    let query = Query::<FitParams>::try_from_uri(&from).ok()?;
    (from.path() == "/fit").then_some(query.0)
}
