//! The side sheet of a team's weeks: what fills them, what does not fit, and what could be done with it.

use super::{
    picture::{Drawing, dates},
    query::{LongQuery, PATH},
};
use crate::{Error, auth::User, fit::zoom_named, offers, schedule::layers::hue_of, words};
use askama::Template;
use snug_core::{
    Plan, Tag,
    demand::{is_parent, left_of},
    long_view::{ItemOf, own_rim, team_row},
};

/// Something in the row.
struct Part {
    hue: usize,
    name: String,
    href: Option<String>,
    says: String,
    over: String,
    hours: String,
    tag: String,
    /// Its dates and what is left, of what can be altered in one piece.
    start: String,
    finish: String,
    left: String,
    is_whole: bool,
    is_named: bool,
}

#[derive(Template)]
#[template(path = "schedule/long/sheet.html")]
struct SheetView {
    key: String,
    name: String,
    when: String,
    sentence: String,
    over: bool,
    parts: Vec<Part>,
    other: String,
    limit: String,
    teams: Vec<(String, String)>,
    projects: Vec<(String, String)>,
    project: String,
    day: String,
    back: String,
    close: String,
    fit: String,
    may_change: bool,
}

/// The sheet of the selected column, if one is selected.
pub fn view(plan: &Plan, query: &LongQuery, user: &User) -> Result<Option<String>, Error> {
    let Some(team) = query.team().and_then(|id| plan.records.teams.get(&id)) else { return Ok(None) };
    let Some(bucket) = query.bucket() else { return Ok(None) };
    let drawing = Drawing::new(plan, query, user.books());
    let row = team_row(&drawing.groups, team.id);
    let at = query.buckets.iter().position(|it| *it == bucket).unwrap_or(0);
    let Some(cell) = row.cells.get(at) else { return Ok(None) };
    let mut parts = Vec::new();
    for item in row.items.iter().filter(|item| item.minutes[at] > 0) {
        let (all, above) = item.sums();
        let over = if above > 0 { format!("{} of it above the rim", words::hours(above)) } else { String::new() };
        let in_all = format!("{} in these columns", words::hours(all));
        let hours = words::hours(item.minutes[at]);
        let task = if let ItemOf::Task(id) = item.of { plan.tasks.get(&id) } else { None };
        let Some(task) = task else {
            let project = if let ItemOf::Booked(project) = item.of { project } else { None };
            let name = project.and_then(|id| plan.records.projects.get(&id)).map_or("Hold", |it| it.name.as_str());
            parts.push(Part {
                hue: project.and_then(|id| drawing.hues.get(&id).copied()).unwrap_or(13),
                name: name.to_owned(),
                href: None,
                says: format!("booked for the team, {in_all}"),
                over,
                hours,
                tag: String::new(),
                start: String::new(),
                finish: String::new(),
                left: String::new(),
                is_whole: false,
                is_named: false,
            });
            continue;
        };
        let dates = dates(plan, task);
        let told = dates.map(|(from, to)| words::range(from, to, query.order)).unwrap_or_default();
        let own = own_rim(plan, task).filter(|own| own.spill() > 0).map(|own| {
            let (inside, estimate) = (words::hours(own.inside), words::hours(own.estimate));
            format!("{inside} inside an estimate of {estimate}: {} over", words::hours(own.spill()))
        });
        parts.push(Part {
            hue: hue_of(task, &drawing.hues),
            name: task.title.clone(),
            href: Some(format!("/tasks/{}", task.id)),
            says: format!("{told}, {in_all}"),
            over: [over, own.unwrap_or_default()]
                .into_iter()
                .filter(|it| !it.is_empty())
                .collect::<Vec<_>>()
                .join("; "),
            hours,
            tag: Tag::of(&**task).to_string(),
            start: dates.map(|(start, _)| start.to_string()).unwrap_or_default(),
            finish: dates.map(|(_, finish)| finish.to_string()).unwrap_or_default(),
            left: left_of(plan, task).map(|left| words::hours(left).replace(' ', "")).unwrap_or_default(),
            is_whole: is_parent(plan, task.id),
            is_named: !task.assignees.is_empty(),
        });
    }
    let mut teams: Vec<(String, String)> = plan
        .records
        .teams
        .values()
        .filter(|it| it.id != team.id)
        .map(|it| (it.code.clone(), it.name.clone()))
        .collect();
    teams.sort_by_cached_key(|(_, name)| name.to_lowercase());
    let projects = offers::projects(plan, offers::is_open);
    let sheet = SheetView {
        key: format!("t{}", team.id),
        name: team.name.clone(),
        when: zoom_named(query.zoom, bucket, query.order),
        sentence: words::sentence(cell, plan.settings.snug_mark),
        over: cell.spill > 0 || cell.peak > 0,
        parts,
        other: words::hours(row.other[at]),
        limit: words::hours(cell.limit.unwrap_or(0)),
        teams,
        projects: projects.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
        project: String::new(),
        day: bucket.from.to_string(),
        back: query.href(PATH, |_| {}),
        close: query.href(PATH, |params| (params.row, params.at) = Default::default()),
        fit: words::address(
            "/fit",
            [("angle", "team"), ("team", team.code.as_str()), ("from", bucket.from.to_string().as_str())],
        ),
        may_change: user.books(),
    };
    Ok(Some(sheet.render()?))
}
