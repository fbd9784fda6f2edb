//! The scheduler, which knows no plan: activities of fixed length behind one another, renewable resources with a capacity a day; the last
//! finish is to be early.
//!
//! An order of the activities is made into a schedule by placing one after the other as early as what is before it and what is left of the
//! resources allow: serial generation (J. E. Kelley, 1963; for these problems R. Kolisch, 1996). A schedule is pushed against its end
//! and back against its begin, which never makes it longer and often shorter: forward-backward improvement (K. Y. Li and R. J. Willis,
//! 1992), double justification (V. Valls, F. Ballestín, S. Quintanilla, 2005). First orders are drawn by regret over the longest way
//! to the end (A. Drexl, 1991). Then orders are bred: two-point crossover of activity lists (S. Hartmann, 1998), and one that
//! keeps those together which lie where resources are used most (V. Valls, F. Ballestín, S. Quintanilla, 2008).

mod breed;
mod pass;
mod problem;
mod search;

pub use problem::{Activity, Fault, Problem};
pub use search::{Progress, Schedule, search};
