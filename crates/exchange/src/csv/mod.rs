//! The workspace as a folder of CSV files (UTF-8, header row, RFC 4180), described in docs/formats.md.

mod read;
mod write;

pub use read::{ReadError, read_file, read_folder};
pub use write::{file_text, files_of, header, row_of, write_folder};
