//! Drafts: a plan of their own on top of a revision of the live one, kept in the ledger under their number; the live plan's is 0.

pub const SCHEMA: &str = r"
CREATE TABLE draft (
    id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    account_id integer NOT NULL REFERENCES account ON DELETE CASCADE,
    name text NOT NULL CHECK (name <> ''),
    shared boolean NOT NULL DEFAULT false,
    base bigint NOT NULL CHECK (base >= 0),
    revision bigint NOT NULL CHECK (revision >= base),
    made_at timestamptz NOT NULL DEFAULT now(),
    looked_on date NOT NULL
);
CREATE INDEX draft_by_account ON draft (account_id);
ALTER TABLE ledger_change DROP CONSTRAINT ledger_change_revision_fkey;
ALTER TABLE ledger DROP CONSTRAINT ledger_undoes_fkey;
ALTER TABLE ledger ADD COLUMN draft integer NOT NULL DEFAULT 0;
ALTER TABLE ledger_change ADD COLUMN draft integer NOT NULL DEFAULT 0;
ALTER TABLE ledger DROP CONSTRAINT ledger_pkey, ADD PRIMARY KEY (draft, revision);
ALTER TABLE ledger_change DROP CONSTRAINT ledger_change_pkey, ADD PRIMARY KEY (draft, revision, position);
ALTER TABLE ledger ADD FOREIGN KEY (draft, undoes) REFERENCES ledger;
ALTER TABLE ledger_change ADD FOREIGN KEY (draft, revision) REFERENCES ledger ON DELETE CASCADE;
DROP INDEX ledger_by_actor;
CREATE INDEX ledger_by_actor ON ledger (draft, actor, revision);
DROP INDEX ledger_by_undone;
CREATE INDEX ledger_by_undone ON ledger (draft, undoes);
-- What was changed in a draft goes with it, and every server is told.
CREATE FUNCTION forget_draft() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    DELETE FROM ledger WHERE draft = OLD.id;
    PERFORM pg_notify('ledger', '');
    RETURN NULL;
END $$;
CREATE TRIGGER draft_gone AFTER DELETE ON draft FOR EACH ROW EXECUTE FUNCTION forget_draft();
";
