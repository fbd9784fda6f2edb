//! What guards the doors: the key of the first start, wrong codes counted, a log of who came in, news of sessions that end, requests
//! that are done once.

pub const SCHEMA: &str = r"
CREATE TABLE founding_key (hash text PRIMARY KEY, made_at timestamptz NOT NULL DEFAULT now());
ALTER TABLE account ADD COLUMN wrong_codes integer NOT NULL DEFAULT 0, ADD COLUMN codes_wait_until timestamptz;
-- Their hashes were quick ones; whoever uses the second step sets it up anew for codes that are kept well.
DELETE FROM recovery_code;
DELETE FROM kept_answer;
ALTER TABLE kept_answer DROP COLUMN status, DROP COLUMN body, ADD COLUMN revision bigint NOT NULL;
CREATE INDEX kept_answer_by_age ON kept_answer (at);
CREATE TABLE security_entry (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at timestamptz NOT NULL DEFAULT now(),
    deed text NOT NULL,
    actor text NOT NULL,
    peer text NOT NULL,
    says text NOT NULL
);
CREATE INDEX security_entry_by_deed ON security_entry (deed, id);
CREATE INDEX security_entry_by_age ON security_entry (at);
CREATE INDEX security_entry_by_actor ON security_entry (actor, id);
CREATE FUNCTION tell_session_ended() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('session', encode(sha256(convert_to(OLD.id, 'UTF8')), 'hex'));
    RETURN NULL;
END $$;
CREATE TRIGGER web_session_ended AFTER DELETE ON web_session FOR EACH ROW EXECUTE FUNCTION tell_session_ended();
";
