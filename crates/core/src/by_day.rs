//! Minutes of the days of whole ISO weeks, kept by weekday.

use std::ops::{Index, IndexMut, Range};
use wide::i32x8;

/// How many weeks lie side by side.
pub const LANES: usize = 8;

/// The days of [`LANES`] weeks by weekday: all Mondays, then all Tuesdays, …, so that a step over the days of a week is one step for all
/// of these weeks, which a processor takes at once.
pub type Block = [i32x8; 7];

/// Minutes a day over whole ISO weeks, in [`Block`]s. Indexes are days all the same, 0 for the first Monday. Weeks beyond the last that
/// fill up the last block are nothing.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct ByDay {
    weeks: usize,
    blocks: Vec<Block>,
}

/// Where each of the first days stands, of about twenty years: divisions take their time where every booking is looked at.
const KNOWN: [u16; 7 * 1024] = {
    let mut slots = [0; 7 * 1024];
    let mut at = 0;
    while at < slots.len() {
        #[allow(clippy::cast_possible_truncation)] // no more slots than days, up to a block
        let slot = divided(at) as u16;
        slots[at] = slot;
        at += 1;
    }
    slots
};

const fn divided(at: usize) -> usize {
    let (week, weekday) = (at / 7, at % 7);
    (week / LANES * 7 + weekday) * LANES + week % LANES
}

/// Where a day stands among the values of blocks.
#[must_use]
#[inline]
pub fn slot(at: usize) -> usize {
    KNOWN.get(at).map_or_else(|| divided(at), |slot| usize::from(*slot))
}

/// What the weeks of a block come to.
#[must_use]
#[inline]
pub fn sum_of(block: &Block) -> i32x8 {
    block.iter().fold(i32x8::ZERO, |sum, day| sum + *day)
}

impl Clone for ByDay {
    fn clone(&self) -> Self {
        Self { weeks: self.weeks, blocks: self.blocks.clone() }
    }

    /// Copies into the memory that it has; the derived one would take new.
    fn clone_from(&mut self, other: &Self) {
        self.weeks = other.weeks;
        self.blocks.clone_from(&other.blocks);
    }
}

impl ByDay {
    /// Nothing on any day of this number of weeks.
    #[must_use]
    pub fn zeros(weeks: usize) -> Self {
        Self { weeks, blocks: vec![Block::default(); weeks.div_ceil(LANES)] }
    }

    /// The days of a list that begins on a Monday; it is cut to whole weeks.
    #[must_use]
    pub fn of(days: &[i32]) -> Self {
        let mut found = Self::zeros(days.len() / 7);
        (0..found.len()).for_each(|at| found[at] = days[at]);
        found
    }

    /// Makes it this number of weeks long, in the memory that it has. What stands on the days is to be written afterwards.
    pub fn resize(&mut self, weeks: usize) {
        self.weeks = weeks;
        self.blocks.resize(weeks.div_ceil(LANES), Block::default());
    }

    /// Makes it as new for this number of weeks, in the memory that it has.
    pub fn clear(&mut self, weeks: usize) {
        self.weeks = weeks;
        self.blocks.clear();
        self.blocks.resize(weeks.div_ceil(LANES), Block::default());
    }

    /// Makes every week this one, Monday first, for a number of weeks, in the memory that it has.
    pub fn fill(&mut self, weeks: usize, week: [i32; 7]) {
        self.resize(weeks);
        self.blocks.fill(week.map(i32x8::splat));
        if let Some(last) = self.blocks.last_mut() {
            let filled = weeks - (weeks - 1) / LANES * LANES;
            for lanes in last {
                lanes.as_array_mut()[filled..].fill(0);
            }
        }
    }

    /// The number of days.
    #[must_use]
    pub fn len(&self) -> usize {
        self.weeks * 7
    }

