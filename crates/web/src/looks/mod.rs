//! Saved looks: a view's address under a name, one's own or shared with everybody.

use crate::{
    AppState, Error,
    answer::{is_script, safe_back},
    auth::User,
    drafts::Here,
    frame::Flash,
};
use askama::Template;
use axum::{
    Form, Json, Router,
    extract::{OriginalUri, Path},
    http::HeaderMap,
    response::{Html, IntoResponse, Redirect, Response},
    routing::{get, post},
};
use serde::Deserialize;
use serde_json::json;
use snug_core::Role;
use snug_store::looks::{self, Kept, Look};

#[derive(Template)]
#[template(path = "looks/looks.html")]
pub struct LooksView {
    looks: Vec<Look>,
    /// Whether those of others may be forgotten, too.
    anyones: bool,
    /// Of which view they are.
    view: &'static str,
    /// The look that is looked at, to be kept.
    address: String,
    /// Whether they can be mailed.
    mails: bool,
}

/// The view whose looks can be mailed.
const REPORTS: &str = "reports";

/// The days of the week as one chooses them.
const WEEKDAYS: [&str; 7] = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/// The days of the week, by their number.
fn weekdays() -> impl Iterator<Item = (usize, &'static str)> {
    (1..).zip(WEEKDAYS)
}

/// “mailed on Mondays”; empty for a look that is not.
fn mailed(look: &Look) -> String {
    let day = look.mail_weekday.and_then(|day| WEEKDAYS.get(usize::try_from(day).ok()?.checked_sub(1)?));
    day.map_or_else(String::new, |day| format!("mailed on {day}s"))
}

/// The views that have looks, and where they are.
const VIEWS: [(&str, &str); 6] = [
    ("fit", "/fit"),
    ("gantt", "/schedule/gantt"),
    ("calendar", "/schedule/calendar"),
    ("slips", "/schedule/slips"),
    ("long", "/schedule/long"),
    (REPORTS, "/hours/reports"),
];

pub fn routes() -> Router<AppState> {
    Router::new().route("/looks/{view}", get(list).post(keep)).route("/looks/{view}/forget", post(forget))
}

impl LooksView {
    /// The looks of a view, of which `address` is the one that is looked at: how one looks, not what one had selected.
    pub async fn of(state: &AppState, user: &User, view: &str, address: String) -> Result<Self, Error> {
        let (view, _) = known(view)?;
        let looks = looks::of_room(state.keeper.db(), user.account.id, view).await?;
        let mails = view == REPORTS && state.options.post.is_some();
        Ok(Self { looks, anyones: forgets_anyones(user), view, address, mails })
    }
}

fn known(view: &str) -> Result<(&'static str, &'static str), Error> {
    VIEWS.into_iter().find(|(word, _)| *word == view).ok_or(Error::NotFound)
}

async fn list(
    Here(state): Here,
    user: User,
    Path(view): Path<String>,
    uri: OriginalUri,
) -> Result<Html<String>, Error> {
    let (_, path) = known(&view)?;
    let address = uri.query().map_or_else(|| path.to_owned(), |said| format!("{path}?{said}"));
    Ok(Html(LooksView::of(&state, &user, &view, address).await?.render()?))
}

/// Who runs the plan tidies up what is shared.
fn forgets_anyones(user: &User) -> bool {
    user.account.role >= Role::Manager
}

/// What is kept.
#[derive(Deserialize)]
pub struct Keep {
    #[serde(default)]
    name: String,
    #[serde(default)]
    address: String,
    #[serde(default)]
    shared: String,
    /// The ISO weekday on which it is mailed; empty for none.
    #[serde(default)]
    weekday: String,
}

/// The longest address that is kept, in bytes.
const LONGEST: usize = 4_000;

async fn keep(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Path(view): Path<String>,
    Form(form): Form<Keep>,
) -> Result<Response, Error> {
    let (view, path) = known(&view)?;
    let name = form.name.trim();
    if name.is_empty() || name.chars().count() > 60 {
        return Err(Error::BadRequest("Give the look a name of at most 60 characters.".to_owned()));
    }
    let is_there = form.address == path || form.address.starts_with(&format!("{path}?"));
    if !is_there || form.address.len() > LONGEST || safe_back(&form.address) != form.address {
        return Err(Error::BadRequest("This is no address of the view.".to_owned()));
    }
    let shared = form.shared == "yes" && user.account.role > Role::Viewer;
    let weekday = form.weekday.parse().ok().filter(|day| (1..=7).contains(day) && view == REPORTS);
    let look = Kept { name, address: &form.address, shared, mail_weekday: weekday };
    looks::keep(state.keeper.db(), user.account.id, view, look).await?;
    done(&user, &headers, format!("Look “{name}” kept"), &form.address).await
}

/// What is forgotten.
#[derive(Deserialize)]
pub struct Forget {
    look: i32,
    #[serde(default)]
    back: String,
}

async fn forget(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Path(view): Path<String>,
    Form(form): Form<Forget>,
) -> Result<Response, Error> {
    known(&view)?;
    if !looks::forget(state.keeper.db(), user.account.id, form.look, forgets_anyones(&user)).await? {
        return Err(Error::NotFound);
    }
    done(&user, &headers, "Look forgotten".to_owned(), &form.back).await
}

async fn done(user: &User, headers: &HeaderMap, message: String, back: &str) -> Result<Response, Error> {
    if is_script(headers) {
        return Ok(Json(json!({ "message": message })).into_response());
    }
    Flash::plain(message).leave(&user.session).await?;
    Ok(Redirect::to(safe_back(back)).into_response())
}
