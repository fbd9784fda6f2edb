//! What a page or the API answers when something does not work out.

use askama::Template;
use axum::{
    Json,
    http::StatusCode,
    response::{Html, IntoResponse, Redirect, Response},
};
use snug_core::{NoTag, Refusal, RefusalCode};

/// A request that cannot be answered as wished.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// There is no such page or thing.
    #[error("There is no such page.")]
    NotFound,
    /// Nobody is signed in.
    #[error("Sign in first.")]
    SignedOut,
    /// The role does not allow it.
    #[error("{0}")]
    NotAllowed(&'static str),
    /// The request cannot be read.
    #[error("{0}")]
    BadRequest(String),
    /// A program's request cannot be answered; told as a problem document.
    #[error("{1}")]
    Api(StatusCode, String),
    /// The same about one column.
    #[error("{1}")]
    ApiField(StatusCode, String, Option<String>),
    /// The rules refuse, or the database does.
    #[error(transparent)]
    Store(#[from] snug_store::Error),
    /// A letter cannot be sent.
    #[error("a letter cannot be sent: {0}")]
    Mail(String),
    /// What is in a file cannot be laid down or read.
    #[error("the store of files does not answer: {0}")]
    Files(String),
    /// A page cannot be made.
    #[error("a page cannot be made")]
    Render(#[from] askama::Error),
    /// The session cannot be read or written.
    #[error("the session cannot be read")]
    Session(#[from] tower_sessions::session::Error),
}

impl From<Refusal> for Error {
    fn from(refusal: Refusal) -> Self {
        Self::Store(snug_store::Error::Refused(refusal))
    }
}

impl From<NoTag> for Error {
    fn from(unclear: NoTag) -> Self {
        Self::BadRequest(unclear.to_string())
    }
}

#[derive(Template)]
#[template(path = "frame/error.html")]
struct ErrorPage {
    title: &'static str,
    message: String,
}

impl Error {
    /// The same as a problem document, for programs.
    #[must_use]
    pub fn for_program(self) -> Self {
        let status = self.status();
        let field = match &self {
            Self::Store(snug_store::Error::Refused(refusal)) if !refusal.field.is_empty() => {
                Some(refusal.field.to_owned())
            }
            _ => None,
        };
        if status.is_server_error() {
            tracing::error!(error = &self as &dyn std::error::Error, "request failed");
        }
        Self::ApiField(status, self.message(status), field)
    }

    /// The status that goes with it.
    pub fn status(&self) -> StatusCode {
        // No wildcard arm, so that a new variant must be given its place.
        match self {
            Self::NotFound => StatusCode::NOT_FOUND,
            Self::SignedOut => StatusCode::UNAUTHORIZED,
            Self::NotAllowed(_) => StatusCode::FORBIDDEN,
            Self::BadRequest(_) => StatusCode::BAD_REQUEST,
            Self::Api(status, _) | Self::ApiField(status, ..) => *status,
            Self::Store(error) => match error {
                snug_store::Error::Refused(refusal) => match refusal.code {
                    RefusalCode::ChangedMeanwhile | RefusalCode::NotNow => StatusCode::CONFLICT,
                    RefusalCode::NotFound => StatusCode::NOT_FOUND,
                    RefusalCode::NotAllowed => StatusCode::FORBIDDEN,
                    RefusalCode::BadValue => StatusCode::UNPROCESSABLE_ENTITY,
                },
                snug_store::Error::AccountExists
                | snug_store::Error::WorkspaceExists
                | snug_store::Error::DoneBefore
                | snug_store::Error::Stopped
                | snug_store::Error::LastAdministrator => StatusCode::CONFLICT,
                snug_store::Error::TooMuchWaits => StatusCode::TOO_MANY_REQUESTS,
                snug_store::Error::Busy | snug_store::Error::Db(_) => StatusCode::SERVICE_UNAVAILABLE,
                snug_store::Error::Damaged(_) | snug_store::Error::Password | snug_store::Error::Sealed => {
                    StatusCode::INTERNAL_SERVER_ERROR
                }
            },
            Self::Mail(_) => StatusCode::BAD_GATEWAY,
            Self::Files(_) => StatusCode::INSUFFICIENT_STORAGE,
            // The session store speaks to the database and to nothing else.
            Self::Session(_) => StatusCode::SERVICE_UNAVAILABLE,
            Self::Render(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }

    /// The sentence for people; never what the inside says.
    fn message(&self, status: StatusCode) -> String {
        match status {
            StatusCode::SERVICE_UNAVAILABLE => {
                "The database does not answer at this moment. Nothing was changed; try again in a while.".to_owned()
            }
            StatusCode::INSUFFICIENT_STORAGE => {
                "Files cannot be laid down or read at this moment. Nothing was changed; try again in a while."
                    .to_owned()
            }
            StatusCode::BAD_GATEWAY => "The mail server does not take the letter. Try again in a while.".to_owned(),
            StatusCode::INTERNAL_SERVER_ERROR => "Something went wrong here. Nothing was changed.".to_owned(),
            _ => self.to_string(),
        }
    }
}

impl IntoResponse for Error {
    fn into_response(self) -> Response {
        let status = self.status();
        if status.is_server_error() {
            tracing::error!(error = &self as &dyn std::error::Error, "request failed");
        }
        let message = self.message(status);
        match self {
            Self::SignedOut => Redirect::to("/sign-in").into_response(),
            Self::Api(..) | Self::ApiField(..) => {
                let field = if let Self::ApiField(.., field) = self { field } else { None };
                let title = status.canonical_reason().unwrap_or("Problem").to_owned();
                let body = crate::api::Problem { title, status: status.as_u16(), detail: message, field };
                let kind = [(axum::http::header::CONTENT_TYPE, "application/problem+json")];
                (status, kind, Json(body).into_response().into_body()).into_response()
            }
            _ => {
                let title = match status {
                    StatusCode::NOT_FOUND => "Not here",
                    StatusCode::FORBIDDEN => "Not yours to do",
                    StatusCode::SERVICE_UNAVAILABLE | StatusCode::INSUFFICIENT_STORAGE => "Back in a while",
                    _ => "That did not work",
                };
                let page = ErrorPage { title, message }.render();
                (status, Html(page.unwrap_or_default())).into_response()
            }
        }
    }
}
