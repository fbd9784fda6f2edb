//! The side sheet of a task: what it is, when, what it hangs on and what hangs on it.

use super::{
    asked::done,
    outline::Of,
    picture::Drawing,
    query::GanttQuery,
    says::{broken, float, means, slip},
    tuck,
};
use crate::{
    AppState, Error,
    auth::User,
    columns::person_name,
    markdown,
    task::{self, TaskParts},
    words,
};
use askama::Template;
use snug_core::{
    Plan, Tag, TaskId,
    demand::is_parent,
    kinds::{Link, LinkKind, Task},
    network::{dates_of, left_in, line, links_from, links_to},
    text::{Text, TextOn, TextSlot},
};
use std::sync::Arc;

/// A link in the list of a sheet.
struct LinkLine {
    tag: String,
    other: String,
    href: String,
    /// `finish → start, 1 day`.
    means: String,
    note: String,
    /// The task, or what it is in, that has the link.
    by: Option<String>,
    broken: bool,
}

/// What one can choose as the meaning of a link: word, sentence.
const MEANINGS: [(&str, &str); 7] = [
    ("holds FS", "It holds the other: finish → start"),
    ("holds SS", "It holds the other: start → start"),
    ("holds FF", "It holds the other: finish → finish"),
    ("holds SF", "It holds the other: start → finish"),
    ("held FS", "It is held by the other: finish → start"),
    ("holds holds up", "It holds the other up, without dates"),
    ("holds relates", "It has to do with the other"),
];

