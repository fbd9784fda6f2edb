//! `PostgreSQL` through `SeaORM`: entities, migrations, the ledger, and the plan in memory in front of it.

pub mod accounts;
pub mod drafts;
mod entity;
mod error;
pub mod feeds;
mod follow;
pub mod founding;
pub mod idempotency;
pub mod jobs;
mod keeper;
pub mod ledger;
pub mod looks;
pub mod mailed_keys;
mod migration;
mod opened;
pub mod passwords;
mod seal;
pub mod security;
mod snapshot;
mod stored;
mod tables;
mod texts;
pub mod timers;
pub mod two_step;
pub mod uploads;
mod watch;

pub use error::Error;
pub use keeper::{Event, Keeper, News, Outcome};
pub use ledger::Ledger;
pub use sea_orm::DatabaseConnection;
pub use seal::Seal;
pub use snapshot::load;
pub use watch::Watch;

use sea_orm::{ConnectOptions, ConnectionTrait as _, Database, sqlx::postgres::PgConnectOptions};
use sea_orm_migration::MigratorTrait as _;
use std::time::Duration;

/// Connects to a database and brings its schema up to date; of several that start at once one does, and the others wait for it.
///
/// # Errors
/// The database does not answer.
pub async fn open(url: &str) -> Result<DatabaseConnection, Error> {
    /// By this number those who bring the schema up to date know of each other.
    const SCHEMA_LOCK: &str = "SELECT pg_advisory_lock(7460901)";
    // One connection, which holds the lock until it is closed, and may take as long as it takes.
    let alone = Database::connect(options(url).max_connections(1).to_owned()).await?;
    alone.execute_unprepared(SCHEMA_LOCK).await?;
    migration::Migrator::up(&alone, None).await?;
    alone.close().await?;
    let bounded = options(url).max_connections(16).map_sqlx_postgres_opts(bounded).to_owned();
    Ok(Database::connect(bounded).await?)
}

fn options(url: &str) -> ConnectOptions {
    let mut options = ConnectOptions::new(url);
    options.connect_timeout(Duration::from_secs(5)).acquire_timeout(Duration::from_secs(5)).sqlx_logging(false);
    options
}

/// What no statement of a server takes, so that one that hangs, or waits for a lock, holds nobody up for long; and signs of life, by
/// which the database finds out that a server is gone.
fn bounded(options: PgConnectOptions) -> PgConnectOptions {
    options.application_name("snug-roster").options([
        ("statement_timeout", "60s"),
        ("lock_timeout", "15s"),
        ("idle_in_transaction_session_timeout", "60s"),
        ("tcp_keepalives_idle", "30"),
        ("tcp_keepalives_interval", "10"),
        ("tcp_keepalives_count", "3"),
    ])
}
