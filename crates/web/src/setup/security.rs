//! The security log, for administrators.

use crate::{
    Error,
    auth::User,
    doors::Deed,
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{extract::Query, response::Html};
use serde::Deserialize;
use snug_core::Role;
use snug_store::security::{self, Filter};

/// What is asked.
#[derive(Clone, Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    q: String,
    deed: String,
    before: String,
}

struct EntryView {
    at: String,
    deed: String,
    actor: String,
    peer: String,
    says: String,
}

#[derive(Template)]
#[template(path = "setup/security.html")]
struct SecurityPage {
    frame: Frame,
    entries: Vec<EntryView>,
    asked: Asked,
    deeds: Vec<&'static str>,
    older: Option<String>,
}

/// Entries a page.
const PAGE: usize = 100;

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    user.at_least(Role::Administrator)?;
    let some = |text: &str| Some(text.trim().chars().take(100).collect::<String>()).filter(|text| !text.is_empty());
    let filter = Filter {
        deed: some(&asked.deed),
        words: some(&asked.q),
        before: asked.before.parse().ok(),
        limit: PAGE as u64 + 1,
    };
    let mut found = security::entries(state.keeper.db(), &filter).await?;
    let more = found.len() > PAGE;
    found.truncate(PAGE);
    let older = found.last().filter(|_| more).map(|last| {
        let before = last.id.to_string();
        let pairs = [("q", &asked.q), ("deed", &asked.deed), ("before", &before)];
        words::address("/setup/security", pairs.map(|(name, value)| (name, value.as_str())))
    });
    let (zone, order) = (state.zone(), state.keeper.plan().settings.date_order);
    let entry = |entry: security::Entry| EntryView {
        at: words::moment(entry.at, zone, order),
        deed: words::capital(&entry.deed),
        actor: entry.actor,
        peer: entry.peer,
        says: entry.says,
    };
    let mut deeds: Vec<&str> = Deed::ALL.iter().map(|deed| deed.word()).collect();
    deeds.sort_unstable();
    let page = SecurityPage {
        frame: Frame::of(&state, &user, Room::Setup).await?,
        entries: found.into_iter().map(entry).collect(),
        asked,
        deeds,
        older,
    };
    Ok(Html(page.render()?))
}
