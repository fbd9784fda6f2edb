//! What stands on the axis: sprints as bars, releases and milestones at their days.

use super::query::LongQuery;
use crate::words;
use snug_core::{Day, Plan, TeamId};
use std::collections::BTreeMap;

/// A mark: percent across, and how wide, of what has a length.
pub struct Mark {
    pub kind: &'static str,
    pub x: String,
    pub width: String,
    pub name: String,
    pub title: String,
}

/// More stretches than this do not stand side by side.
const MOST: usize = 40;

/// The marks of the window. Sprints are those of the teams that are seen; several on the same days are one.
pub fn marks(plan: &Plan, query: &LongQuery, teams: &[TeamId]) -> Vec<Mark> {
    let days = f64::from(query.days());
    let percent = |count: f64| format!("{:.3}", 100.0 * count / days);
    let at = |day: Day| f64::from(day.since(query.from).clamp(0, query.days()));
    let here = |day: Day| (query.from..=query.to()).contains(&day);
    let mut sprints: BTreeMap<(Day, Day), Vec<&str>> = BTreeMap::new();
    for sprint in plan.records.sprints.values() {
        if sprint.start <= query.to() && sprint.finish >= query.from && teams.contains(&sprint.team) {
            sprints.entry((sprint.start, sprint.finish)).or_default().push(&sprint.name);
        }
    }
    let mut found = Vec::new();
    for ((start, finish), mut names) in sprints.into_iter().take(MOST) {
        names.dedup();
        let more = if names.len() > 1 { format!(" and {} more", names.len() - 1) } else { String::new() };
        found.push(Mark {
            kind: "sprint",
            x: percent(at(start)),
            width: percent((at(finish + 1) - at(start) - 0.4).max(0.4)),
            name: format!("{}{more}", names[0]),
            title: format!("{}: {}", names.join(", "), words::range(start, finish, query.order)),
        });
    }
    let releases = plan.records.releases.values().filter_map(|it| Some((it.date?, it.name.as_str(), "release")));
    let milestones = plan.records.milestones.values().map(|it| (it.date, it.name.as_str(), "milestone"));
    for (day, name, kind) in releases.chain(milestones).filter(|(day, ..)| here(*day)).take(MOST) {
        found.push(Mark {
            kind,
            x: percent(at(day) + 0.5),
            width: String::new(),
            name: name.to_owned(),
            title: format!("{}: {name}", words::weekday(day, query.order)),
        });
    }
    found
}
