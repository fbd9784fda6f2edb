//! Sums of shares, exact until a figure is shown.

use crate::{cells::WHOLE, spread::round_half_up};
use std::ops::{Add, AddAssign, Sub};

/// Minutes and parts of them, to the ten-thousandth, as shares cut them.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Minutes(i64);

impl Minutes {
    /// Whole minutes.
    #[must_use]
    pub fn whole(minutes: i64) -> Self {
        Self(minutes * WHOLE)
    }

    /// A share, in hundredths of a percent, of whole minutes.
    #[must_use]
    pub fn share(minutes: i64, share: i64) -> Self {
        Self(minutes * share)
    }

    /// In ten-thousandths of a minute.
    #[must_use]
    pub fn exact(self) -> i64 {
        self.0
    }

    /// Half up to whole minutes.
    #[must_use]
    pub fn rounded(self) -> i64 {
        round_half_up(self.0, WHOLE)
    }

    /// Tenths of a percent of something, half up; `None` where that is nothing.
    #[must_use]
    pub fn per_mille_of(self, whole: Self) -> Option<i64> {
        if whole.0 <= 0 {
            return None;
        }
        let twice = 2 * i128::from(self.0) * 1_000 + i128::from(whole.0);
        i64::try_from(twice.div_euclid(2 * i128::from(whole.0))).ok()
    }
}

impl Add for Minutes {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0 + other.0)
    }
}

impl Sub for Minutes {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0 - other.0)
    }
}

impl AddAssign for Minutes {
    fn add_assign(&mut self, other: Self) {
        self.0 += other.0;
    }
}
