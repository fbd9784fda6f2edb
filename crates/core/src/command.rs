//! What somebody wants done. A command carries the value its author saw of what it alters.

use crate::{
    Day, PersonId, Plan, ProjectId, TaskId,
    change::{Change, Edit},
    hours::{Cells, Filling},
    import::Dataset,
    kinds::{Booking, Project, Task, TemplateId, TimeEntry},
    network::Mode,
    settings::Settings,
    tuck_in::Tucked,
};
use serde::Serialize;

/// A wish, before the rules have spoken.
#[derive(Clone, Debug, Serialize)]
#[serde(tag = "command", rename_all = "snake_case")]
pub enum Command {
    /// Set hours aside. The booking's identity is given by the plan.
    PlaceBooking {
        /// What to book.
        booking: Booking,
    },
    /// Alter a booking: its days, amount, person, project.
    ChangeBooking {
        /// The booking as its author saw it.
        seen: Booking,
        /// The booking as it is to be.
        to: Booking,
    },
    /// Take a booking off the plan.
    RemoveBooking {
        /// The booking as its author saw it.
        seen: Booking,
    },
    /// Alter, make and take off several bookings at once: moved together, split, handed over. Each edit carries the value its author
    /// saw; a new booking has the identity 0.
    Rearrange {
        /// What it comes to, in words for the ledger: `Booking split`.
        deed: String,
        /// The bookings, before and after.
        #[serde(skip)]
        edits: Vec<Edit<Booking>>,
    },
    /// Take over what files say.
    Import {
        /// Where the files come from, to be shown in the ledger.
        source: String,
        /// What they say.
        #[serde(skip)]
        data: Box<Dataset>,
    },
    /// Alter the workspace's settings.
    ChangeSettings {
        /// The settings as their author saw them.
        seen: Settings,
        /// The settings as they are to be.
        to: Settings,
    },
    /// Make, alter or remove records. Each change carries the value its author saw; a new record has the identity 0.
    Edit {
        /// What is to change.
        #[serde(skip)]
        changes: Vec<Change>,
    },
    /// Take over what a calendar from outside says.
    ReadCalendar {
        /// The calendar's name, to be shown in the ledger.
        name: String,
        /// What is to change.
        #[serde(skip)]
        changes: Vec<Change>,
    },
    /// Say how long somebody worked on something on a day: the cell of a week sheet.
    LogDay {
        /// Who.
        person: PersonId,
        /// When.
        date: Day,
        /// On which project.
        project: Option<ProjectId>,
        /// On which task.
        task: Option<TaskId>,
        /// The minutes that its author saw there.
        seen: i64,
        /// The minutes that are to stand there.
        minutes: i64,
    },
    /// Fill empty cells of somebody's week sheet with what was planned, or with last week's hours.
    FillWeek {
        /// Whose.
        person: PersonId,
        /// The week's Monday.
        week: Day,
        /// With what.
        #[serde(skip)]
        with: Filling,
        /// Which cells.
        #[serde(skip)]
        cells: Cells,
    },
    /// Make a walk-in and log the time that it took.
    WalkIn {
        /// The task. Its identity is given by the plan.
        #[serde(skip)]
        task: Box<Task>,
        /// What was logged on it.
        #[serde(skip)]
        entry: TimeEntry,
    },
    /// Keep what is meant of a project's tasks today as a baseline.
    Freeze {
        /// The project, with those inside it.
        project: ProjectId,
        /// What the baseline is called.
        name: String,
    },
    /// Save a project as one to begin with.
    SaveTemplate {
        /// The project.
        project: ProjectId,
        /// What the template is called.
        name: String,
    },
    /// Start a project from a template.
    StartProject {
        /// The template.
        template: TemplateId,
        /// The project, which begins on its first day. Its identity is given by the plan.
        #[serde(skip)]
        project: Box<Project>,
        /// Who stands for which role.
        #[serde(skip)]
        stands: Vec<(String, PersonId)>,
    },
    /// Make tasks of lines that were typed or pasted.
    WriteDown {
        /// In which project.
        project: ProjectId,
        /// Inside which task; `None` at the top of the project.
        parent: Option<TaskId>,
        /// The lines.
        text: String,
    },
    /// Give tasks other dates, and with them what follows. Each as its author saw it, with the day wanted: of its start, or of that end
    /// which is stretched; of a parent the first day of what moves inside it.
    MoveTasks {
        /// The tasks.
        #[serde(skip)]
        tasks: Vec<(Task, Day)>,
        /// What is moved, and what it does to what follows.
        #[serde(skip)]
        mode: Mode,
    },
    /// Give leaves the days and people that tuck in found for them. It is checked again that they fit.
    TuckIn {
        /// The leaves.
        #[serde(skip)]
        tasks: Vec<Tucked>,
    },
    /// Even out: hours offered again, or what moves so that weeks are flatter. Each change carries the value that its author saw; a new
    /// booking has the identity 0.
    EvenOut {
        /// What it comes to, in words for the ledger: `24 h offered again`.
        deed: String,
        /// What is to change.
        #[serde(skip)]
        changes: Vec<Change>,
    },
    /// Take over what was changed in a draft. Each change carries the value that its author saw in the live plan; a record that is new has
    /// the identity that the draft gave it, which no other one has.
    Merge {
        /// What the draft is called.
        name: String,
        /// What is to change.
        #[serde(skip)]
        changes: Vec<Change>,
    },
    /// Take an entry of the ledger back. Taking back an undo is a redo.
    Undo {
        /// The entry's number.
        revision: i64,
        /// What it changed.
        #[serde(skip)]
        changes: Vec<Change>,
    },
}

