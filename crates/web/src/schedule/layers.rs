//! What lies one on the other in a row: layers that hands move, and the words on them.

use crate::grid::{Rect, Shapes};
use snug_core::{ProjectId, kinds::Task};
use std::collections::HashMap;

/// What is drawn of one thing.
pub struct Layer {
    /// The tag of the task; empty where it may not be moved.
    pub tag: String,
    pub hue: usize,
    /// What else it is, as classes with a space before each.
    pub class: &'static str,
    /// Whether it began before the window, and whether it goes on after it.
    pub cut: (bool, bool),
    pub title: String,
    pub shapes: Shapes,
}

/// Words on a layer, in percent across and pixels down.
pub struct Label {
    pub x: String,
    pub y: String,
    pub width: String,
    pub height: String,
    pub hue: usize,
    /// ` booked` where it is no task, and ` over` where it lies in the spill.
    pub class: &'static str,
    pub name: String,
    pub hours: String,
}

impl Label {
    /// Words in a rectangle of a window of so many days.
    pub fn on(rect: &Rect, days: i32, hue: usize, (is_task, is_over): (bool, bool), name: &str, hours: String) -> Self {
        Self {
            x: percent(rect.from, days),
            y: format!("{:.1}", rect.top),
            width: percent(rect.to - rect.from, days),
            height: format!("{:.1}", rect.floor - rect.top),
            hue,
            class: match (is_task, is_over) {
                (false, false) => " booked",
                (false, true) => " booked over",
                (true, false) => "",
                (true, true) => " over",
            },
            name: name.to_owned(),
            hours,
        }
    }
}

/// Days of a window of so many as percent of its width.
pub fn percent(days: usize, all: i32) -> String {
    format!("{:.3}", 100.0 * f64::from(u32::try_from(days).unwrap_or(0)) / f64::from(all))
}

/// The hue of a task: its own, else its project's.
pub fn hue_of(task: &Task, hues: &HashMap<ProjectId, usize>) -> usize {
    task.colour.map_or_else(|| hues.get(&task.project).copied().unwrap_or(0), |hue| hue as usize)
}
