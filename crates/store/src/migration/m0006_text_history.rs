//! What was written on a record belongs to that record's history; this finds it.

pub const SCHEMA: &str = r"
CREATE INDEX ledger_change_of_text ON ledger_change USING gin (change jsonb_path_ops) WHERE kind = 'text';
";
