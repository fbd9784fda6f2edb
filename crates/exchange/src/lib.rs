//! Open formats in and out: bytes become rows of the core, and the plan becomes bytes.

pub mod archive;
pub mod csv;
pub mod even_out;
mod form;
pub mod hours;
pub mod ical;
pub mod network;
pub mod report;
pub mod spreadsheet;
pub mod table;
pub mod tuck_in;
pub mod xlsx;

pub use form::Form;
