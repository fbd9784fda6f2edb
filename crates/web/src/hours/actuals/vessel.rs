//! Estimate and actual as a picture: the estimate is the rim, what was worked the fill, what is left the lighter fill, overrun the
//! spill.

use snug_core::hours::Actuals;

/// Estimate and actual as a picture, in percent of its width.
pub struct Vessel {
    /// Worked, up to the estimate.
    pub done: f64,
    /// Still to go, up to the estimate.
    pub left: f64,
    /// Where the spill begins, and how wide it is.
    pub spill_from: f64,
    /// Beyond the estimate.
    pub spill: f64,
    /// Where the estimate ends.
    pub rim: f64,
}

impl Vessel {
    /// Draws figures on a scale where `most` minutes are the full width.
    pub fn of(figures: &Actuals, most: i64) -> Self {
        let rim = figures.estimated.then(|| figures.estimate());
        Self::filled(rim, figures.actual(), figures.remaining(), most)
    }

    /// Draws what is used and what is still to come under a rim, if there is one, on a scale where `most` is the full width.
    #[allow(clippy::cast_precision_loss)] // minutes as a share of a width
    pub fn filled(rim: Option<i64>, used: i64, to_come: i64, most: i64) -> Self {
        let width = |minutes: i64| (minutes as f64 * 1_000.0 / most.max(1) as f64).round() / 10.0;
        let all = used + to_come;
        let holds = rim.unwrap_or(all).max(0);
        let done = used.clamp(0, holds);
        let left = to_come.min(holds - done).max(0);
        let spill = (all - holds).max(0);
        Self {
            done: width(done),
            left: width(left),
            spill_from: width(done + left),
            spill: width(spill),
            rim: rim.map_or(0.0, width),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_picture_has_the_proportions_of_its_figures() {
        let draw = |rim, used, to_come| {
            let Vessel { done, left, spill_from, spill, rim } = Vessel::filled(rim, used, to_come, 100);
            [done, left, spill_from, spill, rim].map(|width| width.to_string()).join(" ")
        };
        assert_eq!(draw(Some(80), 30, 50), "30 50 80 0 80", "as thought: full to the rim");
        assert_eq!(draw(Some(60), 50, 40), "50 10 60 30 60", "what is beyond the estimate spills");
        assert_eq!(draw(Some(60), 75, 0), "60 0 60 15 60", "worked beyond it, too");
        assert_eq!(draw(Some(60), 20, 10), "20 10 30 0 60", "room is left under the rim");
        assert_eq!(draw(None, 20, 0), "20 0 20 0 0", "no estimate, no rim");
    }
}
