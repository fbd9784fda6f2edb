//! Baselines of projects: made, and compared with what has become of the work since.

use crate::{
    Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::{Flash, Frame, Room},
    offers, words,
};
use askama::Template;
use axum::{
    Form,
    extract::Query,
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_core::{
    Command, Plan, ProjectId, Role,
    kinds::{AnyRecord, Baseline, BaselineId, BaselineKind, Kind},
    network::{Difference, differences},
};
use std::sync::Arc;

/// Where baselines are compared.
pub const PATH: &str = "/schedule/baselines";

/// Which one is looked at.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    baseline: String,
}

/// A baseline in the list.
struct Made {
    href: String,
    name: String,
    project: String,
    day: String,
    on: bool,
    gantt: String,
}

/// A task that is otherwise than was meant.
struct Line {
    title: String,
    href: String,
    what: String,
    slipped: String,
    grown: String,
    is_worse: bool,
}

#[derive(Template)]
#[template(path = "schedule/baselines.html")]
struct BaselinesPage {
    frame: Frame,
    made: Vec<Made>,
    chosen: Option<String>,
    says: Vec<String>,
    lines: Vec<Line>,
    left_out: usize,
    /// Code, name, and whether it was chosen already.
    projects: Vec<(String, String, bool)>,
    name: String,
    may_change: bool,
}

/// More than this nobody reads; the sentences above count all.
const MOST: usize = 300;

/// What has become of all of it, in sentences.
fn says(found: &[Difference]) -> Vec<String> {
    let number = |is: fn(&Difference) -> bool| found.iter().filter(|it| is(it)).count();
    let later = number(|it| it.slipped.is_some_and(|days| days > 0));
    let farthest = found.iter().filter_map(|it| it.slipped).max().unwrap_or(0);
    let mut said = Vec::new();
    if later > 0 {
        said.push(format!(
            "{} later, the farthest by {}",
            words::count(later, "task finishes", "tasks finish"),
            words::days(farthest)
        ));
    }
    let grown: i64 = found.iter().filter(|it| !it.added && !it.dropped).map(|it| it.grown).sum();
    if grown != 0 {
        let way = if grown > 0 { "grown" } else { "shrunk" };
        said.push(format!("what was meant has {way} by {}", words::hours(grown.abs())));
    }
    let (added, dropped) = (number(|it| it.added), number(|it| it.dropped));
    if added > 0 {
        let hours: i64 = found.iter().filter(|it| it.added).map(|it| it.grown).sum();
        said.push(format!("{} added, {}", words::count(added, "task", "tasks"), words::hours(hours)));
    }
    if dropped > 0 {
        said.push(format!("{} no longer in it", words::count(dropped, "task is", "tasks are")));
    }
    if said.is_empty() {
        said.push("Everything stands as it was meant.".to_owned());
    }
    said
}

fn line(plan: &Plan, it: &Difference) -> Line {
    let what = match (it.added, it.dropped) {
        (true, _) => "added".to_owned(),
        (_, true) => "no longer in it".to_owned(),
        _ => String::new(),
    };
    let slipped = match it.slipped {
        Some(more) if more > 0 => format!("{} later", words::days(more)),
        Some(less) if less < 0 => format!("{} earlier", words::days(less)),
        _ => String::new(),
    };
    let grown = match it.grown {
        0 => String::new(),
        more if more > 0 => format!("+{}", words::hours(more)),
        less => format!("−{}", words::hours(-less)),
    };
    Line {
        title: plan.tasks.get(&it.task).map(|task| task.title.clone()).unwrap_or_default(),
        href: format!("/tasks/{}", it.task),
        what,
        slipped,
        grown,
        is_worse: it.slipped.is_some_and(|days| days > 0),
    }
}

pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let again: Pairs = user.session.remove("baseline").await?.unwrap_or_default();
    let of_projects = |it: &&Arc<Baseline>| it.kind == BaselineKind::Project;
    let chosen = plan.find(Kind::Baseline, &asked.baseline).map(BaselineId);
    crate::computed(move || {
        let order = plan.settings.date_order;
        let typed = |field: &str| sent(&again, field);
        let name_of = |code: &str| {
            let project = plan.find(Kind::Project, code).and_then(|id| plan.records.projects.get(&ProjectId(id)));
            project.map_or_else(|| code.to_owned(), |project| project.name.clone())
        };
        let made = |it: &Arc<Baseline>| Made {
            href: words::address(PATH, [("baseline", it.code.as_str())]),
            name: it.name.clone(),
            project: name_of(&it.of),
            day: words::date(it.date, order),
            on: chosen == Some(it.id),
            gantt: words::address(super::PATH, [("project", it.of.as_str()), ("beside", it.code.as_str())]),
        };
        let mut all: Vec<&Arc<Baseline>> = plan.records.baselines.values().filter(of_projects).collect();
        all.sort_by_key(|it| (std::cmp::Reverse(it.date), it.code.clone()));
        let baseline = chosen.and_then(|id| plan.records.baselines.get(&id)).filter(of_projects);
        let found = baseline.map(|it| differences(&plan, it)).unwrap_or_default();
        let open = offers::projects(&plan, offers::is_open);
        let page = BaselinesPage {
            made: all.into_iter().map(made).collect(),
            chosen: baseline.map(|it| format!("{}, {}", it.name, words::date(it.date, order))),
            says: if baseline.is_some() { says(&found) } else { Vec::new() },
            left_out: found.len().saturating_sub(MOST),
            lines: found.iter().take(MOST).map(|it| line(&plan, it)).collect(),
            projects: open
                .into_iter()
                .map(|it| (it.code.clone(), it.name.clone(), it.code == typed("project")))
                .collect(),
            name: typed("name").to_owned(),
            may_change: user.books(),
            frame,
        };
        page.render()
    })
    .await
}

/// Keeps what is meant of a project today.
pub async fn make(Here(state): Here, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let plan = state.keeper.plan();
    let project = plan.find(Kind::Project, sent(&pairs, "project")).map_or(ProjectId(0), ProjectId);
    let command = Command::Freeze { project, name: sent(&pairs, "name").to_owned() };
    let title = command.done(&plan);
    match answer::carry_out(&state, &user, command).await {
        Ok(outcome) => {
            let made =
                outcome.changes.iter().find_map(|change| change.record().filter(|it| it.kind() == Kind::Baseline));
            let code = made.map(AnyRecord::key).unwrap_or_default();
            answer::back_to(&user, &words::address(PATH, [("baseline", code.as_str())]), title, &outcome).await
        }
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            // The form comes again with what was typed.
            user.session.insert("baseline", &pairs).await?;
            Flash::problem(words::capital(&refusal.message)).leave(&user.session).await?;
            Ok(Redirect::to(PATH).into_response())
        }
        Err(error) => Err(error),
    }
}
