//! My day: what is late, what is on today, what comes, what has no day; logged and ticked off from here.

use super::{
    log::refused_back,
    sheet::{oneself, subjects, whose},
    timer::{self, TimerView},
};
use crate::{
    Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    Form,
    extract::Query,
    response::{Html, Response},
};
use serde::Deserialize;
use snug_core::{
    Command, Day, PersonId, Plan, Tag,
    change::{Change, Edit},
    demand::effort_of,
    hours::asks_anew,
    kinds::Task,
};
use std::collections::BTreeMap;

/// Whose day, and how it is told apart.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    person: String,
    by: String,
}

/// A task of somebody's day.
pub struct Item {
    title: String,
    href: String,
    project: String,
    hue: usize,
    /// When it is, and what is left of it.
    says: String,
    reference: String,
    seen: String,
    is_stuck: bool,
    walk_in: bool,
    /// Where the log has passed the estimate: `took 12 h of 10 h thought`.
    asks: String,
}

#[derive(Template)]
#[template(path = "hours/day.html")]
struct DayPage {
    frame: Frame,
    person: i32,
    name: String,
    people: Vec<(i32, String)>,
    today: String,
    date: String,
    by_project: bool,
    other: String,
    groups: Vec<(String, Vec<Item>)>,
    left_out: usize,
    logged: String,
    limit: String,
    may_log: bool,
    is_me: bool,
    timer: Option<TimerView>,
    on: Vec<(String, String)>,
}

/// How far ahead one looks for what comes, in days.
const SOON: i32 = 14;

/// As many tasks as one reads.
const MOST: usize = 80;

/// When a task is on, seen from today; nothing where it is further ahead.
fn when(task: &Task, today: Day) -> Option<(usize, &'static str)> {
    match (task.start, task.finish) {
        (Some(_), Some(finish)) if finish < today => Some((0, "Late")),
        (Some(start), Some(_)) if start <= today => Some((1, "Today")),
        (Some(start), Some(_)) if start <= today + SOON => Some((2, "Coming")),
        (Some(_), Some(_)) => None,
        _ if task.due.is_some_and(|due| due < today) => Some((0, "Late")),
        _ if task.due == Some(today) => Some((1, "Today")),
        _ => Some((3, "Undated")),
    }
}

fn item(plan: &Plan, task: &Task, person: PersonId, today: Day) -> Item {
    let order = plan.settings.date_order;
    let mut says = Vec::new();
    match (task.start, task.finish) {
        (Some(_), Some(finish)) if finish < today => says.push(format!("was to end {}", words::day(finish, order))),
        (Some(start), Some(finish)) => says.push(words::range(start, finish, order)),
        _ => {}
    }
    if let Some(due) = task.due {
        says.push(format!("due {}", words::day(due, order)));
    }
    let left = effort_of(plan, task).and_then(|effort| effort.parts.into_iter().find(|(who, _)| *who == person));
    match left {
        Some((_, minutes)) => says.push(format!("{} left", words::hours(minutes))),
        None => says.push("no estimate".to_owned()),
    }
    let asks = asks_anew(plan, task).then(|| {
        let figures = snug_core::hours::of_task(plan, task);
        format!("took {} of {} thought", words::hours(figures.actual()), words::hours(figures.estimate()))
    });
    Item {
        title: task.title.clone(),
        href: format!("/tasks/{}", task.id),
        project: plan.records.projects.get(&task.project).map(|it| it.name.clone()).unwrap_or_default(),
        hue: crate::fit::hue(plan, task.project),
        says: says.join(" · "),
        reference: task.reference.clone(),
        seen: Tag::of(task).to_string(),
        is_stuck: task.is_stuck(),
        walk_in: task.walk_in,
        asks: asks.unwrap_or_default(),
    }
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let eyes = user.eyes(&plan);
    let person = whose(&eyes, &user, &asked.person)?;
    let by_project = asked.by == "project";
    let order = plan.settings.date_order;
    let entry = person.and_then(|id| plan.people.get(&id));
    let tasks = entry.into_iter().flat_map(|entry| entry.tasks.iter()).filter_map(|id| plan.tasks.get(id));
    let mut open: Vec<_> =
        tasks.filter(|task| !task.is_done()).filter_map(|task| Some((when(task, today)?, task))).collect();
    open.sort_by_key(|((rank, _), task)| (*rank, task.finish, task.priority, task.reference.clone()));
    let left_out = open.len().saturating_sub(MOST);
    let mut groups: BTreeMap<(usize, String), Vec<Item>> = BTreeMap::new();
    for ((rank, title), task) in open.into_iter().take(MOST) {
        let item = item(&plan, task, person.unwrap_or(PersonId(0)), today);
        let key = if by_project { (0, item.project.clone()) } else { (rank, title.to_owned()) };
        groups.entry(key).or_default().push(item);
    }
    let sheet = person.and_then(|person| snug_core::week::week_sheet(&plan, person, today.monday(), today));
    let at = today.weekday();
    let number = person.map_or(0, |id| id.0);
    let other = words::address(
        "/hours/day",
        [("person", asked.person.as_str()), ("by", if by_project { "" } else { "project" })],
    );
    let page = DayPage {
        frame: Frame::of(&state, &user, Room::Hours).await?,
        person: number,
        name: entry.map(|entry| entry.person.name.clone()).unwrap_or_default(),
        people: super::sheet::people(&eyes),
        today: today.to_string(),
        date: words::weekday(today, order),
        by_project,
        other,
        groups: groups.into_iter().map(|((_, title), items)| (title, items)).collect(),
        left_out,
        logged: sheet.as_ref().map(|sheet| words::hours(sheet.logged()[at])).unwrap_or_default(),
        limit: sheet.as_ref().map(|sheet| words::hours(sheet.limits[at])).unwrap_or_default(),
        may_log: person.is_some_and(|person| super::sheet::may_log(&plan, &user, person)),
        is_me: person.is_some() && person == oneself(&plan, &user),
        timer: timer::view(&state, &user, &plan).await?,
        on: person.map(|id| subjects(&plan, id)).unwrap_or_default(),
    };
    Ok(Html(page.render()?))
}

/// What a form says of a task: that it is done, or what is left of it.
pub async fn answered(Here(state): Here, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    user.at_least(snug_core::Role::Member)?;
    let of = |name: &str| sent(&pairs, name).trim();
    let back = answer::safe_back(of("back")).to_owned();
    let plan = state.keeper.plan();
    let done = async {
        let before: Task = plan.record_as_seen(of("seen").parse::<Tag>()?)?;
        let after = if of("left").is_empty() {
            Task { stage: "done".to_owned(), ..before.clone() }
        } else {
            let minutes = super::log::minutes_of(&plan, of("left"))?;
            let logged_then = snug_core::demand::logged_in(&plan, before.id);
            Task { remaining: Some(i64::from(minutes) / before.assignees.heads()), logged_then, ..before.clone() }
        };
        let command = Command::Edit { changes: vec![Change::Task(Edit::alter(before, after))] };
        answer::carry_out(&state, &user, command).await
    };
    let said = if of("left").is_empty() { "Done" } else { "What is left is known again" };
    match done.await {
        Ok(outcome) => answer::back_to(&user, &back, said.to_owned(), &outcome).await,
        Err(error) => refused_back(&user, &back, error).await,
    }
}
