//! Corrections of what was logged.

pub const SCHEMA: &str = r"
ALTER TABLE time_entry
    ADD COLUMN reason text NOT NULL DEFAULT '',
    DROP CONSTRAINT time_entry_minutes_check,
    ADD CHECK (abs(minutes) BETWEEN 1 AND 1440),
    ADD CHECK (minutes > 0 OR reason <> '');
";
