//! Tuck in: what is to be placed, where it would go and why not earlier, and the ticked part of it put into the plan.

mod apply;
mod asked;
mod harder;
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
pub use asked::way;

use asked::Asked;
use axum::{
    Router,
    extract::Query,
    response::Html,
    routing::{get, post},
};
use shown::{Head, Line};
use snug_core::{
    Day, Plan,
    tuck_in::{Ask, Progress, Proposal, Row, breaches, propose},
};
use std::time::{Duration, Instant};
use tokio::sync::Semaphore;

/// Where work is tucked in.
pub const PATH: &str = "/schedule/tuck-in";

/// How long it is searched for, and how long where one looks harder.
const TIME: Duration = Duration::from_secs(1);
const HARDER: Duration = Duration::from_secs(10);

/// How many search at a time; others wait their turn, so that searches leave something of the machine for everything else.
static SEARCHES: Semaphore = Semaphore::const_new(2);
/// The same of those who look harder, who keep nobody else waiting.
static LONG_SEARCHES: Semaphore = Semaphore::const_new(1);

/// More than these nobody ticks; the sentence above counts all.
const MOST: usize = 300;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route(PATH, get(page).post(apply::apply))
        .route("/schedule/tuck-in/harder", get(harder::stream))
        .route("/schedule/tuck-in/stop", post(harder::stop))
}

/// What was found.
#[derive(Template)]
#[template(path = "schedule/tuck/found.html")]
struct Found {
    asked: Asked,
    says: String,
    /// Other work of those who would do it, in a sentence; empty where there is none.
    elsewhere: String,
    heads: Vec<Head>,
    lines: Vec<Line>,
    left_out: usize,
    /// Whether a longer search could find something better.
    may_be_better: bool,
    may_change: bool,
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
    /// How many tasks were chosen one by one, and how many are to stay as they are.
    chosen: usize,
    pinned: usize,
    found: Option<Found>,
}

pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    let today = state.today();
    let (queue, time) = if asked.go == "harder" { (&LONG_SEARCHES, HARDER) } else { (&SEARCHES, TIME) };
    let turn = if asked.go.is_empty() { None } else { queue.acquire().await.ok() };
    let page = crate::computed(move || {
        let ends = Instant::now() + time;
        let answer = asked.ask(&plan, today).and_then(|ask| match asked.go.as_str() {
            "" => Ok(None),
            _ => found(&plan, &asked, &ask, user.books(), &mut |_| Instant::now() < ends).map(Some),
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
            pinned: asked.pinned().len(),
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

/// Searches as long as `go_on` says, checks what was found, and makes it ready to be shown.
fn found(
    plan: &Plan,
    asked: &Asked,
    ask: &Ask,
    may_change: bool,
    go_on: &mut dyn FnMut(&Progress) -> bool,
) -> Result<Found, String> {
    let mut may_be_better = false;
    let proposal = propose(plan, ask, 1, &mut |progress| {
        may_be_better = !go_on(&progress);
        !may_be_better
    });
    let proposal = proposal.map_err(|refusal| refusal.message)?;
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
    let mut lines: Vec<Line> =
        rows.iter().take(MOST).filter_map(|row| shown::line(plan, row, span, &hue, asked)).collect();
    shown::add_help(&mut lines, (plan, ask, &proposal), &rows);
    Ok(Found {
        asked: asked.clone(),
        says: shown::says(plan, &proposal),
        elsewhere: shown::elsewhere(plan, ask, &proposal),
        heads: shown::heads(plan, span),
        lines,
        left_out,
        may_be_better,
        may_change,
    })
}

/// The first and last day of what is drawn.
type Span = (Day, Day);

/// How many rows would be given other days than they have.
fn placed(proposal: &Proposal) -> usize {
    proposal.rows.iter().filter(|row| row.dates.is_some() && row.dates != row.before).count()
}
