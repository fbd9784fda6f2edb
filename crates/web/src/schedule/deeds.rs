//! What hands and forms do to tasks and links here: each becomes one command, and a preview says what it would do.

use super::{
    outline::{Of, line_of},
    parts::row_html,
    picture::Drawing,
    query::{GanttQuery, Params},
    says::{by_hand, says, tip, written},
    wholes::{span, with_inner},
};
use crate::{
    AppState, Error,
    answer::{self, is_script, refused, safe_back},
    auth::User,
};
use axum::{
    Form, Json,
    extract::{Path, State},
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
};
use serde::Deserialize;
use serde_json::{Map, Value, json};
use snug_core::{
    Command, Day, LinkId, Plan, ProjectId, Refusal, Role, Tag, TaskId,
    change::{Change, Edit},
    demand::is_parent,
    kinds::{Kind, Link, LinkKind, Record as _, Task},
    network::{Ground, Mode, leaves, line},
};
use std::collections::{BTreeSet, HashMap};

/// What is sent.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// Of a preview: the deed.
    what: String,
    /// The tags of what is held, with commas between.
    seen: String,
    /// Days by which it is moved, or its ends.
    shift: i32,
    start_shift: i32,
    end_shift: i32,
    /// The row on which it is dropped, or the task that is named.
    to: String,
    /// The day on which it is dropped.
    at: String,
    start: String,
    finish: String,
    kind: String,
    lag_days: String,
    note: String,
    title: String,
    /// Lines that are written down.
    text: String,
    /// The room's address, as JSON.
    room: String,
    back: String,
}

/// The most tasks that are moved at once.
const MOST: usize = 200;

/// The farthest that a hand moves something, in days.
const FARTHEST: i32 = 3_660;

impl Asked {
    /// The tasks that are held, if each stands as it was seen.
    fn tasks(&self, plan: &Plan) -> Result<Vec<Task>, Error> {
        let tags: Vec<&str> = self.seen.split(',').collect();
        if tags.len() > MOST {
            return Err(Refusal::value("seen", format!("At most {MOST} tasks are moved at once.")).into());
        }
        let seen = |tag: &&str| -> Result<Task, Error> { Ok(plan.record_as_seen(tag.parse::<Tag>()?)?) };
        tags.iter().map(seen).collect()
    }

    fn task(&self, plan: &Plan) -> Result<Task, Error> {
        Ok(plan.record_as_seen(self.seen.parse::<Tag>()?)?)
    }

