//! The finder: find or do anything by a few letters.

use crate::{AppState, Error, auth::User, frame::Room, words};
use askama::Template;
use axum::{
    Router,
    extract::{Query, State},
    response::Html,
    routing::get,
};
use serde::Deserialize;
use snug_core::Role;

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

/// Things to do, with the least role that may.
const DEEDS: [(&str, &str, Role); 12] = [
    ("Log time", "/hours#log", Role::Member),
    ("New task", "/tasks/new", Role::Lead),
    ("New milestone", "/milestones/new", Role::Lead),
    ("New time off", "/time-off/new", Role::Member),
    ("New person", "/people/new", Role::Manager),
    ("New equipment", "/people/new?kind=equipment", Role::Manager),
    ("New project", "/projects/new", Role::Manager),
    ("New team", "/teams/new", Role::Manager),
    ("New field", "/fields/new", Role::Manager),
    ("Who is over their limit", "/fit?band=over", Role::Viewer),
    ("Invite somebody", "/setup/members", Role::Administrator),
    ("Export everything", "/setup/export.zip", Role::Viewer),
];

async fn find(State(state): State<AppState>, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let q = asked.q.trim().to_lowercase();
    let parts: Vec<&str> = q.split_whitespace().collect();
    let holds = |text: &str| {
        let text = text.to_lowercase();
        parts.iter().all(|part| text.contains(part))
    };
    let mut found = Vec::new();
    let deeds = DEEDS.iter().filter(|(name, _, least)| user.account.role >= *least && holds(name));
    found.extend(deeds.take(OF_A_KIND).map(|(name, href, _)| Found {
        kind: "do",
        name: (*name).to_owned(),
        more: String::new(),
        href: (*href).to_owned(),
    }));
    let pages = Room::ALL.iter().flat_map(|room| room.pages().iter().map(|page| (room.name(), page)));
    let rooms = std::iter::once(("Fit", &("/fit", "Fit")));
    let others = [("", &("/me", "Your account")), ("", &("/help", "Help"))];
    found.extend(rooms.chain(pages).chain(others).filter(|(_, (_, name))| holds(name)).take(OF_A_KIND).map(
        |(room, (href, name))| Found {
            kind: "page",
            name: (*name).to_owned(),
            more: room.to_owned(),
            href: (*href).to_owned(),
        },
    ));
    if !parts.is_empty() {
        let people = plan.people.values().map(|entry| &entry.person);
        found.extend(people.filter(|p| holds(&format!("{} {} {}", p.name, p.role, p.email))).take(OF_A_KIND).map(
            |p| Found { kind: "person", name: p.name.clone(), more: p.role.clone(), href: format!("/people/{}", p.id) },
        ));
        found.extend(plan.projects.values().filter(|p| holds(&format!("{} {}", p.name, p.code))).take(OF_A_KIND).map(
            |p| Found {
                kind: "project",
                name: p.name.clone(),
                more: p.status.to_string(),
                href: format!("/projects/{}", p.id),
            },
        ));
        found.extend(plan.teams.values().filter(|t| holds(&t.name)).take(OF_A_KIND).map(|t| Found {
            kind: "team",
            name: t.name.clone(),
            more: String::new(),
            href: format!("/teams/{}", t.id),
        }));
        found.extend(
            plan.tasks.values().filter(|t| holds(&format!("{} {}", t.title, t.reference))).take(OF_A_KIND).map(|t| {
                Found {
                    kind: "task",
                    name: t.title.clone(),
                    more: plan.projects.get(&t.project).map(|p| p.name.clone()).unwrap_or_default(),
                    href: format!("/tasks/{}", t.id),
                }
            }),
        );
        for (name, title) in crate::help::titles() {
            if holds(&title) {
                found.push(Found { kind: "help", name: title, more: String::new(), href: format!("/help/{name}") });
            }
        }
    }
    let q = words::capital(asked.q.trim());
    Ok(Html(FoundPart { found, q }.render()?))
}
