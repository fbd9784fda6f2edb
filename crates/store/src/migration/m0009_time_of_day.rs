//! Time off in part has a time of day where it is known.

pub const SCHEMA: &str = "ALTER TABLE absence ADD COLUMN at_minute integer;";
