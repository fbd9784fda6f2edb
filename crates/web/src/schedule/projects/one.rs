//! A project's page: its state, dates against what was meant, people, milestones, what is stuck, what comes next, its load.

use super::{
    calm, says,
    tree::{Stand, level},
};
use crate::{
    AppState, Error,
    auth::User,
    fit,
    frame::{Frame, Room},
    markdown,
    task::{self, FilesView},
    words,
};
use askama::Template;
use axum::{
    extract::{Path, State},
    response::Html,
};
use snug_core::{
    Day, Plan, ProjectId, Role,
    cells::Grain,
    demand::{Window, person_load},
    health::{Standing, concerns},
    kinds::{BaselineKind, FilesOf, Kind, Project, ProjectStatus, RiskState, Task},
    load::{Group, Groups, Measure, Query, RowKey},
    network::differences,
    text::{Text, TextOn, TextSlot},
};
use snug_store::texts;
use std::collections::BTreeSet;

/// How many weeks ahead its load is seen, and how far one looks for what comes next, in days.
const WEEKS: i32 = 16;
const SOON: i32 = 14;
/// As many of anything as one reads on a page.
const MOST: usize = 12;

/// A line with a name that leads somewhere, and what is said of it.
struct Line {
    name: String,
    href: String,
    says: String,
    is_wrong: bool,
}

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

