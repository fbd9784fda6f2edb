//! Estimate against actual: the estimate is the rim, what was worked the fill, what is left the lighter fill, overrun the spill.

use crate::{
    AppState, Error,
    auth::User,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    extract::{Query, State},
    response::Html,
};
use serde::Deserialize;
use snug_core::{
    Eyes, Plan, ProjectId,
    actuals::{Actuals, of_person, of_projects, of_task},
    kinds::Kind,
};

/// Which rows.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    by: String,
    project: String,
    q: String,
    only: String,
}

/// Estimate and actual as a picture, in percent of its width.
pub struct Vessel {
    /// Worked, up to the estimate.
    pub done: f64,
    /// Still to go, up to the estimate.
    pub left: f64,
    /// Where the spill begins, and how wide it is.
    pub spill_from: f64,
    /// Beyond the estimate.
    pub spill: f64,
    /// Where the estimate ends.
    pub rim: f64,
}

impl Vessel {
    /// Draws figures on a scale where `most` minutes are the full width.
    #[allow(clippy::cast_precision_loss)] // minutes as a share of a width
    pub fn of(figures: &Actuals, most: i64) -> Self {
        let width = |minutes: i64| (minutes as f64 * 1_000.0 / most.max(1) as f64).round() / 10.0;
        let estimate = if figures.estimated { figures.estimate } else { figures.projected() };
        let done = figures.actual.min(estimate);
        let left = figures.remaining.min(estimate - done);
        let spill = (figures.projected() - estimate).max(0);
        Self {
            done: width(done),
            left: width(left),
            spill_from: width(done + left),
            spill: width(spill),
            rim: if figures.estimated { width(estimate) } else { 0.0 },
        }
    }
}

struct Row {
    name: String,
    href: String,
    under: String,
    vessel: Vessel,
    says: String,
    verdict: String,
    over: bool,
    figures: [String; 5],
}

