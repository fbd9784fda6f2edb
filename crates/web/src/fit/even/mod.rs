//! Even out: what was booked and not worked is offered again, and weeks that spill are flattened; each is looked at first, and then one
//! command.

mod apply;
mod asked;
mod flat;
#[cfg(test)]
mod tests;
mod unworked;

use crate::{
    AppState, Error,
    auth::User,
    columns::Pairs,
    drafts::Here,
    frame::{Frame, Room},
};
use askama::Template;
pub use asked::Asked;
use asked::{Picked, Tool};
use axum::{Router, extract::Query, response::Html, routing::get};
use flat::Flat;
use snug_core::Role;
use unworked::Line;

/// Where it is.
pub const PATH: &str = "/fit/even-out";

/// How many other places are looked at for what is flattened: the same number gives the same answer.
const STEPS: u64 = 3_000;

pub fn routes() -> Router<AppState> {
    Router::new().route(PATH, get(page).post(apply::apply))
}

#[derive(Template)]
#[template(path = "fit/even/page.html")]
struct EvenPage {
    frame: Frame,
    asked: Asked,
    picked: Picked,
    people: Vec<(i32, String)>,
    teams: Vec<(String, String)>,
    problem: Option<String>,
    /// Hours that can be offered again; nothing where the other tool is looked at.
    lines: Option<Vec<Line>>,
    flat: Option<Flat>,
    may_change: bool,
}

/// The page: what would come of it, and why not more.
async fn page(Here(state): Here, user: User, Query(pairs): Query<Pairs>) -> Result<Html<String>, Error> {
    let asked = Asked::of(&pairs);
    let (plan, today) = (state.keeper.plan(), state.today());
    let frame = Frame::of(&state, &user, Room::Fit).await?;
    crate::computed(move || {
        let eyes = user.eyes(&plan);
        let (picked, problem) = asked.picked(&plan, today);
        let is_unworked = asked.tool() == Tool::Unworked;
        let mut people: Vec<(i32, String)> =
            plan.people.values().map(|entry| (entry.person.id.0, entry.person.name.clone())).collect();
        people.sort_by_cached_key(|(_, name)| name.to_lowercase());
        let mut teams: Vec<(String, String)> =
            plan.records.teams.values().map(|team| (team.code.clone(), team.name.clone())).collect();
        teams.sort_by_cached_key(|(_, name)| name.to_lowercase());
        let page = EvenPage {
            // Who logged what is seen by themselves and by those who lead them.
            lines: is_unworked.then(|| unworked::lines(&plan, &picked, today, |person| eyes.knows(person))),
            flat: (!is_unworked).then(|| flat::flat(&plan, &picked, &asked, today)),
            may_change: user.account.role >= Role::Lead,
            picked,
            people,
            teams,
            problem,
            frame,
            asked,
        };
        page.render()
    })
    .await
}
