//! From an order to a schedule, forwards and backwards, in memory that is used again and again.

use super::problem::{GUARD, Problem};

/// Where schedules are made.
pub(super) struct Ground<'p> {
    problem: &'p Problem,
    /// What is left of each word of resources, day by day.
    left: Vec<Vec<u64>>,
    /// So many days may be other than untouched.
    touched: usize,
    /// When each activity starts, in the time of the last pass.
    pub starts: Vec<i32>,
    /// When each activity could start at the latest for the last finish, as the last pass backwards has it.
    pub latest: Vec<i32>,
    keys: Vec<u64>,
}

impl<'p> Ground<'p> {
    pub fn new(problem: &'p Problem) -> Self {
        let left = vec![Vec::new(); problem.day.len()];
        Self {
            problem,
            left,
            touched: 0,
            starts: vec![0; problem.len()],
            latest: vec![0; problem.len()],
            keys: Vec::new(),
        }
    }

    /// Makes everything free again.
    fn clear(&mut self) {
        for (days, word) in self.left.iter_mut().zip(&self.problem.day) {
            days[..self.touched].fill(*word);
        }
        self.touched = 0;
    }

    /// Sees to it that so many days are there.
    fn reach(&mut self, days: usize) {
        if days <= self.touched {
            return;
        }
        self.touched = days;
        for (left, word) in self.left.iter_mut().zip(&self.problem.day) {
            if left.len() < days {
                left.resize(days, *word);
            }
        }
    }

    /// Puts an activity on the first days from `earliest` on that have what it needs, and says the first of them.
    fn place(&mut self, at: usize, earliest: usize) -> usize {
        let (length, needs) = (usize::from(self.problem.lengths[at]), &self.problem.needs[at]);
        if length == 0 || needs.is_empty() {
            return earliest;
        }
        let mut start = earliest;
        'days: loop {
            self.reach(start + length);
            for (word, need) in needs {
                // The last days are looked at first: what does not fit there rules out all starts up to it.
                let lacks = |left: &u64| (left - need) & GUARD != GUARD;
                if let Some(day) = self.left[*word][start..start + length].iter().rposition(lacks) {
                    start += day + 1;
                    continue 'days;
                }
            }
            break;
        }
        for (word, need) in needs {
            self.left[*word][start..start + length].iter_mut().for_each(|left| *left -= need);
        }
        start
    }

    /// Places everything in an order behind what `before` says, and gives the last finish.
    fn pass(&mut self, order: &[usize], before: &[Vec<usize>]) -> i32 {
        self.clear();
        let mut end = 0;
        for at in order {
            let finish = |before: &usize| self.starts[*before] + i32::from(self.problem.lengths[*before]);
            let earliest = before[*at].iter().map(finish).max().unwrap_or(0);
            let start = self.place(*at, usize::try_from(earliest).unwrap_or(0));
            self.starts[*at] = i32::try_from(start).unwrap_or(i32::MAX);
            end = end.max(self.starts[*at] + i32::from(self.problem.lengths[*at]));
        }
        end
    }

    /// Sorts an order by starts, or from the last finish back; where that is the same by places in the order, or from its end back.
    fn sort(&mut self, order: &mut [usize], backwards: bool) {
        self.keys.clear();
        for (place, at) in order.iter().enumerate() {
            let (start, length) = (self.starts[*at], i32::from(self.problem.lengths[*at]));
            let (day, place) =
                if backwards { (i32::MAX - start - length, order.len() - 1 - place) } else { (start, place) };
            // A day, a place and an activity in one word, as none of them is larger than its part of it.
            self.keys.push(u64::from(day.unsigned_abs()) << 32 | (place as u64) << 16 | *at as u64);
        }
        self.keys.sort_unstable();
        for (slot, key) in order.iter_mut().zip(&self.keys) {
            *slot = usize::try_from(key & 0xffff).unwrap_or(0);
        }
    }

    /// Makes an order into a schedule, pushes it against its end and back as long as that makes it shorter, and leaves the order as the
    /// schedule starts. Gives the last finish, and how many passes it took.
    pub fn justified(&mut self, order: &mut [usize]) -> (i32, u64) {
        let problem = self.problem;
        let (mut end, mut passes) = (self.pass(order, &problem.net.before), 1);
        loop {
            // What finishes last comes first where time runs backwards, and again first where it runs forwards once more.
            self.sort(order, true);
            let back = self.pass(order, &problem.net.behind);
            for (at, latest) in self.latest.iter_mut().enumerate() {
                *latest = back - self.starts[at] - i32::from(problem.lengths[at]);
            }
            self.sort(order, true);
            let again = self.pass(order, &problem.net.before);
            passes += 2;
            if again >= end {
                self.sort(order, false);
                return (again, passes);
            }
            end = again;
        }
    }
}