    /// The task whose row something is dropped on, or that a form names by its ref.
    fn other<'p>(&self, plan: &'p Plan) -> Result<&'p Task, Error> {
        let by_row = || Of::of_key(&self.to).and_then(|of| if let Of::Task(id) = of { Some(id) } else { None });
        let id = plan.find(Kind::Task, self.to.trim()).map(TaskId).or_else(by_row);
        let found = id.and_then(|id| plan.tasks.get(&id)).map(|task| &**task);
        found.ok_or_else(|| Refusal::value("to", "There is no such task; choose one that is offered.").into())
    }

    /// What a deed asks for.
    ///
    /// # Errors
    /// What cannot be read, or no longer stands as it was seen.
    pub fn command(&self, plan: &Plan, deed: &str, today: Day) -> Result<Command, Error> {
        match deed {
            "push" | "carry" => {
                let mode = if deed == "carry" { Mode::Carry } else { Mode::Push };
                self.moved(plan, mode, today)
            }
            "dates" => self.dated(plan),
            "right" => {
                let task = self.task(plan)?;
                let start = task.start.unwrap_or(today);
                Ok(Command::MoveTasks { tasks: vec![(task, start)], mode: Mode::Push })
            }
            "link-finish" | "link-start" => self.linked(plan, deed == "link-start"),
            "link" => self.link(plan),
            "unlink" => {
                let link: Link = plan.record_as_seen(self.seen.parse::<Tag>()?)?;
                Ok(Command::Edit { changes: vec![Change::Link(Edit::remove(link))] })
            }
            "inside" => self.put_inside(plan),
            "done" => Ok(done(&self.task(plan)?)),
            "tray" => {
                let task = self.task(plan)?;
                let after = Task { start: None, finish: None, ..task.clone() };
                Ok(Command::Edit { changes: vec![put(&task, after)] })
            }
            "add" => self.added(plan),
            "write" => {
                let (project, parent) = self.place(plan)?;
                Ok(Command::WriteDown { project, parent, text: self.text.clone() })
            }
            "title" => {
                let task = self.task(plan)?;
                let after = Task { title: self.title.trim().to_owned(), ..task.clone() };
                Ok(Command::Edit { changes: vec![put(&task, after)] })
            }
            _ => Err(Error::BadRequest("Nobody knows how to do that.".to_owned())),
        }
    }

    /// A bar, or several, moved in time, or one end of one.
    fn moved(&self, plan: &Plan, mode: Mode, today: Day) -> Result<Command, Error> {
        let tasks = self.tasks(plan)?;
        if [self.shift, self.start_shift, self.end_shift].iter().any(|days| days.abs() > FARTHEST) {
            return Err(Refusal::value("start", "Move it by ten years at most.").into());
        }
        let inside = |day: Day| (Day::MIN..=Day::MAX).contains(&day);
        let (shift, mode) = match (self.start_shift, self.end_shift) {
            (0, 0) => (self.shift, mode),
            (days, 0) => (days, Mode::Start),
            (_, days) => (days, Mode::Finish),
        };
        let wanted = |task: Task| -> Result<(Task, Day), Error> {
            // Of what is whole, what moves is what is neither done nor begun.
            let dates =
                if is_parent(plan, task.id) { movable(plan, task.id, today) } else { task.start.zip(task.finish) };
            let Some((start, finish)) = dates else {
                return Err(Refusal::value("start", format!("“{}” has no dates yet.", task.title)).into());
            };
            let day = if mode == Mode::Finish { finish + shift } else { start + shift };
            if !inside(day) {
                return Err(Refusal::value("start", format!("lies outside {} to {}", Day::MIN, Day::MAX)).into());
            }
            Ok((task, day))
        };
        Ok(Command::MoveTasks { tasks: tasks.into_iter().map(wanted).collect::<Result<_, _>>()?, mode })
    }

    /// First and last day as they are typed, or drawn in an empty row.
    fn dated(&self, plan: &Plan) -> Result<Command, Error> {
        let task = self.task(plan)?;
        let (start, finish) = (day("start", &self.start)?, day("finish", &self.finish)?);
        let after = Task { start: Some(start), finish: Some(finish), ..task.clone() };
        Ok(Command::Edit { changes: vec![put(&task, after)] })
    }

    /// A link drawn from an end of a bar to another one, whose nearer end is meant.
    fn linked(&self, plan: &Plan, from_start: bool) -> Result<Command, Error> {
        let (from, to) = (self.task(plan)?, self.other(plan)?);
        let at = self.at.parse::<Day>().ok();
        let nearer_finish = at
            .zip(to.start.zip(to.finish))
            .is_some_and(|(at, (start, finish))| (start..=finish).contains(&at) && finish.since(at) < at.since(start));
        let kind = match (from_start, nearer_finish) {
            (false, false) => LinkKind::FinishStart,
            (true, false) => LinkKind::StartStart,
            (false, true) => LinkKind::FinishFinish,
            (true, true) => LinkKind::StartFinish,
        };
        Ok(made(from.id, to.id, kind, 0, String::new()))
    }

    /// A link that a form describes.
    fn link(&self, plan: &Plan) -> Result<Command, Error> {
        let (task, other) = (self.task(plan)?, self.other(plan)?);
        let (direction, kind) = self.kind.split_once(' ').unwrap_or(("holds", &self.kind));
        let kind: LinkKind = kind.parse().map_err(|_| Refusal::value("kind", "Choose what the link means."))?;
        let lag = match self.lag_days.trim() {
            "" => 0,
            text => text.parse().map_err(|_| Refusal::value("lag_days", format!("“{text}” is no number of days.")))?,
        };
        let (from, to) = if direction == "held" { (other.id, task.id) } else { (task.id, other.id) };
        Ok(made(from, to, kind, lag, self.note.trim().to_owned()))
    }

    /// A task put inside another one, or at the top of a project.
    fn put_inside(&self, plan: &Plan) -> Result<Command, Error> {
        let moved = Of::of_key(&self.to);
        let Some(Of::Task(id)) = moved else {
            return Err(Refusal::value("parent", "Only tasks are put inside something.").into());
        };
        let task = plan.tasks.get(&id).ok_or(Error::NotFound)?;
        let (parent, project) = if let Some(Of::Project(project)) = Of::of_key(&self.seen) {
            (None, project)
        } else {
            let parent = self.task(plan)?;
            (Some(parent.id), parent.project)
        };
        let mut changes = vec![put(task, Task { parent, project, ..(**task).clone() })];
        // What is inside it goes along to the other project.
        changes.extend(
            with_inner(plan, id)
                .skip(1)
                .filter(|it| it.project != project)
                .map(|it| put(it, Task { project, ..it.clone() })),
        );
        Ok(Command::Edit { changes })
    }

    /// Where what is written goes: a project, and the task inside it, if one is meant.
    fn place(&self, plan: &Plan) -> Result<(ProjectId, Option<TaskId>), Error> {
        let place = match Of::of_key(&self.to) {
            Some(Of::Task(id)) => plan.tasks.get(&id).map(|parent| (parent.project, Some(id))),
            Some(Of::Project(id)) => plan.records.projects.get(&id).map(|project| (project.id, None)),
            _ => None,
        };
        place.ok_or_else(|| Refusal::value("to", "Say in which project or task this is.").into())
    }

    /// A task that is typed below another one, or at the top of a project.
    fn added(&self, plan: &Plan) -> Result<Command, Error> {
        let (project, parent) = self.place(plan)?;
        let task = Task { title: self.title.trim().to_owned(), parent, project, ..Task::blank() };
        Ok(Command::Edit { changes: vec![Change::Task(Edit::new(task))] })
    }
}

