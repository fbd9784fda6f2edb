//! The lines of a large file on all threads, in one pass of bytes.

use super::cursor::Cursor;
use rayon::prelude::*;
use std::{
    fs::File,
    io::{self, Read, Seek, SeekFrom},
    path::Path,
};

/// How many bytes of a file one thread takes at a time, to the end of a line.
const PIECE: usize = 1 << 20;
/// How long a line may be before a piece is read again with more behind it.
const MARGIN: usize = 1 << 10;
/// About as long as a line is, in bytes: room for that many lines is made at first.
const USUAL: usize = 40;

/// Reads the lines of a file but the first, in pieces that keep their order. The file is never in memory as a whole.
pub fn pieces<T: Send>(
    path: &Path,
    read: impl Fn(&mut Cursor<'_>) -> Result<T, String> + Sync,
) -> Result<Vec<Vec<T>>, String> {
    let failed = |error: io::Error| format!("{}: {error}", path.display());
    let length = path.metadata().map_err(failed)?.len();
    let starts: Vec<u64> = (0..length).step_by(PIECE).collect();
    let piece = |buffer: &mut Vec<u8>, start: &u64| {
        let mut cursor = Cursor::new(lines(path, *start, buffer).map_err(failed)?);
        let mut found = Vec::with_capacity(PIECE / USUAL);
        while cursor.has_line() {
            found.push(read(&mut cursor)?);
        }
        Ok(found)
    };
    starts.par_iter().map_init(Vec::new, piece).collect()
}

/// What follows the first line.
pub fn body(file: &[u8]) -> &[u8] {
    after_line(file, 0).map_or(&[], |begin| &file[begin..])
}

/// The lines that begin behind the first end of a line at or after the byte before `start`, up to where the next piece's begin.
fn lines<'b>(path: &Path, start: u64, buffer: &'b mut Vec<u8>) -> io::Result<&'b [u8]> {
    let from = start.saturating_sub(1);
    let next = if start == 0 { PIECE - 1 } else { PIECE };
    let mut wanted = PIECE + MARGIN;
    loop {
        buffer.clear();
        let mut file = File::open(path)?;
        file.seek(SeekFrom::Start(from))?;
        file.take(u64::try_from(wanted).unwrap_or(u64::MAX)).read_to_end(buffer)?;
        let ends = (after_line(buffer, 0), after_line(buffer, next));
        if let (Some(begin), Some(end)) = ends {
            return Ok(&buffer[begin..end]);
        }
        if buffer.len() < wanted {
            return Ok(&buffer[ends.0.unwrap_or(buffer.len())..]);
        }
        wanted *= 2;
    }
}

fn after_line(bytes: &[u8], from: usize) -> Option<usize> {
    let rest = bytes.get(from..)?;
    rest.iter().position(|byte| *byte == b'\n').map(|at| from + at + 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every line is read once and in its place, wherever the pieces end, and however long a line is.
    #[test]
    fn pieces_hold_every_line_once() {
        let path = std::env::temp_dir().join(format!("snug-pieces-{}.csv", std::process::id()));
        for long in [1, MARGIN * 3, PIECE + 7] {
            let numbers = 0..300_000_usize;
            let line = |n: usize| {
                if n % 100_000 == 99_999 { format!("{n},{}\n", "x".repeat(long)) } else { format!("{n},x\n") }
            };
            let file: String = std::iter::once("n,x\n".to_owned()).chain(numbers.clone().map(line)).collect();
            std::fs::write(&path, file).unwrap();
            let found = pieces(&path, |line| {
                let number = line.number()?;
                line.key();
                Ok(number)
            });
            let found: Vec<usize> = found.unwrap().into_iter().flatten().map(|n| usize::try_from(n).unwrap()).collect();
            assert_eq!(found, numbers.collect::<Vec<_>>());
        }
        std::fs::remove_file(&path).unwrap();
    }
}
