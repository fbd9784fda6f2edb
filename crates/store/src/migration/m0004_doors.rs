//! Invitations, password resets, two-step sign-in, scopes of tokens, and answers kept for programs that ask twice.

pub const SCHEMA: &str = r"
ALTER TABLE account ADD COLUMN totp_secret text, ADD COLUMN totp_step bigint NOT NULL DEFAULT 0;
CREATE TABLE recovery_code (
    account_id integer NOT NULL REFERENCES account ON DELETE CASCADE,
    hash text NOT NULL,
    PRIMARY KEY (account_id, hash)
);
CREATE TABLE door_key (
    hash text PRIMARY KEY,
    kind text NOT NULL CHECK (kind IN ('invitation', 'reset')),
    email text NOT NULL CHECK (email = lower(email) AND email <> ''),
    name text NOT NULL,
    role text NOT NULL CHECK (role IN ('administrator', 'manager', 'lead', 'member', 'viewer')),
    made_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL
);
CREATE INDEX door_key_by_email ON door_key (email);
CREATE INDEX web_session_by_account ON web_session ((data ->> 'account'));
ALTER TABLE api_token ADD COLUMN scopes text NOT NULL DEFAULT 'read' CHECK (scopes IN ('read', 'write'));
CREATE TABLE kept_answer (
    account_id integer NOT NULL REFERENCES account ON DELETE CASCADE,
    key text NOT NULL CHECK (char_length(key) BETWEEN 1 AND 200),
    request text NOT NULL,
    status integer NOT NULL,
    body jsonb NOT NULL,
    at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (account_id, key)
);
";
