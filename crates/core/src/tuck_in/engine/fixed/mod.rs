//! Activities of fixed length on resources with the same capacity every day; the last finish is to be early. This is the problem of the
//! neutral benchmark (`docs/performance.md`).

mod pass;
mod problem;

use super::{
    net::Net,
    search::{Draft, Made, Maker, bred},
};
use pass::Ground;
pub use problem::{Activity, Problem};

/// When everything starts.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Schedule {
    /// The day on which each activity starts, from 0.
    pub starts: Vec<i32>,
    /// The last finish: so many days does it take.
    pub end: i32,
}

/// How far a search is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Progress {
    /// So many passes over all activities were made.
    pub passes: u64,
    /// The last finish of the best schedule.
    pub end: i32,
    /// No schedule can be shorter.
    pub lower_bound: i32,
}

/// Makes orders into schedules, pushed against their end and back.
struct Justified<'p> {
    problem: &'p Problem,
    ground: Ground<'p>,
    passes: u64,
}

impl Maker for Justified<'_> {
    type Score = i32;

    fn net(&self) -> &Net {
        &self.problem.net
    }

    fn modes(&self, _: usize) -> usize {
        1
    }

    fn first(&self) -> Vec<Vec<usize>> {
        Vec::new()
    }

    fn made(&mut self, Draft { mut order, .. }: Draft) -> Made<i32> {
        let (end, passes) = self.ground.justified(&mut order);
        self.passes += passes;
        let starts = self.ground.starts.clone();
        let ends = starts.iter().zip(&self.problem.lengths).map(|(start, length)| start + i32::from(*length));
        // What cannot slip is what holds the end.
        let costs = self.ground.latest.iter().zip(&starts).map(|(latest, start)| i64::from(start - latest)).collect();
        Made { order, modes: Vec::new(), ends: ends.collect(), starts, costs, score: end }
    }

    fn pushed(&mut self, _: &Made<i32>) -> Option<Vec<usize>> {
        None
    }

    fn passes(&self) -> u64 {
        self.passes
    }

    fn is_best(&self, end: i32) -> bool {
        end <= self.problem.lower_bound()
    }
}

/// Looks for a short schedule until it is known that none is shorter, or `go_on` says no; the first one is made in any case. The same seed
/// gives the same answer after the same number of passes.
pub fn search(problem: &Problem, seed: u64, go_on: &mut dyn FnMut(Progress) -> bool) -> Schedule {
    if problem.is_empty() {
        return Schedule::default();
    }
    let mut maker = Justified { problem, ground: Ground::new(problem), passes: 0 };
    let lower_bound = problem.lower_bound();
    let best = bred(&mut maker, seed, &mut |passes, end| go_on(Progress { passes, end, lower_bound }));
    best.map_or_else(Schedule::default, |made| Schedule { starts: made.starts, end: made.score })
}
