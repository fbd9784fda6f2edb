//! What the live plan has where a draft is drawn, to be drawn beside it.

use snug_core::{
    PersonId, Plan,
    demand::{Window, person_load},
};
use std::sync::Arc;

/// What the live plan has of somebody's load on each day of a window, in minutes; `None` without a live plan beside, or where the person
/// is not in it.
pub fn minutes(live: Option<&Arc<Plan>>, person: PersonId, window: &Window) -> Option<Vec<i32>> {
    let live = live?;
    let load = person_load(live, live.people.get(&person)?, window, false);
    Some(load.load.days(load.days.indexes(window.from, window.to)).collect())
}
