//! Tuck in: what is to be placed, where it would go and why not earlier, and the ticked part of it put into the plan.

mod apply;
mod asked;
mod shown;

use super::layers::hue_of;
use crate::{
    AppState, Error,
    auth::User,
    drafts::Here,
    fit,
    frame::{Frame, Room},
    offers,
};
use askama::Template;
use asked::Asked;
use axum::{Router, extract::Query, response::Html, routing::get};
use shown::{Head, Line};
use snug_core::{
    Day, Plan,
    tuck_in::{Ask, Proposal, Row, breaches, propose},
};
use std::time::{Duration, Instant};
use tokio::sync::Semaphore;

/// Where work is tucked in.
pub const PATH: &str = "/schedule/tuck-in";

/// How long it is searched for.
const TIME: Duration = Duration::from_secs(1);

/// How many search at a time; others wait their turn, so that searches leave something of the machine for everything else.
static SEARCHES: Semaphore = Semaphore::const_new(2);

/// More than these nobody ticks; the sentence above counts all.
const MOST: usize = 300;

pub fn routes() -> Router<AppState> {
    Router::new().route(PATH, get(page).post(apply::apply))
}

/// What was found.
struct Found {
    says: String,
    heads: Vec<Head>,
    lines: Vec<Line>,
    left_out: usize,
}

#[derive(Template)]
#[template(path = "schedule/tuck/page.html")]
struct TuckPage {
    frame: Frame,
    asked: Asked,
    /// What is wrong with what was asked, in a sentence.
    problem: Option<String>,
    projects: Vec<(String, String)>,
    teams: Vec<(String, String)>,
    /// How many tasks were chosen one by one.
    chosen: usize,
    found: Option<Found>,
    may_change: bool,
}

pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let today = state.today();
    let turn = if asked.go.is_empty() { None } else { SEARCHES.acquire().await.ok() };
    let page = crate::computed(move || {
        let answer = asked.ask(&plan, today).and_then(|ask| match asked.go.as_str() {
            "" => Ok(None),
            _ => found(&plan, &ask).map(Some),
        });
        let (found, problem) = match answer {
            Ok(found) => (found, None),
            Err(problem) => (None, Some(problem)),
        };
        let open = offers::projects(&plan, offers::is_open);
        let teams = plan.records.teams.values().map(|team| (team.code.clone(), team.name.clone()));
        let page = TuckPage {
            projects: open.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
            teams: teams.collect(),
            chosen: asked.tasks().len(),
            may_change: user.books(),
            frame,
            asked,
            problem,
            found,
        };
        page.render()
    })
    .await;
    drop(turn);
    page
}

/// Searches, checks what was found, and makes it ready to be shown.
fn found(plan: &Plan, ask: &Ask) -> Result<Found, String> {
    let ends = Instant::now() + TIME;
    let proposal = propose(plan, ask, 1, &mut |_| Instant::now() < ends).map_err(|refusal| refusal.message)?;
    if let Some(breach) = breaches(plan, ask, &proposal).first() {
        tracing::error!(?breach, "a proposal breaks a rule");
        return Err(
            "What was found breaks a rule of its own, so it is not shown. Narrow down what is to be placed.".to_owned()
        );
    }
    let hues = fit::hues(plan);
    let hue = |task: &snug_core::kinds::Task| hue_of(task, &hues);
    let span = shown::span(&proposal, ask.today);
    let mut rows: Vec<&Row> = proposal.rows.iter().collect();
    rows.sort_by_cached_key(|row| shown::order(plan, row));
    let left_out = rows.len().saturating_sub(MOST);
    let lines = rows.into_iter().take(MOST).filter_map(|row| shown::line(plan, row, span, &hue)).collect();
    Ok(Found { says: shown::says(plan, &proposal), heads: shown::heads(plan, span), lines, left_out })
}

/// The first and last day of what is drawn.
type Span = (Day, Day);

/// How many rows would be given other days than they have.
fn placed(proposal: &Proposal) -> usize {
    proposal.rows.iter().filter(|row| row.dates.is_some() && row.dates != row.before).count()
}
