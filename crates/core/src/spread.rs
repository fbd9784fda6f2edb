//! Cutting whole minutes into parts without losing one.

use crate::kinds::Contour;

/// Half-up rounding of `numerator / denominator` for a positive denominator; halves go towards positive infinity.
#[must_use]
pub fn round_half_up(numerator: i64, denominator: i64) -> i64 {
    (2 * numerator + denominator).div_euclid(2 * denominator)
}

/// Cuts `total` into parts in proportion to `weights`, exact by largest remainder, ties to the earlier part.
///
/// Returns `None` when no weight is positive: there is nowhere to put it. Weights below zero count as zero.
#[must_use]
pub fn largest_remainder(total: i64, weights: &[i64]) -> Option<Vec<i64>> {
    let sum: i128 = weights.iter().map(|w| i128::from((*w).max(0))).sum();
    if sum == 0 {
        return None;
    }
    let mut parts = Vec::with_capacity(weights.len());
    let mut rests = Vec::with_capacity(weights.len());
    let mut left = total;
    for (index, weight) in weights.iter().enumerate() {
        let exact = i128::from(total) * i128::from((*weight).max(0));
        // The part is at most `total` in size, so it fits.
        let part = i64::try_from(exact.div_euclid(sum)).unwrap_or(total);
        parts.push(part);
        rests.push((exact.rem_euclid(sum), index));
        left -= part;
    }
    rests.sort_by(|a, b| b.0.cmp(&a.0).then(a.1.cmp(&b.1)));
    for (_, index) in rests.into_iter().take(usize::try_from(left).unwrap_or(0)) {
        parts[index] += 1;
    }
    Some(parts)
}

/// Weights of the days of a run with these available minutes under a contour: available × contour(x), where x in 0..1 is the
/// middle of the day in the run. All are scaled by one common factor, which keeps them whole.
#[must_use]
pub fn contour_weights(available: &[i64], contour: Contour) -> Vec<i64> {
    let total: i64 = available.iter().sum();
    let mut before = 0;
    available
        .iter()
        .map(|minutes| {
            let middle = 2 * before + minutes; // x = middle / (2 × total)
            before += minutes;
            minutes
                * match contour {
                    Contour::Flat => 1,
                    Contour::Front => 2 * total - middle,
                    Contour::Back => middle,
                    Contour::Bell => total - (middle - total).abs(),
                }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn ties_go_to_the_earlier_part() {
        assert_eq!(largest_remainder(10, &[1, 1, 1]), Some(vec![4, 3, 3]));
        assert_eq!(largest_remainder(1, &[0, 5, 5]), Some(vec![0, 1, 0]));
        assert_eq!(largest_remainder(7, &[0, 0]), None);
    }

    #[test]
    fn contours_lean_the_way_they_are_named() {
        let days = [480; 4];
        assert_eq!(largest_remainder(960, &contour_weights(&days, Contour::Flat)), Some(vec![240; 4]));
        assert_eq!(largest_remainder(960, &contour_weights(&days, Contour::Front)), Some(vec![420, 300, 180, 60]));
        assert_eq!(largest_remainder(960, &contour_weights(&days, Contour::Back)), Some(vec![60, 180, 300, 420]));
        assert_eq!(largest_remainder(960, &contour_weights(&days, Contour::Bell)), Some(vec![120, 360, 360, 120]));
    }

    proptest! {
        #[test]
        fn spreading_loses_no_minute_and_stays_near_the_share(total in 0i64..100_000, weights in prop::collection::vec(0i64..2_000, 1..40)) {
            let sum: i64 = weights.iter().sum();
            match largest_remainder(total, &weights) {
                None => prop_assert_eq!(sum, 0),
                Some(parts) => {
                    prop_assert_eq!(parts.iter().sum::<i64>(), total);
                    for (part, weight) in parts.iter().zip(&weights) {
                        prop_assert!((part * sum - total * weight).abs() < sum);
                    }
                }
            }
        }
    }
}
