//! The outline as one writes it: a line a task, typed, pasted, put inside one another by keys.

use super::{
    address::Said,
    outline::{Of, Outline, outline},
    query::{GanttQuery, Params},
};
use crate::{
    Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    offers, words,
};
use askama::Template;
use axum::response::Html;
use snug_core::{
    Plan, Tag,
    demand::left_of,
    kinds::{ProjectStatus, Task},
    network::links_in_words,
};
use std::sync::Arc;

/// Where the outline is written.
pub const PATH: &str = "/schedule/outline";

/// As many rows as one writes in; a project or a filter shows the others.
const MOST: usize = 400;

/// A row of the outline.
struct LineView {
    key: String,
    kind: &'static str,
    depth: usize,
    title: String,
    tag: String,
    /// What the workspace calls something so deep.
    level: String,
    folded: Option<bool>,
    who: String,
    left: String,
    when: String,
    links: String,
    href: String,
    done: bool,
    /// The key of what new lines at its level go into.
    under: String,
}

#[derive(Template)]
#[template(path = "schedule/lines.html")]
struct LinesPart {
    lines: Vec<LineView>,
    left_out: usize,
    may_change: bool,
}

#[derive(Template)]
#[template(path = "schedule/write.html")]
struct WritePage {
    frame: Frame,
    query: GanttQuery,
    part: LinesPart,
    projects: Vec<(String, String, bool)>,
    kept: Vec<(String, String)>,
    shown: String,
    clear: String,
    may_change: bool,
}

/// The rows that are written in.
fn lines((plan, query): (&Plan, &GanttQuery), outline: &Outline, may_change: bool) -> LinesPart {
    let tasks = outline.lines.iter().filter(|line| !matches!(line.of, Of::Milestone(_)));
    let view = |line: &super::outline::Line| match line.of {
        Of::Project(id) => {
            let project = plan.records.projects.get(&id)?;
            let closed = project.status == ProjectStatus::Closed;
            Some(LineView {
                folded: Some(query.fold.contains(&line.of.key())),
                level: if plan.settings.levels.is_empty() {
                    String::new()
                } else {
                    plan.settings.level(plan.project_line(id).count().saturating_sub(1)).to_owned()
                },
                done: closed,
                ..blank(line, &project.name)
            })
        }
        Of::Task(id) => Some(task_line((plan, query), plan.tasks.get(&id)?, line, may_change)),
        Of::Milestone(_) => None,
    };
    let all: Vec<LineView> = tasks.filter_map(view).collect();
    let left_out = all.len().saturating_sub(MOST);
    LinesPart { lines: all.into_iter().take(MOST).collect(), left_out, may_change }
}

fn blank(line: &super::outline::Line, title: &str) -> LineView {
    LineView {
        key: line.of.key(),
        kind: "project",
        depth: line.depth,
        title: title.to_owned(),
        tag: String::new(),
        level: String::new(),
        folded: None,
        who: String::new(),
        left: String::new(),
        when: String::new(),
        links: String::new(),
        href: String::new(),
        done: false,
        under: line.of.key(),
    }
}

fn task_line(
    (plan, query): (&Plan, &GanttQuery),
    task: &Task,
    line: &super::outline::Line,
    may_change: bool,
) -> LineView {
    let order = query.order;
    let names = task.assignees.people().filter_map(|id| plan.people.get(&id)).map(|entry| entry.person.name.clone());
    let under = task.parent.map_or_else(|| Of::Project(task.project).key(), |parent| Of::Task(parent).key());
    LineView {
        kind: "task",
        tag: if may_change { Tag::of(task).to_string() } else { String::new() },
        level: if task.kind.is_empty() {
            format!("level {}", line.depth)
        } else {
            format!("{}, level {}", task.kind, line.depth)
        },
        folded: line.is_whole.then(|| query.fold.contains(&line.of.key())),
        who: names.collect::<Vec<_>>().join(", "),
        left: left_of(plan, task).filter(|_| !line.is_whole).map(words::hours).unwrap_or_default(),
        when: task.start.zip(task.finish).map(|(from, to)| words::range(from, to, order)).unwrap_or_default(),
        links: links_in_words(plan, task.id),
        href: query.href(super::PATH, |params| params.row = task.id.to_string()),
        done: task.is_done(),
        under,
        ..blank(line, &task.title)
    }
}

fn shown(plan: &Plan, part: &LinesPart) -> String {
    let tasks = part.lines.iter().filter(|line| line.kind == "task").count();
    format!("{tasks} of {} tasks", plan.tasks.len())
}

pub async fn page(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let turn = params.turn.clone();
    let mut query = GanttQuery::read(Params { turn: String::new(), ..params }, &plan, state.today());
    if !turn.is_empty() {
        // A link without a script folds or unfolds one row.
        query = GanttQuery::read(Params { fold: query.turned(&turn), ..query.params }, &plan, query.today);
    }
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let may_change = user.books();
        let part = lines((&plan, &query), &outline(&kept, &plan, &query), may_change);
        let open = offers::projects(&plan, offers::is_open).into_iter();
        let projects = open.map(|it| (it.code.clone(), it.name.clone(), query.projects.contains(&it.id))).collect();
        let page = WritePage {
            shown: shown(&plan, &part),
            projects,
            kept: query.kept_besides(&["project", "q", "offset"]),
            clear: query.href(PATH, |params| (params.q, params.project) = Default::default()),
            part,
            may_change,
            frame,
            query,
        };
        page.render()
    })
    .await
}

pub async fn rows(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let query = GanttQuery::read(params, &plan, state.today());
    let kept = Arc::clone(&state.kept);
    crate::computed(move || lines((&plan, &query), &outline(&kept, &plan, &query), user.books()).render()).await
}
