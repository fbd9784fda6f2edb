//! Estimate against actual, by whatever one tells work apart, down to the entries.

mod rows;
mod vessel;

pub use vessel::Vessel;

use crate::{
    Error, answer,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    hours::entries::EntryView,
    kept::Kept,
    words,
};
use askama::Template;
use axum::{
    extract::Query,
    response::{Html, Response},
};
use rows::{Row, addressed, entries, key_of, named, row};
use serde::Deserialize;
use snug_core::{
    Day, Eyes, Plan,
    hours::{self, Actuals, By, Cut, Key, entries_of},
    kinds::Kind,
};
use std::{collections::BTreeMap, sync::Arc};

/// What the address says.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Params {
    by: String,
    project: String,
    from: String,
    to: String,
    q: String,
    only: String,
    of: String,
}

/// What is asked for.
struct Asked {
    by: By,
    figures: hours::Asked,
    /// Days that lie the wrong way round are told; the figures then are those of all days.
    problem: Option<String>,
}

impl Asked {
    fn read(params: &Params, plan: &Plan) -> Self {
        let day = |text: &str| text.parse::<Day>().ok();
        let cut = Cut { from: day(&params.from), to: day(&params.to) };
        let is_backwards = cut.from.zip(cut.to).is_some_and(|(from, to)| to < from);
        Self {
            by: params.by.parse().unwrap_or(By::Task),
            figures: hours::Asked {
                cut: if is_backwards { Cut::ALL } else { cut },
                project: plan.find(Kind::Project, &params.project).map(snug_core::ProjectId),
            },
            problem: is_backwards.then(|| "The last day lies before the first; all days are shown.".to_owned()),
        }
    }

    fn is_cut(&self) -> bool {
        self.figures.cut != Cut::ALL
    }

    /// Every row, worked out once for a plan.
    fn table(&self, kept: &Kept, plan: &Plan) -> Arc<Table> {
        let asked = format!("{} {:?}", self.by, self.figures);
        kept.get(plan, asked, || Table(hours::table(plan, self.by, self.figures)))
    }
}

struct Table(BTreeMap<Key, Actuals>);

#[derive(Template)]
#[template(path = "hours/actuals/page.html")]
struct ActualsPage {
    frame: Frame,
    by: &'static str,
    params: Params,
    is_cut: bool,
    problem: Option<String>,
    projects: Vec<(String, String)>,
    rows: Vec<Row>,
    left_out: usize,
    sum: Option<Row>,
    tabs: Vec<(&'static str, String)>,
    csv: String,
    opened: Option<Opened>,
}

/// A row that was opened.
struct Opened {
    name: String,
    closes: String,
    inner: Vec<Row>,
    entries: Vec<EntryView>,
    more: usize,
    unseen: usize,
}

/// As many rows as one reads; a filter finds the others.
const MOST: usize = 200;

/// The page.
pub async fn page(Here(state): Here, user: User, Query(params): Query<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || made(&kept, &user.eyes(&plan), frame, params).render()).await
}

