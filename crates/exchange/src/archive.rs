//! Several files in one: ZIP archives of CSV files.

use std::io::{Cursor, Read as _, Write as _};
use zip::{ZipArchive, ZipWriter, write::SimpleFileOptions};

/// A file by name.
pub type File = (String, Vec<u8>);

/// The most that the archives of one request may unfold to, in bytes.
pub const MOST_BYTES: u64 = 256 << 20;
/// The most entries of an archive that are looked at.
const MOST_ENTRIES: usize = 2_000;

/// Whether these bytes are an archive.
#[must_use]
pub fn is_archive(bytes: &[u8]) -> bool {
    bytes.starts_with(b"PK\x03\x04") || bytes.starts_with(b"PK\x05\x06")
}

/// Unfolds an archive; folders in it do not matter. `left` is how many bytes it may still unfold to, and becomes less.
///
/// # Errors
/// A sentence, where it cannot be read, holds too many entries or unfolds to too much.
pub fn unfold(bytes: &[u8], left: &mut u64) -> Result<Vec<File>, String> {
    let broken = |error: zip::result::ZipError| format!("cannot be unpacked: {error}");
    let mut archive = ZipArchive::new(Cursor::new(bytes)).map_err(broken)?;
    let mut files = Vec::new();
    if archive.len() > MOST_ENTRIES {
        return Err(format!("holds more than {MOST_ENTRIES} entries"));
    }
    for at in 0..archive.len() {
        let entry = archive.by_index(at).map_err(broken)?;
        let Some(name) = entry.enclosed_name().filter(|_| entry.is_file()) else { continue };
        let name = name.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        // What spreadsheets and systems leave behind beside the files.
        if name.starts_with('.') || !name.to_lowercase().ends_with(".csv") {
            continue;
        }
        let mut content = Vec::new();
        let read =
            entry.take(*left + 1).read_to_end(&mut content).map_err(|error| format!("cannot be unpacked: {error}"))?;
        *left = left.checked_sub(u64::try_from(read).unwrap_or(u64::MAX)).ok_or("unpacks to more than 256 MB")?;
        files.push((name, content));
    }
    Ok(files)
}

/// Folds files into an archive; the same files make the same bytes.
///
/// # Errors
/// A sentence; writing into memory fails only when there is none.
pub fn fold<'a>(files: impl IntoIterator<Item = (&'a str, &'a [u8])>) -> Result<Vec<u8>, String> {
    let mut writer = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, content) in files {
        writer.start_file(name, SimpleFileOptions::default()).map_err(|error| error.to_string())?;
        writer.write_all(content).map_err(|error| error.to_string())?;
    }
    writer.finish().map(Cursor::into_inner).map_err(|error| error.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_folded_unfolds_and_other_files_are_left_out() {
        let files: [(&str, &[u8]); 3] =
            [("export/people.csv", b"email,name\n"), (".DS_Store", b"x"), ("notes.txt", b"y")];
        let folded = fold(files).unwrap();
        assert!(is_archive(&folded));
        assert_eq!(unfold(&folded, &mut 100).unwrap(), [("people.csv".to_owned(), b"email,name\n".to_vec())]);
        assert_eq!(fold(files).unwrap(), folded);
        assert!(unfold(b"PK\x03\x04 nonsense", &mut 100).unwrap_err().contains("cannot be unpacked"));
    }

    #[test]
    fn several_archives_unfold_to_no_more_than_one_may() {
        let zeros = vec![0; 1_000];
        let folded = fold([("people.csv", zeros.as_slice())]).unwrap();
        let mut left = 2_500;
        assert!(unfold(&folded, &mut left).is_ok() && unfold(&folded, &mut left).is_ok());
        assert!(unfold(&folded, &mut left).unwrap_err().contains("more than 256 MB"));
        let many: Vec<String> = (0..2_001).map(|at| format!("{at}.csv")).collect();
        let folded = fold(many.iter().map(|name| (name.as_str(), [].as_slice()))).unwrap();
        assert!(unfold(&folded, &mut left).unwrap_err().contains("more than 2000 entries"));
    }
}
