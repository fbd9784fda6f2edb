//! The search for a short schedule.

use super::{
    breed::{child, drawn},
    pass::Ground,
    problem::Problem,
};
use rand::{Rng, SeedableRng as _};
use rand_xoshiro::Xoshiro256PlusPlus as Chance;

/// So many schedules live at a time.
const POPULATION: usize = 40;

/// After so many generations without a better one the population is made anew; only the best stays.
const PATIENCE: usize = 20;

/// How surely first orders prefer what has the longest way before it.
const BIASES: [f64; 4] = [1.0, 2.0, 4.0, 8.0];

/// When everything starts.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Schedule {
    /// The day on which each activity starts, from 0.
    pub starts: Vec<i32>,
    /// The last finish: so many days does it take.
    pub end: i32,
    /// The order it was made from.
    pub(super) order: Vec<usize>,
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

/// One search.
struct Search<'p, 'g> {
    problem: &'p Problem,
    ground: Ground<'p>,
    chance: Chance,
    progress: Progress,
    best: Schedule,
    go_on: &'g mut dyn FnMut(Progress) -> bool,
    goes_on: bool,
}

/// Looks for a short schedule until it is known that none is shorter, or `go_on` says no; the first one is made in any case. The same seed
/// gives the same answer after the same number of passes.
pub fn search(problem: &Problem, seed: u64, go_on: &mut dyn FnMut(Progress) -> bool) -> Schedule {
    let mut search = Search {
        problem,
        ground: Ground::new(problem),
        chance: Chance::seed_from_u64(seed),
        progress: Progress { passes: 0, end: i32::MAX, lower_bound: problem.lower_bound() },
        best: Schedule { end: i32::MAX, ..Schedule::default() },
        go_on,
        goes_on: true,
    };
    search.run();
    search.best
}

impl Search<'_, '_> {
    fn run(&mut self) {
        while self.goes_on {
            let mut living = self.first();
            let mut stale = 0;
            while self.goes_on && stale < PATIENCE {
                let before = living[0].end;
                self.next(&mut living);
                stale = if living[0].end < before { 0 } else { stale + 1 };
            }
        }
    }

    /// Makes an order into a schedule, and remembers the best one.
    fn made(&mut self, mut order: Vec<usize>) -> Schedule {
        let (end, passes) = self.ground.justified(&mut order);
        let made = Schedule { starts: self.ground.starts.clone(), end, order };
        if end < self.best.end {
            self.best = made.clone();
        }
        self.progress = Progress { passes: self.progress.passes + passes, end: self.best.end, ..self.progress };
        self.goes_on = self.best.end > self.progress.lower_bound && (self.go_on)(self.progress);
        made
    }

    /// A population from chance, with the best one so far in it, sorted.
    fn first(&mut self) -> Vec<Schedule> {
        let mut living = Vec::with_capacity(2 * POPULATION);
        if !self.best.order.is_empty() {
            living.push(self.best.clone());
        }
        self.fill(&mut living);
        living
    }

    /// Adds schedules from chance until the population is whole, or no more are wanted; sorts it.
    fn fill(&mut self, living: &mut Vec<Schedule>) {
        while living.len() < POPULATION && (self.goes_on || living.is_empty()) {
            let order = drawn(self.problem, &mut self.chance, BIASES[living.len() % BIASES.len()]);
            living.push(self.made(order));
        }
        living.sort_by_key(|it| it.end);
    }

    /// The next generation: the best of the living and their children, each but once.
    fn next(&mut self, living: &mut Vec<Schedule>) {
        let parents = living.len();
        for _ in 0..POPULATION {
            if !self.goes_on {
                break;
            }
            // Of two that chance names the better one.
            let mut parent = || self.chance.random_range(0..parents).min(self.chance.random_range(0..parents));
            let (one, other) = (parent(), parent());
            let order = child(self.problem, &mut self.chance, &living[one], &living[other]);
            living.push(self.made(order));
        }
        living.sort_by_key(|it| it.end);
        living.dedup_by(|a, b| a.end == b.end && a.starts == b.starts);
        living.truncate(POPULATION);
        self.fill(living);
    }
}
