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

/// How long one stays signed in at most, in days.
const LONGEST_DAYS: i32 = 30;

/// The table `web_session`.
#[derive(Clone, Debug)]
pub struct PgSessions(PgPool);

impl PgSessions {
    /// Sessions beside the plan.
    pub fn of(db: &DatabaseConnection) -> Self {
        Self(db.get_postgres_connection_pool().clone())
    }

    /// Writes a session by a statement that takes its identity, data and end; says how many rows that was.
    async fn write(&self, sql: &'static str, record: &Record) -> Result<u64> {
        let written = sqlx::query(sql)
            .bind(record.id.to_string())
            .bind(Json(&record.data))
            .bind(record.expiry_date)
            .execute(&self.0)
            .await
            .map_err(backend)?;
        Ok(written.rows_affected())
    }

    async fn sweep(&self) -> Result<()> {
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
        let sql = "INSERT INTO web_session (id, data, expires_at) VALUES ($1, $2, $3) ON CONFLICT (id) DO NOTHING";
        while self.write(sql, record).await? == 0 {
            record.id = Id::default();
        }
        self.sweep().await
    }

    /// One that has been ended meanwhile stays so: a request that was under way does not bring it back.
    async fn save(&self, record: &Record) -> Result<()> {
        let sql = "UPDATE web_session SET data = $2, expires_at = $3 WHERE id = $1";
        self.write(sql, record).await.map(drop)
    }

    async fn load(&self, id: &Id) -> Result<Option<Record>> {
        // However often it is used, one signs in anew after some time.
        let sql = "SELECT data, expires_at FROM web_session WHERE id = $1 AND expires_at > now() \
             AND coalesce((data ->> 'since')::timestamptz > now() - make_interval(days => $2), true)";
        let row: Option<(Json<HashMap<String, serde_json::Value>>, OffsetDateTime)> = sqlx::query_as(sql)
            .bind(id.to_string())
            .bind(LONGEST_DAYS)
            .fetch_optional(&self.0)
            .await
            .map_err(backend)?;
        Ok(row.map(|(Json(data), expiry_date)| Record { id: *id, data, expiry_date }))
    }

    async fn delete(&self, id: &Id) -> Result<()> {
        let sql = "DELETE FROM web_session WHERE id = $1";
        sqlx::query(sql).bind(id.to_string()).execute(&self.0).await.map_err(backend).map(drop)
    }
}

/// A session as its owner sees it; what identifies it to a browser is not shown.
pub struct Open {
    /// By which it can be ended.
    pub handle: String,
    /// The browser, as it calls itself.
    pub agent: String,
    /// Since when.
    pub since: String,
    /// Whether it is the one that asks.
    pub is_this: bool,
}

/// What an account's session remembers of its beginning.
pub const AGENT: &str = "agent";
/// When it began.
pub const SINCE: &str = "since";

/// An account's sessions, the newest first.
pub async fn of_account(
    db: &DatabaseConnection,
    account: i32,
    this: Option<String>,
    zone: chrono_tz::Tz,
    order: snug_core::settings::DateOrder,
) -> std::result::Result<Vec<Open>, crate::Error> {
    let sql = "SELECT id, data FROM web_session WHERE data ->> 'account' = $1 AND expires_at > now() \
         ORDER BY data ->> 'since' DESC";
    let rows: Vec<(String, Json<HashMap<String, serde_json::Value>>)> = sqlx::query_as(sql)
        .bind(account.to_string())
        .fetch_all(db.get_postgres_connection_pool())
        .await
        .map_err(snug_store::Error::from)?;
    let open = |(id, Json(data)): (String, Json<HashMap<String, serde_json::Value>>)| {
        let text = |key: &str| data.get(key).and_then(serde_json::Value::as_str).unwrap_or_default();
        let since = text(SINCE).parse::<chrono::DateTime<chrono::Utc>>();
        Open {
            handle: handle(&id),
            agent: browser(text(AGENT)),
            since: since.map(|at| crate::words::moment(at, zone, order)).unwrap_or_default(),
            is_this: this.as_deref() == Some(&id),
        }
    };
    Ok(rows.into_iter().map(open).collect())
}

/// Whether a session stands.
pub async fn stands(db: &DatabaseConnection, id: &str) -> std::result::Result<bool, crate::Error> {
    let sql = "SELECT id FROM web_session WHERE id = $1 AND expires_at > now()";
    let found: Option<(String,)> = sqlx::query_as(sql)
        .bind(id)
        .fetch_optional(db.get_postgres_connection_pool())
        .await
        .map_err(snug_store::Error::from)?;
    Ok(found.is_some())
}

/// Ends one session of an account.
pub async fn end(db: &DatabaseConnection, account: i32, wanted: &str) -> std::result::Result<(), crate::Error> {
    let pool = db.get_postgres_connection_pool();
    let own: Vec<(String,)> = sqlx::query_as("SELECT id FROM web_session WHERE data ->> 'account' = $1")
        .bind(account.to_string())
        .fetch_all(pool)
        .await
        .map_err(snug_store::Error::from)?;
    for (id,) in own.into_iter().filter(|(id,)| handle(id) == wanted) {
        let gone = sqlx::query("DELETE FROM web_session WHERE id = $1").bind(id).execute(pool).await;
        gone.map_err(snug_store::Error::from)?;
    }
    Ok(())
}

/// A name for a session that does not give it away.
fn handle(id: &str) -> String {
    use sha2::Digest as _;
    let digest = sha2::Sha256::digest(format!("session {id}").as_bytes());
    crate::words::hex(&digest[..12])
}

/// `Firefox on Linux`, as far as a browser says so.
pub fn browser(agent: &str) -> String {
    let of =
        |names: &[(&str, &'static str)]| names.iter().find(|(mark, _)| agent.contains(mark)).map(|(_, name)| *name);
    // The order matters: most browsers name others before themselves.
    let name = of(&[("Firefox", "Firefox"), ("Edg/", "Edge"), ("Chrom", "Chromium"), ("Safari", "Safari")]);
    let system = of(&[
        ("Android", "Android"),
        ("iPhone", "iPhone"),
        ("iPad", "iPad"),
        ("Windows", "Windows"),
        ("Mac OS", "macOS"),
        ("Linux", "Linux"),
    ]);
    match (name, system) {
        (Some(name), Some(system)) => format!("{name} on {system}"),
        (Some(name), None) => name.to_owned(),
        _ if agent.is_empty() => "A browser".to_owned(),
        _ => agent.chars().take(40).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn browsers_are_named_as_people_know_them() {
        let chromium = "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) HeadlessChrome/156.0.0.0 Safari/537.36";
        let phone = "Mozilla/5.0 (iPhone; CPU iPhone OS 19_0 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/19.0 Safari/604.1";
        assert_eq!(browser(chromium), "Chromium on Linux");
        assert_eq!(browser(phone), "Safari on iPhone");
        assert_eq!(
            browser("Mozilla/5.0 (Windows NT 10.0; rv:150.0) Gecko/20100101 Firefox/150.0"),
            "Firefox on Windows"
        );
        assert_eq!((browser("").as_str(), browser("curl/8.1").as_str()), ("A browser", "curl/8.1"));
    }

    #[test]
    fn a_handle_names_a_session_and_does_not_give_it_away() {
        assert_eq!(handle("abc"), handle("abc"));
        assert_ne!(handle("abc"), handle("abd"));
        assert!(!handle("abc").contains("abc"));
    }
}
