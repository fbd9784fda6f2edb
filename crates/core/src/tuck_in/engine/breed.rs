//! Orders that come from chance, from a rule, or from other orders.

use super::{
    net::Net,
    search::{Draft, Made, Maker},
};
use rand::Rng;
use rand_xoshiro::Xoshiro256PlusPlus as Chance;
use std::{cmp::Reverse, collections::BinaryHeap};

/// Takes one after the other of what nothing is before any more, as `choose` picks it, until nothing is left.
fn grown(net: &Net, mut choose: impl FnMut(&[usize]) -> usize) -> Vec<usize> {
    let mut left: Vec<usize> = net.before.iter().map(Vec::len).collect();
    let mut open: Vec<usize> = (0..net.len()).filter(|at| left[*at] == 0).collect();
    let mut order = Vec::with_capacity(net.len());
    while !open.is_empty() {
        let at = open.swap_remove(choose(&open));
        order.push(at);
        for behind in &net.behind[at] {
            left[*behind] -= 1;
            if left[*behind] == 0 {
                open.push(*behind);
            }
        }
    }
    order
}

/// An order by chance, in which what has the longest way before it comes early: the more `bias`, the more surely.
pub(super) fn drawn(net: &Net, chance: &mut Chance, bias: f64) -> Vec<usize> {
    let mut weights: Vec<f64> = Vec::new();
    grown(net, |open| {
        // The way behind an activity, which is the days between its latest finish and the end.
        let way = |at: &usize| net.ways[*at].saturating_sub(net.lengths[*at]);
        let least = open.iter().map(way).min().unwrap_or(0);
        weights.clear();
        weights.extend(open.iter().map(|at| f64::from((way(at) - least).saturating_add(1)).powf(bias)));
        let mut drawn = chance.random::<f64>() * weights.iter().sum::<f64>();
        let found = weights.iter().position(|weight| {
            drawn -= weight;
            drawn < 0.0
        });
        found.unwrap_or(open.len() - 1)
    })
}

/// The order in which what has the least key comes first, as far as what is before it lets it.
pub(super) fn by_key<K: Ord + Copy>(net: &Net, keys: &[K]) -> Vec<usize> {
    let mut left: Vec<usize> = net.before.iter().map(Vec::len).collect();
    let free = (0..net.len()).filter(|at| left[*at] == 0);
    let mut open: BinaryHeap<Reverse<(K, usize)>> = free.map(|at| Reverse((keys[at], at))).collect();
    let mut order = Vec::with_capacity(net.len());
    while let Some(Reverse((_, at))) = open.pop() {
        order.push(at);
        for behind in &net.behind[at] {
            left[*behind] -= 1;
            if left[*behind] == 0 {
                open.push(Reverse((keys[*behind], *behind)));
            }
        }
    }
    order
}

/// A child of two: what lies in the busiest stretches of the one keeps its places, everything else those of the other.
fn busy<S>(net: &Net, chance: &mut Chance, one: &Made<S>, other: &Made<S>) -> Vec<usize> {
    let days = usize::try_from(one.ends.iter().copied().max().unwrap_or(0)).unwrap_or(0) + 1;
    let mut used = vec![0_i64; days];
    let stretch = |at: usize| {
        let day = |day: i32| usize::try_from(day).unwrap_or(0);
        day(one.starts[at])..day(one.ends[at])
    };
    for at in 0..net.len() {
        used[stretch(at)].iter_mut().for_each(|sum| *sum += net.weights[at]);
    }
    let mean = used.iter().sum::<i64>() / i64::try_from(days).unwrap_or(1);
    let bar = mean * chance.random_range(90..140) / 100;
    let is_busy = |at: usize| used[stretch(at)].iter().any(|sum| *sum >= bar);
    let mut keys = vec![0; net.len()];
    for (place, at) in one.order.iter().enumerate().filter(|(_, at)| is_busy(**at)) {
        keys[*at] = 2 * place;
    }
    for (place, at) in other.order.iter().enumerate().filter(|(_, at)| !is_busy(**at)) {
        keys[*at] = 2 * place + 1;
    }
    by_key(net, &keys)
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
fn swap_some(net: &Net, chance: &mut Chance, order: &mut [usize]) {
    for place in 1..order.len() {
        if chance.random_ratio(1, 20) && !net.behind[order[place - 1]].contains(&order[place]) {
            order.swap(place - 1, place);
        }
    }
}

/// What is at a place goes somewhere else between what is before it and what is behind it, or between that and where it is.
fn shift(net: &Net, chance: &mut Chance, order: &mut [usize], place: usize, only_earlier: bool) {
    let at = order[place];
    let is_before = |other: &usize| net.before[at].contains(other);
    let is_behind = |other: &usize| net.behind[at].contains(other);
    let first = order[..place].iter().rposition(is_before).map_or(0, |found| found + 1);
    let last = if only_earlier {
        place
    } else {
        order[place + 1..].iter().position(is_behind).map_or(order.len() - 1, |found| place + found)
    };
    let to = chance.random_range(first..=last);
    if to < place {
        order[to..=place].rotate_right(1);
    } else {
        order[place..=to].rotate_left(1);
    }
}

/// The place of an activity that costs much: of some that chance names, the dearest.
fn dear(chance: &mut Chance, order: &[usize], costs: &[i64]) -> usize {
    let named = (0..4).map(|_| chance.random_range(0..order.len()));
    named.max_by_key(|place| costs[order[*place]]).unwrap_or(0)
}

/// A child of two schedules, with something of its own.
pub(super) fn child<M: Maker>(maker: &M, chance: &mut Chance, one: &Made<M::Score>, other: &Made<M::Score>) -> Draft {
    let net = maker.net();
    let mut order = if chance.random_bool(0.5) {
        busy(net, chance, one, other)
    } else {
        two_point(chance, &one.order, &other.order)
    };
    if !one.costs.is_empty() && chance.random_bool(0.5) {
        let place = dear(chance, &order, &one.costs);
        shift(net, chance, &mut order, place, true);
    } else if chance.random_bool(0.5) {
        swap_some(net, chance, &mut order);
    } else {
        for _ in 0..chance.random_range(1..4) {
            let place = chance.random_range(0..order.len());
            shift(net, chance, &mut order, place, false);
        }
    }
    // What has several modes mostly takes whichever is best where it comes; here and there that of a parent, seldom any.
    let modes = one.modes.iter().zip(&other.modes).enumerate().map(|(at, (one, other))| match maker.modes(at) {
        0 | 1 => None,
        _ if chance.random_bool(0.5) => None,
        count if chance.random_ratio(1, 20) => Some(chance.random_range(0..count)),
        _ => Some(*if chance.random_bool(0.5) { one } else { other }),
    });
    let modes = modes.collect();
    Draft { order, modes }
}
