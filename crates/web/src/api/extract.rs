//! What a request says, read strictly; what cannot be read is told as a problem document.

use crate::{AppState, Error, auth::Program};
use axum::{
    Json,
    extract::{FromRequest, FromRequestParts, Path, Query, Request},
    http::{StatusCode, header, request::Parts},
};
use serde::de::DeserializeOwned;
use snug_store::accounts::Scope;

/// A program whose token may change things.
pub struct Writer(pub Program);

impl FromRequestParts<AppState> for Writer {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        let program = Program::from_request_parts(parts, state).await?;
        if program.scope == Scope::Write {
            return Ok(Self(program));
        }
        Err(Error::Api(StatusCode::FORBIDDEN, "This token is good for reading only.".to_owned()))
    }
}

/// What stands behind the question mark.
pub struct Asked<T>(pub T);

impl<T: DeserializeOwned> FromRequestParts<AppState> for Asked<T> {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        let read = Query::<T>::from_request_parts(parts, state).await;
        read.map(|Query(asked)| Self(asked)).map_err(|error| Error::Api(StatusCode::BAD_REQUEST, error.body_text()))
    }
}

/// A record's identity in the path; what is no number of a record is not there.
pub struct Id<T>(pub T);

impl<T: DeserializeOwned + Send> FromRequestParts<AppState> for Id<T> {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        let read = Path::<T>::from_request_parts(parts, state).await;
        read.map(|Path(id)| Self(id)).map_err(|_| not_there())
    }
}

/// The answer for a record that is not there.
pub fn not_there() -> Error {
    Error::Api(StatusCode::NOT_FOUND, "There is no such record.".to_owned())
}

/// A body in JSON, with its text.
pub struct Body<T> {
    /// What it says.
    pub value: T,
    /// As it was sent.
    pub text: String,
}

impl<T: DeserializeOwned> FromRequest<AppState> for Body<T> {
    type Rejection = Error;

    async fn from_request(request: Request, state: &AppState) -> Result<Self, Error> {
        let kind = request.headers().get(header::CONTENT_TYPE).and_then(|kind| kind.to_str().ok()).unwrap_or_default();
        if !kind.starts_with("application/json") {
            let message = "Send JSON, with the header “Content-Type: application/json”.".to_owned();
            return Err(Error::Api(StatusCode::UNSUPPORTED_MEDIA_TYPE, message));
        }
        let bytes = axum::body::Bytes::from_request(request, state).await;
        let bytes = bytes.map_err(|error| Error::Api(error.status(), error.body_text()))?;
        let Json(value) = Json::<T>::from_bytes(&bytes).map_err(|error| {
            Error::Api(StatusCode::UNPROCESSABLE_ENTITY, format!("The body cannot be read: {}", error.body_text()))
        })?;
        Ok(Self { value, text: String::from_utf8_lossy(&bytes).into_owned() })
    }
}
