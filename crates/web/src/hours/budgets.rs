//! Budgets: what of each line and project is used and planned, what is left, and the day it runs out. Hours are for everybody, money for
//! those alone who see it.

use super::{Vessel, money};
use crate::{
    Error, answer,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    extract::Query,
    response::{Html, Response},
};
use serde::Deserialize;
use snug_core::{
    Day, Plan, ProjectId,
    hours::burn::{self, Budgeted, Burn, Standing},
    settings::DateOrder,
};
use std::{collections::BTreeMap, sync::Arc};

/// In which measure, and of what.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    #[serde(rename = "in")]
    measure: String,
    /// What a project or a line is called, or a part of it.
    q: String,
}

/// As many projects as one reads; a filter finds the others.
const MOST: usize = 200;

/// One budget.
struct Row {
    name: String,
    /// Whether it is a line, inside its project.
    is_line: bool,
    href: String,
    vessel: Vessel,
    says: String,
    /// Budget, used, planned, left.
    figures: [String; 4],
    /// What is left, and when it runs out; the latter empty where it suffices.
    verdict: String,
    runs_out: String,
    over: bool,
}

/// A project and its budgets.
struct Group {
    rows: Vec<Row>,
}

#[derive(Template)]
#[template(path = "hours/budgets.html")]
struct BudgetsPage {
    frame: Frame,
    /// Whether money is shown, and whether whoever looks may see it.
    in_money: bool,
    sees_money: bool,
    currency: String,
    q: String,
    groups: Vec<Group>,
    left_out: usize,
}

/// A standing in figures of one measure, with its words.
struct Shown {
    figures: [String; 4],
    /// Budget, used and planned as a measure of how wide they are drawn.
    sizes: (Option<i64>, i64, i64),
    over: bool,
    left: String,
    /// What of it has no price; empty where that is nothing.
    unrated: String,
}

impl Shown {
    fn of<T: Copy>(
        standing: &Standing<T>,
        size: impl Fn(T) -> i64,
        text: impl Fn(T) -> String,
        negative: impl Fn(T) -> T,
    ) -> Self {
        let some = |figure: Option<T>| figure.map_or_else(|| "–".to_owned(), &text);
        let over = standing.left.is_some_and(|left| size(left) < 0);
        let left = match standing.left {
            Some(left) if over => format!("{} over", text(negative(left))),
            Some(left) => format!("{} left", text(left)),
            None => "no budget".to_owned(),
        };
        Self {
            figures: [some(standing.budget), text(standing.used), text(standing.planned), some(standing.left)],
            sizes: (standing.budget.map(&size), size(standing.used), size(standing.planned)),
            over,
            left,
            unrated: String::new(),
        }
    }
}

/// What is shown of a budget, and the day it runs out.
fn shown(plan: &Plan, of: Budgeted, burn: &Burn, in_money: bool, today: Day) -> (Shown, Option<Day>) {
    let (hours, money) = of.budget(plan);
    if in_money {
        let standing = burn.money(money, today);
        let unrated = match burn.unrated() {
            0 => String::new(),
            minutes => format!(" · {} have no rate", words::hours(minutes)),
        };
        (Shown { unrated, ..Shown::of(&standing, money::cents, money::shown, |it| -it) }, standing.runs_out)
    } else {
        let standing = burn.hours(hours, today);
        (Shown::of(&standing, |it| it, words::hours, |it| -it), standing.runs_out)
    }
}

/// How it ends: “runs out Mon 4 May”, “used up”, or what is left.
fn runs_out(day: Option<Day>, is_used_up: bool, order: DateOrder) -> String {
    match day {
        Some(_) if is_used_up => "used up".to_owned(),
        Some(day) => format!("runs out {}", words::weekday(day, order)),
        None => String::new(),
    }
}

