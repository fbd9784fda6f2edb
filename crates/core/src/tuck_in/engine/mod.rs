//! The scheduler, which knows no plan. Two kinds of problem share one search:
//!
//! - [`fixed`]: activities of fixed length, resources with the same capacity every day, the last finish is to be early;
//! - [`filling`]: activities that fill what resources have left on their days, with modes, calendars, links with lags, due days.
//!
//! An order of the activities is made into a schedule by placing one after the other as early as what is before it and what is left of the
//! resources allow: serial generation (J. E. Kelley, 1963; for these problems R. Kolisch, 1996). A schedule is pushed against its end and
//! made anew in the order of those starts: forward-backward improvement (K. Y. Li and R. J. Willis, 1992), double justification
//! (V. Valls, F. Ballestín, S. Quintanilla, 2005). That never makes one of the first kind longer, and is done with every one; of the second
//! kind with those from rules and with whatever is better than all before, as long as it helps. First orders follow rules (due day, weight
//! by effort, slack, longest way) or are drawn by regret over the longest way to the end (A. Drexl, 1991). Then orders are bred: two-point
//! crossover of activity lists (S. Hartmann, 1998), and one that keeps those together which lie where resources are used most (V. Valls,
//! F. Ballestín, S. Quintanilla, 2008).

mod breed;
pub mod filling;
pub mod fixed;
mod net;
mod search;

pub use net::Fault;
