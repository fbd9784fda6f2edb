//! Files that wait between the preview of an import and the word to take them over.

pub const SCHEMA: &str = r"
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
