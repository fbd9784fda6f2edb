//! The schema, step by step.

mod m0001_plan;
mod m0002_accounts;
mod m0003_fields_and_texts;
mod m0004_doors;
mod m0005_uploads;
mod m0006_text_history;
mod m0007_looks;
mod m0008_calendars;
mod m0009_time_of_day;

use sea_orm_migration::prelude::*;

/// All steps, in order.
pub struct Migrator;

#[async_trait::async_trait]
impl MigratorTrait for Migrator {
    fn migrations() -> Vec<Box<dyn MigrationTrait>> {
        vec![
            Box::new(m0001_plan::Migration),
            Box::new(m0002_accounts::Migration),
            Box::new(m0003_fields_and_texts::Migration),
            Box::new(m0004_doors::Migration),
            Box::new(m0005_uploads::Migration),
            Box::new(m0006_text_history::Migration),
            Box::new(m0007_looks::Migration),
            Box::new(m0008_calendars::Migration),
            Box::new(m0009_time_of_day::Migration),
        ]
    }
}
