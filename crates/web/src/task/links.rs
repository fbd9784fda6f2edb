//! The links of a task on its page, grouped by what they mean or by the task at the other end.

use crate::words;
use snug_core::{
    Plan, Tag, TaskId,
    kinds::{Link, LinkKind, Task},
    network::{links_from, links_to},
};
use std::collections::BTreeMap;

/// One link.
pub struct LinkLine {
    /// The other task and its page; empty where the group is about it.
    pub other: String,
    pub href: String,
    /// What it means; empty where the group says so.
    pub means: String,
    pub note: String,
    pub tag: String,
}

/// Links under a heading.
pub struct LinkGroup {
    pub heading: String,
    /// The page of the task that the group is about.
    pub href: Option<String>,
    pub links: Vec<LinkLine>,
}

/// What links mean, seen from one of their ends: of several others, and of one.
fn meaning(kind: LinkKind, into: bool) -> (&'static str, &'static str) {
    match (kind, into) {
        (LinkKind::FinishStart, true) => ("It starts after these finish", "it starts after this finishes"),
        (LinkKind::FinishStart, false) => ("These start after it finishes", "this starts after it finishes"),
        (LinkKind::StartStart, true) => ("It starts after these start", "it starts after this starts"),
        (LinkKind::StartStart, false) => ("These start after it starts", "this starts after it starts"),
        (LinkKind::FinishFinish, true) => ("It finishes after these finish", "it finishes after this finishes"),
        (LinkKind::FinishFinish, false) => ("These finish after it finishes", "this finishes after it finishes"),
        (LinkKind::StartFinish, true) => ("It finishes after these start", "it finishes after this starts"),
        (LinkKind::StartFinish, false) => ("These finish after it starts", "this finishes after it starts"),
        (LinkKind::HoldsUp, true) => ("These hold it up", "this holds it up"),
        (LinkKind::HoldsUp, false) => ("It holds these up", "it holds this up"),
        (LinkKind::Relates, _) => ("These have to do with it", "this has to do with it"),
    }
}

/// `, 2 days between`; nothing without a lag.
pub fn lag(days: i32) -> String {
    match days {
        0 => String::new(),
        days if days > 0 => format!(", {} between", words::days(days)),
        days => format!(", {} of overlap", words::days(days)),
    }
}

/// The links of a task, by what they mean or by the other task.
pub fn grouped(plan: &Plan, task: &Task, by_task: bool) -> Vec<LinkGroup> {
    let into = links_to(plan, task.id).map(|link| (&**link, true));
    let links: Vec<(&Link, bool)> = into.chain(links_from(plan, task.id).map(|link| (&**link, false))).collect();
    let title = |id: TaskId| plan.tasks.get(&id).map(|task| task.title.clone()).unwrap_or_default();
    let line = |(link, into): (&Link, bool)| {
        let other = if into { link.from } else { link.to };
        LinkLine {
            other: title(other),
            href: format!("/tasks/{other}"),
            means: if by_task {
                format!("{}{}", meaning(link.kind, into).1, lag(link.lag_days))
            } else {
                lag(link.lag_days).trim_start_matches(", ").to_owned()
            },
            note: link.note.clone(),
            tag: Tag::of(link).to_string(),
        }
    };
    let mut groups: BTreeMap<(usize, String), LinkGroup> = BTreeMap::new();
    for (link, into) in links {
        let other = if into { link.from } else { link.to };
        let (key, heading, href) = if by_task {
            ((0, format!("{} {other}", title(other).to_lowercase())), title(other), Some(format!("/tasks/{other}")))
        } else {
            let order = LinkKind::ALL.iter().position(|kind| *kind == link.kind).unwrap_or(0);
            let relates = link.kind == LinkKind::Relates;
            let key = (order * 2 + usize::from(!into && !relates), String::new());
            (key, meaning(link.kind, into).0.to_owned(), None)
        };
        let group = groups.entry(key).or_insert_with(|| LinkGroup { heading, href, links: Vec::new() });
        group.links.push(line((link, into)));
    }
    groups.into_values().collect()
}
