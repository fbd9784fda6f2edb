//! Activity: the ledger as people read it, and undo from there.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{columns, listed, person_name, sent, shown},
    frame::{Flash, Frame, Room},
    words,
};
use askama::Template;
use axum::{
    extract::{Path, Query, State},
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_core::{Command, Eyes, Plan, Role, change::Change, kinds::Kind};
use snug_exchange::csv::row_of;
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
pub async fn page(
    State(state): State<AppState>,
    user: User,
    Query(asked): Query<Asked>,
) -> Result<Html<String>, Error> {
    let some = |text: &str| Some(text.trim().to_owned()).filter(|text| !text.is_empty());
    let filter = Filter {
        actor: some(&asked.who),
        subject: asked.kind.parse().ok().map(|kind| (kind, None)),
        words: some(&asked.q),
        before: asked.before.parse().ok(),
        limit: PAGE + 1,
    };
    let db = state.keeper.db();
    let mut found = ledger::entries(db, &filter).await?;
    let more = found.len() > usize::try_from(PAGE).unwrap_or(usize::MAX);
    found.truncate(usize::try_from(PAGE).unwrap_or(usize::MAX));
    let revisions: Vec<i64> = found.iter().map(|entry| entry.revision).collect();
    let taken: HashMap<i64, i64> = ledger::taken_back(db, &revisions).await?.into_iter().collect();
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
    let who = ledger::actors(db).await?;
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

/// What one change did, column by column.
struct ChangeView {
    says: String,
    href: Option<String>,
    /// Column, before, after.
    columns: Vec<(String, String, String)>,
}

#[derive(Template)]
#[template(path = "setup/entry.html")]
struct EntryPage {
    frame: Frame,
    entry: EntryView,
    changes: Vec<ChangeView>,
    left_out: usize,
    may_undo: bool,
}

/// One entry with what it changed.
pub async fn entry(
    State(state): State<AppState>,
    user: User,
    Path(revision): Path<i64>,
) -> Result<Html<String>, Error> {
    /// An import has thousands; nobody reads more than this.
    const MOST: usize = 100;
    let db = state.keeper.db();
    let found = ledger::entry(db, revision).await?.ok_or(Error::NotFound)?;
    let changes = ledger::changes_of(db, revision).await?;
    let taken = ledger::taken_back(db, &[revision]).await?;
    let plan = state.keeper.plan();
    let eyes = user.eyes(&plan);
    let page = EntryPage {
        frame: Frame::of(&state, &user, Room::Setup).await?,
        left_out: changes.len().saturating_sub(MOST),
        changes: changes.iter().take(MOST).map(|change| change_view(&eyes, change, user.account.role)).collect(),
        entry: EntryView::of(&state, &plan, found, taken.first().map(|(_, by)| *by)),
        may_undo: user.account.role >= Role::Member,
    };
    Ok(Html(page.render()?))
}

fn change_view(eyes: &Eyes<'_>, change: &Change, role: Role) -> ChangeView {
    let plan = eyes.plan;
    let (kind, id) = change.subject();
    let columns = columns(plan, kind, role);
    let (before, after) = (change.clone().inverse().only_after(), change.clone().only_after());
    let of = |record: &Option<Change>| record.as_ref().and_then(|record| row_of(eyes, record)).unwrap_or_default();
    let (before, after) = (of(&before), of(&after));
    // Of a text, its words say all.
    let (before, after) = if kind == Kind::Text { Default::default() } else { (before, after) };
    let names: Vec<&String> = if after.is_empty() { &before } else { &after }.iter().map(|(name, _)| name).collect();
    let differs = names.into_iter().filter_map(|name| {
        let column = columns.iter().find(|column| column.name == *name)?;
        let (old, new) = (sent(&before, name), sent(&after, name));
        (old != new).then(|| (column.label.clone(), shown(plan, column, old), shown(plan, column, new)))
    });
    let text = match change {
        Change::Text(edit) => {
            let body =
                |text: &Option<snug_core::text::Text>| text.as_ref().map(|text| text.body.clone()).unwrap_or_default();
            vec![("Text".to_owned(), body(&edit.before), body(&edit.after))]
        }
        _ => Vec::new(),
    };
    let there = listed().find(|listed| *listed == kind && kind.one(plan, id).is_some());
    ChangeView {
        says: change.says(plan),
        href: there.map(|kind| format!("/{}/{id}", kind.about().path)),
        columns: differs.chain(text).collect(),
    }
}

/// Takes an entry back.
pub async fn undo(State(state): State<AppState>, user: User, Path(revision): Path<i64>) -> Result<Response, Error> {
    let entry = ledger::entry(state.keeper.db(), revision).await?.ok_or(Error::NotFound)?;
    if !ledger::taken_back(state.keeper.db(), &[revision]).await?.is_empty() {
        let flash = Flash { problem: true, ..Flash::plain(format!("Entry {revision} has been taken back already")) };
        flash.leave(&user.session).await?;
        return Ok(Redirect::to("/setup/activity").into_response());
    }
    let changes = ledger::changes_of(state.keeper.db(), revision).await?;
    let command = Command::Undo { revision, changes };
    match answer::carry_out(&state, &user, command).await {
        Ok(outcome) => {
            answer::back_to(&user, "/setup/activity", format!("Taken back: {}", entry.title), &outcome).await
        }
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            Flash { problem: true, ..Flash::plain(refusal.message) }.leave(&user.session).await?;
            Ok(Redirect::to("/setup/activity").into_response())
        }
        Err(error) => Err(error),
    }
}
