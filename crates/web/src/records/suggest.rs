//! What a field offers while one types: people, tasks, projects that are open, words that are used already.

use crate::{auth::User, drafts::Here};
use axum::{Json, extract::Query};
use serde::{Deserialize, Serialize};
use snug_core::kinds::{Kind, ProjectStatus};
use std::collections::BTreeSet;

/// What is asked.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// person, task, project, milestone, or used.
    of: String,
    /// What was typed.
    q: String,
    /// Of which records, for words that are used.
    kind: String,
    /// In which column.
    column: String,
}

/// One offer.
#[derive(Serialize)]
pub struct Offer {
    value: String,
    label: String,
}

/// As many as one looks through.
const MOST: usize = 12;

/// The offers.
pub async fn suggest(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Json<Vec<Offer>> {
    let plan = state.keeper.plan();
    let words = asked.q.trim().to_lowercase();
    let holds = |text: &str| text.to_lowercase().contains(&words);
    let offers = match asked.of.as_str() {
        "person" => {
            let people = plan.people.values().map(|entry| &entry.person);
            let found = people.filter(|person| holds(&person.name) || holds(&person.email));
            found.take(MOST).map(|p| Offer { value: p.email.clone(), label: p.name.clone() }).collect()
        }
        "task" => {
            let found = plan.tasks.values().filter(|task| holds(&task.title) || holds(&task.reference));
            found.take(MOST).map(|t| Offer { value: t.reference.clone(), label: t.title.clone() }).collect()
        }
        "project" => {
            let open = plan.records.projects.values().filter(|project| project.status != ProjectStatus::Closed);
            let found = open.filter(|project| holds(&project.name) || holds(&project.code));
            found.take(MOST).map(|p| Offer { value: p.code.clone(), label: p.name.clone() }).collect()
        }
        "milestone" => {
            let found = plan.records.milestones.values().filter(|it| holds(&it.name) || holds(&it.reference));
            found.take(MOST).map(|it| Offer { value: it.reference.clone(), label: it.name.clone() }).collect()
        }
        "used" => {
            let eyes = user.eyes(&plan);
            let records = asked.kind.parse::<Kind>().map(|kind| eyes.all(kind)).unwrap_or_default();
            let values = records.iter().map(|record| record.cell(&eyes, &asked.column));
            let used: BTreeSet<String> = values.filter(|value| !value.is_empty()).collect();
            used.into_iter().filter(|v| holds(v)).take(MOST).map(|v| Offer { label: v.clone(), value: v }).collect()
        }
        _ => Vec::new(),
    };
    Json(offers)
}
