//! Milestones with what they hang on: which work is to be done before, whose it is, and what is missed.

use super::projects::Stand;
use crate::{
    Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::response::Html;
use snug_core::{
    Plan,
    health::Dependants,
    kinds::{Milestone, Task},
    network::dates_of,
};
use std::sync::Arc;

/// Where they stand.
pub const PATH: &str = "/schedule/milestones";

/// A task that a milestone waits for.
struct Work {
    title: String,
    href: String,
    says: String,
    is_late: bool,
}

/// A milestone.
struct RowView {
    name: String,
    href: String,
    day: String,
    projects: String,
    waits: String,
    who: String,
    late: String,
    work: Vec<Work>,
}

#[derive(Template)]
#[template(path = "schedule/milestones.html")]
struct MilestonesPage {
    frame: Frame,
    coming: Vec<RowView>,
    past: Vec<RowView>,
    may_change: bool,
}

/// As many names as one reads in a cell.
const NAMES: usize = 6;

pub async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    crate::computed(move || {
        let today = state.today();
        let stand = Stand::of(&state, &plan, today);
        let blank = Dependants::default();
        let mut all: Vec<&Arc<Milestone>> = plan.records.milestones.values().collect();
        all.sort_by(|a, b| (a.date, &a.name).cmp(&(b.date, &b.name)));
        let (past, coming): (Vec<_>, Vec<_>) = all.into_iter().partition(|milestone| milestone.date < today);
        let rows = |list: Vec<&Arc<Milestone>>| {
            list.into_iter().map(|it| row(&plan, it, stand.hangs.get(&it.id).unwrap_or(&blank))).collect()
        };
        let page = MilestonesPage { coming: rows(coming), past: rows(past), may_change: user.books(), frame };
        page.render()
    })
    .await
}

/// The first names of a list, and how many more there are.
fn names<'a>(all: impl Iterator<Item = &'a str>) -> String {
    let mut all: Vec<&str> = all.collect();
    all.sort_by_key(|name| name.to_lowercase());
    let more = all.len().saturating_sub(NAMES);
    all.truncate(NAMES);
    let rest = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{rest}", all.join(", "))
}

fn row(plan: &Plan, milestone: &Milestone, hangs: &Dependants) -> RowView {
    let order = plan.settings.date_order;
    let projects = hangs.projects.iter().filter_map(|id| plan.records.projects.get(id)).map(|it| it.name.as_str());
    let people = hangs.people.iter().filter_map(|id| plan.people.get(id)).map(|entry| entry.person.name.as_str());
    let teams = hangs.teams.iter().filter_map(|id| plan.records.teams.get(id)).map(|team| team.name.as_str());
    let who = names(people.chain(teams));
    let open = hangs.tasks.len() - hangs.done;
    RowView {
        name: milestone.name.clone(),
        href: format!("/milestones/{}", milestone.id),
        day: words::weekday(milestone.date, order),
        projects: if milestone.projects.is_empty() { "all projects".to_owned() } else { names(projects) },
        waits: match (open, hangs.tasks.len()) {
            (_, 0) => "for nothing".to_owned(),
            (0, all) => format!("all {all} done"),
            (open, all) => format!("for {open} of {}", words::count(all, "task", "tasks")),
        },
        who,
        late: hangs.late(milestone).map(|days| format!("missed by {}", words::days(days))).unwrap_or_default(),
        work: hangs.tasks.iter().filter_map(|id| plan.tasks.get(id)).map(|task| work(plan, milestone, task)).collect(),
    }
}

fn work(plan: &Plan, milestone: &Milestone, task: &Task) -> Work {
    let finish = dates_of(plan, task.id).map(|(_, finish)| finish);
    Work {
        title: task.title.clone(),
        href: format!("/tasks/{}", task.id),
        says: match finish {
            _ if task.is_done() => "done".to_owned(),
            Some(finish) => format!("ends on {}", words::day(finish, plan.settings.date_order)),
            None => "no dates yet".to_owned(),
        },
        is_late: !task.is_done() && finish.is_some_and(|finish| finish > milestone.date),
    }
}
