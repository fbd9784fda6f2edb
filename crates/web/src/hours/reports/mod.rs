//! Reports: what happened in a range of days, put together as one likes, as a page with its chart, as files, saved, and mailed.

mod asked;
mod chart;
mod mail;

pub use mail::mail_due;

use crate::{
    Error, answer,
    auth::User,
    columns::Pairs,
    drafts::Here,
    frame::{Frame, Room},
    looks::LooksView,
    words,
};
use askama::Template;
use asked::Asked;
use axum::{
    extract::Query,
    response::{Html, Response},
};
use chart::Chart;
use snug_core::{
    Day, Eyes, Plan, Refusal,
    kinds::Sight,
    reports::{Ask, By, Column, Range, Report, Shape, Subject, Value, report},
    settings::DateOrder,
};
use snug_exchange::report as files;
use std::collections::BTreeSet;

/// As many rows as one reads; the files have all.
const MOST: usize = 500;

/// What a choice is called.
fn subject_label(subject: Subject) -> &'static str {
    match subject {
        Subject::Time => "Time",
        Subject::Tasks => "Tasks",
        Subject::Estimates => "Estimates",
        Subject::Completion => "Completion",
        Subject::Due => "Due",
        Subject::Money => "Money",
    }
}

/// One of a list of choices: its word, what it is called, whether it is chosen.
type Choice = (String, String, bool);

fn choice(word: &str, chosen: &str) -> Choice {
    (word.to_owned(), words::capital(word), word == chosen)
}

