//! What projects have besides their tasks: meetings, risks, pages of notes, and templates to begin with.

pub const SCHEMA: &str = r"
ALTER TABLE text_note DROP CONSTRAINT text_note_slot_check, ADD CHECK (slot IN ('description', 'comment', 'note'));
CREATE TABLE meeting (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    project_id integer NOT NULL REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    title text NOT NULL CHECK (title <> ''),
    people jsonb NOT NULL,
    day date NOT NULL,
    begins integer NOT NULL CHECK (begins >= 0),
    minutes integer NOT NULL CHECK (minutes > 0 AND begins + minutes <= 1440),
    every_weeks integer NOT NULL CHECK (every_weeks BETWEEN 0 AND 52),
    until_day date
);
CREATE UNIQUE INDEX meeting_reference ON meeting (reference) WHERE reference <> '';
CREATE TABLE risk (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    project_id integer NOT NULL REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    title text NOT NULL CHECK (title <> ''),
    owner_id integer REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    probability integer NOT NULL CHECK (probability BETWEEN 1 AND 5),
    impact integer NOT NULL CHECK (impact BETWEEN 1 AND 5),
    response text,
    state text NOT NULL,
    tasks jsonb NOT NULL,
    due_day date
);
CREATE UNIQUE INDEX risk_reference ON risk (reference) WHERE reference <> '';
CREATE TABLE template (
    id integer PRIMARY KEY,
    code text NOT NULL UNIQUE DEFERRABLE INITIALLY DEFERRED,
    name text NOT NULL CHECK (name <> ''),
    says text NOT NULL
);
CREATE TABLE template_task (
    id integer PRIMARY KEY,
    template_id integer NOT NULL REFERENCES template DEFERRABLE INITIALLY DEFERRED,
    line text NOT NULL CHECK (line <> ''),
    parent text NOT NULL,
    title text NOT NULL CHECK (title <> ''),
    kind text NOT NULL,
    roles jsonb NOT NULL,
    team_id integer REFERENCES team DEFERRABLE INITIALLY DEFERRED,
    estimate bigint CHECK (estimate >= 0),
    points numeric,
    begins integer CHECK (begins >= 0),
    days integer CHECK (days > 0),
    contour text NOT NULL,
    milestone boolean NOT NULL,
    after jsonb NOT NULL,
    UNIQUE (template_id, line) DEFERRABLE INITIALLY DEFERRED
);
";
