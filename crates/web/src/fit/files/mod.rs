//! What is in view, taken along: as a table, and as files.

pub mod export;
pub mod table;
