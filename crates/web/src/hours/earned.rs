//! Earned value of a project over one of its baselines, as lines under one another's days and as a table.

use crate::{
    Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{extract::Query, response::Html};
use serde::Deserialize;
use snug_core::{
    Plan,
    hours::{
        bias::Ratio,
        earned::{Earned, Point, earned, rounded},
    },
    kinds::{Baseline, BaselineKind},
};
use std::sync::Arc;

/// Over which baseline.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    baseline: String,
}

/// A week of the table.
struct Row {
    day: String,
    figures: [String; 4],
}

/// The chart, in units of its own: 1,000 wide, 300 high.
struct Chart {
    planned: String,
    earned: String,
    actual: String,
    today: f64,
    /// Days and where they stand.
    days: Vec<(f64, String)>,
    /// Hours and where they stand.
    hours: Vec<(f64, String)>,
}

#[derive(Template)]
#[template(path = "hours/earned.html")]
struct EarnedPage {
    frame: Frame,
    baselines: Vec<(String, String)>,
    chosen: String,
    rows: Vec<Row>,
    chart: Option<Chart>,
    /// What is said of today: label, figure, what it means.
    figures: Vec<(&'static str, String, &'static str)>,
    says: String,
}

const WIDTH: f64 = 1_000.0;
const HEIGHT: f64 = 300.0;

#[allow(clippy::cast_precision_loss)] // minutes and days as places in a picture
fn chart(plan: &Plan, earned: &Earned) -> Option<Chart> {
    let all: Vec<&Point> = earned.points.iter().chain(&earned.ahead).collect();
    let (first, last) = (all.first()?.date, all.last()?.date);
    if all.len() < 2 {
        return None;
    }
    let span = f64::from(last.since(first).max(1));
    let most = all.iter().map(|it| rounded(&it.planned).max(it.actual)).max().unwrap_or(0).max(earned.budget).max(60);
    let round = |value: f64| (value * 10.0).round() / 10.0;
    let x = |point: &Point| round(f64::from(point.date.since(first)) / span * WIDTH);
    let y = |minutes: i64| round(HEIGHT - minutes as f64 / most as f64 * HEIGHT);
    let path = |points: &[&Point], of: &dyn Fn(&Point) -> i64| {
        let at = points.iter().map(|point| format!("{} {}", x(point), y(of(point))));
        format!("M{}", at.collect::<Vec<_>>().join("L"))
    };
    let past: Vec<&Point> = earned.points.iter().collect();
    let order = plan.settings.date_order;
    let step = all.len().div_ceil(8);
    let days = all.iter().step_by(step).map(|point| (x(point), words::day_short(point.date, order)));
    let hours = (0..=4).map(|part| most * part / 4).map(|minutes| (y(minutes), words::hours(minutes / 60 * 60)));
    Some(Chart {
        planned: path(&all, &|point| rounded(&point.planned)),
        earned: path(&past, &|point| point.earned.as_ref().map_or(0, rounded)),
        actual: path(&past, &|point| point.actual),
        today: past.last().map_or(0.0, |point| x(point)),
        days: days.collect(),
        hours: hours.collect(),
    })
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    crate::computed(move || {
        let of_projects = plan.records.baselines.values().filter(|it| it.kind == BaselineKind::Project);
        let mut all: Vec<&Arc<Baseline>> = of_projects.collect();
        all.sort_by_key(|it| std::cmp::Reverse((it.date, it.id)));
        let project = |it: &Baseline| {
            let id = plan.find(snug_core::kinds::Kind::Project, &it.of).map(snug_core::ProjectId);
            let name = id.and_then(|id| plan.records.projects.get(&id)).map(|project| project.name.clone());
            name.unwrap_or_else(|| it.of.clone())
        };
        let chosen = all.iter().find(|it| it.code == asked.baseline).or(all.first());
        let found = chosen.map(|it| earned(&plan, it, today));
        let ratio = |ratio: Option<Ratio>| ratio.map_or_else(|| "not yet".to_owned(), |ratio| ratio.text(2));
        let figures = found.as_ref().map(|it| {
            let now = it.points.last();
            let hours = |minutes: Option<i64>| minutes.map_or_else(|| "not yet".to_owned(), words::hours);
            vec![
                ("BAC", words::hours(it.budget), "budget at completion: all of the baseline"),
                ("PV", hours(now.map(|now| rounded(&now.planned))), "planned to be done by today"),
                ("EV", hours(now.and_then(|now| now.earned.as_ref().map(rounded))), "earned: what of it is done"),
                ("AC", hours(now.map(|now| now.actual)), "actual: what that took"),
                ("SPI", ratio(it.schedule_index()), "EV / PV: below 1 it is behind"),
                ("CPI", ratio(it.cost_index()), "EV / AC: below 1 it takes more than was thought"),
                ("EAC", hours(it.at_completion()), "estimate at completion, if it goes on so"),
                ("Besides", hours(now.map(|now| now.added)), "logged on what was added since, and on no task"),
            ]
        });
        let row = |point: &Point| {
            let earned = point.earned.as_ref().map_or_else(|| "–".to_owned(), |it| words::hours(rounded(it)));
            let later = |minutes: i64| if point.earned.is_some() { words::hours(minutes) } else { "–".to_owned() };
            let planned = words::hours(rounded(&point.planned));
            Row {
                day: words::date(point.date, plan.settings.date_order),
                figures: [planned, earned, later(point.actual), later(point.added)],
            }
        };
        let says = chosen.map(|it| format!("{}, {}", project(it), words::date(it.date, plan.settings.date_order)));
        EarnedPage {
            frame,
            baselines: all.iter().map(|it| (it.code.clone(), format!("{}: {}", project(it), it.name))).collect(),
            chosen: chosen.map(|it| it.code.clone()).unwrap_or_default(),
            chart: found.as_ref().and_then(|found| chart(&plan, found)),
            rows: found.iter().flat_map(|found| found.points.iter().chain(&found.ahead)).map(row).collect(),
            figures: figures.unwrap_or_default(),
            says: says.unwrap_or_default(),
        }
        .render()
    })
    .await
}