#[derive(Template)]
#[template(path = "hours/reports/page.html")]
struct ReportPage {
    frame: Frame,
    title: String,
    says: String,
    asked: Asked,
    subjects: Vec<(&'static str, String, bool)>,
    ranges: Vec<Choice>,
    has_range: bool,
    from: String,
    to: String,
    groups: Vec<Choice>,
    thens: Vec<Choice>,
    projects: Vec<(String, String)>,
    people: Vec<(String, String)>,
    teams: Vec<(String, String)>,
    kinds: Vec<String>,
    tags: Vec<String>,
    /// Every column: its name, its label, whether it is shown.
    columns: Vec<Choice>,
    figures: Vec<Choice>,
    problem: Option<String>,
    heads: Vec<(&'static str, bool)>,
    rows: Vec<Vec<(String, bool)>>,
    totals: Vec<(String, bool)>,
    in_all: usize,
    chart: Option<Chart>,
    csv: String,
    workbook: String,
    looks: String,
    partial: bool,
}

/// A value as one reads it.
fn shown(value: &Value<'_>, order: DateOrder) -> String {
    match value {
        Value::Nothing => String::new(),
        Value::Text(text) => text.to_string(),
        Value::Day(day) => words::date(*day, order),
        Value::Minutes(minutes) => words::hours(*minutes),
        Value::Money(sum) => super::money::in_cents(*sum),
        Value::Count(count) => snug_core::rules::grouped(*count),
        Value::PerMille(per_mille) => format!("{} %", snug_exchange::hours::percent(*per_mille)),
    }
}

fn is_figure(shape: Shape) -> bool {
    !matches!(shape, Shape::Text | Shape::Day)
}

/// A report with all of its columns, what it was asked for by, and what is wrong with that; or why it cannot be had.
fn made<'p>(eyes: &Eyes<'p>, asked: &Asked, today: Day) -> (Result<Report<'p>, Refusal>, Ask, Option<&'static str>) {
    let (ask, problem) = asked.ask(eyes.plan, today);
    (report(eyes, &ask, today), ask, problem)
}

/// “Time, 2 – 29 March 2026, by project”.
fn says(plan: &Plan, ask: &Ask) -> String {
    let mut parts = Vec::new();
    if ask.subject == Subject::Estimates {
        parts.push("of all time".to_owned());
    } else {
        let [from, to] = [ask.from, ask.to].map(|day| words::date(day, plan.settings.date_order));
        parts.push(format!("{from} – {to}"));
    }
    if !ask.by.is_empty() {
        parts.push(format!("by {}", ask.by.iter().map(|by| by.as_str()).collect::<Vec<_>>().join(" and ")));
    }
    let filter = &ask.filter;
    parts.extend(filter.project.and_then(|id| plan.records.projects.get(&id)).map(|it| it.name.clone()));
    parts.extend(filter.person.and_then(|id| plan.people.get(&id)).map(|it| it.person.name.clone()));
    parts.extend(filter.team.and_then(|id| plan.records.teams.get(&id)).map(|it| it.name.clone()));
    parts.extend([&filter.kind, &filter.tag].into_iter().filter(|word| !word.is_empty()).cloned());
    parts.join(", ")
}

/// Who does not see what a report is about is told so.
fn may_see(user: &User, asked: &Asked) -> Result<(), Error> {
    if asked.subject().sight() == Sight::Money { super::money::must_see(user) } else { Ok(()) }
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(pairs): Query<Pairs>) -> Result<Html<String>, Error> {
    let asked = Asked::read(&pairs);
    may_see(&user, &asked)?;
    let plan = state.keeper.plan();
    let today = state.today();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    let looks = LooksView::of(&state, &user, "reports", asked.at(PATH)).await?.render()?;
    crate::computed(move || page_of(&user, &plan, asked, today, (frame, looks)).render()).await
}

/// Where reports are.
const PATH: &str = "/hours/reports";

fn page_of(user: &User, plan: &Plan, asked: Asked, today: Day, (frame, looks): (Frame, String)) -> ReportPage {
    let eyes = user.eyes(plan);
    let order = plan.settings.date_order;
    let (whole, ask, problem) = made(&eyes, &asked, today);
    let refused = whole.as_ref().err().map(|refusal| refusal.message.clone());
    let whole = whole.unwrap_or_default();
    let all = whole.columns.clone();
    let group = |chosen: &str, but: Option<By>| -> Vec<Choice> {
        let known = ask.subject.groups().iter().filter(|by| Some(**by) != but);
        known.map(|by| choice(by.as_str(), chosen)).collect()
    };
    let [by, then] = [0, 1].map(|at| ask.by.get(at).map_or("", |by| by.as_str()));
    let addressed = |subject: &Subject| Asked {
        of: subject.to_string(),
        by: String::new(),
        then: String::new(),
        range: String::new(),
        columns: Vec::new(),
        figure: String::new(),
        ..asked.clone()
    };
    let seen = Subject::ALL.iter().filter(|subject| eyes.sees(subject.sight(), None));
    let range = asked.range().map_or("days", Range::as_str);
    let figures: Vec<&Column> = all.iter().filter(|column| column.adds_up).collect();
    let figure = figures
        .iter()
        .find(|column| column.name == asked.figure)
        .or_else(|| figures.iter().find(|it| it.shape != Shape::Count))
        .or(figures.first());
    let drawn = figure.filter(|_| !asked.chart.is_empty() && !ask.by.is_empty());
    let chart = drawn.and_then(|column| Chart::of(&whole, column, &asked.chart, order));
    let found = whole.only(&asked.columns);
    let line = |row: &Vec<Value<'_>>| -> Vec<(String, bool)> {
        row.iter().zip(&found.columns).map(|(value, column)| (shown(value, order), is_figure(column.shape))).collect()
    };
    // What belongs to none says so.
    let named = |mut row: Vec<(String, bool)>| {
        if let Some((name, _)) = row.first_mut().filter(|(name, _)| name.is_empty() && !ask.by.is_empty()) {
            "none".clone_into(name);
        }
        row
    };
    let code = |(code, name): (&String, &String)| (code.clone(), name.clone());
    let mut teams: Vec<(String, String)> = plan.records.teams.values().map(|it| code((&it.code, &it.name))).collect();
    teams.sort_by_key(|(_, name)| name.to_lowercase());
    let tags: BTreeSet<&str> = plan.tasks.values().flat_map(|task| task.tags.iter().map(String::as_str)).collect();
    let kinds: BTreeSet<&str> =
        plan.tasks.values().map(|task| task.kind.as_str()).filter(|it| !it.is_empty()).collect();
    let owned = |words: BTreeSet<&str>| words.into_iter().map(str::to_owned).collect::<Vec<_>>();
    ReportPage {
        frame,
        title: subject_label(ask.subject).to_owned(),
        says: says(plan, &ask),
        subjects: seen.map(|it| (subject_label(*it), addressed(it).at(PATH), *it == ask.subject)).collect(),
        ranges: Range::ALL.iter().map(|it| choice(it.as_str(), range)).chain([choice("days", range)]).collect(),
        has_range: ask.subject != Subject::Estimates,
        from: ask.from.to_string(),
        to: ask.to.to_string(),
        groups: group(by, None),
        thens: if ask.subject == Subject::Estimates { Vec::new() } else { group(then, ask.by.first().copied()) },
        projects: crate::offers::projects(plan, |_| true).into_iter().map(|it| code((&it.code, &it.name))).collect(),
        people: super::sheet::people(&eyes).into_iter().map(|(id, name)| (id.to_string(), name)).collect(),
        teams,
        kinds: owned(kinds),
        tags: owned(tags),
        columns: all
            .iter()
            .map(|column| {
                let is_shown = found.columns.iter().any(|shown| shown.name == column.name);
                (column.name.to_owned(), column.label.to_owned(), is_shown)
            })
            .collect(),
        figures: figures
            .iter()
            .map(|column| {
                (column.name.to_owned(), column.label.to_owned(), figure.is_some_and(|it| it.name == column.name))
            })
            .collect(),
        problem: refused.or_else(|| problem.map(str::to_owned)),
        heads: found.columns.iter().map(|column| (column.label, is_figure(column.shape))).collect(),
        rows: found.rows.iter().take(MOST).map(line).map(named).collect(),
        totals: if found.rows.is_empty() { Vec::new() } else { line(&found.totals) },
        in_all: found.rows.len(),
        chart,
        csv: asked.at("/hours/reports.csv"),
        workbook: asked.at("/hours/reports.xlsx"),
        looks,
        partial: matches!(ask.subject, Subject::Time) && !eyes.sees(Sight::Money, None),
        asked,
    }
}

