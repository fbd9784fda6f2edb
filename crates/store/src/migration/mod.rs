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
mod m0010_logged_then;
mod m0011_queue;
mod m0012_titles;
mod m0013_task_sheet;
mod m0014_locks;
mod m0015_jobs;
mod m0016_projects;
mod m0017_hours;
mod m0018_mailed_reports;
mod m0019_drafts;

use sea_orm_migration::prelude::*;

/// A step: the name under which the database remembers it, and its statements.
struct Step(&'static str, &'static str);

impl MigrationName for Step {
    fn name(&self) -> &str {
        self.0
    }
}

#[async_trait::async_trait]
impl MigrationTrait for Step {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(self.1).await.map(drop)
    }
}

/// All steps, in order.
pub struct Migrator;

#[async_trait::async_trait]
impl MigratorTrait for Migrator {
    fn migrations() -> Vec<Box<dyn MigrationTrait>> {
        let steps = [
            Step("m0001_plan", m0001_plan::SCHEMA),
            Step("m0002_accounts", m0002_accounts::SCHEMA),
            Step("m0003_fields_and_texts", m0003_fields_and_texts::SCHEMA),
            Step("m0004_doors", m0004_doors::SCHEMA),
            Step("m0005_uploads", m0005_uploads::SCHEMA),
            Step("m0006_text_history", m0006_text_history::SCHEMA),
            Step("m0007_looks", m0007_looks::SCHEMA),
            Step("m0008_calendars", m0008_calendars::SCHEMA),
            Step("m0009_time_of_day", m0009_time_of_day::SCHEMA),
            Step("m0010_logged_then", m0010_logged_then::SCHEMA),
            Step("m0011_queue", m0011_queue::SCHEMA),
            Step("m0012_titles", m0012_titles::SCHEMA),
            Step("m0013_task_sheet", m0013_task_sheet::SCHEMA),
            Step("m0014_locks", m0014_locks::SCHEMA),
            Step("m0015_jobs", m0015_jobs::SCHEMA),
            Step("m0016_projects", m0016_projects::SCHEMA),
            Step("m0017_hours", m0017_hours::SCHEMA),
            Step("m0018_mailed_reports", m0018_mailed_reports::SCHEMA),
            Step("m0019_drafts", m0019_drafts::SCHEMA),
        ];
        steps.into_iter().map(|step| Box::new(step) as Box<dyn MigrationTrait>).collect()
    }
}
