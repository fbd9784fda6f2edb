//! What projects cost, what is billed, and what the work to come will cost; for those alone who see money.

use super::Vessel;
use crate::{
    Error, answer,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
};
use askama::Template;
use axum::{
    extract::Query,
    response::{Html, Response},
};
use rust_decimal::{Decimal, prelude::ToPrimitive as _};
use serde::Deserialize;
use snug_core::{
    Plan, ProjectId,
    hours::money::{Money, table},
    kinds::Sight,
    rules::grouped,
};
use std::{collections::BTreeMap, sync::Arc};

struct Row {
    name: String,
    href: String,
    depth: usize,
    vessel: Vessel,
    says: String,
    /// Budget, cost, expenses, to come, billed, margin.
    figures: [String; 6],
    /// How much of the budget is left, or that it is exceeded.
    verdict: String,
    over: bool,
    unrated: String,
}

#[derive(Template)]
#[template(path = "hours/money.html")]
struct MoneyPage {
    frame: Frame,
    currency: String,
    q: String,
    rows: Vec<Row>,
    left_out: usize,
}

/// Which projects.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// What a project is called, or a part of it.
    q: String,
}

/// As many projects as one reads; a filter finds the others.
const MOST: usize = 200;

/// What everything costs, worked out once for a plan and a day.
struct Sums(BTreeMap<Option<ProjectId>, Money>);

/// Whether somebody sees rates and money.
pub fn sees(user: &User) -> bool {
    Sight::Money.is_for(user.account.role)
}

/// Who does not see money is told so.
pub fn must_see(user: &User) -> Result<(), Error> {
    if sees(user) {
        return Ok(());
    }
    Err(Error::NotAllowed("Rates and money are seen by managers and administrators."))
}

/// Money in cents, as a measure of how wide something is drawn.
pub fn cents(sum: Decimal) -> i64 {
    (sum * Decimal::ONE_HUNDRED).round().to_i64().unwrap_or(i64::MAX)
}

/// Money in whole units with a comma between thousands: 12,450.
pub fn shown(sum: Decimal) -> String {
    grouped(sum.round().to_i64().unwrap_or(i64::MAX))
}

/// Money with cents and a comma between thousands: 12,450.50.
pub fn in_cents(sum: Decimal) -> String {
    let cents = cents(sum);
    let whole = grouped((cents / 100).abs());
    let sign = if cents < 0 { "−" } else { "" };
    format!("{sign}{whole}.{:02}", (cents % 100).abs())
}

fn row(plan: &Plan, id: ProjectId, money: &Money, most: i64) -> Option<Row> {
    let project = plan.records.projects.get(&id)?;
    let used = money.cost() + money.spent();
    let all = used + money.planned_cost();
    let verdict = project.budget_money.map(|budget| match budget - all {
        left if left.is_sign_negative() => (format!("{} over", shown(-left)), true),
        left => (format!("{} left", shown(left)), false),
    });
    let (verdict, over) = verdict.unwrap_or_default();
    let budget = project.budget_money.map_or_else(|| "–".to_owned(), shown);
    let hours = |minutes| crate::words::hours(minutes);
    let unrated = match (money.unrated, money.planned_unrated) {
        (0, 0) => String::new(),
        (0, to_come) => format!("{} to come without a rate", hours(to_come)),
        (then, 0) => format!("{} logged without a rate", hours(then)),
        (then, to_come) => format!("{} logged and {} to come without a rate", hours(then), hours(to_come)),
    };
    Some(Row {
        name: project.name.clone(),
        href: format!("/projects/{id}"),
        depth: plan.project_line(id).count().saturating_sub(1),
        vessel: Vessel::filled(project.budget_money.map(cents), cents(used), cents(money.planned_cost()), most),
        says: format!("{} used · {} to come · budget {budget}", shown(used), shown(money.planned_cost())),
        figures: [
            budget,
            shown(money.cost()),
            shown(money.spent()),
            shown(money.planned_cost()),
            shown(money.billed()),
            shown(money.margin()),
        ],
        verdict,
        over,
        unrated,
    })
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    must_see(&user)?;
    let plan = state.keeper.plan();
    let today = state.today();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let sums = kept.get(&plan, today.to_string(), || Sums(table(&plan, today)));
        let words = asked.q.trim().to_lowercase();
        let has_words = |id: &ProjectId| {
            plan.records.projects.get(id).is_some_and(|project| project.name.to_lowercase().contains(&words))
        };
        let named = sums.0.iter().filter_map(|(id, money)| Some(((*id)?, money))).filter(|(id, _)| has_words(id));
        let widest = |(id, money): (ProjectId, &Money)| {
            let budget = plan.records.projects.get(&id).and_then(|it| it.budget_money).unwrap_or_default();
            cents(budget.max(money.cost() + money.spent() + money.planned_cost()))
        };
        let most = named.clone().map(widest).max().unwrap_or(1);
        let mut found: Vec<(ProjectId, &Money)> = named.collect();
        // A project stands behind the one that it is in.
        found.sort_by_cached_key(|(id, _)| {
            let mut line: Vec<String> = plan.project_line(*id).map(|it| it.name.to_lowercase()).collect();
            line.reverse();
            line
        });
        let left_out = found.len().saturating_sub(MOST);
        let rows = found.into_iter().take(MOST).filter_map(|(id, money)| row(&plan, id, money, most)).collect();
        MoneyPage { frame, currency: plan.settings.currency.clone(), q: asked.q, rows, left_out }.render()
    })
    .await
}

/// The rows as a file.
pub async fn csv(Here(state): Here, user: User) -> Result<Response, Error> {
    must_see(&user)?;
    let plan = state.keeper.plan();
    let today = state.today();
    let made =
        crate::worked_out(move || snug_exchange::hours::money(&plan, &table(&plan, today), snug_exchange::Form::Csv));
    Ok(answer::csv("money.csv", made.await?))
}

#[cfg(test)]
mod tests {
    #[test]
    fn cents_are_read_with_two_digits() {
        let shown = |text: &str| super::in_cents(text.parse().unwrap_or_default());
        assert_eq!(
            ["0", "12450.5", "-0.25", "-1234567.04"].map(shown),
            ["0.00", "12,450.50", "−0.25", "−1,234,567.04"]
        );
    }

    #[test]
    fn money_is_read_in_thousands() {
        let shown = |text: &str| super::shown(text.parse().unwrap_or_default());
        assert_eq!(["0", "999.5", "12450.4", "-1234567"].map(shown), ["0", "1,000", "12,450", "−1,234,567"]);
    }
}
