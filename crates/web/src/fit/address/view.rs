//! What a request of the room looks at: the plan as it stands, and the view that the address means.

use super::query::{FitParams, FitQuery};
use crate::{AppState, drafts::Here};
use axum::{
    extract::{FromRequestParts, Query},
    http::{HeaderMap, Uri, header, request::Parts},
    response::Response,
};
use snug_core::Plan;
use std::{convert::Infallible, sync::Arc};

/// What an address says. One that cannot be read says nothing.
pub struct Params(pub FitParams);

impl Params {
    fn of(address: &Uri) -> Self {
        Self(Query::try_from_uri(address).map(|Query(params)| params).unwrap_or_default())
    }
}

impl<S: Sync> FromRequestParts<S> for Params {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        Ok(Self::of(&parts.uri))
    }
}

/// The plan and the view of it.
pub struct View {
    pub plan: Arc<Plan>,
    pub query: FitQuery,
}

impl FromRequestParts<AppState> for View {
    type Rejection = Response;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Response> {
        let Here(state) = Here::from_request_parts(parts, state).await?;
        let Params(params) = Params::of(&parts.uri);
        let plan = state.keeper.plan();
        let query = FitQuery { live: state.live_plan(), ..FitQuery::read(&params, &plan, state.today()) };
        Ok(Self { plan, query })
    }
}

/// The view of the room that a link was followed from, as the browser tells it.
pub fn before(headers: &HeaderMap) -> Option<FitParams> {
    let from: Uri = headers.get(header::REFERER)?.to_str().ok()?.parse().ok()?;
    (from.path() == "/fit").then(|| Params::of(&from).0)
}
