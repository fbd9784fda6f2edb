//! A project's page: its state, dates against what was meant, people, milestones, what is stuck, what comes next, its load.

use super::{
    calm,
    lists::{Line, View},
    says,
    tree::{Stand, level},
};
use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit,
    frame::{Frame, Room},
    markdown,
    task::{self, FilesView},
    words,
};
use askama::Template;
use axum::{extract::Path, response::Html};
use snug_core::{
    ProjectId, Role,
    cells::Grain,
    demand::Window,
    health::{Standing, concerns},
    kinds::{BaselineKind, FilesOf, Kind, ProjectStatus},
    load::{Group, Groups, Measure, Query, RowKey},
    network::differences,
    text::{Text, TextOn, TextSlot},
};

/// How many weeks ahead its load is seen.
const WEEKS: i32 = 16;

/// A week of its load: percent of the width and of the height, and its words.
struct Bar {
    x: String,
    width: String,
    y: String,
    height: String,
    title: String,
}

#[derive(Template)]
#[template(path = "schedule/projects/one.html")]
struct OnePage {
    frame: Frame,
    id: ProjectId,
    code: String,
    name: String,
    above: Vec<(String, String)>,
    inside: Vec<Line>,
    hue: usize,
    state: String,
    health: Vec<String>,
    facts: Vec<(&'static str, String)>,
    percent: Option<i64>,
    load: Vec<Bar>,
    load_says: String,
    people: Vec<Line>,
    milestones: Vec<Line>,
    stuck: Vec<Line>,
    next: Vec<Line>,
    risks: Vec<Line>,
    meetings: Vec<Line>,
    notes: Vec<(String, String)>,
    description: String,
    files: FilesView,
    is_sketch: bool,
    pencilled: usize,
    may_change: bool,
    may_keep: bool,
    here: String,
}

pub async fn page(Here(state): Here, user: User, Path(id): Path<i32>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let id = ProjectId(id);
    if !plan.records.projects.contains_key(&id) {
        return Err(Error::NotFound);
    }
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let written = state.keeper.texts_of(TextOn::Project, id.0).await?;
    crate::computed(move || {
        let today = state.today();
        let stand = Stand::of(&state, &plan, today);
        let Some(project) = plan.records.projects.get(&id) else { return Ok(String::new()) };
        let blank = Standing::default();
        let standing = stand.standings.get(&id).unwrap_or(&blank);
        let view = View { plan: &plan, project, today };
        let wrong = concerns(&plan, id, standing, &stand.hangs, today);
        let health: Vec<String> = wrong.into_iter().map(|it| words::capital(&says(&plan, it))).collect();
        let (load, load_says) = view.load();
        let above: Vec<_> = plan.project_line(id).skip(1).collect();
        let is_note = |text: &&Text| text.slot == TextSlot::Note;
        let description = written.iter().find(|text| text.slot == TextSlot::Description);
        let pencilled = |entry: &snug_core::plan::Entry| {
            let own = entry.bookings().filter(|row| row.project == Some(id));
            own.filter(|row| row.brick.certainty() == snug_core::kinds::Certainty::Pencilled).count()
        };
        let page = OnePage {
            code: project.code.clone(),
            name: project.name.clone(),
            inside: view.inside(&stand),
            hue: fit::hue(&plan, id),
            state: {
                let level = level(&plan, above.len());
                let state = project.status.to_string();
                if level.is_empty() { words::capital(&state) } else { format!("{level}, {state}") }
            },
            health: if health.is_empty() {
                vec![words::capital(calm(project.status, standing.percent()))]
            } else {
                health
            },
            facts: view.facts(standing),
            percent: standing.percent(),
            load,
            load_says,
            people: view.people(),
            milestones: view.milestones(&stand),
            stuck: view.stuck(),
            next: view.next(),
            risks: view.risks(),
            meetings: view.meetings(),
            notes: written
                .iter()
                .filter(is_note)
                .map(|note| (note.title(), format!("{}/{id}/notes/{}", super::PATH, note.id)))
                .collect(),
            description: description.map(|text| markdown::with_people(&plan, &text.body)).unwrap_or_default(),
            files: task::files_of(&state, &plan, &user, FilesOf::Project(id)),
            is_sketch: project.status == ProjectStatus::Sketch,
            pencilled: plan.people.values().map(pencilled).sum(),
            may_change: user.books(),
            may_keep: user.account.role >= Role::Manager && user.account.role.changes_some(Kind::Project),
            here: format!("{}/{id}", super::PATH),
            above: above.iter().rev().map(|it| (it.name.clone(), format!("{}/{}", super::PATH, it.id))).collect(),
            id,
            frame,
        };
        page.render()
    })
    .await
}

impl View<'_> {
    /// Dates against its own and against the last plan that was kept, what is left, what was worked, who leads it.
    fn facts(&self, standing: &Standing) -> Vec<(&'static str, String)> {
        let (plan, project, order) = (self.plan, self.project, self.plan.settings.date_order);
        let mut found = Vec::new();
        if let Some((from, to)) = standing.dates {
            found.push(("Work", words::range(from, to, order)));
        }
        match (project.start, project.finish) {
            (None, None) => {}
            (Some(from), Some(to)) => found.push(("Its dates", words::range(from, to, order))),
            (Some(from), None) => found.push(("Begins", self.day(from))),
            (None, Some(to)) => found.push(("Is to end", self.day(to))),
        }
        let own =
            plan.records.baselines.values().filter(|it| it.kind == BaselineKind::Project && it.of == project.code);
        if let Some(last) = own.max_by_key(|it| (it.date, it.id)) {
            let found_since = differences(plan, last);
            let later = found_since.iter().filter_map(|it| it.slipped).filter(|days| *days > 0);
            let says = match (later.clone().count(), later.max()) {
                (0, _) => "nothing is later".to_owned(),
                (count, most) => {
                    let tasks = words::count(count, "task is later", "tasks are later");
                    format!("{tasks}, the farthest by {}", words::days(most.unwrap_or(0)))
                }
            };
            found.push(("Since the plan kept", format!("{} ({}): {says}", last.name, self.day(last.date))));
        }
        if standing.tasks > 0 {
            found.push(("Tasks", format!("{} of {} done", standing.done, standing.tasks)));
        }
        found.push(("Worked, left", format!("{}, {}", words::hours(standing.worked), words::hours(standing.left))));
        if let Some(budget) = project.budget_minutes {
            found.push(("Budget", words::hours(budget)));
        }
        if let Some(lead) = project.lead.and_then(|id| plan.people.get(&id)) {
            found.push(("Lead", lead.person.name.clone()));
        }
        if let Some(team) = project.team.and_then(|id| plan.records.teams.get(&id)) {
            found.push(("Team", team.name.clone()));
        }
        found
    }

