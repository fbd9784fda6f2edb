//! What is to be scheduled.

use crate::tuck_in::engine::net::{Fault, Net};

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

/// Activities and resources, looked through once.
#[derive(Debug)]
pub struct Problem {
    pub(super) net: Net,
    pub(super) lengths: Vec<u16>,
    /// What an activity takes of which word of a day.
    pub(super) needs: Vec<Vec<(usize, u64)>>,
    /// An untouched day.
    pub(super) day: Vec<u64>,
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
        let mut needs = Vec::with_capacity(activities.len());
        let mut weights = Vec::with_capacity(activities.len());
        for (at, activity) in activities.iter().enumerate() {
            let mut words: Vec<(usize, u64)> = Vec::new();
            let mut weight = 0;
            for (resource, amount) in &activity.needs {
                let capacity = *capacities.get(*resource).ok_or(Fault::Unknown(at))?;
                if capacity > MOST_CAPACITY || activity.need_of(*resource) > u64::from(capacity) {
                    return Err(Fault::TooMuch(at));
                }
                // In thousandths of the capacities.
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
        let before = activities.iter().map(|it| it.after.clone()).collect();
        let lengths: Vec<u16> = activities.iter().map(|it| it.length).collect();
        let net = Net::new(before, lengths.iter().copied().map(i32::from).collect(), weights)?;
        let longest = net.ways.iter().copied().max().unwrap_or(0);
        let busiest = |(resource, capacity): (usize, &u16)| {
            let sum: u64 = activities.iter().map(|it| u64::from(it.length) * it.need_of(resource)).sum();
            i32::try_from(sum.div_ceil(u64::from(*capacity).max(1))).unwrap_or(i32::MAX)
        };
        let lower_bound = capacities.iter().enumerate().map(busiest).fold(longest, i32::max);
        Ok(Self { net, lengths, needs, day: day.collect(), lower_bound })
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
}