/// The report as CSV.
pub async fn csv(Here(state): Here, user: User, Query(pairs): Query<Pairs>) -> Result<Response, Error> {
    let asked = Asked::read(&pairs);
    may_see(&user, &asked)?;
    let (plan, today) = (state.keeper.plan(), state.today());
    let text = crate::worked_out(move || {
        Ok::<_, Refusal>(files::csv(&made(&user.eyes(&plan), &asked, today).0?.only(&asked.columns)))
    });
    Ok(answer::csv("report.csv", text.await??))
}

/// The report as a workbook.
pub async fn xlsx(Here(state): Here, user: User, Query(pairs): Query<Pairs>) -> Result<Response, Error> {
    let asked = Asked::read(&pairs);
    may_see(&user, &asked)?;
    let (plan, today) = (state.keeper.plan(), state.today());
    let made = crate::worked_out(move || {
        let (found, ask, _) = made(&user.eyes(&plan), &asked, today);
        workbook(&plan, &found?.only(&asked.columns), &ask)
    });
    let bytes = made.await??;
    Ok(answer::workbook("report.xlsx", bytes))
}

fn workbook(plan: &Plan, found: &Report<'_>, ask: &Ask) -> Result<Vec<u8>, Error> {
    let made = files::workbook(found, subject_label(ask.subject), &says(plan, ask));
    made.map_err(|error| Error::Files(error.to_string()))
}
