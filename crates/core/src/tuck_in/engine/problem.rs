//! What is to be scheduled.

use thiserror::Error;

/// The most activities of a problem.
const MOST_ACTIVITIES: usize = 60_000;

/// The most days that all activities together take.
const MOST_DAYS: usize = 4_000_000;

/// The largest capacity of a resource, and what an activity can need of it.
pub const MOST_CAPACITY: u16 = 0x7fff;

/// Sixteen bits a resource, of which the highest says, when a need is taken off, that nothing had to be borrowed.
pub(super) const GUARD: u64 = 0x8000_8000_8000_8000;

/// How many resources lie in a word.
const LANES: usize = 4;

/// Something that takes days.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Activity {
    /// How many days it takes, without a break; 0 for a point in time.
    pub length: u16,
    /// What it needs on each of them: the place of a resource, and how much.
    pub needs: Vec<(usize, u16)>,
    /// The places of the activities that must be finished before it starts.
    pub after: Vec<usize>,
}

impl Activity {
    /// What it needs of one resource.
    fn need_of(&self, resource: usize) -> u64 {
        self.needs.iter().filter(|(at, _)| *at == resource).map(|(_, amount)| u64::from(*amount)).sum()
    }
}

/// Why a problem is none.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum Fault {
    /// Something is behind itself.
    #[error("activity {0} is behind itself")]
    Cycle(usize),
    /// An activity or a resource is named that is not there.
    #[error("activity {0} names something that is not there")]
    Unknown(usize),
    /// An activity needs more of a resource than there is.
    #[error("activity {0} needs more than there is")]
    TooMuch(usize),
    /// It is larger than anything that is scheduled.
    #[error("the problem is too large")]
    TooLarge,
}

/// Activities and resources, looked through once.
#[derive(Debug)]
pub struct Problem {
    pub(super) lengths: Vec<u16>,
    pub(super) before: Vec<Vec<usize>>,
    pub(super) behind: Vec<Vec<usize>>,
    /// What an activity takes of which word of a day.
    pub(super) needs: Vec<Vec<(usize, u64)>>,
    /// An untouched day.
    pub(super) day: Vec<u64>,
    /// Days from the start of an activity to the end, by the longest way.
    pub(super) ways: Vec<i32>,
    /// How much of all resources an activity uses on a day, in thousandths of their capacities.
    pub(super) weights: Vec<i64>,
    lower_bound: i32,
}

impl Problem {
    /// Looks through activities and capacities.
    ///
    /// # Errors
    /// They are no problem that has a solution, or a larger one than is scheduled.
    pub fn new(activities: &[Activity], capacities: &[u16]) -> Result<Self, Fault> {
        let days: usize = activities.iter().map(|it| usize::from(it.length)).sum();
        if activities.len() > MOST_ACTIVITIES || days > MOST_DAYS {
            return Err(Fault::TooLarge);
        }
        let mut behind = vec![Vec::new(); activities.len()];
        let mut needs = Vec::with_capacity(activities.len());
        let mut weights = Vec::with_capacity(activities.len());
        for (at, activity) in activities.iter().enumerate() {
            for before in &activity.after {
                behind.get_mut(*before).ok_or(Fault::Unknown(at))?.push(at);
            }
            let mut words: Vec<(usize, u64)> = Vec::new();
            let mut weight = 0;
            for (resource, amount) in &activity.needs {
                let capacity = *capacities.get(*resource).ok_or(Fault::Unknown(at))?;
                if capacity > MOST_CAPACITY || activity.need_of(*resource) > u64::from(capacity) {
                    return Err(Fault::TooMuch(at));
                }
                weight += i64::from(*amount) * 1_000 / i64::from(capacity.max(1));
                let need = u64::from(*amount) << (16 * (resource % LANES));
                match words.iter_mut().find(|(word, _)| *word == resource / LANES) {
                    Some((_, sum)) => *sum += need,
                    None => words.push((resource / LANES, need)),
                }
            }
            words.retain(|(_, need)| *need > 0);
            needs.push(words);
            weights.push(weight);
        }
        let day = capacities.chunks(LANES).map(|lanes| {
            let lanes = lanes.iter().enumerate();
            lanes.fold(GUARD, |word, (lane, capacity)| {
                word | u64::from(capacity.min(&MOST_CAPACITY).to_owned()) << (16 * lane)
            })
        });
        let mut problem = Self {
            lengths: activities.iter().map(|it| it.length).collect(),
            before: activities.iter().map(|it| it.after.clone()).collect(),
            behind,
            needs,
            day: day.collect(),
            ways: vec![0; activities.len()],
            weights,
            lower_bound: 0,
        };
        let order = problem.in_order()?;
        for at in order.into_iter().rev() {
            let rest = problem.behind[at].iter().map(|next| problem.ways[*next]).max().unwrap_or(0);
            problem.ways[at] = i32::from(problem.lengths[at]) + rest;
        }
        let longest = problem.ways.iter().copied().max().unwrap_or(0);
        let busiest = |(resource, capacity): (usize, &u16)| {
            let sum: u64 = activities.iter().map(|it| u64::from(it.length) * it.need_of(resource)).sum();
            i32::try_from(sum.div_ceil(u64::from(*capacity).max(1))).unwrap_or(i32::MAX)
        };
        problem.lower_bound = capacities.iter().enumerate().map(busiest).fold(longest, i32::max);
        Ok(problem)
    }

    /// How many activities there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.lengths.len()
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.lengths.is_empty()
    }

    /// No schedule is shorter, in days: the longest way, and what the busiest resource has to do.
    #[must_use]
    pub fn lower_bound(&self) -> i32 {
        self.lower_bound
    }

    /// Everything behind what is before it.
    fn in_order(&self) -> Result<Vec<usize>, Fault> {
        let mut open: Vec<usize> = self.before.iter().map(Vec::len).collect();
        let mut order: Vec<usize> = (0..self.len()).filter(|at| open[*at] == 0).collect();
        let mut next = 0;
        while let Some(at) = order.get(next).copied() {
            for behind in &self.behind[at] {
                open[*behind] -= 1;
                if open[*behind] == 0 {
                    order.push(*behind);
                }
            }
            next += 1;
        }
        match open.iter().position(|left| *left > 0) {
            Some(at) => Err(Fault::Cycle(at)),
            None => Ok(order),
        }
    }
}
