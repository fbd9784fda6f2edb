//! Who is asking, and what they may do.

use crate::{AppState, Error};
use axum::{
    extract::{FromRequestParts, OptionalFromRequestParts, OriginalUri},
    http::request::Parts,
};
use snug_core::{Command, Eyes, Plan, Role};
use snug_store::accounts::{self, Account, Scope};
use tower_sessions::Session;

/// The key of the account in the session.
pub const ACCOUNT: &str = "account";

/// Somebody who is signed in. A handler that takes a `User` sends everyone else to the sign-in page.
#[derive(Clone, Debug)]
pub struct User {
    /// Who.
    pub account: Account,
    /// Their session.
    pub session: Session,
    /// The address that they asked for.
    pub here: String,
}

/// What a role that is too small is told.
pub const TOO_SMALL: &str = "Your role lets you look at the plan, not change this. Ask a lead or a manager.";

impl User {
    /// Refuses a command that the role does not allow.
    pub fn check(&self, plan: &Plan, command: &Command) -> Result<(), Error> {
        if self.account.actor().may(plan, command) { Ok(()) } else { Err(Error::NotAllowed(TOO_SMALL)) }
    }

    /// What they see of a plan.
    pub fn eyes<'a>(&self, plan: &'a Plan) -> Eyes<'a> {
        self.account.actor().eyes(plan)
    }

    /// Refuses everyone below a role.
    pub fn at_least(&self, role: Role) -> Result<(), Error> {
        if self.account.role >= role { Ok(()) } else { Err(Error::NotAllowed(TOO_SMALL)) }
    }

    /// Whether bookings can be made and altered.
    pub fn books(&self) -> bool {
        self.account.role >= Role::Lead
    }

    /// By which their session is known to the database.
    pub fn session_id(&self) -> Option<String> {
        self.session.id().map(|id| id.to_string())
    }

    /// The name under which the ledger knows them.
    pub fn actor(&self) -> &str {
        &self.account.email
    }
}

impl FromRequestParts<AppState> for User {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        let session = Session::from_request_parts(parts, state).await.map_err(|_| Error::SignedOut)?;
        let Some(id) = session.get::<i32>(ACCOUNT).await? else { return Err(Error::SignedOut) };
        // Looked up each time, so that a role that was taken away is gone at once.
        let account = accounts::by_id(state.keeper.db(), id).await?.ok_or(Error::SignedOut)?;
        let uri = parts.extensions.get::<OriginalUri>().map_or_else(|| parts.uri.clone(), |uri| uri.0.clone());
        Ok(Self { account, session, here: uri.path_and_query().map_or_else(String::new, ToString::to_string) })
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
pub struct Program {
    /// For whom it acts.
    pub account: Account,
    /// What its token is good for.
    pub scope: Scope,
}

impl FromRequestParts<AppState> for Program {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Error> {
        let unknown = || {
            let message = "Send a token as “Authorization: Bearer …”; make one on your account page.";
            Error::Api(axum::http::StatusCode::UNAUTHORIZED, message.to_owned())
        };
        let header = parts.headers.get(axum::http::header::AUTHORIZATION).and_then(|value| value.to_str().ok());
        let token = header.and_then(|value| value.strip_prefix("Bearer ")).ok_or_else(unknown)?;
        let found = accounts::by_token(state.keeper.db(), token).await;
        // A database that does not answer is told to programs as a problem document too.
        let found = found.map_err(|error| Error::for_program(Error::from(error)))?;
        found.map(|(account, scope)| Self { account, scope }).ok_or_else(unknown)
    }
}