    /// Whether there is no day at all.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.weeks == 0
    }

    /// The number of weeks.
    #[must_use]
    pub fn weeks(&self) -> usize {
        self.weeks
    }

    /// The values by weekday, [`LANES`] weeks at a time.
    #[must_use]
    pub fn blocks(&self) -> &[Block] {
        &self.blocks
    }

    /// The same to be written.
    pub fn blocks_mut(&mut self) -> &mut [Block] {
        &mut self.blocks
    }

    /// Every value, in the order of their [`slot`]s.
    #[must_use]
    pub fn slots(&self) -> &[i32] {
        bytemuck::must_cast_slice(self.blocks.as_flattened())
    }

    /// The same to be written.
    pub fn slots_mut(&mut self) -> &mut [i32] {
        bytemuck::must_cast_slice_mut(self.blocks.as_flattened_mut())
    }

    /// The values of some days, in their order.
    pub fn days(&self, range: Range<usize>) -> impl DoubleEndedIterator<Item = i32> + ExactSizeIterator + Clone + '_ {
        range.map(|at| self[at])
    }

    /// All values in the order of their days.
    pub fn iter(&self) -> impl DoubleEndedIterator<Item = i32> + ExactSizeIterator + Clone + '_ {
        self.days(0..self.len())
    }

    /// The sum of some days.
    #[must_use]
    pub fn sum(&self, range: Range<usize>) -> i64 {
        self.days(range).map(i64::from).sum()
    }

    /// Adds the values of other days, which must be as many.
    pub fn add(&mut self, other: &Self) {
        self.combine(other, |sum, minutes| sum + minutes);
    }

    /// Takes off the values of other days, which must be as many.
    pub fn subtract(&mut self, other: &Self) {
        self.combine(other, |sum, minutes| sum - minutes);
    }

    /// Copies other days, which must be as many, as far as all bits of a third are set on a day, and none for nothing.
    pub fn copy_where(&mut self, other: &Self, mask: &Self) {
        let others = other.blocks.as_flattened().iter().zip(mask.blocks.as_flattened());
        let own = self.blocks.as_flattened_mut().iter_mut();
        own.zip(others).for_each(|(own, (other, mask))| *own = *other & *mask);
    }

    /// Makes of each value and that of other days, which must be as many, another.
    #[inline]
    fn combine(&mut self, other: &Self, of: impl Fn(i32x8, i32x8) -> i32x8) {
        let other = other.blocks.as_flattened();
        self.blocks.as_flattened_mut().iter_mut().zip(other).for_each(|(own, other)| *own = of(*own, *other));
    }
}

impl Index<usize> for ByDay {
    type Output = i32;
    fn index(&self, at: usize) -> &i32 {
        &self.slots()[slot(at)]
    }
}

impl IndexMut<usize> for ByDay {
    fn index_mut(&mut self, at: usize) -> &mut i32 {
        &mut self.slots_mut()[slot(at)]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn days_keep_their_order_and_weekdays_lie_together() {
        let days: Vec<i32> = (0..21).collect();
        let by_day = ByDay::of(&days);
        assert_eq!(by_day.iter().collect::<Vec<_>>(), days);
        assert_eq!(by_day.blocks()[0][1].to_array(), [1, 8, 15, 0, 0, 0, 0, 0]);
        assert_eq!(by_day.sum(6..9), 6 + 7 + 8);
        assert_eq!(by_day.days(19..21).rev().collect::<Vec<_>>(), [20, 19]);
        // Longer than the places that are known beforehand.
        let days: Vec<i32> = (0..7 * 1_100).collect();
        let by_day = ByDay::of(&days);
        assert_eq!(by_day.iter().collect::<Vec<_>>(), days);
        for (block, first) in by_day.blocks().iter().zip((0..).step_by(7 * LANES)) {
            for (weekday, lanes) in (0..).zip(block) {
                let expected = [0, 1, 2, 3, 4, 5, 6, 7].map(|week| first + week * 7 + weekday);
                assert!(lanes.to_array() == expected || first + 7 * 8 > 7 * 1_100, "{first} {weekday}");
            }
        }
        let mut weeks = ByDay::of(&vec![9; 70]);
        assert_eq!((weeks.blocks().len(), weeks.sum(0..70)), (2, 630));
        weeks.fill(9, [1, 2, 3, 4, 5, 0, 0]);
        assert_eq!(weeks, ByDay::of(&[1, 2, 3, 4, 5, 0, 0].repeat(9)), "what fills up the last block is nothing");
    }
}
