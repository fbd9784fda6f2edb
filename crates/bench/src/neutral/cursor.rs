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

    /// Goes to the end of the line.
    pub fn skip_line(&mut self) {
        let end = self.rest.iter().position(|byte| *byte == b'\n').unwrap_or(self.rest.len());
        self.rest = &self.rest[end..];
    }

    /// The next cell, which must be a whole number that is not below zero.
    pub fn number(&mut self) -> Result<i32, String> {
        let (mut sum, mut rest) = (0_u64, self.rest);
        while let [digit @ b'0'..=b'9', more @ ..] = rest {
            sum = sum.wrapping_mul(10).wrapping_add(u64::from(digit - b'0'));
            rest = more;
        }
        let sum = match self.rest.len() - rest.len() {
            0 => return Err("a number is missing".to_owned()),
            // So many digits fit into the sum.
            1..=18 => i32::try_from(sum).ok(),
            _ => None,
        };
        let sum = sum.ok_or("a number is too large")?;
        self.rest = rest;
        self.cell_ends()?;
        Ok(sum)
    }

    /// The next cell, which must be a day, as 2026-01-05.
    pub fn day(&mut self) -> Result<Day, String> {
        let Some((cell, rest)) = self.rest.split_first_chunk::<10>() else { return Err("a day is missing".to_owned()) };
        self.rest = rest;
        let stamp = stamp(*cell).ok_or("a day is written as 2026-01-05")?;
        let slot = usize::try_from(stamp).unwrap_or_default() % KNOWN_DAYS;
        let (known, day) = self.days[slot];
        let day = if known == stamp {
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

/// Another number for each text of digits and dashes that might be a day, never 0, and neighbours for neighbours. All eight bytes of
/// year and month are looked at in one step: what is left of a digit is its value, and of a dash nothing.
fn stamp(cell: [u8; 10]) -> Option<u32> {
    const EACH: u64 = 0x0101_0101_0101_0101;
    let [y0, y1, y2, y3, d0, m0, m1, d1, t0, t1] = cell;
    let month = u64::from_le_bytes([y0, y1, y2, y3, d0, m0, m1, d1]) ^ u64::from_le_bytes(*b"0000-00-");
    let (ten, one) = (t0 ^ b'0', t1 ^ b'0');
    let above_nine = (month.wrapping_add(EACH * (0x7f - 9)) | month) & (EACH * 0x80);
    let [_, _, _, _, first_dash, _, _, second_dash] = month.to_le_bytes();
    if above_nine != 0 || first_dash != 0 || second_dash != 0 || ten > 9 || one > 9 {
        return None;
    }
    // Ten times each digit and the next one: no byte runs over, as none is above 99.
    let [century, _, year, _, _, month, ..] = (month * 10 + (month >> 8)).to_le_bytes().map(u32::from);
    Some((((century * 100 + year) * 16 + month) * 32 + u32::from(ten * 10 + one)) + 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn days_are_read_as_they_are_written_and_nothing_else_is() {
        let day = |text: &str| Cursor::new(text.as_bytes()).day();
        for number in [0, 1, 58, 59, 19_723, 20_500, 40_000, 84_005] {
            let expected = Day::from_number(number);
            assert_eq!(day(&expected.to_string()), Ok(expected));
        }
        for wrong in [
            "2026-13-01",
            "2026-02-30",
            "2026/02/03",
            "2026-2-003",
            "202a-01-01",
            "2026-01-0:",
            "1926-01-01",
            "2026-01",
        ] {
            assert!(day(wrong).is_err(), "{wrong}");
        }
        for wide in ["2147483648", "10000000000000000000000001"] {
            assert_eq!(Cursor::new(wide.as_bytes()).number(), Err("a number is too large".to_owned()));
        }
        let mut line = Cursor::new(b"2026-01-05,2026-01-05,17\n");
        assert_eq!(
            (line.day(), line.day(), line.number()),
            (Ok(Day::from_number(20_458)), Ok(Day::from_number(20_458)), Ok(17))
        );
    }
}
