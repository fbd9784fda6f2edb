//! The ledger is for everybody, the kind of somebody’s time off is not: titles of entries no longer name it.

pub const SCHEMA: &str = r"
UPDATE ledger SET title = regexp_replace(title, '^Time off “.*” (added|changed|removed)$', 'Time off \1')
WHERE title LIKE 'Time off “%';
";
