//! The workspace as a folder of CSV files (UTF-8, header row, RFC 4180), described in docs/formats.md.

mod cell;
mod read;
mod sheet;
mod write;

pub use cell::{amount, amount_text, hours_text, pattern_text};
pub use read::{FILES, ReadError, read_file, read_folder};
pub use write::{files_of, write_folder};
