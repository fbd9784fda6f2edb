//! Time off in part has a time of day where it is known.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(SCHEMA).await.map(drop)
    }
}

const SCHEMA: &str = "ALTER TABLE absence ADD COLUMN at_minute integer;";
