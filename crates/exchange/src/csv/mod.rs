//! The workspace as a folder of CSV files (UTF-8, header row, RFC 4180), described in docs/formats.md.

mod cell;
mod columns;
mod read;
mod row;
mod sheet;
mod write;

pub use cell::{amount, amount_text, hours_text, pattern, pattern_text, percent_text, time_of_day_text};
pub use columns::{Column, FILES, File, OWN, file, file_of, guess};
pub use read::{ReadError, add_row, read_file, read_folder, read_row};
pub use row::Row;
pub use write::{file_text, files_of, header, row_of, write_folder};
