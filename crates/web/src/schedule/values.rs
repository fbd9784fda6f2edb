//! What stands in the columns of the outline beside the Gantt.

use super::{
    columns::{Col, Value},
    outline::{Line, Of},
    picture::Drawing,
};
use crate::{
    task::{awaited, name},
    words,
};
use snug_core::{
    Plan,
    kinds::Task,
    network::{dates_of, leaves, left_in, progress},
};

/// First names of who does a task, or its team.
fn names(plan: &Plan, task: &Task) -> String {
    let people = task.assignees.people().filter_map(|id| plan.people.get(&id));
    let first = |name: &str| name.split(' ').next().unwrap_or_default().to_owned();
    let names: Vec<String> = people.map(|entry| first(&entry.person.name)).collect();
    match (names.is_empty(), task.team.and_then(|id| plan.records.teams.get(&id))) {
        (true, Some(team)) => team.name.clone(),
        _ => names.join(", "),
    }
}

impl Drawing<'_> {
    /// What stands in the columns of a row.
    pub fn values(&self, line: Line) -> Vec<Value> {
        let value = |col: &Col| Value { class: col.class, text: self.value(line, col.word) };
        self.query.cols.iter().map(value).collect()
    }

    fn value(&self, line: Line, word: &str) -> String {
        let (plan, order) = (self.plan, self.query.order);
        let hours = |minutes: i64| if minutes > 0 { words::hours(minutes) } else { String::new() };
        match line.of {
            Of::Project(id) => {
                let whole = self.projects.get(&id).copied().unwrap_or_default();
                match (word, whole.dates) {
                    ("left", _) => hours(whole.left),
                    ("start", Some((start, _))) => words::day_short(start, order),
                    ("finish", Some((_, finish))) => words::day_short(finish, order),
                    _ => String::new(),
                }
            }
            Of::Milestone(id) => {
                let day = plan.records.milestones.get(&id).map(|milestone| words::day_short(milestone.date, order));
                let first = self.query.cols.iter().rfind(|col| matches!(col.word, "finish" | "due" | "left"));
                day.filter(|_| first.is_some_and(|col| col.word == word)).unwrap_or_default()
            }
            Of::Task(id) => plan.tasks.get(&id).map(|task| self.of_task(task, line, word)).unwrap_or_default(),
        }
    }

    fn of_task(&self, task: &Task, line: Line, word: &str) -> String {
        let (plan, order) = (self.plan, self.query.order);
        let dates = || if line.is_whole { dates_of(plan, task.id) } else { task.start.zip(task.finish) };
        let day = |day: Option<snug_core::Day>| day.map(|day| words::day_short(day, order)).unwrap_or_default();
        match word {
            "who" => names(plan, task),
            "accountable" => task.accountable.map(|id| name(plan, id)).unwrap_or_default(),
            "waiting" => awaited(plan, task),
            "stage" => task.stage.clone(),
            "priority" => task.priority.to_string(),
            "start" => day(dates().map(|(start, _)| start)),
            "finish" => day(dates().map(|(_, finish)| finish)),
            "due" => day(task.due),
            "estimate" => task.estimate.map(words::hours).unwrap_or_default(),
            "progress" => format!("{} %", (progress(plan, task) + 50) / 100),
            // Of a whole the least inside.
            "float" => {
                let floats = leaves(plan, task.id).into_iter().filter_map(|id| self.figures.get(&id)?.total_float);
                floats.min().map(|days| format!("{days} d")).unwrap_or_default()
            }
            _ => match left_in(plan, task.id) {
                0 => String::new(),
                minutes => words::hours(minutes),
            },
        }
    }
}
