//! Open formats in and out: bytes become rows of the core, and the plan becomes bytes.

pub mod csv;
pub mod table;
