//! The portfolio: projects one inside the other, each with what it comes to.

use super::{calm, says};
use crate::{
    AppState, Error,
    auth::User,
    drafts::Here,
    fit,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{extract::Query, response::Html};
use serde::Deserialize;
use snug_core::{
    Day, MilestoneId, Plan, ProjectId, Role,
    health::{Dependants, Standing, concerns, dependants, standings},
    kinds::{Kind, Project, ProjectStatus},
};
use std::{
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

/// What is asked.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// A part of a name.
    q: String,
    /// `yes`, where closed projects are seen, too.
    closed: String,
}

/// What each project comes to, and what milestones hang on, worked out once for a plan.
pub struct Stand {
    pub standings: HashMap<ProjectId, Standing>,
    pub hangs: BTreeMap<MilestoneId, Dependants>,
}

impl Stand {
    pub fn of(state: &AppState, plan: &Plan, today: Day) -> Arc<Self> {
        let work = || Self { standings: standings(plan, today), hangs: dependants(plan) };
        state.kept.get(plan, today.to_string(), work)
    }
}

/// A row of the tree.
struct RowView {
    depth: usize,
    hue: usize,
    name: String,
    href: String,
    level: String,
    status: String,
    dates: String,
    left: String,
    /// Percent done; nothing where there is no task.
    percent: Option<i64>,
    health: String,
    is_wrong: bool,
}

#[derive(Template)]
#[template(path = "schedule/projects/tree.html")]
struct TreePage {
    frame: Frame,
    rows: Vec<RowView>,
    shown: String,
    q: String,
    closed: bool,
    in_all: usize,
    may_make: bool,
}

pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let may_make = user.account.role.changes_some(Kind::Project) && user.account.role >= Role::Manager;
    crate::computed(move || {
        let today = state.today();
        let stand = Stand::of(&state, &plan, today);
        let closed = asked.closed == "yes";
        let rows = rows(&plan, &stand, today, &asked.q.trim().to_lowercase(), closed);
        let page = TreePage {
            shown: words::count(rows.len(), "project", "projects"),
            in_all: plan.records.projects.len(),
            q: asked.q.trim().to_owned(),
            rows,
            closed,
            may_make,
            frame,
        };
        page.render()
    })
    .await
}

/// The projects in order: by name, those inside a project below it; those that fit the words, with what they are in.
fn rows(plan: &Plan, stand: &Stand, today: Day, words: &str, closed: bool) -> Vec<RowView> {
    let fits = |project: &Project| {
        (closed || project.status != ProjectStatus::Closed)
            && (words.is_empty()
                || project.name.to_lowercase().contains(words)
                || project.code.to_lowercase().contains(words))
    };
    let mut shown: std::collections::BTreeSet<ProjectId> = std::collections::BTreeSet::new();
    for project in plan.records.projects.values().filter(|project| fits(project)) {
        shown.extend(plan.project_line(project.id).map(|above| above.id));
    }
    let mut inside: BTreeMap<Option<ProjectId>, Vec<&Arc<Project>>> = BTreeMap::new();
    for project in plan.records.projects.values().filter(|project| shown.contains(&project.id)) {
        inside.entry(project.parent.filter(|id| shown.contains(id))).or_default().push(project);
    }
    for projects in inside.values_mut() {
        projects.sort_by_cached_key(|project| std::cmp::Reverse(project.name.to_lowercase()));
    }
    let hues = fit::hues(plan);
    let mut left: Vec<(&Arc<Project>, usize)> =
        inside.get(&None).into_iter().flatten().map(|project| (*project, 0)).collect();
    let mut found = Vec::new();
    while let Some((project, depth)) = left.pop() {
        let hue = hues.get(&project.id).copied().unwrap_or(0);
        found.push(row(plan, stand, today, project, (depth, hue)));
        left.extend(inside.get(&Some(project.id)).into_iter().flatten().map(|inner| (*inner, depth + 1)));
    }
    found
}

fn row(plan: &Plan, stand: &Stand, today: Day, project: &Project, (depth, hue): (usize, usize)) -> RowView {
    let order = plan.settings.date_order;
    let blank = Standing::default();
    let standing = stand.standings.get(&project.id).unwrap_or(&blank);
    let found = concerns(plan, project.id, standing, &stand.hangs, today);
    let presses = found.iter().any(|concern| concern.presses());
    let wrong: Vec<String> = found.into_iter().map(|it| says(plan, it)).collect();
    let dates = standing.dates.or(project.start.zip(project.finish));
    RowView {
        depth,
        hue,
        name: project.name.clone(),
        href: format!("{}/{}", super::PATH, project.id),
        level: level(plan, depth),
        status: project.status.to_string(),
        dates: dates.map(|(from, to)| words::range(from, to, order)).unwrap_or_default(),
        left: if standing.tasks == 0 { String::new() } else { words::hours(standing.left) },
        percent: standing.percent(),
        is_wrong: presses,
        health: if wrong.is_empty() { calm(project.status, standing.percent()).to_owned() } else { wrong.join(", ") },
    }
}

/// What the workspace calls projects that lie so deep; nothing where it has no names for them.
pub fn level(plan: &Plan, depth: usize) -> String {
    if plan.settings.levels.is_empty() { String::new() } else { words::capital(plan.settings.level(depth)) }
}
