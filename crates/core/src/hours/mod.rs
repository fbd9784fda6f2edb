//! Hours, money, and the truth about estimates (`rules/hours.md`): what work took against what was thought, what was planned against
//! what was worked, what it cost, what was earned, and by how much estimates of a kind are wrong.

pub mod actuals;
pub mod bias;
pub mod burn;
pub mod earned;
mod entries;
mod filling;
mod filter;
mod heaps;
pub mod money;
mod oddities;
mod pieces;
mod rows;
mod sum;
pub mod timer;
pub mod walk_ins;
pub mod worked;

pub use actuals::{Actuals, Asked, By, Key, of_person, of_project, of_task, table};
pub use entries::entries_of;
pub use filling::{Cells, Filling, asks_anew};
pub(crate) use filter::Counts;
pub use filter::Filter;
pub(crate) use heaps::{Heap, heaps_of};
pub use oddities::{Odd, oddities};
pub use pieces::Cut;
