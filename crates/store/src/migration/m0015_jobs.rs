//! Imports under way: how far they are, for whichever server is asked.

pub const SCHEMA: &str = r"
CREATE TABLE import_job (
    id text PRIMARY KEY,
    account_id integer NOT NULL REFERENCES account ON DELETE CASCADE,
    source text NOT NULL,
    state text NOT NULL CHECK (state IN ('running', 'done', 'stopped', 'failed')),
    step text NOT NULL DEFAULT '',
    done integer NOT NULL DEFAULT 0,
    total integer NOT NULL DEFAULT 0,
    stop boolean NOT NULL DEFAULT false,
    revision bigint,
    begun_at timestamptz NOT NULL DEFAULT now(),
    beat_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX upload_by_account ON upload (account_id, at);
";
