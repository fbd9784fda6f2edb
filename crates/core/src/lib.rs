//! The rules of the job, and nothing else: pure functions and plain values, no input or output, no clock.
//!
//! Effort is whole minutes. Days are civil days. Today is an argument. A [`Plan`] is an immutable value; a command becomes
//! changes by [`Plan::decide`] and the changes make the next plan.

pub mod agenda;
pub mod alerts;
pub mod arrange;
pub mod availability;
pub mod budget;
pub mod by_day;
pub mod calendars;
pub mod cell;
pub mod cells;
pub mod change;
pub mod command;
pub mod craft;
mod day;
mod decide;
pub mod demand;
pub mod drafts;
pub mod duration;
mod edit;
pub mod effect;
pub mod even_out;
pub mod gesture;
pub mod handing;
pub mod health;
pub mod horizon;
pub mod hours;
pub mod import;
pub mod kinds;
pub mod load;
pub mod long_view;
pub mod mentions;
pub mod network;
mod parts;
mod pattern;
pub mod plan;
mod references;
pub mod reports;
pub mod reshape;
pub mod roles;
pub mod rules;
pub mod settings;
mod sight;
pub mod slips;
pub mod spread;
mod tag;
pub mod takers;
pub mod templates;
pub mod trail;
pub mod tray;
pub mod tuck_in;
pub mod week;
mod words;
mod written;

pub use command::Command;
pub use day::{Day, NoDay};
pub use kinds::{
    AbsenceId, BookingId, FieldId, HolidayId, LinkId, MilestoneId, PersonId, ProjectId, TaskId, TeamId, TextId,
    TimeEntryId, fields, text,
};
pub use plan::Plan;
pub use roles::{Actor, Role};
pub use rules::{Refusal, RefusalCode};
pub use sight::Eyes;
pub use tag::{NoTag, Tag};
pub use words::{NoSuchWord, capital};
