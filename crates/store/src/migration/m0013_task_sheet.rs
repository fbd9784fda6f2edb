//! What a task's sheet has: who answers for it, whom it waits for, why it is stuck, who follows it, its colour and place; checklists,
//! outside references, files.

pub const SCHEMA: &str = r"
ALTER TABLE task
    ADD COLUMN accountable_id integer REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    ADD COLUMN waiting_on_id integer REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    ADD COLUMN waiting_on text NOT NULL DEFAULT '' CHECK (waiting_on = '' OR waiting_on_id IS NULL),
    ADD COLUMN stuck text NOT NULL DEFAULT '',
    ADD COLUMN followers jsonb NOT NULL DEFAULT '[]',
    ADD COLUMN colour text,
    ADD COLUMN place numeric CHECK (place >= 0);
CREATE TABLE checklist_line (
    id integer PRIMARY KEY,
    task_id integer NOT NULL REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    text text NOT NULL CHECK (text <> ''),
    done boolean NOT NULL,
    place numeric NOT NULL CHECK (place >= 0),
    UNIQUE (task_id, text) DEFERRABLE INITIALLY DEFERRED
);
CREATE TABLE reference (
    id integer PRIMARY KEY,
    task_id integer NOT NULL REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    address text NOT NULL CHECK (address <> ''),
    title text NOT NULL,
    state text NOT NULL,
    count integer,
    UNIQUE (task_id, address) DEFERRABLE INITIALLY DEFERRED
);
CREATE TABLE attachment (
    id integer PRIMARY KEY,
    task_id integer REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    project_id integer REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    name text NOT NULL CHECK (name <> ''),
    media text NOT NULL,
    bytes integer NOT NULL CHECK (bytes >= 0),
    sum text NOT NULL CHECK (sum ~ '^[0-9a-f]{64}$'),
    author text NOT NULL,
    day date NOT NULL,
    CHECK (num_nonnulls(task_id, project_id) = 1)
);
CREATE INDEX ledger_change_of_what_belongs ON ledger_change USING gin (change jsonb_path_ops)
    WHERE kind IN ('check', 'reference', 'attachment', 'link');
";
