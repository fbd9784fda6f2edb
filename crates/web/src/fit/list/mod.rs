//! Who is in the room: filter, order, groups, and the part of the list that is asked for.

use crate::{
    fit::address::{
        angle::{Angle, group_word},
        query::FitQuery,
    },
    grid::part_of,
    kept::Kept,
};
use snug_core::{
    PersonId, Plan, ProjectId, TeamId,
    alerts::{self, Alert},
    budget::{self, Budget},
    cells::Band,
    craft::is_same,
    kinds::{Booking, Kind, PersonKind, ProjectStatus, Who},
    load::{Groups, PersonCells, RowKey},
    plan::Entry,
};
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

/// Lines a page; more come when one scrolls.
pub const PAGE: usize = 40;
/// Groups of a larger workspace are folded until one opens them.
const UNFOLDED: usize = 400;

/// A group before it is drawn.
pub struct Head<'a> {
    pub key: RowKey,
    pub people: Vec<&'a Entry>,
    pub seats: usize,
    pub folded: bool,
    pub budget: Option<Budget>,
}

/// One line of the list.
pub enum Line<'a> {
    /// The head of a group.
    Head(Head<'a>),
    /// A person, and the project under whose head they stand.
    Row(&'a Entry, Option<ProjectId>),
    /// Work that has no name yet.
    Seat(&'a Booking),
}

/// Everyone whom the filter lets in, in order: people by name, then equipment. Worked out once for a plan and a filter.
pub fn let_in(kept: &Kept, plan: &Plan, query: &FitQuery) -> Arc<Vec<PersonId>> {
    // Who is on a project, and what figures are, depends on the window; words do not.
    let by_window = query.project.is_some() || query.band.is_some() || query.alert.is_some();
    let asked = if by_window {
        FitQuery { open: BTreeSet::new(), turned: BTreeSet::new(), ..query.unselected() }.href("")
    } else {
        let FitQuery { q, team, role, skill, tag, .. } = query;
        let things = if query.angle == Angle::Equipment { "equipment" } else { "" };
        [things, q, team, role, skill, tag].join("\n")
    };
    kept.get(plan, format!("{} {asked}", query.today), || found(plan, query))
}

/// The same as they stand in the plan.
pub fn chosen<'a>(kept: &Kept, plan: &'a Plan, query: &FitQuery) -> Vec<&'a Entry> {
    let_in(kept, plan, query).iter().filter_map(|id| plan.people.get(id)).collect()
}

/// A part of the list.
pub struct Part<'a> {
    pub lines: Vec<Line<'a>>,
    /// How many lines the whole has, how many of them are heads, and how many people are let in.
    pub total: usize,
    pub heads: usize,
    pub people: usize,
}

/// The part of the list that the address asks for. Where there are no groups nobody else is looked up.
pub fn part<'a>(kept: &Kept, plan: &'a Plan, query: &FitQuery, groups: &Groups<'a>) -> Part<'a> {
    let ids = let_in(kept, plan, query);
    let cut = |total: usize| part_of(total, query.offset, PAGE).0;
    if query.angle.group().is_none() && query.unknown.is_empty() {
        let rows = ids[cut(ids.len())].iter().filter_map(|id| plan.people.get(id));
        let lines = rows.map(|entry| Line::Row(entry, query.project)).collect();
        return Part { lines, total: ids.len(), heads: 0, people: ids.len() };
    }
    let everyone: Vec<&Entry> = ids.iter().filter_map(|id| plan.people.get(id)).collect();
    let mut all = lines(plan, query, &everyone, groups);
    let heads = all.iter().filter(|line| matches!(line, Line::Head(_))).count();
    let total = all.len();
    Part { lines: all.drain(cut(total)).collect(), total, heads, people: ids.len() }
}

