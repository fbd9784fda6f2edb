//! Two plans side by side: who is over, what is late, when everything ends, what it costs, and the records that differ.

use super::{Here, here::open};
use crate::{
    AppState, Error,
    auth::User,
    columns::{Changed, changed},
    frame::{Frame, Room},
    hours::money::{cents, shown},
    words,
};
use askama::Template;
use axum::{
    extract::{Path, Query, State},
    response::Html,
};
use rust_decimal::Decimal;
use serde::Deserialize;
use snug_core::{
    Day, Plan,
    change::Change,
    drafts::{COMPARED_WEEKS, Side, differing, net},
    hours::money,
    kinds::Sight,
};
use snug_store::drafts::{self, Draft};
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

/// More rows than these of a kind nobody compares.
const MOST: usize = 200;

/// What is asked.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// The draft that it is held against; empty for the live plan.
    with: String,
}

/// A figure of both plans.
struct Figure {
    name: &'static str,
    one: String,
    other: String,
    /// How much more the draft has, in words; empty where both have as much.
    more: String,
    /// Whether more is worse, and there is more.
    is_worse: bool,
}

/// A day of both plans, drawn on one line.
struct Finish {
    name: String,
    href: String,
    one: String,
    other: String,
    /// By how much the draft's is later, in words; empty where they are alike.
    more: String,
    is_later: bool,
    /// Where the days lie between the first and the last of all, in percent.
    at_one: Option<String>,
    at_other: Option<String>,
}

/// Something that is another amount in the two plans.
struct Differs {
    name: String,
    href: String,
    one: String,
    other: String,
    is_worse: bool,
}

#[derive(Template)]
#[template(path = "drafts/compare.html")]
struct ComparePage {
    frame: Frame,
    id: i32,
    name: String,
    /// What it is held against.
    with: String,
    with_id: String,
    others: Vec<(String, String)>,
    figures: Vec<Figure>,
    finishes: Vec<Finish>,
    over: Vec<Differs>,
    late: Vec<Differs>,
    rows: Vec<Changed>,
    left_out: usize,
    weeks: i32,
}

/// One of the two plans, and what was changed in it, where it is a draft.
struct Held {
    name: String,
    plan: Arc<Plan>,
    net: Vec<Change>,
}

async fn held(live: &AppState, user: &User, id: i32) -> Result<(Held, Arc<Draft>), Error> {
    let keeper = open(live, user.account.id, id).await?.ok_or(Error::NotFound)?;
    let draft = keeper.draft().ok_or(Error::NotFound)?;
    let net = net(keeper.ledger().changes_between(draft.base, keeper.plan().revision).await?);
    Ok((Held { name: draft.name.clone(), plan: keeper.plan(), net }, draft))
}

/// The page.
pub async fn page(
    State(live): State<AppState>,
    Here(state): Here,
    user: User,
    Path(id): Path<i32>,
    Query(asked): Query<Asked>,
) -> Result<Html<String>, Error> {
    let (one, draft) = held(&live, &user, id).await?;
    let other = if let Ok(with) = asked.with.parse() {
        held(&live, &user, with).await?.0
    } else {
        let plan = live.keeper.plan();
        let net = net(live.keeper.ledger().changes_between(draft.base, plan.revision).await?);
        Held { name: "Live plan".to_owned(), plan, net }
    };
    let others = drafts::of_account(live.keeper.db(), user.account.id).await?.into_iter();
    let others = others.filter(|it| it.id != id).map(|it| (it.id.to_string(), it.name)).collect();
    let (frame, today) = (Frame::of(&state, &user, Room::None).await?, live.today());
    crate::computed(move || {
        let eyes = user.eyes(&one.plan);
        let (a, b) = (Side::of(&one.plan, today), Side::of(&other.plan, today));
        let mut figures = figures(&a, &b);
        if eyes.sees(Sight::Money, None) {
            figures.push(costs(&one.plan, &other.plan, today));
        }
        let seen: BTreeSet<_> = one.net.iter().map(Change::subject).collect();
        let about: Vec<Change> =
            one.net.iter().chain(other.net.iter().filter(|it| !seen.contains(&it.subject()))).cloned().collect();
        let rows = differing(&other.plan, &one.plan, &about);
        let page = ComparePage {
            figures,
            finishes: finishes((&one.plan, &a), (&other.plan, &b)),
            over: over((&one.plan, &a), (&other.plan, &b)),
            late: late((&one.plan, &a), (&other.plan, &b)),
            left_out: rows.len().saturating_sub(MOST),
            rows: rows.iter().take(MOST).map(|change| changed(&eyes, change, user.account.role)).collect(),
            weeks: COMPARED_WEEKS,
            id,
            name: one.name.clone(),
            with: other.name.clone(),
            with_id: asked.with,
            others,
            frame,
        };
        page.render()
    })
    .await
}

fn figure(name: &'static str, (one, other): (i64, i64), says: impl Fn(i64) -> String) -> Figure {
    let more = one - other;
    let sign = if more < 0 { "−" } else { "+" };
    let text = if more == 0 { String::new() } else { format!("{sign}{}", says(more.abs())) };
    Figure { name, one: says(one), other: says(other), more: text, is_worse: more > 0 }
}

