//! What is behind what, as orders of activities need it.

use thiserror::Error;

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

/// Activities behind one another, without a circle.
#[derive(Debug, Default)]
pub(super) struct Net {
    /// What comes directly before an activity.
    pub before: Vec<Vec<usize>>,
    /// What comes directly behind it.
    pub behind: Vec<Vec<usize>>,
    /// Days that an activity takes, as far as that is known beforehand.
    pub lengths: Vec<i32>,
    /// Days from the start of an activity to the end, by the longest way.
    pub ways: Vec<i32>,
    /// How much of all resources an activity uses on a day, on any scale.
    pub weights: Vec<i64>,
}

impl Net {
    /// Looks through what is behind what.
    pub fn new(before: Vec<Vec<usize>>, lengths: Vec<i32>, weights: Vec<i64>) -> Result<Self, Fault> {
        let mut behind = vec![Vec::new(); before.len()];
        for (at, earlier) in before.iter().enumerate() {
            for earlier in earlier {
                behind.get_mut(*earlier).ok_or(Fault::Unknown(at))?.push(at);
            }
        }
        let mut net = Self { ways: vec![0; before.len()], before, behind, lengths, weights };
        for at in net.in_order()?.into_iter().rev() {
            let rest = net.behind[at].iter().map(|next| net.ways[*next]).max().unwrap_or(0);
            net.ways[at] = net.lengths[at].saturating_add(rest);
        }
        Ok(net)
    }

    pub fn len(&self) -> usize {
        self.before.len()
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
