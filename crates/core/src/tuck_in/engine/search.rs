//! The search for a good schedule: orders are made into schedules, and those into better orders.

use super::{
    breed::{child, drawn},
    net::Net,
};
use rand::{Rng, SeedableRng as _};
use rand_xoshiro::Xoshiro256PlusPlus as Chance;

/// So many schedules live at a time.
const POPULATION: usize = 40;

/// After so many generations without a better one the population is made anew, from chance alone: what stays of an old one draws a new one
/// back to where that was stuck. The best is kept beside it.
const PATIENCE: usize = 20;

/// How surely first orders prefer what has the longest way before it.
const BIASES: [f64; 4] = [1.0, 2.0, 4.0, 8.0];

/// What a schedule is to be made from.
#[derive(Clone, Debug, Default)]
pub(super) struct Draft {
    /// Everything behind what is before it.
    pub order: Vec<usize>,
    /// In which mode each activity is to be done, where that is not left to the maker; empty where there is but one each.
    pub modes: Vec<Option<usize>>,
}

/// A schedule.
#[derive(Clone, Debug)]
pub(super) struct Made<S> {
    /// The order that it would be made from once more: by starts.
    pub order: Vec<usize>,
    /// The mode of each activity; empty where there is but one each.
    pub modes: Vec<usize>,
    /// The day on which each starts.
    pub starts: Vec<i32>,
    /// The day after each one's last; the start where it takes no day, or has none.
    pub ends: Vec<i32>,
    /// What each adds to what is to be little; empty where that is not looked at one by one.
    pub costs: Vec<i64>,
    /// The less the better.
    pub score: S,
}

/// Makes drafts into schedules.
pub(super) trait Maker {
    /// What is to be little.
    type Score: Copy + Ord;
    fn net(&self) -> &Net;
    /// How many modes an activity has.
    fn modes(&self, at: usize) -> usize;
    /// Orders by rules, to begin with.
    fn first(&self) -> Vec<Vec<usize>>;
    fn made(&mut self, draft: Draft) -> Made<Self::Score>;
    /// The order of starts of what was just made, once everything is pushed against its end; `None` where making it does that already.
    fn pushed(&mut self, made: &Made<Self::Score>) -> Option<Vec<usize>>;
    /// So many passes over all activities were made.
    fn passes(&self) -> u64;
    /// Whether no schedule can be better.
    fn is_best(&self, score: Self::Score) -> bool;
}

/// One search.
struct Search<'g, M: Maker> {
    maker: &'g mut M,
    chance: Chance,
    best: Option<Made<M::Score>>,
    go_on: &'g mut dyn FnMut(u64, M::Score) -> bool,
    goes_on: bool,
}

/// Looks for a good schedule until it is known that none is better, or `go_on`, which is told the passes and the best score so far, says
/// no; the first one is made in any case. The same seed gives the same answer after the same number of passes.
pub(super) fn bred<M: Maker>(
    maker: &mut M,
    seed: u64,
    go_on: &mut dyn FnMut(u64, M::Score) -> bool,
) -> Option<Made<M::Score>> {
    let mut search = Search { maker, chance: Chance::seed_from_u64(seed), best: None, go_on, goes_on: true };
    search.run();
    search.best
}

impl<M: Maker> Search<'_, M> {
    fn run(&mut self) {
        let first = self.maker.first();
        let mut living = Vec::with_capacity(2 * POPULATION);
        for order in first {
            if self.goes_on {
                let made = self.justified(Draft { order, modes: Vec::new() }, true);
                living.push(made);
            }
        }
        while self.goes_on {
            self.fill(&mut living);
            let mut stale = 0;
            while self.goes_on && stale < PATIENCE {
                let before = living[0].score;
                self.next(&mut living);
                stale = if living[0].score < before { 0 } else { stale + 1 };
            }
            living.clear();
        }
    }

    /// Makes a draft into a schedule. The best so far, or where it is asked for any, is pushed against its end and made anew as long as
    /// that makes it better.
    fn justified(&mut self, draft: Draft, always: bool) -> Made<M::Score> {
        let modes = draft.modes.clone();
        let before = self.best.as_ref().map(|best| best.score);
        let mut made = self.made(draft);
        while self.goes_on && (always || before.is_none_or(|before| made.score < before)) {
            let Some(order) = self.maker.pushed(&made) else { break };
            let again = self.made(Draft { order, modes: modes.clone() });
            if again.score >= made.score {
                break;
            }
            made = again;
        }
        made
    }

    /// Makes a draft into a schedule, and remembers the best one.
    fn made(&mut self, draft: Draft) -> Made<M::Score> {
        let made = self.maker.made(draft);
        let best = match &self.best {
            Some(best) if best.score <= made.score => best.score,
            _ => {
                self.best = Some(made.clone());
                made.score
            }
        };
        self.goes_on = !self.maker.is_best(best) && (self.go_on)(self.maker.passes(), best);
        made
    }

    /// Adds schedules from chance until the population is whole, or no more are wanted; sorts it.
    fn fill(&mut self, living: &mut Vec<Made<M::Score>>) {
        while living.len() < POPULATION && (self.goes_on || living.is_empty()) {
            let order = drawn(self.maker.net(), &mut self.chance, BIASES[living.len() % BIASES.len()]);
            let made = self.justified(Draft { order, modes: Vec::new() }, false);
            living.push(made);
        }
        living.sort_by_key(|it| it.score);
    }

    /// The next generation: the best of the living and their children, each but once.
    fn next(&mut self, living: &mut Vec<Made<M::Score>>) {
        let parents = living.len();
        for _ in 0..POPULATION {
            if !self.goes_on {
                break;
            }
            // Of two that chance names the better one.
            let mut parent = || self.chance.random_range(0..parents).min(self.chance.random_range(0..parents));
            let (one, other) = (parent(), parent());
            let draft = child(self.maker, &mut self.chance, &living[one], &living[other]);
            let made = self.justified(draft, false);
            living.push(made);
        }
        living.sort_by_key(|it| it.score);
        living.dedup_by(|a, b| a.score == b.score && a.starts == b.starts);
        living.truncate(POPULATION);
        self.fill(living);
    }
}
