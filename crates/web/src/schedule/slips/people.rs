//! Whose days are seen: filter and order.

use super::query::SlipsQuery;
use crate::kept::Kept;
use snug_core::{PersonId, Plan, kinds::PersonKind, plan::Entry};
use std::{collections::BTreeSet, sync::Arc};

/// Everyone whom the filter lets in, in order.
struct LetIn(Vec<PersonId>);

/// Everyone whom the filter lets in: people by name, then equipment. Worked out once for a plan and a filter. Where some work is
/// looked for, those who have some of it in the window.
pub fn people(kept: &Kept, plan: &Plan, query: &SlipsQuery) -> Arc<Vec<PersonId>> {
    let params = &query.params;
    let words = [&params.q, &params.team, &params.project, &params.stage, &params.kind, &params.priority];
    let window = if query.is_filtered() { format!("{} {}", query.from, query.weeks) } else { String::new() };
    let asked = format!("{} {window}\n{}", query.today, words.map(String::as_str).join("\n"));
    let found = kept.get(plan, asked, || LetIn(found(plan, query)));
    Arc::new(found.0.clone())
}

fn found(plan: &Plan, query: &SlipsQuery) -> Vec<PersonId> {
    let words = query.params.q.trim().to_lowercase();
    let inside: Option<BTreeSet<PersonId>> = query.team.map(|team| {
        let teams = plan.team_and_inner(team);
        let members = teams.iter().filter_map(|id| plan.records.teams.get(id)).flat_map(|team| &team.members);
        members.map(|(id, _)| *id).collect()
    });
    let lies_here = |task: &snug_core::kinds::Task| {
        let dates = task.start.zip(task.finish).filter(|_| !task.is_done());
        dates.is_some_and(|(start, finish)| {
            start <= query.to() && (finish >= query.from || task.is_late(query.today) && query.to() >= query.today)
        })
    };
    let has_work = |entry: &Entry| {
        let mut tasks = entry.tasks.iter().filter_map(|id| plan.tasks.get(id));
        tasks.any(|task| query.shows(task) && lies_here(task))
    };
    let fits = |entry: &&Entry| {
        let person = &entry.person;
        let holds = |text: &str| text.to_lowercase().contains(&words);
        let said = || holds(&person.name) || holds(&person.role) || person.skills.iter().any(|skill| holds(skill));
        (words.is_empty() || said())
            && inside.as_ref().is_none_or(|ids| ids.contains(&person.id))
            && (!query.is_filtered() || has_work(entry))
    };
    let mut people: Vec<&Entry> = plan.people.values().filter(fits).collect();
    people.sort_by_cached_key(|entry| (entry.person.kind == PersonKind::Equipment, entry.person.name.to_lowercase()));
    people.into_iter().map(|entry| entry.person.id).collect()
}
