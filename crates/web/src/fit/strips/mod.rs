//! What stands around the list: the horizon, warnings, the tray, looks, and on a phone one's own weeks.

pub mod alerts;
pub mod horizon;
pub mod pocket;
pub mod tray;
