//! The network of tasks (`rules/network.md`): working days, links, what moves if this moves, and what there is to spare.
//!
//! Nothing here changes a plan: a move is worked out as the new dates of leaves. What a move reaches is worked out, and nothing else.

mod baseline;
mod consequences;
mod ground;
mod law;
mod moves;
mod order;
mod passes;
mod rollup;
mod workdays;

pub use baseline::{Difference, differences};
pub use consequences::{Consequences, consequences};
pub(crate) use ground::Bound;
pub use ground::{Dates, Ground, Holds, Leaf, Stays};
pub(crate) use law::{broken_by, followed, links_may_stand, newly_broken, refused};
pub use moves::{Mode, Moved, Stopped, Why, moved};
pub use order::{leaves, line, links_from, links_in_words, links_to, sets_dates};
pub(crate) use passes::kept_until;
pub use passes::{Figures, LastFinishes, figures, figures_of, last_finishes};
pub use rollup::{Whole, dates_of, left_in, progress, span, wholes, with_inner};
pub(crate) use workdays::Calendars;
pub use workdays::Workdays;
pub(crate) use {ground::Ends, passes::broken};
