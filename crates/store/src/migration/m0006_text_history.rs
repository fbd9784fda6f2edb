//! What was written on a record belongs to that record's history; this finds it.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(SCHEMA).await.map(drop)
    }
}

const SCHEMA: &str = r"
CREATE INDEX ledger_change_of_text ON ledger_change USING gin (change jsonb_path_ops) WHERE kind = 'text';
";
