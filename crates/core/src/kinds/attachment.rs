//! Files of tasks and projects: what is said of them. What is in them lies in the store of files, under the sum of its bytes.

use super::{
    About, Column, Key, ProjectId, Record, TaskId,
    codec::{Date, Line, MayTo, Whole},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Actor, Day, Plan, Refusal,
    edit::Edit,
    rules::{line, named},
};
use serde::{Deserialize, Serialize};

identity!(
    /// A file of a task or a project.
    AttachmentId of Attachment
);

/// A file of a task or a project.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Attachment {
    /// Identity inside the plan.
    pub id: AttachmentId,
    /// The task that has it; `None` where a project has.
    pub task: Option<TaskId>,
    /// The project that has it; `None` where a task has.
    pub project: Option<ProjectId>,
    /// What it is called, with its ending.
    pub name: String,
    /// What kind of file it is, by its media type.
    pub media: String,
    /// Its size in bytes.
    pub bytes: i32,
    /// SHA-256 of what is in it, in hexadecimal: where that lies in the store of files.
    pub sum: String,
    /// Who brought it, by e-mail address.
    pub author: String,
    /// When.
    pub day: Day,
}

/// The largest file, in bytes: 25 MB.
pub const LARGEST_FILE: i32 = 25_000_000;

impl Record for Attachment {
    has_id!(AttachmentId);

    const ABOUT: About = About {
        own: true,
        key: Key::Pair,
        key_column: "name",
        title: "name",
        ..About::new("file", "files", "attachments.csv", "attachments")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("task", "Task", at!(task: MayTo)).hint("The task that has it, or else:"),
        may("project", "Project", at!(project: MayTo)).hint("The project that has it."),
        must("name", "Name", at!(name: Line)).example("relief-v4.pdf"),
        may("type", "Type", at!(media: Line)).hint("Its media type.").example("application/pdf"),
        must("bytes", "Bytes", at!(bytes: Whole)).bounds(0, LARGEST_FILE).example("20480"),
        must("sum", "Sum", at!(sum: Line))
            .hint("SHA-256 of what is in it, in hexadecimal.")
            .example("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855"),
        must("at", "Day", at!(day: Date)).example("2026-03-09"),
        may("by", "By", at!(author: Line)),
    ];

    fn blank() -> Self {
        Self {
            id: AttachmentId(0),
            task: None,
            project: None,
            name: String::new(),
            media: String::new(),
            bytes: 0,
            sum: String::new(),
            author: String::new(),
            day: Day::MIN,
        }
    }
    fn key(&self) -> String {
        let of = |id: Option<i32>| id.map(|id| id.to_string()).unwrap_or_default();
        format!("{}\n{}\n{}", of(self.task.map(|id| id.0)), of(self.project.map(|id| id.0)), self.name)
    }
    fn name(&self) -> String {
        self.name.clone()
    }
    fn tidy(&mut self, _: &Plan, _: bool) {
        self.name = self.name.trim().to_owned();
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        if self.task.is_some() == self.project.is_some() {
            return Err(Refusal::value("task", "A file belongs to a task or to a project."));
        }
        named("name", &self.name, "Give the file a name.")?;
        if self.name.contains(['/', '\\']) {
            return Err(Refusal::value("name", "The name of a file has no slashes."));
        }
        line("type", &self.media)?;
        line("by", &self.author)?;
        if !(0..=LARGEST_FILE).contains(&self.bytes) {
            return Err(Refusal::value("bytes", "A file has at most 25 MB."));
        }
        if self.sum.len() != 64 || !self.sum.bytes().all(|byte| matches!(byte, b'0'..=b'9' | b'a'..=b'f')) {
            return Err(Refusal::value("sum", "is no SHA-256 in hexadecimal"));
        }
        Ok(())
    }

    /// Whoever does a task brings files to it, and everybody takes away what they brought.
    fn may_own(plan: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        let mine = |file: &Self| file.author.eq_ignore_ascii_case(actor.email);
        let here = |file: &Self| file.task.is_some_and(|task| actor.does(plan, task));
        edit.both(mine) && edit.after.as_ref().is_none_or(here)
    }

    stands_in!(records.attachments);
}

/// What has files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FilesOf {
    /// A task.
    Task(TaskId),
    /// A project.
    Project(ProjectId),
}

impl FilesOf {
    /// The task and the project of such a file, of which there is one.
    #[must_use]
    pub fn columns(self) -> (Option<TaskId>, Option<ProjectId>) {
        match self {
            Self::Task(task) => (Some(task), None),
            Self::Project(project) => (None, Some(project)),
        }
    }
}

impl Plan {
    /// The files of a task or a project.
    pub fn files_of(&self, whose: FilesOf) -> impl Iterator<Item = &Attachment> {
        let all = self.records.attachments.values().map(|file| &**file);
        all.filter(move |file| (file.task, file.project) == whose.columns())
    }
}