/// A day as it is typed into a field.
fn day(field: &'static str, text: &str) -> Result<Day, Error> {
    text.trim().parse().map_err(|error: snug_core::NoDay| Refusal::value(field, error.to_string()).into())
}

fn put(before: &Task, after: Task) -> Change {
    Change::Task(Edit::alter(before.clone(), after))
}

fn made(from: TaskId, to: TaskId, kind: LinkKind, lag_days: i32, note: String) -> Command {
    let link = Link { id: LinkId(0), from, to, kind, lag_days, note };
    Command::Edit { changes: vec![Change::Link(Edit::new(link))] }
}

/// Says that a task is done.
pub fn done(task: &Task) -> Command {
    let after = Task { stage: "done".to_owned(), ..task.clone() };
    Command::Edit { changes: vec![put(task, after)] }
}

/// From the first start to the last finish of what moves inside a task.
fn movable(plan: &Plan, task: TaskId, today: Day) -> Option<(Day, Day)> {
    let ground = Ground::new(plan, today);
    let leaves = leaves(plan, task).into_iter().filter_map(|id| ground.leaf(id));
    let dates = leaves.filter(|leaf| leaf.stays().is_none()).filter_map(|leaf| leaf.dates);
    span(dates)
}

/// What a gesture or a form would do: the rows as they would look, and sentences. Nothing is written.
fn preview(state: &AppState, user: &User, asked: &Asked) -> Result<Response, Error> {
    /// As many rows are drawn as fit on a screen, and some.
    const ROWS: usize = 80;
    user.at_least(Role::Lead)?;
    let (plan, today) = (state.keeper.plan(), state.today());
    let command = asked.command(&plan, &asked.what, today)?;
    user.check(&plan, &command)?;
    let changes = plan.decide(&command, today)?;
    if matches!(command, Command::WriteDown { .. }) {
        return Ok(Json(json!({ "lines": written(&plan, &changes), "says": [] })).into_response());
    }
    let after = plan.with(&changes);
    let params: Params = serde_json::from_str(&asked.room).unwrap_or_default();
    let query = GanttQuery::read(params, &plan, today);
    let mut would = HashMap::new();
    let mut rows: BTreeSet<TaskId> = BTreeSet::new();
    for change in &changes {
        if let Change::Task(Edit { after: Some(task), .. }) = change
            && let Some(dates) = task.start.zip(task.finish)
            && plan.tasks.contains_key(&task.id)
        {
            would.insert(task.id, dates);
            rows.extend(line(&plan, task.id));
        }
    }
    let shown: Vec<TaskId> = rows.iter().copied().take(ROWS).collect();
    let drawing = Drawing { would, ..Drawing::new(&state.kept, &plan, &query, &shown, true) };
    let mut drawn = Map::new();
    for id in shown {
        if let Some(line) = line_of(&plan, &query, Of::Task(id))
            && let Some(html) = row_html(&drawing, line)?
        {
            drawn.insert(id.to_string(), Value::String(html));
        }
    }
    let says = says(&plan, &after, &changes, &by_hand(&command), today);
    Ok(Json(json!({ "rows": drawn, "says": says, "tip": tip(&plan, &changes, &command) })).into_response())
}

async fn carry_out(state: &AppState, user: &User, asked: &Asked, deed: &str) -> Result<Value, Error> {
    // Before anything that was sent is looked at; whoever does a task ticks it off.
    user.at_least(if deed == "done" { Role::Member } else { Role::Lead })?;
    let plan = state.keeper.plan();
    let command = asked.command(&plan, deed, state.today())?;
    let (title, held) = (command.done(&plan), by_hand(&command));
    let outcome = answer::carry_out(state, user, command).await?;
    let says = says(&outcome.before, &outcome.after, &outcome.changes, &held, state.today());
    let mut done = answer::done(state, user, title, &outcome).await?;
    done["says"] = json!(says);
    // Links, floats and what is critical may change anywhere.
    done["people"] = Value::Null;
    Ok(done)
}

/// Does something, or says what it would do.
pub async fn act(
    State(state): State<AppState>,
    user: User,
    headers: HeaderMap,
    Path(deed): Path<String>,
    Form(asked): Form<Asked>,
) -> Result<Response, Error> {
    let done = if deed == "preview" {
        let (state, user) = (state.clone(), user.clone());
        crate::worked_out(move || preview(&state, &user, &asked)).await?
    } else {
        let back = safe_back(&asked.back).to_owned();
        match carry_out(&state, &user, &asked, &deed).await {
            Ok(value) if is_script(&headers) => Ok(Json(value).into_response()),
            Ok(value) => {
                let message = value["message"].as_str().unwrap_or_default().to_owned();
                let says = serde_json::from_value(value["says"].clone()).unwrap_or_default();
                let undo = value["undo"].as_bool().unwrap_or_default();
                crate::frame::Flash { says, undo, ..crate::frame::Flash::plain(message) }.leave(&user.session).await?;
                Ok(Redirect::to(&back).into_response())
            }
            Err(error) => Err(error),
        }
    };
    match done {
        Err(error) if is_script(&headers) => Ok(refused(error, &user.eyes(&state.keeper.plan()))),
        done => done,
    }
}
