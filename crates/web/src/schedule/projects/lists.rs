//! The lists of a project's page: who works on it, its milestones, what is stuck, what comes next, its risks and meetings.

use super::tree::Stand;
use crate::words;
use snug_core::{
    Day, Plan,
    cells::Grain,
    demand::{Window, person_load},
    health::Standing,
    kinds::{Project, RiskState, Task},
    load::{Group, Groups, Measure, Query, RowKey},
};
use std::collections::BTreeSet;

/// How far one looks for what comes next, in days.
const SOON: i32 = 14;
/// As many of anything as one reads on a page.
const MOST: usize = 12;

/// A line with a name that leads somewhere, and what is said of it.
pub struct Line {
    pub name: String,
    pub href: String,
    pub says: String,
    pub is_wrong: bool,
}

/// What the page looks at.
pub struct View<'p> {
    pub plan: &'p Plan,
    pub project: &'p Project,
    pub today: Day,
}

impl View<'_> {
    pub fn day(&self, day: Day) -> String {
        words::day(day, self.plan.settings.date_order)
    }

    /// Its tasks and those of the projects inside it.
    pub fn tasks(&self) -> impl Iterator<Item = &Task> {
        let inside = |task: &&Task| self.plan.project_line(task.project).any(|above| above.id == self.project.id);
        self.plan.tasks.values().map(|task| &**task).filter(inside)
    }

    pub fn inside(&self, stand: &Stand) -> Vec<Line> {
        let inner = self.plan.records.projects.values().filter(|it| it.parent == Some(self.project.id));
        let line = |it: &std::sync::Arc<Project>| {
            let percent = stand.standings.get(&it.id).and_then(Standing::percent);
            let done = percent.map(|percent| format!(", {percent} % done")).unwrap_or_default();
            Line {
                name: it.name.clone(),
                href: format!("{}/{}", super::PATH, it.id),
                says: format!("{}{done}", it.status),
                is_wrong: false,
            }
        };
        inner.map(line).collect()
    }

    /// Who works on it in the next four weeks, most hours first.
    pub fn people(&self) -> Vec<Line> {
        let window = Window::new(self.today, self.today + 27, self.today);
        let query = Query { window, grain: Grain::Week, group: Group::Project, measure: Measure::Minutes };
        let groups = Groups::for_one(self.plan, query);
        let inner = self.plan.project_and_inner(self.project.id);
        let on_it: BTreeSet<_> = inner
            .iter()
            .flat_map(|id| groups.people(&RowKey::Project(Some(*id))))
            .map(|entry| entry.person.id)
            .collect();
        let mut found: Vec<(i64, Line)> = Vec::new();
        for entry in on_it.iter().filter_map(|id| self.plan.people.get(id)) {
            let load = person_load(self.plan, entry, &window, true);
            let range = load.days.indexes(window.from, window.to);
            let own = load.slots.iter().filter(|slot| slot.project.is_some_and(|id| inner.contains(&id)));
            let minutes: i64 = own.map(|slot| slot.load.sum(range.clone())).sum();
            if minutes == 0 {
                continue;
            }
            let over: i64 = range.clone().map(|at| i64::from((load.load[at] - load.days.rim()[at]).max(0))).sum();
            let spill = if over > 0 { format!(", {} over in all", words::hours(over)) } else { String::new() };
            let line = Line {
                name: entry.person.name.clone(),
                href: words::address("/schedule/slips", [("q", entry.person.name.as_str()), ("weeks", "4")]),
                says: format!("{}{spill}", words::hours(minutes)),
                is_wrong: over > 0,
            };
            found.push((minutes, line));
        }
        found.sort_by_key(|(minutes, _)| std::cmp::Reverse(*minutes));
        found.into_iter().take(MOST).map(|(_, line)| line).collect()
    }

    pub fn milestones(&self, stand: &Stand) -> Vec<Line> {
        let own = self.plan.records.milestones.values();
        let mut own: Vec<_> = own.filter(|it| it.projects.contains(&self.project.id)).collect();
        own.sort_by_key(|milestone| milestone.date);
        let line = |milestone: &std::sync::Arc<snug_core::kinds::Milestone>| {
            let hangs = stand.hangs.get(&milestone.id);
            let late = hangs.and_then(|hangs| hangs.late(milestone));
            let open = hangs.map_or(0, |hangs| hangs.tasks.len() - hangs.done);
            let waits =
                if open > 0 { format!(", waits for {}", words::count(open, "task", "tasks")) } else { String::new() };
            let missed = late.map(|days| format!(", missed by {}", words::days(days))).unwrap_or_default();
            Line {
                name: milestone.name.clone(),
                href: format!("/milestones/{}", milestone.id),
                says: format!("{}{waits}{missed}", self.day(milestone.date)),
                is_wrong: late.is_some(),
            }
        };
        own.into_iter().map(line).collect()
    }

    pub fn stuck(&self) -> Vec<Line> {
        let stuck = self.tasks().filter(|task| task.is_stuck());
        let line = |task: &Task| Line {
            name: task.title.clone(),
            href: format!("/tasks/{}", task.id),
            says: task.stuck.clone(),
            is_wrong: false,
        };
        stuck.take(MOST).map(line).collect()
    }

    /// What begins or is to be finished soon, and what is late.
    pub fn next(&self) -> Vec<Line> {
        let soon = self.today + SOON;
        let is_leaf = |task: &&Task| self.plan.children_of(task.id).is_empty();
        let mut found: Vec<(Day, Line)> = Vec::new();
        for task in self.tasks().filter(is_leaf).filter(|task| !task.is_done()) {
            let Some((start, finish)) = task.start.zip(task.finish) else { continue };
            let (day, says) = if finish < self.today {
                (finish, format!("should have been finished on {}", self.day(finish)))
            } else if start >= self.today && start <= soon {
                (start, format!("begins on {}", self.day(start)))
            } else if finish <= soon {
                (finish, format!("is to be finished on {}", self.day(finish)))
            } else {
                continue;
            };
            let line = Line {
                name: task.title.clone(),
                href: format!("/tasks/{}", task.id),
                says,
                is_wrong: finish < self.today,
            };
            found.push((day, line));
        }
        found.sort_by_key(|(day, _)| *day);
        found.into_iter().take(MOST).map(|(_, line)| line).collect()
    }

    pub fn risks(&self) -> Vec<Line> {
        let open = self.plan.records.risks.values().filter(|risk| risk.state != RiskState::Closed);
        let mut own: Vec<_> = open.filter(|risk| risk.project == self.project.id).collect();
        own.sort_by_key(|risk| std::cmp::Reverse(risk.weight()));
        let line = |risk: &std::sync::Arc<snug_core::kinds::Risk>| {
            let response = risk.response.map_or_else(|| "no response yet".to_owned(), |response| response.to_string());
            Line {
                name: risk.title.clone(),
                href: format!("/risks/{}", risk.id),
                says: format!("{} of 25, {response}", risk.weight()),
                is_wrong: risk.is_overdue(self.today),
            }
        };
        own.into_iter().take(MOST).map(line).collect()
    }

    pub fn meetings(&self) -> Vec<Line> {
        let own = self.plan.records.meetings.values().filter(|meeting| meeting.project == self.project.id);
        let line = |meeting: &std::sync::Arc<snug_core::kinds::Meeting>| {
            let next = meeting.days().find(|day| *day >= self.today).unwrap_or(meeting.date);
            let again = match meeting.every_weeks {
                0 => String::new(),
                1 => ", every week".to_owned(),
                weeks => format!(", every {weeks} weeks"),
            };
            let at = snug_core::cell::time_of_day_text(meeting.at);
            let people = words::count(meeting.people.len(), "person", "people");
            Line {
                name: meeting.title.clone(),
                href: format!("/meetings/{}", meeting.id),
                says: format!(
                    "{} {at}, {}, {people}{again}",
                    words::weekday(next, self.plan.settings.date_order),
                    words::hours(meeting.minutes.into())
                ),
                is_wrong: false,
            }
        };
        own.map(line).collect()
    }
}
