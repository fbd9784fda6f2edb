//! Tuck in: work is placed where it fits (`rules/tuck-in.md`).

pub mod engine;
