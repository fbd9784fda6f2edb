//! Who is in the room: filter, order, groups, and the part of the list that is asked for.

use super::query::FitQuery;
use snug_core::{
    PersonId, Plan, TeamId,
    cells::{Band, Grain},
    load::{PersonCells, team_shares},
    people::PersonKind,
    plan::Entry,
};
use std::collections::HashMap;

/// Rows a page; more come when one scrolls.
pub const PAGE: usize = 40;

/// One line of the list.
pub enum Item<'a> {
    /// The head of a team, or of those without one.
    Head(Option<TeamId>, Vec<(&'a Entry, i64)>),
    /// A person.
    Row(&'a Entry),
}

/// Everyone whom the filter lets in, in order: people by name, then equipment.
pub fn chosen<'a>(plan: &'a Plan, query: &FitQuery) -> Vec<&'a Entry> {
    let words = query.q.to_lowercase();
    let team = plan.teams.values().find(|team| team.code == query.team);
    let inside: Option<Vec<TeamId>> = team.map(|team| plan.team_and_inner(team.id));
    let of_team = |entry: &Entry| {
        let member = |id: &TeamId| plan.teams.get(id).is_some_and(|t| t.members.iter().any(|m| m.0 == entry.person.id));
        inside.as_ref().is_none_or(|teams| teams.iter().any(member))
    };
    let fits = |entry: &&Entry| {
        let person = &entry.person;
        let text = || format!("{} {} {}", person.name, person.role, person.skills.join(" ")).to_lowercase();
        (words.is_empty() || text().contains(&words))
            && (query.role.is_empty() || person.role == query.role)
            && of_team(entry)
            && query.band.is_none_or(|band| has_band(plan, entry, query, band))
    };
    let mut people: Vec<&Entry> = plan.people.values().filter(fits).collect();
    people.sort_by_cached_key(|entry| (entry.person.kind == PersonKind::Equipment, entry.person.name.to_lowercase()));
    people
}

fn has_band(plan: &Plan, entry: &Entry, query: &FitQuery, band: Band) -> bool {
    let window = query.window();
    let grain = if query.by_day { Grain::Day } else { Grain::Week };
    let cells = PersonCells::of(plan, entry, &window, grain, false);
    let buckets = grain.buckets(window.from, window.to, &plan.settings);
    buckets.into_iter().any(|bucket| cells.cell(bucket).band(plan.settings.snug_mark) == Some(band))
}

/// The list with or without team heads.
pub fn items<'a>(plan: &'a Plan, query: &FitQuery, people: &[&'a Entry]) -> Vec<Item<'a>> {
    if !query.by_team {
        return people.iter().map(|entry| Item::Row(entry)).collect();
    }
    let shares = team_shares(plan);
    let mut teams: Vec<_> = plan.teams.values().filter(|team| !team.members.is_empty()).collect();
    teams.sort_by_key(|team| team.name.to_lowercase());
    // Where each person stands among those who are shown, so that a team's members are found without looking at everybody.
    let places: HashMap<PersonId, usize> =
        people.iter().enumerate().map(|(place, entry)| (entry.person.id, place)).collect();
    let mut items = Vec::new();
    for team in teams {
        let mut members: Vec<(usize, i64)> = team
            .members
            .iter()
            .filter_map(|(id, _)| {
                let of_person = shares.get(id).into_iter().flatten();
                let share = of_person.filter(|(known, _)| *known == team.id).map(|(_, share)| *share).sum::<i64>();
                places.get(id).map(|place| (*place, share))
            })
            .collect();
        members.sort_unstable();
        let members = members.into_iter().map(|(place, share)| (people[place], share)).collect();
        push(&mut items, Some(team.id), members);
    }
    let without = people.iter().filter(|entry| !shares.contains_key(&entry.person.id));
    push(&mut items, None, without.map(|entry| (*entry, 10_000)).collect());
    items
}

fn push<'a>(items: &mut Vec<Item<'a>>, team: Option<TeamId>, members: Vec<(&'a Entry, i64)>) {
    if !members.is_empty() {
        let rows: Vec<Item<'a>> = members.iter().map(|(entry, _)| Item::Row(entry)).collect();
        items.push(Item::Head(team, members));
        items.extend(rows);
    }
}
