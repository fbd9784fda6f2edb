//! The tables of the Hours room as text: estimate against actual, planned against worked, money, budgets, earned value,
//! bias.

use crate::form::{Form, written};
use rust_decimal::Decimal;
use snug_core::{
    Day, PersonId, Plan, ProjectId,
    hours::{
        Actuals, Key,
        bias::{self, Bias, Ratio},
        burn::{Budgeted, Burn},
        earned::{Earned, Point, rounded},
        money::Money,
        worked::Worked,
    },
};
use std::collections::BTreeMap;

/// What stands in place of a figure that cannot be divided out.
const NOT_YET: &str = "not yet";

fn optional(figure: Option<impl ToString>) -> String {
    figure.map(|figure| figure.to_string()).unwrap_or_default()
}

/// Tenths of a percent as percent with one decimal.
#[must_use]
pub fn percent(per_mille: i64) -> String {
    let mut percent = Decimal::new(per_mille, 1);
    percent.rescale(1);
    percent.to_string()
}

/// Estimate against actual, sorted by key; a task without a reference has no row. What lies outside a cut is not in what is
/// projected, so that there is none where days were cut (`is_cut`).
#[must_use]
pub fn actuals(plan: &Plan, rows: &BTreeMap<Key, Actuals>, is_cut: bool, form: Form) -> String {
    const HEADER: [&str; 9] = [
        "key",
        "estimate_min",
        "actual_min",
        "remaining_min",
        "projected_min",
        "unestimated_min",
        "variance_min",
        "variance_percent",
        "without_estimate",
    ];
    let row = |(key, figures): (&Key, &Actuals)| {
        let whole = |figure: i64| if is_cut { String::new() } else { figure.to_string() };
        Some([
            key.text(plan)?,
            optional(figures.estimated.then(|| figures.estimate())),
            figures.actual().to_string(),
            figures.remaining().to_string(),
            whole(figures.projected()),
            whole(figures.unestimated()),
            optional(figures.variance().filter(|_| !is_cut)),
            optional(figures.variance_per_mille().filter(|_| !is_cut).map(percent)),
            figures.without_estimate.to_string(),
        ])
    };
    let mut rows: Vec<[String; 9]> = rows.iter().filter_map(row).collect();
    rows.sort();
    written(HEADER, 1, rows, form)
}

fn code(plan: &Plan, project: Option<ProjectId>) -> String {
    Key::Project(project).text(plan).unwrap_or_default()
}

/// Planned against worked, sorted by person and project.
#[must_use]
pub fn worked(plan: &Plan, rows: &[(PersonId, Option<ProjectId>, Worked)], form: Form) -> String {
    const HEADER: [&str; 6] = ["email", "project", "booked_min", "planned_min", "logged_min", "unworked_min"];
    let row = |(person, project, worked): &(PersonId, Option<ProjectId>, Worked)| {
        let email = Key::Person(Some(*person)).text(plan).unwrap_or_default();
        let figures = [worked.booked, worked.planned, worked.logged, worked.unworked()];
        let [booked, planned, logged, unworked] = figures.map(|figure| figure.to_string());
        [email, code(plan, *project), booked, planned, logged, unworked]
    };
    let mut rows: Vec<[String; 6]> = rows.iter().map(row).collect();
    rows.sort();
    written(HEADER, 2, rows, form)
}

/// What work comes to by project, sorted; without projects that have expenses alone.
#[must_use]
pub fn money(plan: &Plan, rows: &BTreeMap<Option<ProjectId>, Money>, form: Form) -> String {
    const HEADER: [&str; 6] = ["project", "cost", "billed", "planned_cost", "unrated_min", "planned_unrated_min"];
    let row = |(project, money): (&Option<ProjectId>, &Money)| {
        let [cost, billed, planned] = [money.cost(), money.billed(), money.planned_cost()].map(|sum| sum.to_string());
        [code(plan, *project), cost, billed, planned, money.unrated.to_string(), money.planned_unrated.to_string()]
    };
    let has_work = |money: &Money| money.spent().is_zero() || *money != Money::of_expense(money.spent());
    let mut rows: Vec<[String; 6]> = rows.iter().filter(|(_, money)| has_work(money)).map(row).collect();
    rows.sort();
    written(HEADER, 1, rows, form)
}

