//! What the address of the room says.

pub mod angle;
pub mod colour;
pub mod query;
pub mod view;
pub mod zoom;
