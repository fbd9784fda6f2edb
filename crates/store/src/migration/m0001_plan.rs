//! The plan and its ledger. Foreign keys are checked at the end of a transaction, so that an import may write rows that refer
//! to each other in any order.

pub const SCHEMA: &str = r"
CREATE TABLE workspace (
    id integer PRIMARY KEY CHECK (id = 1),
    settings jsonb NOT NULL,
    revision bigint NOT NULL CHECK (revision >= 0),
    next_id integer NOT NULL CHECK (next_id > 0)
);
CREATE TABLE person (
    id integer PRIMARY KEY,
    email text NOT NULL UNIQUE CHECK (email <> ''),
    name text NOT NULL CHECK (name <> ''),
    role text NOT NULL,
    kind text NOT NULL CHECK (kind IN ('person', 'equipment')),
    calendar text NOT NULL,
    patterns jsonb NOT NULL CHECK (jsonb_array_length(patterns) > 0),
    day_limit integer CHECK (day_limit >= 0),
    week_limit integer CHECK (week_limit >= 0),
    max_projects integer CHECK (max_projects >= 0),
    max_tasks integer CHECK (max_tasks >= 0),
    max_points numeric,
    skills jsonb NOT NULL,
    rates jsonb NOT NULL
);
CREATE TABLE holiday (
    id integer PRIMARY KEY,
    calendar text NOT NULL CHECK (calendar <> ''),
    date date NOT NULL,
    name text NOT NULL,
    fraction integer NOT NULL CHECK (fraction BETWEEN 1 AND 1000000)
);
CREATE INDEX holiday_by_day ON holiday (calendar, date);
CREATE TABLE absence (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    person_id integer NOT NULL REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    start_day date NOT NULL,
    end_day date NOT NULL CHECK (end_day >= start_day),
    kind text NOT NULL,
    minutes integer CHECK (minutes >= 0)
);
CREATE INDEX absence_by_person ON absence (person_id, start_day);
CREATE TABLE team (
    id integer PRIMARY KEY,
    code text NOT NULL UNIQUE CHECK (code <> ''),
    name text NOT NULL CHECK (name <> ''),
    parent_id integer REFERENCES team DEFERRABLE INITIALLY DEFERRED CHECK (parent_id <> id),
    owner_id integer REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    week_capacity integer CHECK (week_capacity >= 0)
);
CREATE TABLE team_member (
    team_id integer NOT NULL REFERENCES team ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
    person_id integer NOT NULL REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    position integer NOT NULL,
    share integer NOT NULL CHECK (share BETWEEN 1 AND 10000),
    PRIMARY KEY (team_id, person_id)
);
CREATE INDEX team_member_by_person ON team_member (person_id);
CREATE TABLE project (
    id integer PRIMARY KEY,
    code text NOT NULL UNIQUE CHECK (code <> ''),
    name text NOT NULL CHECK (name <> ''),
    status text NOT NULL CHECK (status IN ('sketch', 'active', 'paused', 'closed')),
    parent_id integer REFERENCES project DEFERRABLE INITIALLY DEFERRED CHECK (parent_id <> id),
    lead_id integer REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    team_id integer REFERENCES team DEFERRABLE INITIALLY DEFERRED,
    start_day date,
    finish_day date CHECK (finish_day >= start_day),
    budget_minutes bigint CHECK (budget_minutes >= 0),
    budget_money numeric
);
CREATE INDEX project_by_parent ON project (parent_id);
CREATE TABLE task (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    project_id integer NOT NULL REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    parent_id integer REFERENCES task DEFERRABLE INITIALLY DEFERRED CHECK (parent_id <> id),
    title text NOT NULL CHECK (title <> ''),
    kind text NOT NULL,
    team_id integer REFERENCES team DEFERRABLE INITIALLY DEFERRED,
    sharing text NOT NULL CHECK (sharing IN ('even', 'shares', 'full')),
    contour text NOT NULL CHECK (contour IN ('flat', 'front', 'back', 'bell')),
    estimate bigint CHECK (estimate >= 0),
    remaining bigint CHECK (remaining >= 0),
    points numeric,
    start_day date,
    finish_day date CHECK (finish_day >= start_day),
    due_day date,
    priority text NOT NULL CHECK (priority IN ('low', 'normal', 'high', 'urgent')),
    stage text NOT NULL CHECK (stage <> ''),
    progress numeric CHECK (progress BETWEEN 0 AND 100),
    tags jsonb NOT NULL,
    walk_in boolean NOT NULL,
    requester text NOT NULL,
    sprint text NOT NULL,
    release text NOT NULL
);
CREATE UNIQUE INDEX task_reference ON task (reference) WHERE reference <> '';
CREATE INDEX task_by_project ON task (project_id);
CREATE INDEX task_by_parent ON task (parent_id);
CREATE TABLE task_assignee (
    task_id integer NOT NULL REFERENCES task ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
    person_id integer NOT NULL REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    position integer NOT NULL,
    share integer CHECK (share BETWEEN 1 AND 10000),
    PRIMARY KEY (task_id, person_id)
);
CREATE INDEX task_assignee_by_person ON task_assignee (person_id);
CREATE TABLE link (
    id integer PRIMARY KEY,
    from_id integer NOT NULL REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    to_id integer NOT NULL REFERENCES task DEFERRABLE INITIALLY DEFERRED CHECK (to_id <> from_id),
    kind text NOT NULL CHECK (kind IN ('FS', 'SS', 'FF', 'SF', 'holds up', 'relates')),
    lag_days integer NOT NULL,
    note text NOT NULL
);
CREATE INDEX link_by_from ON link (from_id);
CREATE INDEX link_by_to ON link (to_id);
CREATE TABLE booking (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    person_id integer REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    team_id integer REFERENCES team DEFERRABLE INITIALLY DEFERRED,
    role text CHECK (role <> ''),
    project_id integer REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    start_day date NOT NULL,
    end_day date NOT NULL CHECK (end_day >= start_day),
    amount integer NOT NULL CHECK (amount > 0),
    unit text NOT NULL CHECK (unit IN ('h/day', 'h/week', 'h', '%')),
    certainty text NOT NULL CHECK (certainty IN ('firm', 'pencilled')),
    days_off boolean NOT NULL,
    note text NOT NULL CHECK (char_length(note) <= 2000),
    CHECK (num_nonnulls(person_id, team_id, role) = 1)
);
CREATE UNIQUE INDEX booking_reference ON booking (reference) WHERE reference <> '';
CREATE INDEX booking_by_person ON booking (person_id, start_day);
CREATE INDEX booking_by_project ON booking (project_id, start_day);
CREATE TABLE time_entry (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    person_id integer NOT NULL REFERENCES person DEFERRABLE INITIALLY DEFERRED,
    date date NOT NULL,
    project_id integer REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    task_id integer REFERENCES task DEFERRABLE INITIALLY DEFERRED,
    minutes integer NOT NULL CHECK (minutes BETWEEN 1 AND 1440),
    billable boolean NOT NULL,
    note text NOT NULL
);
CREATE INDEX time_entry_by_person ON time_entry (person_id, date);
CREATE INDEX time_entry_by_task ON time_entry (task_id);
CREATE TABLE milestone (
    id integer PRIMARY KEY,
    reference text NOT NULL,
    name text NOT NULL CHECK (name <> ''),
    date date NOT NULL
);
CREATE TABLE milestone_project (
    milestone_id integer NOT NULL REFERENCES milestone ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
    project_id integer NOT NULL REFERENCES project DEFERRABLE INITIALLY DEFERRED,
    position integer NOT NULL,
    PRIMARY KEY (milestone_id, project_id)
);
CREATE TABLE ledger (
    revision bigint PRIMARY KEY CHECK (revision > 0),
    at timestamptz NOT NULL DEFAULT now(),
    actor text NOT NULL,
    title text NOT NULL,
    command jsonb NOT NULL,
    undoes bigint REFERENCES ledger,
    changes integer NOT NULL CHECK (changes >= 0)
);
CREATE INDEX ledger_by_undone ON ledger (undoes);
CREATE TABLE ledger_change (
    revision bigint NOT NULL REFERENCES ledger ON DELETE CASCADE,
    position integer NOT NULL,
    kind text NOT NULL,
    subject integer NOT NULL,
    change jsonb NOT NULL,
    PRIMARY KEY (revision, position)
);
CREATE INDEX ledger_change_by_subject ON ledger_change (kind, subject);
";