/// How budgets burn: of each project that has one (`of` is “all”), of each line, and of what is on none of a project's lines (“no line”).
/// Without `with_money` there is none.
#[must_use]
pub fn budgets(plan: &Plan, rows: &BTreeMap<Budgeted, Burn>, today: Day, with_money: bool, form: Form) -> String {
    const HEADER: [&str; 13] = [
        "project",
        "of",
        "line",
        "budget_min",
        "used_min",
        "planned_min",
        "left_min",
        "runs_out",
        "budget",
        "used",
        "planned",
        "left",
        "money_runs_out",
    ];
    let row = |(of, burn): (&Budgeted, &Burn)| {
        let what = match of {
            Budgeted::Project(_) => "all",
            Budgeted::Line(_) => "line",
            Budgeted::NoLine(_) => "no line",
        };
        let (hours, money) = of.budget(plan);
        let hours = burn.hours(hours, today);
        let money = with_money.then(|| burn.money(money, today));
        let sum = |sum: Option<Decimal>| {
            optional(sum.map(|mut sum| {
                sum.rescale(2);
                sum
            }))
        };
        [
            code(plan, of.project(plan)),
            what.to_owned(),
            of.line(plan).to_owned(),
            optional(hours.budget),
            hours.used.to_string(),
            hours.planned.to_string(),
            optional(hours.left),
            optional(hours.runs_out),
            sum(money.and_then(|it| it.budget)),
            sum(money.map(|it| it.used)),
            sum(money.map(|it| it.planned)),
            sum(money.and_then(|it| it.left)),
            optional(money.and_then(|it| it.runs_out)),
        ]
    };
    let mut rows: Vec<[String; 13]> = rows.iter().map(row).collect();
    rows.sort();
    written(HEADER, 3, rows, form)
}

/// Earned value by the week, up to today.
#[must_use]
pub fn earned(earned: &Earned, form: Form) -> String {
    const HEADER: [&str; 5] = ["date", "pv_min", "ev_min", "ac_min", "ac_added_min"];
    let row = |point: &Point| {
        let (planned, earned) = (rounded(&point.planned).to_string(), optional(point.earned.as_ref().map(rounded)));
        [point.date.to_string(), planned, earned, point.actual.to_string(), point.added.to_string()]
    };
    written(HEADER, 1, earned.points.iter().map(row).collect(), form)
}

/// The figures of earned value today.
#[must_use]
pub fn earned_figures(earned: &Earned, form: Form) -> String {
    const HEADER: [&str; 4] = ["bac_min", "spi", "cpi", "eac_min"];
    let ratio = |ratio: Option<Ratio>| ratio.map_or_else(|| NOT_YET.to_owned(), |ratio| ratio.text(3));
    let in_all = earned.at_completion().map_or_else(|| NOT_YET.to_owned(), |minutes| minutes.to_string());
    let row = [earned.budget.to_string(), ratio(earned.schedule_index()), ratio(earned.cost_index()), in_all];
    written(HEADER, 0, vec![row], form)
}

/// By how much estimates are wrong, sorted by key.
#[must_use]
pub fn bias(plan: &Plan, rows: &BTreeMap<bias::Key, Bias>, form: Form) -> String {
    const HEADER: [&str; 8] = ["key", "tasks", "estimate_min", "actual_min", "ratio", "q1", "median", "q3"];
    let row = |(key, bias): (&bias::Key, &Bias)| {
        let [low, middle, high] = [1, 2, 3].map(|fourths| bias.quartile(fourths).text(3));
        let figures = [bias.estimate(), bias.actual()].map(|figure| figure.to_string());
        let ([estimate, actual], ratio) = (figures, bias.ratio().text(3));
        [key.text(plan), bias.tasks().to_string(), estimate, actual, ratio, low, middle, high]
    };
    let mut rows: Vec<[String; 8]> = rows.iter().map(row).collect();
    rows.sort();
    written(HEADER, 1, rows, form)
}