fn made(kept: &Kept, eyes: &Eyes<'_>, frame: Frame, params: Params) -> ActualsPage {
    let plan = eyes.plan;
    let asked = Asked::read(&params, plan);
    let table = asked.table(kept, plan);
    let q = params.q.trim().to_lowercase();
    let only_over = params.only == "over" && !asked.is_cut();
    let mut found: Vec<((String, String, String), &Key, &Actuals)> = Vec::new();
    for (key, figures) in &table.0 {
        if !is_listed(eyes, key, figures) || only_over && figures.variance().is_none_or(|more| more <= 0) {
            continue;
        }
        let named = named(plan, key);
        if named.0.to_lowercase().contains(&q) || named.2.to_lowercase().contains(&q) {
            found.push((named, key, figures));
        }
    }
    // The largest overrun first, then what went as thought; what has no estimate last. Where days were cut, by what was worked.
    found.sort_by_cached_key(|(named, _, figures)| {
        let by = if asked.is_cut() { Some(figures.actual()) } else { figures.variance() };
        (by.is_none(), std::cmp::Reverse(by), named.0.to_lowercase())
    });
    let widest = |figures: &Actuals| figures.projected().max(figures.estimate());
    let most = found.iter().map(|(_, _, figures)| widest(figures)).max().unwrap_or(1);
    let address = |by: &str, of: &str| {
        let Params { project, from, to, q, only, .. } = &params;
        words::address(
            "/hours/actuals",
            [("by", by), ("project", project), ("from", from), ("to", to), ("q", q), ("only", only), ("of", of)],
        )
    };
    let by = asked.by.as_str();
    let is_cut = asked.is_cut();
    let row = |named, key: &Key, figures: &Actuals, most| {
        row(named, figures, most, is_cut, address(by, &addressed(key)) + "#made-of")
    };
    let sum = (sums(asked.by) && found.len() > 1).then(|| {
        let mut all = Actuals::default();
        for (_, _, figures) in &found {
            all.add(figures);
        }
        rows::row(("All of these".to_owned(), String::new(), String::new()), &all, widest(&all), is_cut, String::new())
    });
    let opened = key_of(asked.by, &params.of).filter(|key| is_seen(eyes, key)).map(|key| {
        let tasks = inner(kept, plan, &asked, &key);
        let most = tasks.iter().map(|(_, figures)| widest(figures)).max().unwrap_or(1);
        let inner = tasks.iter().map(|(key, it)| row(named(plan, key), key, it, most)).collect();
        let (entries, more, unseen) = entries(eyes, &entries_of(plan, &key, asked.figures));
        Opened { name: named(plan, &key).0, closes: address(by, ""), inner, entries, more, unseen }
    });
    let projects = crate::offers::projects(plan, |_| true);
    ActualsPage {
        frame,
        by,
        is_cut,
        problem: asked.problem,
        projects: projects.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
        left_out: found.len().saturating_sub(MOST),
        rows: found.into_iter().take(MOST).map(|(named, key, figures)| row(named, key, figures, most)).collect(),
        sum,
        tabs: By::ALL.iter().map(|by| (by.as_str(), address(by.as_str(), ""))).collect(),
        csv: address(by, "").replacen("/hours/actuals", "/hours/actuals.csv", 1),
        opened,
        params,
    }
}

/// Whether rows tell everything once, so that their sum is that of all: projects hold others, teams too, and tags go together.
fn sums(by: By) -> bool {
    !matches!(by, By::Project | By::Team | By::Tag)
}

/// Whether a row's figures are for these eyes: what one person has logged is for them and a few others.
fn is_seen(eyes: &Eyes<'_>, key: &Key) -> bool {
    !matches!(key, Key::Person(Some(id)) if !eyes.knows(*id))
}

/// Whether a row stands in the list: of tasks those that are in no other one, and what has neither estimate nor log is nothing.
fn is_listed(eyes: &Eyes<'_>, key: &Key, figures: &Actuals) -> bool {
    let is_inside = |id| eyes.plan.tasks.get(id).is_some_and(|task| task.parent.is_some());
    let is_inner = matches!(key, Key::Task(Some(id)) if is_inside(id));
    is_seen(eyes, key) && !is_inner && (figures.estimated || figures.actual() != 0)
}

/// The tasks directly inside a task.
fn inner(kept: &Kept, plan: &Plan, asked: &Asked, key: &Key) -> Vec<(Key, Actuals)> {
    let Key::Task(Some(id)) = key else { return Vec::new() };
    let table = asked.table(kept, plan);
    let inner = plan.children_of(*id).iter().map(|id| Key::Task(Some(*id)));
    inner.filter_map(|key| table.0.get(&key).map(|figures| (key.clone(), *figures))).collect()
}

/// The rows as a file, those of people whose hours are seen.
pub async fn csv(Here(state): Here, user: User, Query(params): Query<Params>) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let kept = Arc::clone(&state.kept);
    let made = crate::worked_out(move || {
        let (asked, eyes) = (Asked::read(&params, &plan), user.eyes(&plan));
        let table = asked.table(&kept, &plan);
        let seen: BTreeMap<Key, Actuals> =
            table.0.iter().filter(|(key, _)| is_seen(&eyes, key)).map(|(key, it)| (key.clone(), *it)).collect();
        let name = format!("actuals-by-{}.csv", asked.by);
        (name, snug_exchange::hours::actuals(&plan, &seen, asked.is_cut(), snug_exchange::Form::Csv))
    });
    let (name, text) = made.await?;
    Ok(answer::csv(&name, text))
}
