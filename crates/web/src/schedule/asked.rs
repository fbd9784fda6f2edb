//! What hands and forms ask for, made into commands.

use super::outline::Of;
use crate::Error;
use serde::Deserialize;
use snug_core::{
    Command, Day, LinkId, Plan, ProjectId, Refusal, Tag, TaskId,
    arrange::{self, Spot},
    change::{Change, Edit},
    demand::is_parent,
    duration::{Bare, parse},
    kinds::{Kind, Link, LinkKind, Record as _, Task},
    network::{Ground, Mode, leaves, span},
};

/// What is sent.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// Of a preview: the deed.
    pub what: String,
    /// The tags of what is held, with commas between.
    pub seen: String,
    /// Days by which it is moved, or its ends.
    shift: i32,
    start_shift: i32,
    end_shift: i32,
    /// The row on which it is dropped, or the task that is named.
    pub to: String,
    /// The row from which it is taken, and whether it stays there, too.
    pub row: String,
    pub split: String,
    /// The row before which it is put.
    before: String,
    /// The day on which it is dropped.
    at: String,
    start: String,
    finish: String,
    kind: String,
    lag_days: String,
    note: String,
    pub title: String,
    /// Lines that are written down, or a reason.
    pub text: String,
    /// Whom it waits for.
    pub waiting_on: String,
    /// Of an outside reference.
    pub address: String,
    pub state: String,
    pub count: String,
    /// Of what is drawn.
    pub project: String,
    pub estimate: String,
    /// How thick a hand makes it, in minutes of a column.
    pub minutes: Option<i32>,
    /// Whether it is to be tried in a draft of its own.
    #[serde(rename = "try")]
    pub tried: String,
    /// The room's address, as JSON.
    pub room: String,
    pub back: String,
}

/// The most tasks that are moved at once.
const MOST: usize = 200;

/// The farthest that a hand moves something, in days.
const FARTHEST: i32 = 3_660;

impl Asked {
    /// The tasks that are held, if each stands as it was seen.
    pub fn tasks(&self, plan: &Plan) -> Result<Vec<Task>, Error> {
        let tags: Vec<&str> = self.seen.split(',').collect();
        if tags.len() > MOST {
            return Err(Refusal::value("seen", format!("At most {MOST} tasks are moved at once.")).into());
        }
        let seen = |tag: &&str| -> Result<Task, Error> { Ok(plan.record_as_seen(tag.parse::<Tag>()?)?) };
        tags.iter().map(seen).collect()
    }

    pub fn task(&self, plan: &Plan) -> Result<Task, Error> {
        Ok(plan.record_as_seen(self.seen.parse::<Tag>()?)?)
    }

    /// The task whose row something is dropped on, or that a form names by its ref.
    pub fn other<'p>(&self, plan: &'p Plan) -> Result<&'p Task, Error> {
        let id = self.row_or_ref(plan).and_then(|of| if let Of::Task(id) = of { Some(id) } else { None });
        let found = id.and_then(|id| plan.tasks.get(&id)).map(|task| &**task);
        found.ok_or_else(|| Refusal::value("to", "There is no such task; choose one that is offered.").into())
    }

    /// What `to` names: a task by its ref, or a row by its key.
    fn row_or_ref(&self, plan: &Plan) -> Option<Of> {
        let by_ref = plan.find(Kind::Task, self.to.trim()).map(|id| Of::Task(TaskId(id)));
        by_ref.or_else(|| Of::of_key(&self.to))
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

    /// Days by which a hand moves something.
    ///
    /// # Errors
    /// More than ten years.
    pub fn shift(&self) -> Result<i32, Error> {
        if [self.shift, self.start_shift, self.end_shift].iter().any(|days| days.abs() > FARTHEST) {
            return Err(Refusal::value("start", "Move it by ten years at most.").into());
        }
        Ok(self.shift)
    }

    /// The day on which something is dropped.
    pub fn day_at(&self) -> Result<Day, Error> {
        day("at", &self.at)
    }

    /// The hours that are typed, in minutes; `None` where none are.
    pub fn minutes_typed(&self, plan: &Plan) -> Result<Option<i64>, Error> {
        match self.estimate.trim() {
            "" => Ok(None),
            text => {
                let minutes = parse(text, plan.settings.day_minutes, Bare::Hours);
                Ok(Some(minutes.map_err(|reason| Refusal::value("estimate", reason))?))
            }
        }
    }

    /// First and last day as they are typed.
    pub fn dates(&self) -> Result<(Day, Day), Error> {
        Ok((day("start", &self.start)?, day("finish", &self.finish)?))
    }

    /// A bar, or several, moved in time, or one end of one.
    fn moved(&self, plan: &Plan, mode: Mode, today: Day) -> Result<Command, Error> {
        self.moved_from(plan, mode, today, &|_| None)
    }

    /// The same, where some tasks are seen to begin on another day than theirs, which `begins` says.
    pub fn moved_from(
        &self,
        plan: &Plan,
        mode: Mode,
        today: Day,
        begins: &dyn Fn(&Task) -> Option<Day>,
    ) -> Result<Command, Error> {
        let (tasks, mode) = self.wanted(plan, mode, today, begins)?;
        Ok(Command::MoveTasks { tasks, mode })
    }

    /// To which day each of the tasks in the hand is wanted, and how.
    pub fn wanted(
        &self,
        plan: &Plan,
        mode: Mode,
        today: Day,
        begins: &dyn Fn(&Task) -> Option<Day>,
    ) -> Result<(Vec<(Task, Day)>, Mode), Error> {
        let tasks = self.tasks(plan)?;
        self.shift()?;
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
            let start = begins(&task).filter(|_| shift != 0).unwrap_or(start);
            let day = if mode == Mode::Finish { finish + shift } else { start + shift };
            if !inside(day) {
                return Err(Refusal::value("start", format!("lies outside {} to {}", Day::MIN, Day::MAX)).into());
            }
            Ok((task, day))
        };
        Ok((tasks.into_iter().map(wanted).collect::<Result<_, _>>()?, mode))
    }

    /// First and last day as they are typed, or drawn in an empty row.
    fn dated(&self, plan: &Plan) -> Result<Command, Error> {
        let task = self.task(plan)?;
        let (start, finish) = self.dates()?;
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

    /// A task put inside another one or at the top of a project, there before the one that is named, else last.
    fn put_inside(&self, plan: &Plan) -> Result<Command, Error> {
        let Some(Of::Task(task)) = self.row_or_ref(plan) else {
            return Err(Refusal::value("to", "Only tasks are put inside something; choose one that is offered.").into());
        };
        let (project, parent) = if let Some(Of::Project(project)) = Of::of_key(&self.seen) {
            (project, None)
        } else {
            let parent = self.task(plan)?;
            (parent.project, Some(parent.id))
        };
        let before = match Of::of_key(&self.before) {
            Some(Of::Task(id)) => Some(id),
            _ => None,
        };
        Ok(Command::Edit { changes: arrange::put(plan, task, Spot { project, parent, before })? })
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

pub fn put(before: &Task, after: Task) -> Change {
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
