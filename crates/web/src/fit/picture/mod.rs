//! Rows as they are drawn.

pub mod alike;
pub mod cells;
pub mod drawn;
pub mod figures;
pub mod group;
pub mod marks;
pub mod palette;
pub mod person;
pub mod shapes;
