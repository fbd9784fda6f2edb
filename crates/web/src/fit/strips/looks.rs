//! Saved looks: the room's address under a name, one's own or shared with everybody.

use crate::{
    AppState, Error,
    answer::{is_script, safe_back},
    auth::User,
    fit::address::{query::FitQuery, view::View},
    frame::Flash,
};
use askama::Template;
use axum::{
    Form, Json,
    extract::State,
    http::HeaderMap,
    response::{Html, IntoResponse, Redirect, Response},
};
use serde::Deserialize;
use serde_json::json;
use snug_core::Role;
use snug_store::looks::{self, Look};

#[derive(Template)]
#[template(path = "fit/strips/looks.html")]
pub struct LooksView {
    looks: Vec<Look>,
    /// Whether those of others may be forgotten, too.
    anyones: bool,
    /// The look that is looked at, to be kept.
    address: String,
}

impl LooksView {
    pub fn new(looks: Vec<Look>, user: &User, query: &FitQuery) -> Self {
        // A look is how one looks, not what one had selected.
        Self { looks, anyones: forgets_anyones(user), address: query.unselected().href("/fit") }
    }
}

pub async fn list(State(state): State<AppState>, user: User, View { query, .. }: View) -> Result<Html<String>, Error> {
    let saved = looks::of_room(state.keeper.db(), user.account.id, "fit").await?;
    Ok(Html(LooksView::new(saved, &user, &query).render()?))
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
}

/// The longest address that is kept, in bytes.
const LONGEST: usize = 4_000;

pub async fn keep(
    State(state): State<AppState>,
    user: User,
    headers: HeaderMap,
    Form(form): Form<Keep>,
) -> Result<Response, Error> {
    let name = form.name.trim();
    if name.is_empty() || name.chars().count() > 60 {
        return Err(Error::BadRequest("Give the look a name of at most 60 characters.".to_owned()));
    }
    if !form.address.starts_with("/fit") || form.address.len() > LONGEST || safe_back(&form.address) != form.address {
        return Err(Error::BadRequest("This is no address of the room.".to_owned()));
    }
    let shared = form.shared == "yes" && user.account.role > Role::Viewer;
    looks::keep(state.keeper.db(), user.account.id, "fit", (name, &form.address, shared)).await?;
    done(&user, &headers, format!("Look “{name}” kept"), &form.address).await
}

/// What is forgotten.
#[derive(Deserialize)]
pub struct Forget {
    look: i32,
    #[serde(default)]
    back: String,
}

pub async fn forget(
    State(state): State<AppState>,
    user: User,
    headers: HeaderMap,
    Form(form): Form<Forget>,
) -> Result<Response, Error> {
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
