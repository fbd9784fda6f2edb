//! Saved looks that are mailed on a weekday.

pub const SCHEMA: &str = r"
ALTER TABLE saved_look
    ADD COLUMN mail_weekday smallint CHECK (mail_weekday BETWEEN 1 AND 7),
    ADD COLUMN mailed_on date;
";
