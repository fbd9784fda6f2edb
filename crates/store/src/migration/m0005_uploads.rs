//! Files that wait between the preview of an import and the word to take them over.

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
CREATE TABLE upload (
    id text PRIMARY KEY,
    account_id integer NOT NULL REFERENCES account ON DELETE CASCADE,
    at timestamptz NOT NULL DEFAULT now()
);
CREATE TABLE upload_file (
    upload_id text NOT NULL REFERENCES upload ON DELETE CASCADE,
    position integer NOT NULL,
    name text NOT NULL,
    bytes bytea NOT NULL,
    PRIMARY KEY (upload_id, position)
);
";