    /// Its hours week by week, with those inside it.
    fn load(&self) -> (Vec<Bar>, String) {
        let from = Grain::Week.start_of(self.today, &self.plan.settings);
        let query = Query {
            window: Window::new(from, from + WEEKS * 7 - 1, self.today),
            grain: Grain::Week,
            group: Group::Project,
            measure: Measure::Minutes,
        };
        let groups = Groups::for_one(self.plan, query);
        let mut sums = vec![0_i64; groups.buckets().len()];
        for project in self.plan.project_and_inner(self.project.id) {
            let row = groups.row(&RowKey::Project(Some(project)));
            sums.iter_mut().zip(row).for_each(|(sum, cell)| *sum += cell.load);
        }
        let most = sums.iter().copied().max().unwrap_or(0);
        let all: i64 = sums.iter().sum();
        let count = f64::from(WEEKS);
        let bar = |(at, (bucket, minutes)): (usize, (&snug_core::cells::Bucket, &i64))| {
            #[allow(clippy::cast_precision_loss)] // minutes as a part of the height
            let height = 100.0 * *minutes as f64 / most.max(1) as f64;
            let at = f64::from(u32::try_from(at).unwrap_or(0));
            Bar {
                x: format!("{:.2}", 100.0 * (at + 0.08) / count),
                width: format!("{:.2}", 84.0 / count),
                y: format!("{:.1}", 100.0 - height),
                height: format!("{height:.1}"),
                title: format!("Week of {}: {}", self.day(bucket.from), words::hours(*minutes)),
            }
        };
        let says = if all == 0 {
            format!("Nothing is planned in the next {WEEKS} weeks.")
        } else {
            format!("{} in the next {WEEKS} weeks, {} in the fullest.", words::hours(all), words::hours(most))
        };
        (groups.buckets().iter().zip(&sums).enumerate().map(bar).collect(), says)
    }
}