/// The projects whose name, or that of a line, holds some words, what runs out soonest first, and how many more there are.
fn groups(
    plan: &Plan,
    burns: &BTreeMap<Budgeted, Burn>,
    (in_money, words): (bool, &str),
    today: Day,
) -> (Vec<Group>, usize) {
    let mut found: BTreeMap<ProjectId, Vec<(Budgeted, Shown, Option<Day>)>> = BTreeMap::new();
    for (of, burn) in burns {
        let (hours, money) = of.budget(plan);
        let has_one = if in_money { money.is_some() } else { hours.is_some() };
        let (shown, out) = shown(plan, *of, burn, in_money, today);
        // A budget in the other measure only is not asked for, unless something lies on it.
        let is_any = has_one || !matches!(of, Budgeted::Project(_)) && shown.sizes != (None, 0, 0);
        if let Some(project) = of.project(plan).filter(|_| is_any) {
            found.entry(project).or_default().push((*of, shown, out));
        }
    }
    let name_of = |project: &ProjectId| plan.records.projects.get(project).map_or("", |it| it.name.as_str());
    let words = words.trim().to_lowercase();
    let has_words = |name: &str| name.to_lowercase().contains(&words);
    found.retain(|project, list| has_words(name_of(project)) || list.iter().any(|(of, ..)| has_words(of.line(plan))));
    let widest = |(budget, used, planned): (Option<i64>, i64, i64)| budget.unwrap_or(0).max(used + planned);
    let most = found.values().flatten().map(|(_, it, _)| widest(it.sizes)).max().unwrap_or(1);
    let order = plan.settings.date_order;
    let mut sorted: Vec<_> = found.into_iter().collect();
    sorted.sort_by_cached_key(|(project, list)| {
        let soonest = list.iter().filter_map(|(_, _, out)| *out).min();
        (soonest.is_none(), soonest, name_of(project).to_lowercase())
    });
    let left_out = sorted.len().saturating_sub(MOST);
    let group = |(project, list): (ProjectId, Vec<(Budgeted, Shown, Option<Day>)>)| {
        let name = name_of(&project);
        let row = |(of, shown, out): &(Budgeted, Shown, Option<Day>)| {
            let (name, href) = match of {
                Budgeted::Project(id) => (name.to_owned(), format!("/projects/{id}")),
                Budgeted::Line(id) => (of.line(plan).to_owned(), format!("/budget-lines/{id}")),
                Budgeted::NoLine(id) => ("on no line".to_owned(), format!("/projects/{id}")),
            };
            let (budget, used, planned) = shown.sizes;
            let runs_out = runs_out(*out, budget.is_some_and(|budget| used > budget), order);
            Row {
                name,
                is_line: !matches!(of, Budgeted::Project(_)),
                href,
                vessel: Vessel::filled(budget, used, planned, most),
                says: {
                    let [budget, used, planned, _] = &shown.figures;
                    format!("{used} used · {planned} planned · budget {budget}{}", shown.unrated)
                },
                figures: shown.figures.clone(),
                verdict: shown.left.clone(),
                runs_out,
                over: shown.over,
            }
        };
        Group { rows: list.iter().map(row).collect() }
    };
    (sorted.into_iter().take(MOST).map(group).collect(), left_out)
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let sees_money = money::sees(&user);
    let in_money = asked.measure == "money";
    if in_money {
        money::must_see(&user)?;
    }
    let plan = state.keeper.plan();
    let today = state.today();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let burns = kept.get(&plan, today.to_string(), || burn::table(&plan, today));
        let (groups, left_out) = groups(&plan, &burns, (in_money, &asked.q), today);
        BudgetsPage {
            frame,
            in_money,
            sees_money,
            currency: plan.settings.currency.clone(),
            q: asked.q,
            groups,
            left_out,
        }
        .render()
    })
    .await
}

/// The rows as a file, in hours, and in money for those who see it.
pub async fn csv(Here(state): Here, user: User) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let kept = Arc::clone(&state.kept);
    let made = crate::worked_out(move || {
        let burns = kept.get(&plan, today.to_string(), || burn::table(&plan, today));
        snug_exchange::hours::budgets(&plan, &burns, today, money::sees(&user), snug_exchange::Form::Csv)
    });
    Ok(answer::csv("budgets.csv", made.await?))
}
