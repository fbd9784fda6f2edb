//! The side sheet of somebody's day: what stands on it, and what could be done with it.

use super::query::{PATH, SlipsQuery};
use crate::{Error, auth::User, fit, offers, words};
use askama::Template;
use snug_core::{
    Plan, Tag,
    cells::Grain,
    demand::Window,
    load::PersonCells,
    slips::{SlipOf, slips},
};

/// A line of the sheet.
struct Part {
    hue: usize,
    hold: bool,
    name: String,
    href: Option<String>,
    says: String,
    hours: String,
    /// The tag of a task, and its dates, for what is done with it.
    tag: String,
    start: String,
    finish: String,
    others: String,
}

#[derive(Template)]
#[template(path = "schedule/slips/sheet.html")]
struct SheetView {
    person: String,
    name: String,
    when: String,
    sentence: String,
    over: bool,
    parts: Vec<Part>,
    limit: String,
    projects: Vec<(String, String)>,
    project: String,
    day: String,
    back: String,
    close: String,
    fit: String,
    may_change: bool,
}

/// The sheet of the selected day, if one is selected.
pub fn view(plan: &Plan, query: &SlipsQuery, user: &User) -> Result<Option<String>, Error> {
    let Some(entry) = query.person().and_then(|id| plan.people.get(&id)) else { return Ok(None) };
    let bucket = query.bucket(query.at());
    let grain = if query.by_day() { Grain::Day } else { Grain::Week };
    let window = Window::new(query.from, query.to(), query.today);
    let cells = PersonCells::of(plan, entry, &window, grain, true);
    let (cell, load) = (cells.cell(bucket), &cells.load);
    let range = load.days.indexes(bucket.from, bucket.to);
    let hues = fit::hues(plan);
    let mut parts = Vec::new();
    for slip in slips(plan, load) {
        let minutes = slip.minutes.sum(range.clone());
        if minutes == 0 {
            continue;
        }
        let project = slip.project.and_then(|id| plan.records.projects.get(&id));
        let hue = slip.project.and_then(|id| hues.get(&id).copied()).unwrap_or(13);
        let project = project.map_or("", |project| project.name.as_str());
        let task = if let SlipOf::Task(id) = slip.of { plan.tasks.get(&id) } else { None };
        let Some(task) = task else {
            parts.push(Part {
                hue,
                hold: slip.project.is_none(),
                name: if slip.project.is_none() { "Hold".to_owned() } else { project.to_owned() },
                href: None,
                says: "booked, no task yet".to_owned(),
                hours: words::hours(minutes),
                tag: String::new(),
                start: String::new(),
                finish: String::new(),
                others: String::new(),
            });
            continue;
        };
        let dates = task.start.zip(task.finish);
        let told = dates.map(|(from, to)| words::range(from, to, query.order)).unwrap_or_default();
        let late = if slip.late { ", late" } else { "" };
        let others = task.assignees.people().filter(|id| *id != entry.person.id);
        let others: Vec<String> =
            others.filter_map(|id| plan.people.get(&id)).map(|entry| entry.person.name.clone()).collect();
        parts.push(Part {
            hue: task.colour.map_or(hue, |hue| hue as usize),
            hold: false,
            name: task.title.clone(),
            href: Some(format!("/tasks/{}", task.id)),
            says: format!("{project}, {told}{late}"),
            hours: words::hours(minutes),
            tag: Tag::of(&**task).to_string(),
            start: dates.map(|(start, _)| start.to_string()).unwrap_or_default(),
            finish: dates.map(|(_, finish)| finish.to_string()).unwrap_or_default(),
            others: if others.is_empty() { String::new() } else { format!("with {}", others.join(", ")) },
        });
    }
    let projects = offers::projects(plan, offers::is_open);
    let sheet = SheetView {
        person: entry.person.id.to_string(),
        name: entry.person.name.clone(),
        when: if bucket.from == bucket.to {
            words::weekday(bucket.from, query.order)
        } else {
            words::range(bucket.from, bucket.to, query.order)
        },
        sentence: words::sentence(&cell, plan.settings.snug_mark),
        over: cell.spill > 0 || cell.peak > 0,
        parts,
        limit: words::hours(cell.limit.unwrap_or(0)),
        projects: projects.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
        project: query.params.project.clone(),
        day: bucket.from.to_string(),
        back: query.href(PATH, |_| {}),
        close: query.href(PATH, |params| (params.person, params.at) = Default::default()),
        fit: words::address(
            "/fit",
            [("person", entry.person.id.to_string().as_str()), ("from", query.from.to_string().as_str())],
        ),
        may_change: user.books(),
    };
    Ok(Some(sheet.render()?))
}
