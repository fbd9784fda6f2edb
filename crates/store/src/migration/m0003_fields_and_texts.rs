//! The workspace's own fields and their values, and texts that no rule reads.

pub const SCHEMA: &str = r"
CREATE TABLE field (
    id integer PRIMARY KEY,
    subject text NOT NULL CHECK (subject IN ('person', 'project', 'task')),
    name text NOT NULL CHECK (name <> ''),
    kind text NOT NULL CHECK (kind IN ('number', 'choice', 'text', 'date')),
    choices jsonb NOT NULL,
    UNIQUE (subject, name) DEFERRABLE INITIALLY DEFERRED
);
ALTER TABLE person ADD COLUMN fields jsonb NOT NULL DEFAULT '[]';
ALTER TABLE project ADD COLUMN fields jsonb NOT NULL DEFAULT '[]';
ALTER TABLE task ADD COLUMN fields jsonb NOT NULL DEFAULT '[]';
CREATE TABLE text_note (
    id integer PRIMARY KEY,
    subject_kind text NOT NULL CHECK (subject_kind IN ('task', 'project', 'person')),
    subject integer NOT NULL,
    slot text NOT NULL CHECK (slot IN ('description', 'comment')),
    author text NOT NULL,
    day date NOT NULL,
    body text NOT NULL CHECK (char_length(body) <= 20000)
);
CREATE INDEX text_note_by_subject ON text_note (subject_kind, subject, id);
CREATE UNIQUE INDEX text_note_description ON text_note (subject_kind, subject) WHERE slot = 'description';
CREATE INDEX ledger_by_actor ON ledger (actor, revision);
";
