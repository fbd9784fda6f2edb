//! What lies on one day, as a list: for the side sheet and for the calendar that is read day by day.

use super::picture::{Drawing, fullness};
use crate::words;
use snug_core::{
    Day, Plan, Tag, TaskId,
    cell::time_of_day_text,
    demand::{Window, left_of, person_load},
    kinds::Task,
};
use std::collections::HashMap;

/// A task of a day.
pub struct TaskLine {
    pub hue: usize,
    pub name: String,
    pub href: String,
    /// `begins`, `last day`, `done` or nothing.
    pub turn: &'static str,
    pub says: String,
    /// What of it lies on the day.
    pub hours: String,
    pub tag: String,
    pub start: String,
    pub finish: String,
}

/// A day.
pub struct DayView {
    pub title: String,
    pub is_today: bool,
    pub fullness: String,
    pub over: bool,
    pub milestones: Vec<(String, String)>,
    pub notes: Vec<String>,
    pub meetings: Vec<String>,
    pub tasks: Vec<TaskLine>,
}

/// Minutes of tasks by day and task, of those whose days are seen.
pub struct HoursOf(HashMap<(Day, TaskId), i64>);

impl HoursOf {
    /// Adds up what lies on these days.
    pub fn new(drawing: &Drawing<'_>, from: Day, to: Day) -> Self {
        let window = Window::new(from, to, drawing.query.today);
        let mut found: HashMap<(Day, TaskId), i64> = HashMap::new();
        let on = |task: &&Task| task.start.is_some_and(|day| day <= to) && task.finish.is_some_and(|day| day >= from);
        let tasks = drawing.agenda.tasks.iter().copied().filter(on);
        let mut people: Vec<_> = tasks.flat_map(|task| task.assignees.people()).collect();
        people.sort_unstable();
        people.dedup();
        for entry in people.iter().filter_map(|id| drawing.plan.people.get(id)) {
            let load = person_load(drawing.plan, entry, &window, false);
            for part in &load.tasks {
                for index in load.days.indexes(from, to) {
                    *found.entry((load.days.day(index), part.task)).or_default() += i64::from(part.minutes[index]);
                }
            }
        }
        Self(found)
    }
}

/// What lies on a day.
pub fn day(drawing: &Drawing<'_>, hours: &HoursOf, day: Day) -> DayView {
    let (plan, query, agenda) = (drawing.plan, drawing.query, &drawing.agenda);
    let load = drawing.load(day);
    let on =
        |task: &&&Task| task.start.is_some_and(|start| start <= day) && task.finish.is_some_and(|last| last >= day);
    let meetings = agenda.meetings().into_iter().filter(|meeting| (meeting.start..=meeting.end).contains(&day));
    DayView {
        title: words::weekday(day, query.order),
        is_today: day == query.today,
        fullness: load.map(fullness).unwrap_or_default(),
        over: load.is_some_and(|load| load.spill > 0),
        milestones: agenda
            .milestones
            .iter()
            .filter(|milestone| milestone.date == day)
            .map(|milestone| (milestone.name.clone(), format!("/milestones/{}", milestone.id)))
            .collect(),
        notes: drawing.notes_on(day).to_vec(),
        meetings: project_meetings(drawing, day)
            .chain(meetings.map(|meeting| {
                let name = plan.people.get(&meeting.person).map_or("", |entry| entry.person.name.as_str());
                let at = meeting.at.map(|at| format!("{} ", time_of_day_text(at))).unwrap_or_default();
                let much = meeting.minutes.map_or("the whole day".to_owned(), |it| words::hours(i64::from(it)));
                format!("{at}{name}, {much}")
            }))
            .collect(),
        tasks: agenda.tasks.iter().filter(on).map(|task| line(plan, drawing, hours, task, day)).collect(),
    }
}

/// `09:00 Round of the crates, 0.5 h, 2 people`.
fn project_meetings<'d>(drawing: &'d Drawing<'_>, day: Day) -> impl Iterator<Item = String> + 'd {
    drawing.meetings.iter().filter(move |(on, _)| *on == day).map(|(_, meeting)| {
        let people = words::count(meeting.people.len(), "person", "people");
        let (at, hours) = (time_of_day_text(meeting.at), words::hours(meeting.minutes.into()));
        format!("{at} {}, {hours}, {people}", meeting.title)
    })
}

fn line(plan: &Plan, drawing: &Drawing<'_>, hours: &HoursOf, task: &Task, day: Day) -> TaskLine {
    let order = drawing.query.order;
    let project = plan.records.projects.get(&task.project).map_or("", |project| project.name.as_str());
    let people = task.assignees.people().filter_map(|id| plan.people.get(&id));
    let mut who: Vec<&str> = people.map(|entry| entry.person.name.as_str()).collect();
    if who.is_empty() {
        who.extend(task.team.and_then(|id| plan.records.teams.get(&id)).map(|team| team.name.as_str()));
    }
    let dates = task.start.zip(task.finish);
    let left = left_of(plan, task).filter(|left| *left > 0).map(|left| format!("{} left", words::hours(left)));
    let told = std::iter::once(project.to_owned()).chain((!who.is_empty()).then(|| who.join(", ")));
    let told = told.chain(dates.map(|(from, to)| words::range(from, to, order))).chain(left);
    let minutes = hours.0.get(&(day, task.id)).copied().unwrap_or(0);
    TaskLine {
        hue: drawing.hue(task),
        name: task.title.clone(),
        href: format!("/tasks/{}", task.id),
        turn: match dates {
            _ if task.is_done() => "done",
            Some((start, finish)) if start == day && finish == day => "this day alone",
            Some((start, _)) if start == day => "begins",
            Some((_, finish)) if finish == day => "last day",
            _ => "",
        },
        says: told.collect::<Vec<_>>().join(" · "),
        hours: if minutes > 0 { words::hours(minutes) } else { String::new() },
        tag: Tag::of(task).to_string(),
        start: dates.map(|(start, _)| start.to_string()).unwrap_or_default(),
        finish: dates.map(|(_, finish)| finish.to_string()).unwrap_or_default(),
    }
}
