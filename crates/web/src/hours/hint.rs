//! A hint at a new estimate: by how much work of its kind was thought too short, and what the estimate would be then.

use crate::{Error, auth::User, drafts::Here, words};
use axum::{
    Json,
    extract::Query,
    response::{IntoResponse as _, Response},
};
use serde::Deserialize;
use serde_json::json;
use snug_core::{
    cell::hours_text,
    duration::{Bare, parse},
    hours::bias::{Bias, Key, Of, table},
};
use std::{collections::BTreeMap, sync::Arc};

/// The kind of work, and its estimate as it is typed.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    kind: String,
    estimate: String,
}

/// The rows by kind, worked out once for a plan.
struct ByKind(BTreeMap<Key, Bias>);

/// What there is to say, and what to take; nothing where too few tasks tell, or the estimate would stay as it is.
pub async fn hint(Here(state): Here, _: User, Query(asked): Query<Asked>) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let kept = Arc::clone(&state.kept);
    let found = crate::worked_out(move || {
        let estimate = parse(&asked.estimate, plan.settings.day_minutes, Bare::Hours).ok()?;
        let kinds = kept.get(&plan, String::new(), || ByKind(table(&plan, Of::Kind)));
        let bias = kinds.0.get(&Key::Kind(asked.kind.trim().to_owned()))?;
        let take = bias.corrected(estimate)?;
        Some(json!({
            "says": format!("{}.", words::capital(&bias.says()?)),
            "take": hours_text(take),
            "label": format!("Take {}", words::hours(take)),
        }))
    });
    Ok(Json(found.await?.unwrap_or_else(|| json!({}))).into_response())
}
