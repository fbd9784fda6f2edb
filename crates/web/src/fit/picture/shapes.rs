//! From figures to shapes. Across, everything is in days of the window, so that the picture stretches with its box; upwards in pixels,
//! so that thickness is hours wherever one looks.

use crate::{
    fit::address::zoom::Height,
    grid::{Rect, Rim, Shapes},
};

/// Spill is never drawn thinner, in pixels.
const LEAST_SPILL: f64 = 4.0;
/// Windows longer than this are drawn week by week, by the means of their working days: a day would be less than a few pixels.
const MOST_DAYS: usize = 130;

/// Where a layer lies on each day: its lower and upper edge in minutes, cut at the rim.
pub type Band = Vec<(f64, f64)>;

/// Makes runs of equal values: index of the first, index after the last, value.
pub fn runs<T: PartialEq + Copy>(values: &[T]) -> Vec<(usize, usize, T)> {
    let mut found: Vec<(usize, usize, T)> = Vec::new();
    for (index, value) in values.iter().enumerate() {
        match found.last_mut() {
            Some((_, end, last)) if last == value => *end = index + 1,
            _ => found.push((index, index + 1, *value)),
        }
    }
    found
}

/// Layers on top of each other, under a rim, day by day.
pub struct Pile {
    limits: Vec<f64>,
    heights: Vec<f64>,
    height: Height,
}

impl Pile {
    /// An empty pile under these limits, in minutes a day.
    pub fn new(limits: Vec<f64>, height: Height) -> Self {
        Self { heights: vec![0.0; limits.len()], limits, height }
    }

    /// Lays minutes on top, and says where they lie under the rim.
    pub fn lay(&mut self, minutes: &[i32]) -> Band {
        let lay = |(at, minutes): (usize, &i32)| {
            let low = self.heights[at];
            let high = low + f64::from(*minutes);
            self.heights[at] = high;
            (low.min(self.limits[at]), high.min(self.limits[at]))
        };
        minutes.iter().enumerate().map(lay).collect()
    }

    /// What is free: from the top of the pile up to the rim.
    pub fn free(&self) -> Band {
        self.heights.iter().zip(&self.limits).map(|(height, limit)| (height.min(*limit), *limit)).collect()
    }

    fn y(&self, minutes: f64) -> f64 {
        let floor = self.height.floor();
        floor - (minutes / 60.0 * self.height.hour()).clamp(0.0, floor)
    }

    /// One value for every step of the picture: the days themselves, or in long windows the mean over a week's working days.
    fn steps(&self, of: impl Fn(usize) -> f64) -> Vec<f64> {
        let days = self.limits.len();
        if days <= MOST_DAYS {
            return (0..days).map(of).collect();
        }
        let mean = |from: usize| {
            let week = from..(from + 7).min(days);
            let counts = |at: &usize| self.limits[*at] > 0.0 || self.heights[*at] > 0.0;
            let working = u32::try_from(week.clone().filter(counts).count().max(1)).unwrap_or(1);
            // To a quarter of a minute, so that weeks alike make one shape.
            let mean = week.map(&of).sum::<f64>() / f64::from(working);
            (mean * 4.0).round() / 4.0
        };
        (0..days).step_by(7).map(mean).collect()
    }

    fn step(&self) -> usize {
        if self.limits.len() <= MOST_DAYS { 1 } else { 7 }
    }

    /// Days of steps, the last of which may be cut by the end of the window.
    fn days_of(&self, from: usize, to: usize) -> (usize, usize) {
        (from * self.step(), (to * self.step()).min(self.limits.len()))
    }

    /// The shapes between two edges, where the upper is above the lower.
    fn between(&self, edges: &[(f64, f64)], least: f64) -> Shapes {
        let shape = |(from, to, (low, top)): (usize, usize, (f64, f64))| {
            let (from, to) = self.days_of(from, to);
            let floor = self.y(low);
            let thick = (floor - self.y(top)).max(least);
            Rect { from, to, top: (floor - thick).max(0.0), floor: floor.max(thick) }
        };
        Shapes(runs(edges).into_iter().filter(|(_, _, (low, top))| *top > *low + 0.5).map(shape).collect())
    }

