//! `PostgreSQL` through `SeaORM`: entities, migrations, the ledger, and the plan in memory in front of it.

pub mod accounts;
mod entity;
mod error;
pub mod feeds;
pub mod idempotency;
mod keeper;
pub mod ledger;
pub mod looks;
pub mod mailed_keys;
mod migration;

mod snapshot;
mod stored;
mod tables;
pub mod texts;
pub mod two_step;
pub mod uploads;

pub use error::Error;
pub use keeper::{Event, Keeper, Outcome};
pub use sea_orm::DatabaseConnection;
pub use snapshot::load;

use sea_orm::{ConnectOptions, Database};
use sea_orm_migration::MigratorTrait as _;
use std::time::Duration;

/// Connects to a database and brings its schema up to date.
///
/// # Errors
/// The database does not answer.
pub async fn open(url: &str) -> Result<DatabaseConnection, Error> {
    let mut options = ConnectOptions::new(url);
    options
        .max_connections(16)
        .connect_timeout(Duration::from_secs(5))
        .acquire_timeout(Duration::from_secs(5))
        .sqlx_logging(false);
    let db = Database::connect(options).await?;
    migration::Migrator::up(&db, None).await?;
    Ok(db)
}
