//! The side sheet: what the selected cell is made of, and what could be done.

pub mod form;
pub mod group;
pub mod person;
pub mod ways;