pub async fn page(State(state): State<AppState>, user: User, Path(id): Path<i32>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let id = ProjectId(id);
    if !plan.records.projects.contains_key(&id) {
        return Err(Error::NotFound);
    }
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let written = texts::of(state.keeper.db(), TextOn::Project, id.0).await?;
    crate::computed(move || {
        let today = state.today();
        let stand = Stand::of(&state, &plan, today);
        let Some(project) = plan.records.projects.get(&id) else { return Ok(String::new()) };
        let blank = Standing::default();
        let standing = stand.standings.get(&id).unwrap_or(&blank);
        let view = View { plan: &plan, project, today };
        let wrong = concerns(&plan, id, standing, &stand.hangs, today);
        let health: Vec<String> = wrong.into_iter().map(|it| says(&plan, it)).collect();
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

/// What the page looks at.
struct View<'p> {
    plan: &'p Plan,
    project: &'p Project,
    today: Day,
}

impl View<'_> {
    fn day(&self, day: Day) -> String {
        words::day(day, self.plan.settings.date_order)
    }

    /// Its tasks and those of the projects inside it.
    fn tasks(&self) -> impl Iterator<Item = &Task> {
        let inside = |task: &&Task| self.plan.project_line(task.project).any(|above| above.id == self.project.id);
        self.plan.tasks.values().map(|task| &**task).filter(inside)
    }

    fn inside(&self, stand: &Stand) -> Vec<Line> {
        let inner = self.plan.records.projects.values().filter(|it| it.parent == Some(self.project.id));
        let line = |it: &std::sync::Arc<Project>| {
            let percent = stand.standings.get(&it.id).and_then(Standing::percent);
            let done = percent.map(|percent| format!(", {percent} % done")).unwrap_or_default();
            Line {
                name: it.name.clone(),
                href: format!("{}/{}", super::PATH, it.id),
                says: format!("{}{done}", it.status),
                is_wrong: false,
            }
        };
        inner.map(line).collect()
    }

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
        let inner = self.plan.records.projects.keys().copied();
        let inner = inner.filter(|id| self.plan.project_line(*id).any(|above| above.id == self.project.id));
        let mut sums = vec![0_i64; groups.buckets().len()];
        for project in inner {
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

    /// Who works on it in the next four weeks, most hours first.
    fn people(&self) -> Vec<Line> {
        let window = Window::new(self.today, self.today + 27, self.today);
        let query = Query { window, grain: Grain::Week, group: Group::Project, measure: Measure::Minutes };
        let groups = Groups::for_one(self.plan, query);
        let inner: BTreeSet<ProjectId> = self
            .plan
            .records
            .projects
            .keys()
            .copied()
            .filter(|id| self.plan.project_line(*id).any(|above| above.id == self.project.id))
            .collect();
        let on_it: BTreeSet<_> = inner
            .iter()
            .flat_map(|id| groups.people(&RowKey::Project(Some(*id))))
            .map(|entry| entry.person.id)
            .collect();
        let mut found: Vec<(i64, Line)> = Vec::new();
        for entry in on_it.iter().filter_map(|id| self.plan.people.get(id)) {
            let load = person_load(self.plan, entry, &window, true);
            let range = load.days.indexes(window.from, window.to);
            let own = load.slots.iter().filter(|slot| slot.project.is_some_and(|id| inner.contains(&id)));
            let minutes: i64 = own.map(|slot| slot.load.sum(range.clone())).sum();
            if minutes == 0 {
                continue;
            }
            let over: i64 = range.clone().map(|at| i64::from((load.load[at] - load.days.rim()[at]).max(0))).sum();
            let spill = if over > 0 { format!(", {} over in all", words::hours(over)) } else { String::new() };
            let line = Line {
                name: entry.person.name.clone(),
                href: words::address("/schedule/slips", [("q", entry.person.name.as_str()), ("weeks", "4")]),
                says: format!("{}{spill}", words::hours(minutes)),
                is_wrong: over > 0,
            };
            found.push((minutes, line));
        }
        found.sort_by_key(|(minutes, _)| std::cmp::Reverse(*minutes));
        found.into_iter().take(MOST).map(|(_, line)| line).collect()
    }

    fn milestones(&self, stand: &Stand) -> Vec<Line> {
        let own = self.plan.records.milestones.values();
        let mut own: Vec<_> = own.filter(|it| it.projects.contains(&self.project.id)).collect();
        own.sort_by_key(|milestone| milestone.date);
        let line = |milestone: &std::sync::Arc<snug_core::kinds::Milestone>| {
            let hangs = stand.hangs.get(&milestone.id);
            let late = hangs.and_then(|hangs| hangs.late(milestone));
            let open = hangs.map_or(0, |hangs| hangs.tasks.len() - hangs.done);
            let waits =
                if open > 0 { format!(", waits for {}", words::count(open, "task", "tasks")) } else { String::new() };
            let missed = late.map(|days| format!(", missed by {}", words::days(days))).unwrap_or_default();
            Line {
                name: milestone.name.clone(),
                href: format!("/milestones/{}", milestone.id),
                says: format!("{}{waits}{missed}", self.day(milestone.date)),
                is_wrong: late.is_some(),
            }
        };
        own.into_iter().map(line).collect()
    }

    fn stuck(&self) -> Vec<Line> {
        let stuck = self.tasks().filter(|task| task.is_stuck());
        let line = |task: &Task| Line {
            name: task.title.clone(),
            href: format!("/tasks/{}", task.id),
            says: task.stuck.clone(),
            is_wrong: false,
        };
        stuck.take(MOST).map(line).collect()
    }

    /// What begins or is to be finished soon, and what is late.
    fn next(&self) -> Vec<Line> {
        let soon = self.today + SOON;
        let is_leaf = |task: &&Task| self.plan.children_of(task.id).is_empty();
        let mut found: Vec<(Day, Line)> = Vec::new();
        for task in self.tasks().filter(is_leaf).filter(|task| !task.is_done()) {
            let Some((start, finish)) = task.start.zip(task.finish) else { continue };
            let (day, says) = if finish < self.today {
                (finish, format!("should have been finished on {}", self.day(finish)))
            } else if start >= self.today && start <= soon {
                (start, format!("begins on {}", self.day(start)))
            } else if finish <= soon {
                (finish, format!("is to be finished on {}", self.day(finish)))
            } else {
                continue;
            };
            let line = Line {
                name: task.title.clone(),
                href: format!("/tasks/{}", task.id),
                says,
                is_wrong: finish < self.today,
            };
            found.push((day, line));
        }
        found.sort_by_key(|(day, _)| *day);
        found.into_iter().take(MOST).map(|(_, line)| line).collect()
    }

    fn risks(&self) -> Vec<Line> {
        let open = self.plan.records.risks.values().filter(|risk| risk.state != RiskState::Closed);
        let mut own: Vec<_> = open.filter(|risk| risk.project == self.project.id).collect();
        own.sort_by_key(|risk| std::cmp::Reverse(risk.weight()));
        let line = |risk: &std::sync::Arc<snug_core::kinds::Risk>| {
            let response = risk.response.map_or_else(|| "no response yet".to_owned(), |response| response.to_string());
            Line {
                name: risk.title.clone(),
                href: format!("/risks/{}", risk.id),
                says: format!("{} of 25, {response}", risk.weight()),
                is_wrong: risk.is_overdue(self.today),
            }
        };
        own.into_iter().take(MOST).map(line).collect()
    }

    fn meetings(&self) -> Vec<Line> {
        let own = self.plan.records.meetings.values().filter(|meeting| meeting.project == self.project.id);
        let line = |meeting: &std::sync::Arc<snug_core::kinds::Meeting>| {
            let next = meeting.days().find(|day| *day >= self.today).unwrap_or(meeting.date);
            let again = match meeting.every_weeks {
                0 => String::new(),
                1 => ", every week".to_owned(),
                weeks => format!(", every {weeks} weeks"),
            };
            let at = snug_core::cell::time_of_day_text(meeting.at);
            let people = words::count(meeting.people.len(), "person", "people");
            Line {
                name: meeting.title.clone(),
                href: format!("/meetings/{}", meeting.id),
                says: format!(
                    "{} {at}, {}, {people}{again}",
                    words::weekday(next, self.plan.settings.date_order),
                    words::hours(meeting.minutes.into())
                ),
                is_wrong: false,
            }
        };
        own.map(line).collect()
    }
}
