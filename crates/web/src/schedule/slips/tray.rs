//! The tray of the slips: tasks that stand nowhere yet, with a finder in it.

use super::query::SlipsQuery;
use crate::{fit, kept::Kept, schedule::layers::hue_of, words};
use askama::Template;
use snug_core::{
    Plan, Tag, TaskId,
    tray::{Lacks, Waiting, presses, waiting},
};

/// A task that can be dragged onto somebody's day.
pub struct TraySlip {
    pub tag: String,
    pub hue: usize,
    pub hours: String,
    pub name: String,
    pub says: String,
    pub presses: bool,
    pub href: String,
}

#[derive(Template)]
#[template(path = "schedule/slips/tray.html")]
pub struct TrayView {
    pub slips: Vec<TraySlip>,
    pub more: usize,
    pub says: String,
    pub may_change: bool,
}

/// The most slips that lie in the tray at once; the finder has the rest.
const MOST: usize = 40;

/// What waits, worked out once for a plan.
struct Waits(Vec<(TaskId, Option<i64>, Lacks)>);

/// The tasks that wait, of the work in view, and that the finder's words fit.
pub fn view(kept: &Kept, plan: &Plan, query: &SlipsQuery, may_change: bool) -> TrayView {
    let all = kept.get(plan, query.today.to_string(), || {
        let task = |it| if let Waiting::Task { id, minutes, lacks } = it { Some((id, minutes, lacks)) } else { None };
        Waits(waiting(plan, query.today).into_iter().filter_map(task).collect())
    });
    let words = query.params.find.trim().to_lowercase();
    let name_of = |task: &snug_core::kinds::Task| {
        plan.records.projects.get(&task.project).map_or("", |project| project.name.as_str())
    };
    let hues = fit::hues(plan);
    let (mut slips, mut count, mut minutes) = (Vec::new(), 0_usize, 0);
    for (id, size, lacks) in &all.0 {
        let Some(task) = plan.tasks.get(id).filter(|task| query.shows(task)) else { continue };
        let fits = |text: &str| text.to_lowercase().contains(&words);
        if !words.is_empty() && ![&task.title, &task.reference, name_of(task), &task.needs].into_iter().any(fits) {
            continue;
        }
        count += 1;
        minutes += size.unwrap_or(0);
        if slips.len() < MOST {
            slips.push(TraySlip {
                tag: Tag::of(&**task).to_string(),
                hue: hue_of(task, &hues),
                hours: size.map_or_else(|| "? h".to_owned(), words::hours),
                name: task.title.clone(),
                says: format!("{}: {}", name_of(task), words::lacking(*lacks)),
                presses: presses(task, query.today),
                href: format!("/tasks/{id}"),
            });
        }
    }
    let says = match count {
        0 if words.is_empty() => "Nothing waits".to_owned(),
        0 => "Nothing that waits fits these words".to_owned(),
        count => format!("{count} unplaced · {}", words::hours(minutes)),
    };
    TrayView { more: count - slips.len(), slips, says, may_change }
}