fn figures(one: &Side, other: &Side) -> Vec<Figure> {
    let count = |number: usize| i64::try_from(number).unwrap_or(i64::MAX);
    let both = |of: fn(&Side) -> usize| (count(of(one)), count(of(other)));
    vec![
        figure("People over", both(|side| side.over.len()), |it| it.to_string()),
        figure("Spilled hours", (one.spilled(), other.spilled()), words::hours),
        figure("Late tasks", both(|side| side.late.len()), |it| it.to_string()),
        figure("Late days", (one.late.values().sum(), other.late.values().sum()), |it| it.to_string()),
    ]
}

/// What is planned from today on, in money.
fn costs(one: &Plan, other: &Plan, today: Day) -> Figure {
    let planned = |plan: &Plan| {
        let tops = money::table(plan, today).into_iter().filter(|(project, _)| {
            let project = project.and_then(|id| plan.records.projects.get(&id));
            project.is_none_or(|project| project.parent.is_none())
        });
        cents(tops.map(|(_, money)| money.planned_cost()).sum())
    };
    figure("Cost to come", (planned(one), planned(other)), |it| shown(Decimal::new(it, 2)))
}

/// Finishes of projects and milestones that are not alike in both plans.
fn finishes((one, a): (&Plan, &Side), (other, b): (&Plan, &Side)) -> Vec<Finish> {
    let mut found: Vec<(String, String, Option<Day>, Option<Day>)> = Vec::new();
    let projects: BTreeSet<_> = a.projects.keys().chain(b.projects.keys()).collect();
    for id in projects {
        let project = one.records.projects.get(id).or_else(|| other.records.projects.get(id));
        let name = project.map(|project| project.name.clone()).unwrap_or_default();
        let of = |side: &Side| side.projects.get(id).copied().flatten();
        found.push((name, format!("/projects/{id}"), of(a), of(b)));
    }
    let milestones: BTreeSet<_> = a.milestones.keys().chain(b.milestones.keys()).collect();
    for id in milestones {
        let milestone = one.records.milestones.get(id).or_else(|| other.records.milestones.get(id));
        let name = milestone.map(|it| format!("Work for {}", it.name)).unwrap_or_default();
        let of = |side: &Side| side.milestones.get(id).copied().flatten();
        found.push((name, format!("/milestones/{id}"), of(a), of(b)));
    }
    found.retain(|(_, _, at_one, at_other)| at_one != at_other);
    let days = || found.iter().flat_map(|(_, _, at_one, at_other)| [at_one, at_other]).flatten();
    let (Some(first), Some(last)) = (days().min().copied(), days().max().copied()) else { return Vec::new() };
    let long = f64::from(last.since(first).max(1));
    let order = one.settings.date_order;
    let text = |day: Option<Day>| day.map_or_else(|| "no dates".to_owned(), |day| words::date(day, order));
    let at = |day: Day| format!("{:.2}", 3.0 + 94.0 * f64::from(day.since(first)) / long);
    let finish = |(name, href, at_one, at_other): (String, String, Option<Day>, Option<Day>)| {
        let by = at_one.zip(at_other).map(|(one, other)| one.since(other));
        Finish {
            name,
            href,
            one: text(at_one),
            other: text(at_other),
            more: by.map_or_else(String::new, |by| {
                format!("{} {}", words::days(by), if by > 0 { "later" } else { "earlier" })
            }),
            is_later: by.is_some_and(|by| by > 0),
            at_one: at_one.map(at),
            at_other: at_other.map(at),
        }
    };
    found.into_iter().take(MOST).map(finish).collect()
}

/// What is not alike in two tables of amounts, the largest difference first.
fn differs<K: Copy + Ord>(
    one: &BTreeMap<K, i64>,
    other: &BTreeMap<K, i64>,
    says: impl Fn(K, [i64; 2]) -> Differs,
) -> Vec<Differs> {
    let keys: BTreeSet<K> = one.keys().chain(other.keys()).copied().collect();
    let of = |side: &BTreeMap<K, i64>, key: &K| side.get(key).copied().unwrap_or(0);
    let mut found: Vec<(K, [i64; 2])> = keys.iter().map(|key| (*key, [of(one, key), of(other, key)])).collect();
    found.retain(|(_, [a, b])| a != b);
    found.sort_by_key(|(key, [a, b])| (-(a - b).abs(), *key));
    found.into_iter().take(MOST).map(|(key, amounts)| says(key, amounts)).collect()
}

fn over((one, a): (&Plan, &Side), (other, b): (&Plan, &Side)) -> Vec<Differs> {
    differs(&a.over, &b.over, |id, [of_one, of_other]| {
        let entry = one.people.get(&id).or_else(|| other.people.get(&id));
        Differs {
            name: entry.map(|entry| entry.person.name.clone()).unwrap_or_default(),
            href: format!("/people/{id}"),
            one: words::hours(of_one),
            other: words::hours(of_other),
            is_worse: of_one > of_other,
        }
    })
}

fn late((one, a): (&Plan, &Side), (other, b): (&Plan, &Side)) -> Vec<Differs> {
    let says = |days: i64| match days {
        0 => "in time".to_owned(),
        days => words::days(i32::try_from(days).unwrap_or(i32::MAX)),
    };
    differs(&a.late, &b.late, |id, [of_one, of_other]| {
        let task = one.tasks.get(&id).or_else(|| other.tasks.get(&id));
        Differs {
            name: task.map(|task| task.title.clone()).unwrap_or_default(),
            href: format!("/tasks/{id}"),
            one: says(of_one),
            other: says(of_other),
            is_worse: of_one > of_other,
        }
    })
}
