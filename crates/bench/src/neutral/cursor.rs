//! Values read off bytes one after the other, each byte looked at once.

use snug_core::Day;

/// Where one stands in a block of lines.
pub struct Cursor<'a> {
    rest: &'a [u8],
    days: Box<[(u32, Day)]>,
}

/// Days that were read already, four years of them before one takes another's place: the same few hundred stand in a file over and over.
const KNOWN_DAYS: usize = 2_048;

impl<'a> Cursor<'a> {
    /// At the beginning of a block.
    pub fn new(block: &'a [u8]) -> Self {
        Self { rest: block, days: vec![(0, Day::MIN); KNOWN_DAYS].into() }
    }

    /// Whether a line is left; blank ones are passed over.
    pub fn has_line(&mut self) -> bool {
        while let [b'\n' | b'\r', rest @ ..] = self.rest {
            self.rest = rest;
        }
        !self.rest.is_empty()
    }

    /// The next cell as it stands.
    pub fn key(&mut self) -> &'a [u8] {
        let end = self.rest.iter().position(|byte| matches!(byte, b',' | b'\n' | b'\r')).unwrap_or(self.rest.len());
        let (cell, rest) = self.rest.split_at(end);
        self.rest = rest.strip_prefix(b",").unwrap_or(rest);
        cell
    }

    /// The next cell, which must be a whole number that is not below zero.
    pub fn number(&mut self) -> Result<i32, String> {
        let (mut sum, mut rest) = (0_i32, self.rest);
        while let [digit @ b'0'..=b'9', more @ ..] = rest {
            let next = sum.checked_mul(10).and_then(|sum| sum.checked_add(i32::from(digit - b'0')));
            sum = next.ok_or("a number is too large")?;
            rest = more;
        }
        if rest.len() == self.rest.len() {
            return Err("a number is missing".to_owned());
        }
        self.rest = rest;
        self.cell_ends()?;
        Ok(sum)
    }

    /// The next cell, which must be a day, as 2026-01-05.
    pub fn day(&mut self) -> Result<Day, String> {
        let Some((cell, rest)) = self.rest.split_first_chunk::<10>() else { return Err("a day is missing".to_owned()) };
        self.rest = rest;
        if cell[4] != b'-' || cell[7] != b'-' {
            return Err("a day is written as 2026-01-05".to_owned());
        }
        let digit = |at: usize| u32::from(cell[at].wrapping_sub(b'0'));
        let two = |at: usize| digit(at) * 10 + digit(at + 1);
        // Unlike for unlike texts as long as these are digits; others are never remembered, as they are no days.
        let stamp = ((two(0) * 100 + two(2)) * 16 + two(5)) * 32 + two(8) + 1;
        let slot = usize::try_from(stamp).unwrap_or_default() % KNOWN_DAYS;
        let (known, day) = self.days[slot];
        let are_digits = [0, 1, 2, 3, 5, 6, 8, 9].iter().all(|at| cell[*at].is_ascii_digit());
        let day = if known == stamp && are_digits {
            day
        } else {
            let text = std::str::from_utf8(cell).map_err(|error| error.to_string())?;
            let day = text.parse().map_err(|error: snug_core::NoDay| error.to_string())?;
            self.days[slot] = (stamp, day);
            day
        };
        self.cell_ends()?;
        Ok(day)
    }

    fn cell_ends(&mut self) -> Result<(), String> {
        match self.rest {
            [b',', rest @ ..] => self.rest = rest,
            [] | [b'\n' | b'\r', ..] => {}
            [other, ..] => return Err(format!("“{}” stands where a cell should end", char::from(*other))),
        }
        Ok(())
    }
}
