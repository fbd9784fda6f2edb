//! What can go wrong with the database.

use snug_core::Refusal;

/// A store operation failed.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The database cannot be reached or has refused a statement.
    #[error("the database does not answer")]
    Db(#[from] sea_orm::DbErr),
    /// A row holds what no rule of ours would have written.
    #[error("a row of the database cannot be read: {0}")]
    Damaged(String),
    /// The rules refuse the command.
    #[error(transparent)]
    Refused(#[from] Refusal),
    /// Others wrote all the time; the change was not made.
    #[error("too many others are writing at this moment; try again")]
    Busy,
    /// The request was to be done once, and has been.
    #[error("this was done already")]
    DoneBefore,
    /// Somebody stopped it.
    #[error("this was stopped")]
    Stopped,
    /// Too many files wait.
    #[error("too many files wait to be taken over; leave some of them, or try again in an hour")]
    TooMuchWaits,
    /// A password could not be hashed or read.
    #[error("a password hash cannot be used")]
    Password,
    /// A secret was sealed with another key, or there is none now.
    #[error("a secret is sealed with another key than this server was given")]
    Sealed,
    /// There is an account with this address already.
    #[error("there is an account with this e-mail address already")]
    AccountExists,
    /// The last administrator would go.
    #[error("somebody must run the workspace: make another administrator first")]
    LastAdministrator,
    /// There is a workspace already.
    #[error("the workspace stands already")]
    WorkspaceExists,
}

impl From<sea_orm::sqlx::Error> for Error {
    fn from(error: sea_orm::sqlx::Error) -> Self {
        Self::Db(sea_orm::DbErr::Conn(sea_orm::RuntimeErr::Internal(error.to_string())))
    }
}
