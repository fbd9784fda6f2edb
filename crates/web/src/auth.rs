//! Who is asking, and what they may do.

use crate::{AppState, Error};
use axum::{
    extract::{FromRequestParts, OptionalFromRequestParts},
    http::request::Parts,
};
use snug_core::{Command, Role};
use snug_store::accounts::{self, Account};
use tower_sessions::Session;

/// The key of the account in the session.
pub const ACCOUNT: &str = "account";

/// Somebody who is signed in. A handler that takes a `User` sends everyone else to the sign-in page.
#[derive(Clone, Debug)]
pub struct User(pub Account);

impl User {
    /// Refuses a command that the role does not allow.
    pub fn check(&self, command: &Command) -> Result<(), Error> {
        if self.0.role.may(command) {
            Ok(())
        } else {
            Err(Error::NotAllowed("Your role lets you look at the plan, not change this. Ask a lead or a manager."))
        }
    }

    /// Whether bookings can be made and altered.
    pub fn books(&self) -> bool {
        self.0.role >= Role::Lead
    }

    /// The name under which the ledger knows them.
    pub fn actor(&self) -> &str {
        &self.0.email
    }
}

impl FromRequestParts<AppState> for User {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        let session = Session::from_request_parts(parts, state).await.map_err(|_| Error::SignedOut)?;
        let Some(id) = session.get::<i32>(ACCOUNT).await? else { return Err(Error::SignedOut) };
        // Looked up each time, so that a role that was taken away is gone at once.
        accounts::by_id(state.keeper.db(), id).await?.map(User).ok_or(Error::SignedOut)
    }
}

impl OptionalFromRequestParts<AppState> for User {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Option<Self>, Error> {
        match <Self as FromRequestParts<AppState>>::from_request_parts(parts, state).await {
            Ok(user) => Ok(Some(user)),
            Err(Error::SignedOut) => Ok(None),
            Err(error) => Err(error),
        }
    }
}

/// A program that shows a token: `Authorization: Bearer snug_…`.
pub struct Program;

impl FromRequestParts<AppState> for Program {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        let unknown = || {
            let message = "Send a token as “Authorization: Bearer …”; make one with `snug-roster token`.";
            Error::Api(axum::http::StatusCode::UNAUTHORIZED, message.to_owned())
        };
        let header = parts.headers.get(axum::http::header::AUTHORIZATION).and_then(|value| value.to_str().ok());
        let token = header.and_then(|value| value.strip_prefix("Bearer ")).ok_or_else(unknown)?;
        accounts::by_token(state.keeper.db(), token).await?.map(|_| Self).ok_or_else(unknown)
    }
}