#[derive(Template)]
#[template(path = "hours/actuals.html")]
struct ActualsPage {
    frame: Frame,
    by: &'static str,
    q: String,
    project: String,
    only_over: bool,
    projects: Vec<(String, String)>,
    rows: Vec<Row>,
    left_out: usize,
    sum: Option<Row>,
    tabs: Vec<(&'static str, String)>,
}

/// As many rows as one reads; a filter finds the others.
const MOST: usize = 200;

/// The page.
pub async fn page(
    State(state): State<AppState>,
    user: User,
    Query(asked): Query<Asked>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    crate::computed(move || {
        let by = match asked.by.as_str() {
            "project" => "project",
            "person" => "person",
            _ => "task",
        };
        let q = asked.q.trim().to_lowercase();
        let project = plan.find(Kind::Project, &asked.project).map(ProjectId);
        let mut found: Vec<(String, String, String, Actuals)> = match by {
            "project" => projects(&plan, project),
            "person" => people(&user.eyes(&plan)),
            _ => tasks(&plan, project),
        };
        let only_over = asked.only == "over";
        found.retain(|(name, _, under, figures)| {
            let fits = name.to_lowercase().contains(&q) || under.to_lowercase().contains(&q);
            fits && (!only_over || figures.variance().is_some_and(|more| more > 0))
        });
        // The largest overrun first, then what went as thought; what has no estimate last.
        found.sort_by_key(|(name, _, _, figures)| {
            (figures.variance().is_none(), std::cmp::Reverse(figures.variance()), name.to_lowercase())
        });
        let most = found.iter().map(|(_, _, _, f)| f.projected().max(f.estimate)).max().unwrap_or(1);
        let left_out = found.len().saturating_sub(MOST);
        let sum = (by == "task" && found.len() > 1).then(|| sum(&found));
        let rows =
            found.into_iter().take(MOST).map(|(name, href, under, f)| row(name, href, under, &f, most)).collect();
        let tab = |kind: &str| {
            words::address(
                "/hours/actuals",
                [("by", kind), ("project", asked.project.as_str()), ("q", asked.q.as_str())],
            )
        };
        let projects = crate::offers::projects(&plan, |_| true);
        let projects = projects.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect();
        ActualsPage {
            by,
            only_over,
            rows,
            left_out,
            sum,
            tabs: vec![("task", tab("task")), ("project", tab("project")), ("person", tab("person"))],
            projects,
            frame,
            q: asked.q,
            project: asked.project,
        }
        .render()
    })
    .await
}

fn row(name: String, href: String, under: String, figures: &Actuals, most: i64) -> Row {
    let estimate = if figures.estimated { words::hours(figures.estimate) } else { "–".to_owned() };
    let thought = if figures.estimated { format!("thought {estimate}") } else { "no estimate".to_owned() };
    let [worked, left] = [figures.actual, figures.remaining].map(words::hours);
    Row {
        vessel: Vessel::of(figures, most),
        says: format!("{worked} worked · {left} to go · {thought}"),
        verdict: words::verdict(figures),
        over: figures.variance().is_some_and(|more| more > 0),
        figures: [estimate, worked, left, words::hours(figures.projected()), words::verdict(figures)],
        name,
        href,
        under,
    }
}

fn sum(found: &[(String, String, String, Actuals)]) -> Row {
    let mut all = Actuals::default();
    for (_, _, _, figures) in found {
        all.add(figures);
    }
    row("All of these".to_owned(), String::new(), String::new(), &all, all.projected().max(all.estimate))
}

fn project_name(plan: &Plan, id: ProjectId) -> String {
    plan.records.projects.get(&id).map(|project| project.name.clone()).unwrap_or_default()
}

/// Whether a project is the one asked for, or inside it.
fn is_in(plan: &Plan, id: ProjectId, wanted: Option<ProjectId>) -> bool {
    wanted.is_none_or(|wanted| plan.project_line(id).any(|above| above.id == wanted))
}

/// Leaves and parents that stand in no other task of the list, so that nothing is told twice.
fn tasks(plan: &Plan, project: Option<ProjectId>) -> Vec<(String, String, String, Actuals)> {
    let tasks = plan.tasks.values().filter(|task| task.parent.is_none() && is_in(plan, task.project, project));
    tasks
        .map(|task| {
            (task.title.clone(), format!("/tasks/{}", task.id), project_name(plan, task.project), of_task(plan, task))
        })
        .filter(|(_, _, _, figures)| figures.estimated || figures.actual > 0)
        .collect()
}

fn projects(plan: &Plan, project: Option<ProjectId>) -> Vec<(String, String, String, Actuals)> {
    let all = of_projects(plan);
    let row = |(id, figures): (Option<ProjectId>, Actuals)| match id.and_then(|id| plan.records.projects.get(&id)) {
        Some(found) if is_in(plan, found.id, project) => {
            let under = found.parent.map(|id| project_name(plan, id)).unwrap_or_default();
            Some((found.name.clone(), format!("/projects/{}", found.id), under, figures))
        }
        None if project.is_none() => Some(("No project".to_owned(), String::new(), String::new(), figures)),
        _ => None,
    };
    all.into_iter().filter_map(row).collect()
}

/// Those whose logs are seen.
fn people(eyes: &Eyes<'_>) -> Vec<(String, String, String, Actuals)> {
    let row = |entry: &snug_core::plan::Entry| {
        let person = &entry.person;
        (person.name.clone(), format!("/people/{}", person.id), person.role.clone(), of_person(eyes.plan, person.id))
    };
    let known = eyes.plan.people.values().filter(|entry| eyes.knows(entry.person.id));
    known.map(row).filter(|(_, _, _, f)| f.estimated || f.actual > 0).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_picture_has_the_proportions_of_its_figures() {
        let draw = |estimate: i64, actual, remaining| {
            let figures = Actuals { estimate, actual, remaining, without_estimate: 0, estimated: estimate > 0 };
            let Vessel { done, left, spill_from, spill, rim } = Vessel::of(&figures, 100);
            [done, left, spill_from, spill, rim].map(|width| width.to_string()).join(" ")
        };
        assert_eq!(draw(80, 30, 50), "30 50 80 0 80", "as thought: full to the rim");
        assert_eq!(draw(60, 50, 40), "50 10 60 30 60", "what is beyond the estimate spills");
        assert_eq!(draw(60, 75, 0), "60 0 60 15 60", "worked beyond it, too");
        assert_eq!(draw(60, 20, 10), "20 10 30 0 60", "room is left under the rim");
        assert_eq!(draw(0, 20, 0), "20 0 20 0 0", "no estimate, no rim");
    }
}
