//! What stands at single days of the window.

use crate::{
    fit::address::{angle::Overlay, query::FitQuery},
    words,
};
use snug_core::{Day, Plan};
use std::sync::Arc;

/// A vertical mark: today, a milestone, a holiday.
pub struct Mark {
    pub x: String,
    pub title: String,
    pub kind: &'static str,
}

/// What stands at single days of the window, as far as its overlay is on.
pub fn marks(plan: &Plan, query: &FitQuery) -> Vec<Mark> {
    let days = f64::from(query.days());
    let at = |day: Day, part: f64| format!("{:.3}%", 100.0 * (f64::from(day.since(query.from)) + part) / days);
    let inside = |day: Day| (query.from..=query.to()).contains(&day);
    let mut marks = Vec::new();
    if query.shows(Overlay::Milestones) {
        let ours = |milestone: &&Arc<snug_core::kinds::Milestone>| {
            query.project.is_none_or(|one| milestone.projects.is_empty() || milestone.projects.contains(&one))
        };
        for milestone in plan.records.milestones.values().filter(|milestone| inside(milestone.date)).filter(ours) {
            let projects =
                milestone.projects.iter().filter_map(|id| plan.records.projects.get(id)).map(|p| p.name.as_str());
            let projects: Vec<&str> = projects.collect();
            let of = if projects.is_empty() { String::new() } else { format!(" ({})", projects.join(", ")) };
            let title = format!("{}: {}{of}", words::weekday(milestone.date, query.order), milestone.name);
            marks.push(Mark { x: at(milestone.date, 1.0), title, kind: "milestone" });
        }
    }
    if query.shows(Overlay::Holidays) {
        let all =
            plan.calendars.values().flat_map(|calendar| &calendar.holidays).filter(|holiday| inside(holiday.date));
        let mut days: Vec<(Day, String)> =
            all.map(|holiday| (holiday.date, format!("{} ({})", holiday.name, holiday.calendar))).collect();
        days.sort();
        for (day, name) in days {
            let title = format!("{}: {name}", words::weekday(day, query.order));
            marks.push(Mark { x: at(day, 0.5), title, kind: "holiday" });
        }
    }
    if inside(query.today) {
        let title = format!("Today, {}", words::weekday(query.today, query.order));
        marks.push(Mark { x: at(query.today, 0.5), title, kind: "today" });
    }
    marks
}