    /// The shapes of a layer.
    pub fn shapes(&self, band: &Band) -> Shapes {
        let (low, top) = (self.steps(|at| band[at].0), self.steps(|at| band[at].1));
        self.between(&low.into_iter().zip(top).collect::<Vec<_>>(), 0.0)
    }

    /// What stands above the rim. In long windows single days above it are not evened out by others below.
    pub fn spill(&self) -> Shapes {
        let limits = self.steps(|at| self.limits[at]);
        let above = self.steps(|at| (self.heights[at] - self.limits[at]).max(0.0));
        let edges: Vec<(f64, f64)> = limits.iter().zip(above).map(|(limit, above)| (*limit, limit + above)).collect();
        self.between(&edges, LEAST_SPILL)
    }

    /// The rim itself.
    pub fn rim(&self) -> Rim {
        let limits = self.steps(|at| self.limits[at]);
        let piece = |(from, to, limit): (usize, usize, f64)| {
            let (from, to) = self.days_of(from, to);
            (from, to, self.y(limit))
        };
        Rim(runs(&limits).into_iter().map(piece).collect())
    }

    /// How high minutes stand on the first days of the picture, as a line.
    pub fn line(&self, minutes: &[i32]) -> Rim {
        let minute = |at: usize| minutes.get(at).map_or(f64::NEG_INFINITY, |minutes| f64::from(*minutes));
        let heights = self.steps(minute);
        let known = heights.iter().take_while(|height| height.is_finite()).count();
        let piece = |(from, to, height): (usize, usize, f64)| {
            let (from, to) = self.days_of(from, to);
            (from, to, self.y(height))
        };
        Rim(runs(&heights[..known]).into_iter().map(piece).collect())
    }

    /// Days on which nothing is available: sand, from the floor up to where a usual day would reach. In long windows only whole
    /// weeks off are seen.
    pub fn off_days(&self, available: &[i32], pattern: &[i32]) -> Shapes {
        let usual = f64::from(pattern.iter().copied().max().unwrap_or(0).max(240));
        let days = available.len();
        let off: Vec<(f64, f64)> = match self.step() {
            1 => available.iter().map(|minutes| if *minutes == 0 { (0.0, usual) } else { (0.0, 0.0) }).collect(),
            step => {
                let week = |from: usize| available[from..(from + step).min(days)].iter().all(|minutes| *minutes == 0);
                (0..days).step_by(step).map(|from| (0.0, if week(from) { usual } else { 0.0 })).collect()
            }
        };
        self.between(&off, 0.0)
    }
}

/// Pours the minutes of one thing after the other into the places that are there, from below; what finds no place is left out.
pub struct Pour {
    places: Vec<Vec<(f64, f64)>>,
}

impl Pour {
    /// Into the layers of one project, from the lowest up.
    pub fn into(bands: &[&Band], days: usize) -> Self {
        let places = (0..days).map(|at| bands.iter().map(|band| band[at]).filter(|(low, top)| top > low).collect());
        Self { places: places.collect() }
    }

    /// Pours the next thing, and says where it lies; a thing that is cut by what lies between comes in several bands.
    pub fn pour(&mut self, minutes: &[i32]) -> Vec<Band> {
        let mut bands: Vec<Band> = Vec::new();
        for (at, minutes) in minutes.iter().enumerate() {
            let mut left = f64::from(*minutes);
            let mut piece = 0;
            while left > 0.0 && !self.places[at].is_empty() {
                let (low, top) = self.places[at][0];
                let taken = left.min(top - low);
                if bands.len() == piece {
                    bands.push(vec![(0.0, 0.0); self.places.len()]);
                }
                bands[piece][at] = (low, low + taken);
                piece += 1;
                left -= taken;
                if taken < top - low {
                    self.places[at][0].0 = low + taken;
                } else {
                    self.places[at].remove(0);
                }
            }
        }
        bands
    }
}
