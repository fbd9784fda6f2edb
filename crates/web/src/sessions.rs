//! Sessions in `PostgreSQL`.

use sea_orm::sqlx::{
    self, PgPool,
    types::{Json, time::OffsetDateTime},
};
use snug_store::DatabaseConnection;
use std::collections::HashMap;
use tower_sessions::{
    SessionStore,
    session::{Id, Record},
    session_store::{Error, Result},
};

/// The table `web_session`.
#[derive(Clone, Debug)]
pub struct PgSessions(PgPool);

impl PgSessions {
    /// Sessions beside the plan.
    pub fn of(db: &DatabaseConnection) -> Self {
        Self(db.get_postgres_connection_pool().clone())
    }

    async fn write(&self, record: &Record) -> Result<()> {
        let sql = "INSERT INTO web_session (id, data, expires_at) VALUES ($1, $2, $3) \
             ON CONFLICT (id) DO UPDATE SET data = EXCLUDED.data, expires_at = EXCLUDED.expires_at";
        sqlx::query(sql)
            .bind(record.id.to_string())
            .bind(Json(&record.data))
            .bind(record.expiry_date)
            .execute(&self.0)
            .await
            .map_err(backend)?;
        // The table stays small without a task of its own: each sign-in sweeps what has expired.
        sqlx::query("DELETE FROM web_session WHERE expires_at < now()")
            .execute(&self.0)
            .await
            .map_err(backend)
            .map(drop)
    }
}

#[allow(clippy::needless_pass_by_value)] // it stands in map_err
fn backend(error: sqlx::Error) -> Error {
    Error::Backend(error.to_string())
}

#[async_trait::async_trait]
impl SessionStore for PgSessions {
    async fn create(&self, record: &mut Record) -> Result<()> {
        while self.load(&record.id).await?.is_some() {
            record.id = Id::default();
        }
        self.write(record).await
    }

    async fn save(&self, record: &Record) -> Result<()> {
        self.write(record).await
    }

    async fn load(&self, id: &Id) -> Result<Option<Record>> {
        let sql = "SELECT data, expires_at FROM web_session WHERE id = $1 AND expires_at > now()";
        let row: Option<(Json<HashMap<String, serde_json::Value>>, OffsetDateTime)> =
            sqlx::query_as(sql).bind(id.to_string()).fetch_optional(&self.0).await.map_err(backend)?;
        Ok(row.map(|(Json(data), expiry_date)| Record { id: *id, data, expiry_date }))
    }

    async fn delete(&self, id: &Id) -> Result<()> {
        let sql = "DELETE FROM web_session WHERE id = $1";
        sqlx::query(sql).bind(id.to_string()).execute(&self.0).await.map_err(backend).map(drop)
    }
}
