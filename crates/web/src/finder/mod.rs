//! The finder: find or do anything by a few letters.

use crate::{
    AppState, Error,
    auth::User,
    columns::{columns, listed, shown},
    drafts::Here,
    frame::{Pages as _, ROOMS},
    words,
};
use askama::Template;
use axum::{Router, extract::Query, response::Html, routing::get};
use serde::Deserialize;
use snug_core::{Eyes, Role, kinds::Kind};

pub fn routes() -> Router<AppState> {
    Router::new().route("/finder", get(find))
}

#[derive(Default, Deserialize)]
#[serde(default)]
struct Asked {
    q: String,
}

/// Something that was found.
struct Found {
    kind: &'static str,
    name: String,
    more: String,
    href: String,
}

#[derive(Template)]
#[template(path = "finder/found.html")]
struct FoundPart {
    found: Vec<Found>,
    q: String,
}

/// As many of one kind as are shown.
const OF_A_KIND: usize = 6;

/// Things to do besides making a record, with the least role that may.
const DEEDS: [(&str, &str, Role); 5] = [
    ("Log time", "/hours#log", Role::Member),
    ("New equipment", "/people/new?kind=equipment", Role::Manager),
    ("Who is over their limit", "/fit?band=over", Role::Viewer),
    ("Invite somebody", "/setup/members", Role::Administrator),
    ("Export everything", "/setup/export.zip", Role::Viewer),
];

async fn find(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let q = asked.q.trim().to_lowercase();
    let parts: Vec<&str> = q.split_whitespace().collect();
    let holds = |text: &str| {
        let text = text.to_lowercase();
        parts.iter().all(|part| text.contains(part))
    };
    let mut found = Vec::new();
    let role = user.account.role;
    let made = listed().filter(|kind| role.changes_some(*kind)).map(Kind::about);
    let made = made.map(|about| (about.new_title(), format!("/{}/new", about.path)));
    let (first, rest) = DEEDS.split_at(1);
    let deed =
        |(name, href, least): &(&str, &str, Role)| (role >= *least).then(|| ((*name).to_owned(), (*href).to_owned()));
    let deeds = first.iter().filter_map(deed).chain(made).chain(rest.iter().filter_map(deed));
    found.extend(deeds.filter(|(name, _)| holds(name)).take(OF_A_KIND).map(|(name, href)| Found {
        kind: "do",
        name,
        more: String::new(),
        href,
    }));
    let page = |href: &str, name: &str| (String::new(), (href.to_owned(), name.to_owned()));
    let pages = ROOMS.iter().flat_map(|room| room.pages(role).into_iter().map(|page| (room.name().to_owned(), page)));
    let others = [page("/drafts", "Drafts"), page("/me", "Your account"), page("/help", "Help")];
    let pages = std::iter::once(("Fit".to_owned(), page("/fit", "Fit").1)).chain(pages).chain(others);
    found.extend(pages.filter(|(_, (_, name))| holds(name)).take(OF_A_KIND).map(|(more, (href, name))| Found {
        kind: "page",
        name,
        more,
        href,
    }));
    if !parts.is_empty() {
        let eyes = user.eyes(&plan);
        for kind in listed().filter(|kind| !kind.about().found_by.is_empty()) {
            found.extend(records(&eyes, kind, &holds));
        }
        for (name, title) in crate::help::titles() {
            if holds(&title) {
                found.push(Found { kind: "help", name: title, more: String::new(), href: format!("/help/{name}") });
            }
        }
    }
    let q = words::capital(asked.q.trim());
    Ok(Html(FoundPart { found, q }.render()?))
}

/// The first records of a kind that are called so, or have it in a column by which they are found.
fn records(eyes: &Eyes<'_>, kind: Kind, holds: &dyn Fn(&str) -> bool) -> Vec<Found> {
    let about = kind.about();
    let columns = columns(eyes.plan, kind, Role::Viewer);
    let beside = columns.iter().find(|column| column.name == about.beside);
    let all = eyes.all(kind).into_iter().filter(|record| {
        let others = about.found_by.iter().map(|column| record.cell(eyes, column));
        holds(&std::iter::once(record.called()).chain(others).collect::<Vec<_>>().join(" "))
    });
    let found = all.take(OF_A_KIND).map(|record| Found {
        kind: about.words.0,
        name: record.called(),
        more: beside.map(|column| shown(eyes.plan, column, &record.cell(eyes, &column.name))).unwrap_or_default(),
        href: format!("/{}/{}", about.path, record.number()),
    });
    found.collect()
}
