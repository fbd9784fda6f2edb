//! What addresses of the room say, whatever view they are of. The address is the whole state of a view, so that it can be sent.

use crate::words;
use axum::{
    extract::{FromRequestParts, Query},
    http::{HeaderMap, Uri, header, request::Parts},
};
use serde::{Serialize, de::DeserializeOwned};
use std::{collections::BTreeMap, convert::Infallible};

/// What an address says in the words of a view. One that cannot be read says nothing.
pub struct Said<P>(pub P);

/// Reads an address. What is said several times, as each box of a form that is ticked, is a list with commas.
pub fn said<P: DeserializeOwned + Default>(address: &Uri) -> P {
    let pairs = Query::<Vec<(String, String)>>::try_from_uri(address).map(|Query(pairs)| pairs).unwrap_or_default();
    let mut said: BTreeMap<String, String> = BTreeMap::new();
    for (name, value) in pairs {
        let known = said.entry(name).or_default();
        if !known.is_empty() {
            known.push(',');
        }
        known.push_str(&value);
    }
    serde_json::to_value(said).and_then(serde_json::from_value).unwrap_or_default()
}

/// The view at `path` that a link was followed from, as the browser tells it.
pub fn before<P: DeserializeOwned + Default>(headers: &HeaderMap, path: &str) -> Option<P> {
    let from: Uri = headers.get(header::REFERER)?.to_str().ok()?.parse().ok()?;
    (from.path() == path).then(|| said(&from))
}

impl<S: Sync, P: DeserializeOwned + Default> FromRequestParts<S> for Said<P> {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        Ok(Self(said(&parts.uri)))
    }
}

/// The words that are said, for an address or for a form that says some of them itself. What a link asks for only once is not among them.
pub fn pairs<P: Serialize>(params: &P, besides: &[&str]) -> Vec<(String, String)> {
    let Ok(serde_json::Value::Object(all)) = serde_json::to_value(params) else { return Vec::new() };
    let text = |value: serde_json::Value| if let serde_json::Value::String(text) = value { Some(text) } else { None };
    let said = all.into_iter().filter_map(|(name, value)| Some((name, text(value)?)));
    said.filter(|(name, value)| !value.is_empty() && !besides.contains(&name.as_str())).collect()
}

/// The address of a view, or of a part of it.
pub fn href<P: Serialize>(path: &str, params: &P) -> String {
    let pairs = pairs(params, &["cell", "turn"]);
    words::address(path, pairs.iter().map(|(name, value)| (name.as_str(), value.as_str())))
}

/// The words of a list with commas between.
pub fn list(text: &str) -> Vec<String> {
    text.split(',').filter(|it| !it.is_empty()).map(str::to_owned).collect()
}
