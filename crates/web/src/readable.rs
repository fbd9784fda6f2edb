//! Whether what a request says can be kept at all.

use crate::Error;
use axum::{
    body::{Body, to_bytes},
    extract::Request,
    http::{HeaderMap, StatusCode, header},
    middleware::Next,
    response::{IntoResponse as _, Response},
};

/// The largest form that a page sends, in bytes, unless its route takes more.
pub const LARGEST_FORM: usize = 64 * 1024;
/// The largest that any route takes: a move of many bookings or tasks.
pub const LARGEST_MOVE: usize = 1024 * 1024;
/// What is told where it cannot be kept.
const SAYS: &str = "This holds a character that no text has (number zero).";

/// Refuses an address or a form with the character of number zero, which no text has and no database keeps.
pub async fn check(request: Request, next: Next) -> Response {
    let is_api = request.uri().path().starts_with("/api/");
    let refused = |message: &str| {
        let error = Error::Api(StatusCode::UNPROCESSABLE_ENTITY, message.to_owned());
        if is_api { error.into_response() } else { (error.status(), message.to_owned()).into_response() }
    };
    if request.uri().path_and_query().is_some_and(|address| address.as_str().contains("%00")) {
        return refused(SAYS);
    }
    if !is_form(request.headers()) {
        return next.run(request).await;
    }
    let (parts, body) = request.into_parts();
    // What is larger is refused in words by whoever reads it.
    match to_bytes(body, LARGEST_MOVE).await {
        Ok(form) if form.windows(3).any(|three| three == b"%00") || form.contains(&0) => refused(SAYS),
        Ok(form) => next.run(Request::from_parts(parts, Body::from(form))).await,
        Err(_) => (StatusCode::PAYLOAD_TOO_LARGE, "This form is too large.").into_response(),
    }
}

fn is_form(headers: &HeaderMap) -> bool {
    let kind = headers.get(header::CONTENT_TYPE).and_then(|kind| kind.to_str().ok());
    kind.is_some_and(|kind| kind.starts_with("application/x-www-form-urlencoded"))
}
