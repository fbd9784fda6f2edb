//! Corrections of what was logged, where weeks of hours stand, budgets with lines, expenses.

pub const SCHEMA: &str = r"
ALTER TABLE time_entry
    ADD COLUMN reason text NOT NULL DEFAULT '',
    DROP CONSTRAINT time_entry_minutes_check,
    ADD CHECK (abs(minutes) BETWEEN 1 AND 1440),
    ADD CHECK (minutes > 0 OR reason <> '');
ALTER TABLE task ADD COLUMN line text NOT NULL DEFAULT '';
ALTER TABLE booking ADD COLUMN line text NOT NULL DEFAULT '';
CREATE TABLE week_sheet (
    id integer PRIMARY KEY,
    person_id integer NOT NULL REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    week date NOT NULL CHECK (extract(isodow FROM week) = 1),
    state text NOT NULL CHECK (state IN ('handed in', 'approved', 'sent back')),
    by text NOT NULL,
    note text NOT NULL CHECK (char_length(note) <= 2000),
    UNIQUE (person_id, week) DEFERRABLE INITIALLY DEFERRED
);
CREATE TABLE budget_line (
    id integer PRIMARY KEY,
    project_id integer NOT NULL REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    line text NOT NULL CHECK (line <> ''),
    minutes bigint CHECK (minutes >= 0),
    money numeric CHECK (money >= 0),
    UNIQUE (project_id, line) DEFERRABLE INITIALLY DEFERRED
);
CREATE TABLE expense (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    project_id integer NOT NULL REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    line text NOT NULL,
    task_id integer REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    person_id integer REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    date date NOT NULL,
    what text NOT NULL CHECK (what <> ''),
    quantity numeric CHECK (quantity >= 0),
    unit text NOT NULL,
    unit_price numeric CHECK (unit_price >= 0),
    amount numeric CHECK (amount >= 0),
    receipt text NOT NULL
);
CREATE UNIQUE INDEX expense_reference ON expense (reference) WHERE reference <> '';
-- A timer is nobody's business but its person's: it runs until it is stopped, whatever becomes of pages and servers.
CREATE TABLE timer (
    account_id integer PRIMARY KEY REFERENCES account ON DELETE CASCADE,
    project_id integer,
    task_id integer,
    note text NOT NULL CHECK (char_length(note) <= 2000),
    spans jsonb NOT NULL,
    since timestamptz
);
";
