//! Reading CSV files: what cannot be read is told with its file, line and column.

use csv::{ByteRecord, ReaderBuilder, Trim};
use snug_core::{
    import::{Dataset, Sheet, Told},
    kinds::{file, files},
};
use std::{io::Read, path::Path};

/// The longest line, in bytes. A longer one is no row of ours, and is not taken into memory.
const LONGEST_LINE: usize = 1 << 20;

/// A folder cannot be read at all.
#[derive(Debug, thiserror::Error)]
pub enum ReadError {
    /// The folder or a file in it cannot be opened.
    #[error("{0} cannot be read: {1}")]
    Io(String, std::io::Error),
    /// No file of the workspace is there.
    #[error("{0} holds none of the files of a workspace ({list})", list = names().join(", "))]
    NoFiles(String),
}

fn names() -> Vec<&'static str> {
    files().iter().map(|file| file.name).collect()
}

/// Reads every file of a workspace that is in the folder.
///
/// # Errors
/// The folder holds none, or one of them cannot be opened.
pub fn read_folder(folder: &Path) -> Result<Dataset, ReadError> {
    let mut data = Dataset::default();
    let mut any = false;
    for name in names() {
        let path = folder.join(name);
        match std::fs::File::open(&path) {
            Ok(file) => {
                any = true;
                read_file(&mut data, name, file);
            }
            Err(error) if error.kind() == std::io::ErrorKind::NotFound && folder.is_dir() => {}
            Err(error) => return Err(ReadError::Io(path.display().to_string(), error)),
        }
    }
    if any { Ok(data) } else { Err(ReadError::NoFiles(folder.display().to_string())) }
}

/// Reads one file by its name into the dataset; what cannot be read becomes a problem there.
pub fn read_file(data: &mut Dataset, name: &str, bytes: impl Read) {
    let mut told = Told::default();
    let (mut sheet, mut unknown) = (None, Vec::new());
    read(name, bytes, &mut sheet, &mut unknown, &mut told);
    data.sheets.extend(sheet);
    data.unknown_columns.extend(unknown.into_iter().map(|column| (name.to_owned(), column)));
    data.problems.extend(told.problems());
}

fn read(name: &str, bytes: impl Read, into: &mut Option<Sheet>, unknown: &mut Vec<String>, told: &mut Told) {
    let Some(file) = file(name) else { return };
    let guard = LineGuard { inner: bytes, line: 1, length: 0, too_long: None };
    let mut reader = ReaderBuilder::new().has_headers(false).flexible(true).trim(Trim::All).from_reader(guard);
    let mut record = ByteRecord::new();
    let mut open: Option<(ByteRecord, Sheet)> = None;
    loop {
        match reader.read_byte_record(&mut record) {
            Ok(false) => break,
            Ok(true) => {}
            Err(error) => {
                let (line, reason) = match reader.get_ref().too_long {
                    Some(line) => {
                        let most = LONGEST_LINE / 1_024;
                        (line, format!("is longer than {most} kB; no row is, so this is some other kind of file"))
                    }
                    None => (0, format!("cannot be read: {error}")),
                };
                return told.say(name, line, "", reason);
            }
        }
        let line = record.position().map_or(0, csv::Position::line);
        match &mut open {
            None => {
                let titles: Vec<String> = record.iter().map(|it| String::from_utf8_lossy(it).into_owned()).collect();
                match Sheet::begin(file, &titles, unknown) {
                    Ok(sheet) => open = Some((record.clone(), sheet)),
                    Err(wrong) => {
                        for (column, reason) in wrong {
                            told.say(name, 1, &column, reason);
                        }
                        return;
                    }
                }
            }
            Some((header, _)) if record == *header => told.say(name, line, "", "repeats the header"),
            Some((header, _)) if record.len() != header.len() => {
                let reason = format!("has {} columns where the header has {}", record.len(), header.len());
                told.say(name, line, "", reason);
            }
            Some((_, sheet)) => {
                let cell = |at| {
                    let bytes = record.get(at).unwrap_or_default();
                    // The reader has taken off plain blanks; there are others.
                    std::str::from_utf8(bytes).map(str::trim).map_err(|_| "is no UTF-8; save the file as UTF-8")
                };
                if let Err((column, reason)) = sheet.push(line, cell) {
                    told.say(name, line, &column, reason);
                }
            }
        }
    }
    match open {
        Some((_, sheet)) => *into = Some(sheet),
        None => told.say(name, 0, "", "is empty; a header row is expected"),
    }
}

/// Passes bytes on until a line is longer than any row can be, so that no file fills the memory.
struct LineGuard<R> {
    inner: R,
    line: u64,
    length: usize,
    too_long: Option<u64>,
}

impl<R: Read> Read for LineGuard<R> {
    fn read(&mut self, buffer: &mut [u8]) -> std::io::Result<usize> {
        let count = self.inner.read(buffer)?;
        for piece in buffer[..count].split_inclusive(|byte| *byte == b'\n') {
            self.length += piece.len();
            if self.length > LONGEST_LINE {
                self.too_long = Some(self.line);
                return Err(std::io::Error::other("a line is too long"));
            }
            if piece.ends_with(b"\n") {
                self.line += 1;
                self.length = 0;
            }
        }
        Ok(count)
    }
}
