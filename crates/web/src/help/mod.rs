//! Help: the user's guide, the same pages that lie in docs/guide.

use crate::{
    AppState, Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    markdown,
};
use askama::Template;
use axum::{Router, extract::Path, response::Html, routing::get};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../docs/guide/"]
#[include = "*.md"]
struct Guide;

pub fn routes() -> Router<AppState> {
    Router::new().route("/help", get(first)).route("/help/{page}", get(page))
}

fn text(name: &str) -> Option<String> {
    let file = Guide::iter().find(|file| name_of(file) == name)?;
    Guide::get(&file).map(|file| String::from_utf8_lossy(&file.data).into_owned())
}

/// `2-fit.md` is the page `fit`; the number is its place.
fn name_of(file: &str) -> &str {
    let name = file.trim_end_matches(".md");
    name.split_once('-').map_or(name, |(_, name)| name)
}

/// Every page in order: its name and title.
pub fn titles() -> Vec<(String, String)> {
    let mut files: Vec<_> = Guide::iter().collect();
    files.sort();
    let title = |name: &str| {
        let text = text(name).unwrap_or_default();
        text.lines().next().unwrap_or_default().trim_start_matches("# ").to_owned()
    };
    files.iter().map(|file| (name_of(file).to_owned(), title(name_of(file)))).collect()
}

#[derive(Template)]
#[template(path = "help/page.html")]
struct HelpPage {
    frame: Frame,
    name: String,
    title: String,
    html: String,
    pages: Vec<(String, String)>,
}

async fn first(here: Here, user: User) -> Result<Html<String>, Error> {
    let name = titles().into_iter().next().map(|(name, _)| name).ok_or(Error::NotFound)?;
    page(here, user, Path(name)).await
}

async fn page(Here(state): Here, user: User, Path(name): Path<String>) -> Result<Html<String>, Error> {
    let text = text(&name).ok_or(Error::NotFound)?;
    let pages = titles();
    let title = pages.iter().find(|(known, _)| *known == name).map(|(_, title)| title.clone()).unwrap_or_default();
    let frame = Frame::of(&state, &user, Room::None).await?;
    Ok(Html(HelpPage { frame, name, title, html: markdown::html(&text), pages }.render()?))
}