fn found(plan: &Plan, query: &FitQuery) -> Vec<PersonId> {
    let words = query.q.to_lowercase();
    let inside: Option<BTreeSet<PersonId>> = plan.find(Kind::Team, &query.team).map(|team| {
        let teams = plan.team_and_inner(TeamId(team));
        let members = teams.iter().filter_map(|id| plan.records.teams.get(id)).flat_map(|team| &team.members);
        members.map(|(id, _)| *id).collect()
    });
    let groups = Groups::new(plan, query.load());
    let on_project: Option<BTreeSet<PersonId>> = query.project.map(|id| {
        let inner = plan.records.projects.values().filter(|p| plan.project_line(p.id).any(|above| above.id == id));
        inner.flat_map(|p| groups.people(&RowKey::Project(Some(p.id)))).map(|entry| entry.person.id).collect()
    });
    let tagged = |entry: &Entry, tag: &str| {
        let tasks = entry.tasks.iter().filter_map(|id| plan.tasks.get(id));
        tasks.filter(|task| !task.is_done()).any(|task| task.tags.iter().any(|own| own.eq_ignore_ascii_case(tag)))
    };
    let fits = |entry: &&Entry| {
        let person = &entry.person;
        let holds = |text: &str| text.to_lowercase().contains(&words);
        let said = || holds(&person.name) || holds(&person.role) || person.skills.iter().any(|skill| holds(skill));
        (query.angle != Angle::Equipment || person.kind == PersonKind::Equipment)
            && (words.is_empty() || said())
            && (query.role.is_empty() || is_same(&person.role, &query.role))
            && (query.skill.is_empty() || person.skills.iter().any(|own| is_same(own, &query.skill)))
            && inside.as_ref().is_none_or(|ids| ids.contains(&person.id))
            && on_project.as_ref().is_none_or(|ids| ids.contains(&person.id))
            && (query.tag.is_empty() || tagged(entry, &query.tag))
            && query.band.is_none_or(|band| has_band(plan, entry, query, band))
            && query.alert.filter(|alert| *alert != Alert::Unbooked).is_none_or(|alert| {
                alerts::of_person(plan, entry, &query.window(), query.zoom, &query.buckets).count(alert) > 0
            })
    };
    let mut people: Vec<&Entry> = plan.people.values().filter(fits).collect();
    people.sort_by_cached_key(|entry| (entry.person.kind == PersonKind::Equipment, entry.person.name.to_lowercase()));
    people.into_iter().map(|entry| entry.person.id).collect()
}

fn has_band(plan: &Plan, entry: &Entry, query: &FitQuery, band: Band) -> bool {
    let cells = PersonCells::of(plan, entry, &query.window(), query.zoom, false);
    query.buckets.iter().any(|bucket| cells.cell(*bucket).band(plan.settings.snug_mark) == Some(band))
}

/// The list with its heads: groups in order, and in each the people who are let in, then its seats.
pub fn lines<'a>(plan: &'a Plan, query: &FitQuery, people: &[&'a Entry], groups: &Groups<'a>) -> Vec<Line<'a>> {
    if !query.unknown.is_empty() {
        return Vec::new();
    }
    if query.angle.group().is_none() {
        return people.iter().map(|entry| Line::Row(entry, query.project)).collect();
    }
    let counted = query.counted();
    let seats: Vec<&Booking> = plan
        .seats
        .values()
        .map(|seat| &**seat)
        .filter(|seat| seat.start <= query.to() && seat.end >= query.from)
        .filter(|seat| counted.pencilled || seat.certainty == snug_core::kinds::Certainty::Firm)
        .collect();
    let mut found = Vec::new();
    for (key, members) in grouped(plan, query, people, groups) {
        let own: Vec<&Booking> = seats.iter().filter(|seat| key.lists(plan, seat)).copied().collect();
        // A filter is about people: open seats stay with what it names itself, an empty project as long as there is no filter.
        let asked_for = match &key {
            RowKey::Role(role) => is_same(role, &query.role),
            RowKey::Skill(skill) => is_same(skill, &query.skill),
            RowKey::Project(_) => query.project.is_some() || query.alert == Some(Alert::Unbooked),
            RowKey::Team(_) => false,
        };
        let kept = match (query.is_filtered(), own.is_empty()) {
            (true, _) => asked_for,
            (false, true) => matches!(key, RowKey::Project(Some(_))),
            (false, false) => true,
        };
        if members.is_empty() && !kept {
            continue;
        }
        let usually_folded = plan.people.len() > UNFOLDED;
        let folded = usually_folded != query.turned.contains(&group_word(plan, &key));
        let project = match key {
            RowKey::Project(id) => id,
            _ => query.project,
        };
        let rows: Vec<Line<'a>> = members.iter().map(|entry| Line::Row(entry, project)).collect();
        found.push(Line::Head(Head { key, people: members, seats: own.len(), folded, budget: None }));
        if !folded {
            found.extend(rows);
            found.extend(own.into_iter().map(Line::Seat));
        }
    }
    found
}

