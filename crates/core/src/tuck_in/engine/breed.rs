//! Orders that come from chance, or from other orders.

use super::{problem::Problem, search::Schedule};
use rand::Rng;
use rand_xoshiro::Xoshiro256PlusPlus as Chance;
use std::{cmp::Reverse, collections::BinaryHeap};

/// Takes one after the other of what nothing is before any more, as `choose` picks it, until nothing is left.
fn grown(problem: &Problem, mut choose: impl FnMut(&[usize]) -> usize) -> Vec<usize> {
    let mut left: Vec<usize> = problem.before.iter().map(Vec::len).collect();
    let mut open: Vec<usize> = (0..problem.len()).filter(|at| left[*at] == 0).collect();
    let mut order = Vec::with_capacity(problem.len());
    while !open.is_empty() {
        let at = open.swap_remove(choose(&open));
        order.push(at);
        for behind in &problem.behind[at] {
            left[*behind] -= 1;
            if left[*behind] == 0 {
                open.push(*behind);
            }
        }
    }
    order
}

/// An order by chance, in which what has the longest way before it comes early: the more `bias`, the more surely.
pub(super) fn drawn(problem: &Problem, chance: &mut Chance, bias: f64) -> Vec<usize> {
    let mut weights: Vec<f64> = Vec::new();
    grown(problem, |open| {
        // The way behind an activity, which is the days between its latest finish and the end.
        let way = |at: &usize| problem.ways[*at] - i32::from(problem.lengths[*at]);
        let least = open.iter().map(way).min().unwrap_or(0);
        weights.clear();
        weights.extend(open.iter().map(|at| f64::from(way(at) - least + 1).powf(bias)));
        let mut drawn = chance.random::<f64>() * weights.iter().sum::<f64>();
        let found = weights.iter().position(|weight| {
            drawn -= weight;
            drawn < 0.0
        });
        found.unwrap_or(open.len() - 1)
    })
}

/// The order in which what has the least key comes first, as far as what is before it lets it.
fn by_key(problem: &Problem, keys: &[usize]) -> Vec<usize> {
    let mut left: Vec<usize> = problem.before.iter().map(Vec::len).collect();
    let free = (0..problem.len()).filter(|at| left[*at] == 0);
    let mut open: BinaryHeap<Reverse<(usize, usize)>> = free.map(|at| Reverse((keys[at], at))).collect();
    let mut order = Vec::with_capacity(problem.len());
    while let Some(Reverse((_, at))) = open.pop() {
        order.push(at);
        for behind in &problem.behind[at] {
            left[*behind] -= 1;
            if left[*behind] == 0 {
                open.push(Reverse((keys[*behind], *behind)));
            }
        }
    }
    order
}

/// A child of two: what lies in the busiest stretches of the one keeps its places, everything else those of the other.
fn busy(problem: &Problem, chance: &mut Chance, one: &Schedule, other: &Schedule) -> Vec<usize> {
    let days = usize::try_from(one.end).unwrap_or(0) + 1;
    let mut used = vec![0_i64; days];
    let stretch = |at: usize| {
        let start = usize::try_from(one.starts[at]).unwrap_or(0);
        start..start + usize::from(problem.lengths[at])
    };
    for at in 0..problem.len() {
        used[stretch(at)].iter_mut().for_each(|sum| *sum += problem.weights[at]);
    }
    let mean = used.iter().sum::<i64>() / i64::try_from(days).unwrap_or(1);
    let bar = mean * chance.random_range(90..140) / 100;
    let is_busy = |at: usize| used[stretch(at)].iter().any(|sum| *sum >= bar);
    let mut keys = vec![0; problem.len()];
    for (place, at) in one.order.iter().enumerate().filter(|(_, at)| is_busy(**at)) {
        keys[*at] = 2 * place;
    }
    for (place, at) in other.order.iter().enumerate().filter(|(_, at)| !is_busy(**at)) {
        keys[*at] = 2 * place + 1;
    }
    by_key(problem, &keys)
}

/// A child of two: the begin and the end are those of the one, and what lies between has the order of the other.
fn two_point(chance: &mut Chance, one: &[usize], other: &[usize]) -> Vec<usize> {
    let (first, last) = (chance.random_range(0..one.len()), chance.random_range(0..one.len()));
    let (from, to) = (first.min(last), first.max(last));
    let mut is_in = vec![false; one.len()];
    let mut order: Vec<usize> = Vec::with_capacity(one.len());
    let mut take = |order: &mut Vec<usize>, list: &[usize], most: usize| {
        for at in list {
            if order.len() == most {
                break;
            }
            if !std::mem::replace(&mut is_in[*at], true) {
                order.push(*at);
            }
        }
    };
    take(&mut order, one, from);
    take(&mut order, other, to);
    take(&mut order, one, one.len());
    order
}

/// Neighbours change places here and there, where neither is behind the other.
fn swap_some(problem: &Problem, chance: &mut Chance, order: &mut [usize]) {
    for place in 1..order.len() {
        if chance.random_ratio(1, 20) && !problem.behind[order[place - 1]].contains(&order[place]) {
            order.swap(place - 1, place);
        }
    }
}

/// One goes somewhere else between what is before it and what is behind it.
fn shift_one(problem: &Problem, chance: &mut Chance, order: &mut [usize]) {
    let place = chance.random_range(0..order.len());
    let at = order[place];
    let is_before = |other: &usize| problem.before[at].contains(other);
    let is_behind = |other: &usize| problem.behind[at].contains(other);
    let first = order[..place].iter().rposition(is_before).map_or(0, |found| found + 1);
    let last = order[place + 1..].iter().position(is_behind).map_or(order.len() - 1, |found| place + found);
    let to = chance.random_range(first..=last);
    if to < place {
        order[to..=place].rotate_right(1);
    } else {
        order[place..=to].rotate_left(1);
    }
}

/// A child of two schedules, with something of its own.
pub(super) fn child(problem: &Problem, chance: &mut Chance, one: &Schedule, other: &Schedule) -> Vec<usize> {
    let mut order = if chance.random_bool(0.5) {
        busy(problem, chance, one, other)
    } else {
        two_point(chance, &one.order, &other.order)
    };
    if chance.random_bool(0.5) {
        swap_some(problem, chance, &mut order);
    } else {
        (0..chance.random_range(1..4)).for_each(|_| shift_one(problem, chance, &mut order));
    }
    order
}
