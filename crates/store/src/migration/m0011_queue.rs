//! Sprints, releases, lists with their items, baselines; what holds a task's dates, what waits for it, and what it needs; trails.

// The words that tasks had for sprint and release go to their tags: what sprint they meant, whose and when, nobody can know.
pub const SCHEMA: &str = r"
CREATE TABLE sprint (
    id integer PRIMARY KEY,
    code text NOT NULL UNIQUE CHECK (code <> ''),
    name text NOT NULL CHECK (name <> ''),
    team_id integer NOT NULL REFERENCES team DEFERRABLE INITIALLY DEFERRED,
    start_day date NOT NULL,
    finish_day date NOT NULL CHECK (finish_day >= start_day),
    state text NOT NULL CHECK (state IN ('planned', 'running', 'finished')),
    goal text NOT NULL
);
CREATE TABLE release (
    id integer PRIMARY KEY,
    code text NOT NULL UNIQUE CHECK (code <> ''),
    name text NOT NULL CHECK (name <> ''),
    product text NOT NULL,
    date date,
    state text NOT NULL
);
CREATE TABLE list (
    id integer PRIMARY KEY,
    code text NOT NULL UNIQUE CHECK (code <> ''),
    name text NOT NULL CHECK (name <> ''),
    purpose text NOT NULL,
    teams jsonb NOT NULL CHECK (jsonb_array_length(teams) > 0),
    ideas_behind boolean NOT NULL
);
CREATE TABLE item (
    id integer PRIMARY KEY,
    list_id integer NOT NULL REFERENCES list DEFERRABLE INITIALLY DEFERRED,
    task_id integer NOT NULL REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    rank numeric NOT NULL CHECK (rank >= 0),
    parked_until date,
    UNIQUE (list_id, task_id) DEFERRABLE INITIALLY DEFERRED
);
CREATE TABLE baseline (
    id integer PRIMARY KEY,
    code text NOT NULL UNIQUE CHECK (code <> ''),
    name text NOT NULL CHECK (name <> ''),
    kind text NOT NULL CHECK (kind IN ('project', 'sprint', 'season')),
    subject text NOT NULL CHECK (subject <> ''),
    date date NOT NULL
);
CREATE TABLE baseline_item (
    id integer PRIMARY KEY,
    baseline_id integer NOT NULL REFERENCES baseline DEFERRABLE INITIALLY DEFERRED,
    task_id integer NOT NULL REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    start_day date,
    finish_day date CHECK (finish_day >= start_day),
    effort bigint CHECK (effort >= 0),
    points numeric,
    teams jsonb NOT NULL,
    UNIQUE (baseline_id, task_id) DEFERRABLE INITIALLY DEFERRED
);
ALTER TABLE task
    ADD COLUMN sprint_id integer REFERENCES sprint DEFERRABLE INITIALLY DEFERRED,
    ADD COLUMN release_id integer REFERENCES release DEFERRABLE INITIALLY DEFERRED,
    ADD COLUMN constraint_kind text
        CHECK (constraint_kind IN ('not before', 'not after', 'fixed', 'as late as possible')),
    ADD COLUMN constraint_day date,
    ADD COLUMN milestones jsonb NOT NULL DEFAULT '[]',
    ADD COLUMN needs text NOT NULL DEFAULT '';
UPDATE task SET tags = tags || jsonb_build_array('sprint ' || sprint) WHERE sprint <> '';
UPDATE task SET tags = tags || jsonb_build_array('release ' || release) WHERE release <> '';
ALTER TABLE task DROP COLUMN sprint, DROP COLUMN release;
CREATE INDEX task_by_sprint ON task (sprint_id);
ALTER TABLE team ADD COLUMN walk_in_reserve boolean NOT NULL DEFAULT false;
CREATE TABLE trail (id integer PRIMARY KEY, days jsonb NOT NULL);
ALTER TABLE ledger ADD COLUMN day date;
UPDATE ledger SET day = (at AT TIME ZONE 'UTC')::date;
ALTER TABLE ledger ALTER COLUMN day SET NOT NULL;
";