/// The groups of an angle in their order, each with its people among those who are let in.
fn grouped<'a>(
    plan: &'a Plan,
    query: &FitQuery,
    people: &[&'a Entry],
    groups: &Groups<'a>,
) -> Vec<(RowKey, Vec<&'a Entry>)> {
    let mut found: BTreeMap<(String, RowKey), Vec<&'a Entry>> = BTreeMap::new();
    let place: BTreeMap<PersonId, usize> = people.iter().enumerate().map(|(at, entry)| (entry.person.id, at)).collect();
    let mut put = |name: &str, key: RowKey, members: Vec<&'a Entry>| {
        // What has no name stands last.
        let name = if name.is_empty() { "\u{10ffff}".to_owned() } else { name.to_lowercase() };
        found.entry((name, key)).or_default().extend(members);
    };
    let among = |ids: &mut dyn Iterator<Item = PersonId>| -> Vec<&'a Entry> {
        let mut places: Vec<usize> = ids.filter_map(|id| place.get(&id).copied()).collect();
        places.sort_unstable();
        places.dedup();
        places.into_iter().map(|at| people[at]).collect()
    };
    match query.angle {
        Angle::Person | Angle::Equipment => {}
        Angle::Team => {
            for team in plan.records.teams.values() {
                put(&team.name, RowKey::Team(Some(team.id)), among(&mut team.members.iter().map(|(id, _)| *id)));
            }
            let without = groups.people(&RowKey::Team(None));
            put("", RowKey::Team(None), among(&mut without.iter().map(|entry| entry.person.id)));
        }
        Angle::Role => {
            for entry in people {
                let role = plan.spellings().role(&entry.person.role);
                put(&role, RowKey::Role(role.clone()), vec![entry]);
            }
            for seat in plan.seats.values() {
                if let Who::Role(role) = &seat.who {
                    let role = plan.spellings().role(role);
                    put(&role, RowKey::Role(role.clone()), Vec::new());
                }
            }
        }
        Angle::Skill => {
            for entry in people {
                let skills = plan.spellings().skills(&entry.person.skills);
                for skill in &skills {
                    put(skill, RowKey::Skill(skill.clone()), vec![entry]);
                }
                if skills.is_empty() {
                    put("", RowKey::Skill(String::new()), vec![entry]);
                }
            }
        }
        Angle::Project => {
            let words = query.q.to_lowercase();
            let unbooked = (query.alert == Some(Alert::Unbooked)).then(|| alerts::unbooked(plan, query.today));
            let in_view = |id: ProjectId| {
                query.project.is_none_or(|one| plan.project_line(id).any(|above| above.id == one))
                    && unbooked.as_ref().is_none_or(|left| left.contains(&id))
            };
            for project in plan.records.projects.values().filter(|project| in_view(project.id)) {
                let key = RowKey::Project(Some(project.id));
                let named = !words.is_empty() && project.name.to_lowercase().contains(&words);
                let on_it = groups.people(&key);
                let members = if named { on_it } else { among(&mut on_it.iter().map(|entry| entry.person.id)) };
                if project.status != ProjectStatus::Closed || !members.is_empty() {
                    put(&project.name, key, members);
                }
            }
            if query.project.is_none() && unbooked.is_none() {
                let held = groups.people(&RowKey::Project(None));
                put("", RowKey::Project(None), among(&mut held.iter().map(|entry| entry.person.id)));
            }
        }
    }
    found.into_iter().map(|((_, key), members)| (key, members)).collect()
}

/// The head of one group, with the people whom the filter lets in.
pub fn one_head<'a>(
    plan: &'a Plan,
    query: &FitQuery,
    people: &[&'a Entry],
    groups: &Groups<'a>,
    key: RowKey,
) -> Head<'a> {
    let let_in: BTreeSet<PersonId> = people.iter().map(|entry| entry.person.id).collect();
    let members = groups.people(&key).into_iter().filter(|entry| let_in.contains(&entry.person.id)).collect();
    let here = |seat: &&Arc<Booking>| seat.start <= query.to() && seat.end >= query.from;
    let seats = plan.seats.values().filter(here).filter(|seat| key.lists(plan, seat)).count();
    let folded = (plan.people.len() > UNFOLDED) != query.turned.contains(&group_word(plan, &key));
    Head { key, people: members, seats, folded, budget: None }
}

/// Adds to the heads that are shown what their budgets leave.
pub fn with_budgets(kept: &Kept, plan: &Plan, query: &FitQuery, heads: &mut [&mut Head<'_>]) {
    if query.angle != Angle::Project {
        return;
    }
    let worked = kept.get(plan, String::new(), || budget::worked(plan));
    let ahead = match heads.len() {
        1 => budget::ahead_of_one(plan, query.today),
        _ => budget::ahead(plan, query.today),
    };
    for head in heads {
        if let RowKey::Project(Some(id)) = head.key {
            head.budget = Some(budget::of_project(plan, id, &worked, &ahead));
        }
    }
}

/// The heads among lines.
pub fn heads_of<'l, 'a>(lines: &'l mut [Line<'a>]) -> Vec<&'l mut Head<'a>> {
    let head = |line: &'l mut Line<'a>| match line {
        Line::Head(head) => Some(head),
        _ => None,
    };
    lines.iter_mut().filter_map(head).collect()
}
