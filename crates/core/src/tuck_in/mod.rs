//! Tuck in: work is placed where it fits (`rules/tuck-in.md`).

mod apply;
mod ask;
mod check;
mod elsewhere;
pub mod engine;
mod help;
mod people;
mod problem;
mod proposal;
mod reasons;
mod standing;
mod words;

pub(crate) use apply::tucked_in;
pub use apply::{Tucked, with_needs};
pub use ask::{AHEAD, Ask, MayDate, MayGive, Scope};
pub use check::{Breach, breaches};
pub use elsewhere::elsewhere;
pub use engine::filling::Progress;
pub use help::{Help, helps};
pub use proposal::{Proposal, Row, Score, propose};
pub use reasons::{Obstacle, Why};
pub use words::Words;
