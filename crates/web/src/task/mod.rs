//! What belongs to a task or a project besides its columns, on its page and in the side sheet: checklist, outside references, files,
//! links.

mod links;
mod told;

pub use links::{LinkGroup, grouped, lag};
pub use told::comment;

use crate::{AppState, auth::User, files, words};
use snug_core::{
    Command, PersonId, Plan, Tag,
    change::{Change, Edit},
    kinds::{Attachment, Awaited, Check, FilesOf, Record as _, Reference, Task},
};

/// A line of a checklist.
pub struct CheckView {
    pub tag: String,
    pub text: String,
    pub done: bool,
}

/// What stands elsewhere.
pub struct ReferenceView {
    pub tag: String,
    pub address: String,
    pub title: String,
    /// `signed · 3`.
    pub says: String,
}

/// A file.
pub struct FileView {
    pub id: i32,
    pub name: String,
    /// `2.1 MB · Juno Abara · 9 March`.
    pub says: String,
    pub is_picture: bool,
    /// The tag by which who looks may take it away; empty where they may not.
    pub tag: String,
}

/// The files of a task or a project.
pub struct FilesView {
    /// Where files are brought.
    pub path: String,
    pub files: Vec<FileView>,
    pub may_bring: bool,
}

/// What belongs to a task.
pub struct TaskParts {
    /// Its row's key.
    pub key: String,
    /// Its tag, for whoever may say whether it is stuck; else empty.
    pub tag: String,
    pub is_stuck: bool,
    pub stuck: String,
    pub waiting_on: String,
    pub waiting_on_raw: String,
    /// `2 of 5`; empty without a checklist.
    pub ticked: String,
    pub checklist: Vec<CheckView>,
    pub may_check: bool,
    pub references: Vec<ReferenceView>,
    pub may_refer: bool,
    /// Whether whoever looks follows it, with its tag; `None` where they are nobody of the plan.
    pub follows: Option<(bool, String)>,
    pub followers: String,
    pub files: FilesView,
}

/// What somebody of the plan is called.
pub fn name(plan: &Plan, id: PersonId) -> String {
    plan.people.get(&id).map(|entry| entry.person.name.clone()).unwrap_or_default()
}

/// Whom a task waits for, in words.
pub fn awaited(plan: &Plan, task: &Task) -> String {
    match &task.waiting_on {
        None => String::new(),
        Some(Awaited::Person(id)) => name(plan, *id),
        Some(Awaited::Other(words)) => words.clone(),
    }
}

fn may(user: &User, plan: &Plan, change: Change) -> bool {
    user.check(plan, &Command::Edit { changes: vec![change] }).is_ok()
}

/// What belongs to a task, as somebody sees it.
pub fn parts(state: &AppState, plan: &Plan, user: &User, task: &Task) -> TaskParts {
    let altered = |after: Task| may(user, plan, Change::Task(Edit::alter(task.clone(), after)));
    let checklist = plan.checklist(task.id);
    let done = checklist.iter().filter(|line| line.done).count();
    let sample = Check { task: task.id, text: "…".to_owned(), ..Check::blank() };
    let refers = Reference { task: task.id, ..Reference::blank() };
    let person = plan.person_by_email(user.actor()).map(|entry| entry.person.id);
    let follower = person.filter(|_| user.account.role >= snug_core::Role::Member);
    TaskParts {
        key: task.id.to_string(),
        tag: if altered(Task { stuck: format!("{}…", task.stuck), ..task.clone() }) {
            Tag::of(task).to_string()
        } else {
            String::new()
        },
        is_stuck: task.is_stuck(),
        stuck: task.stuck.clone(),
        waiting_on: awaited(plan, task),
        waiting_on_raw: match &task.waiting_on {
            Some(Awaited::Person(id)) => plan.people.get(id).map(|it| it.person.email.clone()).unwrap_or_default(),
            _ => awaited(plan, task),
        },
        ticked: if checklist.is_empty() { String::new() } else { format!("{done} of {}", checklist.len()) },
        may_check: may(user, plan, Change::Check(Edit::new(sample))),
        checklist: checklist
            .iter()
            .map(|line| CheckView { tag: Tag::of(*line).to_string(), text: line.text.clone(), done: line.done })
            .collect(),
        may_refer: may(user, plan, Change::Reference(Edit::new(refers))),
        references: plan.references_of(task.id).map(reference).collect(),
        follows: follower.map(|id| (task.followers.contains(&id), Tag::of(task).to_string())),
        followers: task.followers.iter().map(|id| name(plan, *id)).collect::<Vec<_>>().join(", "),
        files: files_of(state, plan, user, FilesOf::Task(task.id)),
    }
}

fn reference(it: &Reference) -> ReferenceView {
    let count = it.count.map(|count| count.to_string());
    let says: Vec<String> = Some(it.state.clone()).filter(|state| !state.is_empty()).into_iter().chain(count).collect();
    let title = if it.title.is_empty() { it.address.clone() } else { it.title.clone() };
    ReferenceView { tag: Tag::of(it).to_string(), address: it.address.clone(), title, says: says.join(" · ") }
}

/// The files of a task or a project, as somebody sees them.
pub fn files_of(state: &AppState, plan: &Plan, user: &User, whose: FilesOf) -> FilesView {
    let view = |file: &Attachment| {
        let by = plan.person_by_email(&file.author).map_or(file.author.as_str(), |entry| entry.person.name.as_str());
        let day = words::day(file.day, plan.settings.date_order);
        let gone = may(user, plan, Change::Attachment(Edit::remove(file.clone())));
        let says: Vec<&str> = [by, day.as_str()].into_iter().filter(|text| !text.is_empty()).collect();
        FileView {
            id: file.id.0,
            name: file.name.clone(),
            says: format!("{} · {}", words::bytes(file.bytes), says.join(" · ")),
            is_picture: file.media.starts_with("image/"),
            tag: if gone { Tag::of(file).to_string() } else { String::new() },
        }
    };
    let files = plan.files_of(whose).map(view).collect();
    let path = match whose {
        FilesOf::Task(task) => format!("/tasks/{task}/files"),
        FilesOf::Project(project) => format!("/projects/{project}/files"),
    };
    FilesView { path, files, may_bring: files::may_bring(state, user.account.actor(), whose) }
}