impl Command {
    /// What was done, in words for the ledger and the message that offers to undo it. `plan` knows who it is about, before or after.
    #[must_use]
    pub fn done(&self, plan: &Plan) -> String {
        match self {
            Self::PlaceBooking { .. } => "Booking placed".to_owned(),
            Self::ChangeBooking { .. } => "Booking changed".to_owned(),
            Self::RemoveBooking { .. } => "Booking removed".to_owned(),
            Self::Rearrange { deed, .. } | Self::EvenOut { deed, .. } => deed.clone(),
            Self::Import { source, .. } => format!("Imported from {source}"),
            Self::ChangeSettings { .. } => "Settings changed".to_owned(),
            Self::Edit { changes } => match changes.as_slice() {
                [one] => one.says(plan),
                many => format!("{} changes", many.len()),
            },
            Self::ReadCalendar { name, .. } => format!("Calendar “{name}” read"),
            Self::LogDay { .. } => "Time logged".to_owned(),
            Self::FillWeek { with: Filling::Planned, .. } => "Planned hours taken over".to_owned(),
            Self::FillWeek { with: Filling::LastWeek, .. } => "Last week copied".to_owned(),
            Self::WalkIn { task, .. } => format!("Walk-in “{}” logged", task.title.trim()),
            Self::Freeze { name, .. } => format!("Baseline “{}” made", name.trim()),
            Self::SaveTemplate { name, .. } => format!("Template “{}” saved", name.trim()),
            Self::StartProject { project, .. } => format!("Project “{}” started", project.name.trim()),
            Self::WriteDown { text, .. } => match text.lines().filter(|line| !line.trim().is_empty()).count() {
                0 | 1 => "Task written down".to_owned(),
                _ => "Tasks written down".to_owned(),
            },
            Self::MoveTasks { tasks, mode } => match (tasks.as_slice(), mode) {
                ([(task, _)], Mode::Push | Mode::Carry) => format!("Task “{}” moved", task.title),
                ([(task, _)], Mode::Start | Mode::Finish) => format!("Task “{}” stretched", task.title),
                (many, _) => format!("{} tasks moved", many.len()),
            },
            Self::TuckIn { tasks } => match tasks.as_slice() {
                [one] => format!("Task “{}” tucked in", one.seen.title),
                many => format!("{} tasks tucked in", many.len()),
            },
            Self::Merge { name, .. } => format!("Draft “{name}” merged"),
            Self::Undo { revision, .. } => format!("Took back entry {revision}"),
        }
    }
}
