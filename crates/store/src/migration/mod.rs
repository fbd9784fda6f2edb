//! The schema, step by step.

mod m0001_plan;
mod m0002_accounts;

use sea_orm_migration::prelude::*;

/// All steps, in order.
pub struct Migrator;

#[async_trait::async_trait]
impl MigratorTrait for Migrator {
    fn migrations() -> Vec<Box<dyn MigrationTrait>> {
        vec![Box::new(m0001_plan::Migration), Box::new(m0002_accounts::Migration)]
    }
}