#[derive(Template)]
#[template(path = "schedule/sheet.html")]
struct TaskSheet {
    above: String,
    title: String,
    href: String,
    close: String,
    back: String,
    facts: Vec<(&'static str, String, bool)>,
    held_by: Vec<LinkLine>,
    holds: Vec<LinkLine>,
    others: Vec<LinkLine>,
    milestones: Vec<(String, String)>,
    tag: String,
    start: String,
    finish: String,
    is_leaf: bool,
    /// Where a place is looked for it; nothing where it is done, or a whole.
    tuck: Option<String>,
    broken: usize,
    meanings: &'static [(&'static str, &'static str)],
    may_change: bool,
    /// The tag by which who looks may say that it is done, if they may.
    tick: Option<String>,
    key: String,
    parts: TaskParts,
    description: String,
    /// The last that was said: who, when, what; and how much was said before.
    remarks: Vec<(String, String, String)>,
    earlier: usize,
}

#[derive(Template)]
#[template(path = "schedule/whole.html")]
struct ProjectSheet {
    title: String,
    href: String,
    close: String,
    back: String,
    facts: Vec<(&'static str, String)>,
    may_change: bool,
    key: String,
    is_milestone: bool,
}

fn title(plan: &Plan, id: TaskId) -> String {
    plan.tasks.get(&id).map(|task| task.title.clone()).unwrap_or_default()
}

/// What is written about the task that is selected.
pub async fn texts_of(state: &AppState, query: &GanttQuery) -> Result<Vec<Text>, Error> {
    match query.task() {
        Some(task) => Ok(state.keeper.texts_of(TextOn::Task, task.0).await?),
        None => Ok(Vec::new()),
    }
}

/// The sheet of the row that is selected, if there is one.
pub fn view(
    state: &AppState,
    (plan, query): (&Plan, &GanttQuery),
    user: &User,
    texts: &[Text],
) -> Result<Option<String>, askama::Error> {
    let kept = &state.kept;
    let selected: Vec<TaskId> = query.task().into_iter().filter(|id| plan.tasks.contains_key(id)).collect();
    let drawing = Drawing::new(kept, plan, query, &selected, user.books());
    let Some(of) = Of::of_key(&query.params.row) else { return Ok(None) };
    let close = query.href(super::PATH, |params| (params.row, params.at) = Default::default());
    let back = query.href(super::PATH, |_| {});
    let of_whole = |title: String, href: String, facts, is_milestone| ProjectSheet {
        title,
        href,
        close: close.clone(),
        back: back.clone(),
        facts,
        may_change: drawing.may_change,
        key: of.key(),
        is_milestone,
    };
    match of {
        Of::Task(id) => {
            let Some(task) = plan.tasks.get(&id) else { return Ok(None) };
            let parts = task::parts(state, plan, user, task);
            of_task(&drawing, task, (user, parts, texts), (close, back)).render().map(Some)
        }
        Of::Project(id) => {
            let Some(project) = plan.records.projects.get(&id) else { return Ok(None) };
            let inside = |task: &&Arc<Task>| plan.project_line(task.project).any(|above| above.id == id);
            let (done, open): (Vec<_>, Vec<_>) = plan.tasks.values().filter(inside).partition(|task| task.is_done());
            let tasks = format!("{} open of {}", open.len(), done.len() + open.len());
            let left = drawing.projects.get(&id).map_or(0, |whole| whole.left);
            let facts = vec![("Tasks", tasks), ("Left", words::hours(left))];
            of_whole(project.name.clone(), format!("/projects/{id}"), facts, false).render().map(Some)
        }
        Of::Milestone(id) => {
            let Some(milestone) = plan.records.milestones.get(&id) else { return Ok(None) };
            let waiting = plan.tasks.values().filter(|task| task.milestones.contains(&id) && !task.is_done());
            let mut facts = vec![("Day", words::date(milestone.date, query.order))];
            facts.push(("Waits for", format!("{} tasks", waiting.count())));
            of_whole(milestone.name.clone(), format!("/milestones/{id}"), facts, true).render().map(Some)
        }
    }
}

fn of_task(
    drawing: &Drawing<'_>,
    task: &Task,
    (user, parts, texts): (&User, TaskParts, &[Text]),
    (close, back): (String, String),
) -> TaskSheet {
    /// As many remarks as are read beside a picture; the task's own page has all of them.
    const REMARKS: usize = 2;
    let (plan, query) = (drawing.plan, drawing.query);
    let is_leaf = !is_parent(plan, task.id);
    let figures = drawing.figures.get(&task.id).filter(|_| is_leaf);
    let above: Vec<String> = line(plan, task.id).skip(1).map(|id| title(plan, id)).collect();
    let project = plan.records.projects.get(&task.project).map(|project| project.name.clone()).unwrap_or_default();
    let above: Vec<String> = std::iter::once(project).chain(above.into_iter().rev()).collect();
    let description = texts.iter().find(|text| text.slot == TextSlot::Description && !text.body.trim().is_empty());
    let comments: Vec<&Text> = texts.iter().filter(|text| text.slot == TextSlot::Comment).collect();
    let remark = |text: &&Text| {
        let day = words::day(text.day, query.order);
        (person_name(plan, &text.author), day, markdown::with_people(plan, &text.body))
    };
    let broken_links = figures.map_or(0, |figures| figures.broken);
    TaskSheet {
        above: above.join(" · "),
        title: task.title.clone(),
        href: format!("/tasks/{}", task.id),
        facts: facts(drawing, task, is_leaf),
        held_by: linked(drawing, task, true),
        holds: linked(drawing, task, false),
        others: related(drawing, task),
        milestones: task
            .milestones
            .iter()
            .filter_map(|id| plan.records.milestones.get(id))
            .map(|milestone| (milestone.name.clone(), words::day(milestone.date, query.order)))
            .collect(),
        tag: if drawing.may_change { Tag::of(task).to_string() } else { String::new() },
        start: task.start.map(|day| day.to_string()).unwrap_or_default(),
        finish: task.finish.map(|day| day.to_string()).unwrap_or_default(),
        is_leaf,
        tuck: (is_leaf && !task.is_done()).then(|| tuck::way("", &task.id.to_string(), &back)),
        broken: broken_links,
        meanings: &MEANINGS,
        may_change: drawing.may_change,
        tick: Some(Tag::of(task).to_string())
            .filter(|_| is_leaf && !task.is_done() && user.check(plan, &done(task)).is_ok()),
        key: task.id.to_string(),
        parts,
        description: description.map(|text| markdown::with_people(plan, &text.body)).unwrap_or_default(),
        earlier: comments.len().saturating_sub(REMARKS),
        remarks: comments.iter().rev().take(REMARKS).map(remark).collect(),
        close,
        back,
    }
}

/// What the sheet says of a task: name, value, and whether one should look at it.
fn facts(drawing: &Drawing<'_>, task: &Task, is_leaf: bool) -> Vec<(&'static str, String, bool)> {
    let (plan, query) = (drawing.plan, drawing.query);
    let mut facts = vec![("Stage", task.stage.clone(), false)];
    let people = task.assignees.people().filter_map(|id| plan.people.get(&id)).map(|entry| entry.person.name.clone());
    let mut who: Vec<String> = people.collect();
    who.extend(task.team.and_then(|id| plan.records.teams.get(&id)).map(|team| team.name.clone()));
    facts.push(("Who", if who.is_empty() { "nobody yet".to_owned() } else { who.join(", ") }, false));
    if let Some(person) = task.accountable {
        facts.push(("Accountable", task::name(plan, person), false));
    }
    let dates = dates_of(plan, task.id);
    let when = dates.map_or_else(|| "no dates yet".to_owned(), |(from, to)| words::range(from, to, query.order));
    facts.push(("When", when, false));
    let left = left_in(plan, task.id);
    let name = task.estimate.map_or("Left", |_| "Left of estimate");
    let of = task.estimate.map(|minutes| format!(" of {}", words::hours(minutes))).unwrap_or_default();
    facts.push((name, format!("{}{of}", words::hours(left)), false));
    if let Some(figures) = drawing.figures.get(&task.id).filter(|_| is_leaf) {
        if let Some(days) = figures.total_float {
            let says = match days {
                days if days < 0 => format!("{} too late: critical", words::days(days)),
                0 => "none: critical".to_owned(),
                days => float(days),
            };
            facts.push(("Float", says, days < 0));
        }
        if let Some((start, finish)) = figures.earliest.filter(|_| figures.dates.is_none()) {
            facts.push(("Could be", words::range(start, finish, query.order), false));
        }
        if figures.broken > 0 {
            facts.push(("Links", broken(figures.broken), true));
        }
    }
    if let Some((constraint, day)) = task.constraint.map(|constraint| (constraint, task.constraint_date)) {
        let day = day.map(|day| format!(" {}", words::day(day, query.order))).unwrap_or_default();
        facts.push(("Constraint", format!("{constraint}{day}"), false));
    }
    if let Some(due) = task.due {
        facts.push(("Due", words::day(due, query.order), dates.is_some_and(|(_, finish)| finish > due)));
    }
    if let Some(((_, planned), (_, finish))) = drawing.beside.get(&task.id).zip(dates) {
        let days = finish.since(*planned);
        facts.push(("Beside", slip(days), days > 0));
    }
    facts
}

/// The links that set dates into a task, or out of it, with those of what it is in.
fn linked(drawing: &Drawing<'_>, task: &Task, into: bool) -> Vec<LinkLine> {
    let plan = drawing.plan;
    let mut found = Vec::new();
    for id in line(plan, task.id) {
        let by = (id != task.id).then(|| title(plan, id));
        let links: Vec<&Link> = if into {
            links_to(plan, id).map(|link| &**link).collect()
        } else {
            links_from(plan, id).map(|link| &**link).collect()
        };
        let of_dates = links.into_iter().filter(|link| snug_core::network::sets_dates(link.kind));
        found.extend(of_dates.map(|link| link_line(drawing, link, into, by.clone())));
    }
    found
}

/// What holds it up, what it holds up, and what it has to do with.
fn related(drawing: &Drawing<'_>, task: &Task) -> Vec<LinkLine> {
    let plan = drawing.plan;
    let of = |link: &&Link| matches!(link.kind, LinkKind::HoldsUp | LinkKind::Relates);
    let into = links_to(plan, task.id).map(|link| &**link).filter(of);
    let out = links_from(plan, task.id).map(|link| &**link).filter(of);
    let into = into.map(|link| link_line(drawing, link, true, None));
    into.chain(out.map(|link| link_line(drawing, link, false, None))).collect()
}

fn link_line(drawing: &Drawing<'_>, link: &Link, into: bool, by: Option<String>) -> LinkLine {
    let other = if into { link.from } else { link.to };
    let meaning = match (link.kind, into) {
        (LinkKind::HoldsUp, true) => "holds it up".to_owned(),
        (LinkKind::HoldsUp, false) => "is held up by it".to_owned(),
        (kind, _) => format!("{}{}", means(kind), task::lag(link.lag_days)),
    };
    LinkLine {
        tag: if drawing.may_change { Tag::of(link).to_string() } else { String::new() },
        other: title(drawing.plan, other),
        href: drawing.query.href(super::PATH, |params| params.row = other.to_string()),
        means: meaning,
        note: link.note.clone(),
        by,
        broken: snug_core::network::sets_dates(link.kind) && !drawing.ground.keeps(link),
    }
}
