//! Activity: the ledger as people read it, and undo from there.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Changed, changed, person_name},
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    extract::{Path, Query},
    response::{Html, Response},
};
use serde::Deserialize;
use snug_core::{Command, Plan, Role, kinds::Kind};
use snug_store::ledger::{self, Filter};
use std::collections::HashMap;

/// What is asked.
#[derive(Clone, Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    q: String,
    who: String,
    kind: String,
    before: String,
}

struct EntryView {
    revision: i64,
    title: String,
    who: String,
    at: String,
    changes: i32,
    taken_back_by: Option<i64>,
    takes_back: Option<i64>,
}

#[derive(Template)]
#[template(path = "setup/activity.html")]
struct ActivityPage {
    frame: Frame,
    entries: Vec<EntryView>,
    asked: Asked,
    who: Vec<(String, String)>,
    kinds: Vec<(&'static str, &'static str)>,
    older: Option<String>,
    may_undo: bool,
}

/// Entries a page.
const PAGE: u64 = 50;

/// The kinds to choose from, each with the word for several.
fn kinds() -> Vec<(&'static str, &'static str)> {
    let word = |kind: Kind| if kind == Kind::Text { "descriptions and comments" } else { kind.about().words.1 };
    let mut kinds: Vec<_> = Kind::ALL.iter().map(|kind| (kind.as_str(), word(*kind))).collect();
    kinds.sort_by_key(|(_, word)| *word);
    kinds
}

impl EntryView {
    fn of(state: &AppState, plan: &Plan, entry: ledger::Entry, taken_back_by: Option<i64>) -> Self {
        Self {
            revision: entry.revision,
            who: person_name(plan, &entry.actor),
            at: words::moment(entry.at, state.zone(), plan.settings.date_order),
            changes: entry.changes,
            taken_back_by,
            takes_back: entry.undoes,
            title: entry.title,
        }
    }
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let some = |text: &str| Some(text.trim().to_owned()).filter(|text| !text.is_empty());
    let filter = Filter {
        actor: some(&asked.who),
        subject: asked.kind.parse().ok().map(|kind| (kind, None)),
        words: some(&asked.q),
        before: asked.before.parse().ok(),
        limit: PAGE + 1,
    };
    let ledger = state.keeper.ledger();
    let mut found = ledger.entries(&filter).await?;
    let more = found.len() > usize::try_from(PAGE).unwrap_or(usize::MAX);
    found.truncate(usize::try_from(PAGE).unwrap_or(usize::MAX));
    let revisions: Vec<i64> = found.iter().map(|entry| entry.revision).collect();
    let taken: HashMap<i64, i64> = ledger.taken_back(&revisions).await?.into_iter().collect();
    let plan = state.keeper.plan();
    let older = more.then(|| {
        let before = revisions.last().map(ToString::to_string).unwrap_or_default();
        let pairs = [("q", &asked.q), ("who", &asked.who), ("kind", &asked.kind), ("before", &before)];
        words::address("/setup/activity", pairs.map(|(name, value)| (name, value.as_str())))
    });
    let entry = |entry: ledger::Entry| {
        let taken_back_by = taken.get(&entry.revision).copied();
        EntryView::of(&state, &plan, entry, taken_back_by)
    };
    let who = ledger.actors().await?;
    let page = ActivityPage {
        frame: Frame::of(&state, &user, Room::Setup).await?,
        entries: found.into_iter().map(entry).collect(),
        who: who.into_iter().map(|email| (email.clone(), person_name(&plan, &email))).collect(),
        kinds: kinds(),
        older,
        may_undo: user.account.role >= Role::Member,
        asked,
    };
    Ok(Html(page.render()?))
}

#[derive(Template)]
#[template(path = "setup/entry.html")]
struct EntryPage {
    frame: Frame,
    entry: EntryView,
    changes: Vec<Changed>,
    left_out: usize,
    may_undo: bool,
}

/// One entry with what it changed.
pub async fn entry(Here(state): Here, user: User, Path(revision): Path<i64>) -> Result<Html<String>, Error> {
    /// An import has thousands; nobody reads more than this.
    const MOST: usize = 100;
    let ledger = state.keeper.ledger();
    let found = ledger.entry(revision).await?.ok_or(Error::NotFound)?;
    let changes = ledger.changes_of(revision).await?;
    let taken = ledger.taken_back(&[revision]).await?;
    let plan = state.keeper.plan();
    let eyes = user.eyes(&plan);
    let page = EntryPage {
        frame: Frame::of(&state, &user, Room::Setup).await?,
        left_out: changes.len().saturating_sub(MOST),
        changes: changes.iter().take(MOST).map(|change| changed(&eyes, change, user.account.role)).collect(),
        entry: EntryView::of(&state, &plan, found, taken.first().map(|(_, by)| *by)),
        may_undo: user.account.role >= Role::Member,
    };
    Ok(Html(page.render()?))
}

/// Takes an entry back.
pub async fn undo(Here(state): Here, user: User, Path(revision): Path<i64>) -> Result<Response, Error> {
    let ledger = state.keeper.ledger();
    let entry = ledger.entry(revision).await?.ok_or(Error::NotFound)?;
    if !ledger.taken_back(&[revision]).await?.is_empty() {
        let message = format!("Entry {revision} has been taken back already");
        return answer::again(&user, "/setup/activity", message).await;
    }
    let changes = ledger.changes_of(revision).await?;
    let command = Command::Undo { revision, changes };
    match answer::carry_out(&state, &user, command).await {
        Ok(outcome) => {
            answer::back_to(&user, "/setup/activity", format!("Taken back: {}", entry.title), &outcome).await
        }
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            answer::again(&user, "/setup/activity", refusal.message).await
        }
        Err(error) => Err(error),
    }
}
