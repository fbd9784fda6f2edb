//! What holds between records.

use super::Refusal;
use crate::{Day, PersonId, Plan, TaskId, change::Change, work::LinkKind};
use std::{
    collections::{BTreeMap, HashMap, HashSet},
    hash::Hash,
};

/// A key is given once. `plan` is the one before the change.
pub fn free_key(plan: &Plan, change: &Change) -> Result<(), Refusal> {
    let (kind, id) = change.subject();
    let (field, key, shown) = match change {
        Change::Person(edit) => ("email", edit.after.as_ref().map(|r| r.email.to_lowercase()), None),
        Change::Team(edit) => ("code", edit.after.as_ref().map(|r| r.code.clone()), None),
        Change::Project(edit) => ("code", edit.after.as_ref().map(|r| r.code.clone()), None),
        Change::Task(edit) => ("ref", edit.after.as_ref().map(|r| r.reference.clone()), None),
        Change::Field(edit) => {
            let field = edit.after.as_ref();
            ("name", field.map(|r| format!("{} {}", r.of, r.name)), field.map(|r| r.name.clone()))
        }
        _ => return Ok(()),
    };
    let Some(key) = key.filter(|key| !key.is_empty()) else { return Ok(()) };
    match plan.find(kind, &key) {
        Some(holder) if holder != id => {
            let shown = shown.unwrap_or(key);
            Err(Refusal::value(field, format!("There is a {kind} with “{shown}” already.")))
        }
        _ => Ok(()),
    }
}

/// What holds between records: nothing is inside itself, nobody gives more time to teams than there is, no day
/// has more than 24 hours, no chain of links closes. `plan` has the changes in it already.
pub fn whole(plan: &Plan, changes: &[Change]) -> Result<(), Refusal> {
    let any = |is: fn(&Change) -> bool| changes.iter().any(is);
    if any(|change| matches!(change, Change::Team(_)))
        && cycle(plan.teams.values().map(|team| (team.id, team.parent))).is_some()
    {
        return Err(Refusal::value("parent", "A team cannot be inside itself."));
    }
    if any(|change| matches!(change, Change::Project(_)))
        && cycle(plan.projects.values().map(|project| (project.id, project.parent))).is_some()
    {
        return Err(Refusal::value("parent", "A project cannot be inside itself."));
    }
    let tasks = changes.iter().filter(|change| matches!(change, Change::Task(_)));
    if tasks.map(|change| TaskId(change.subject().1)).any(|id| is_inside_itself(plan, id)) {
        return Err(Refusal::value("parent", "A task cannot be inside itself."));
    }
    if any(|change| matches!(change, Change::Team(_)))
        && let Some((person, given)) = overgiven(plan)
    {
        let name = plan.people.get(&person).map_or("Somebody", |entry| entry.person.name.as_str());
        let given = f64::from(given) / 100.0;
        return Err(Refusal::value("members", format!("{name} would give {given} % of their time to teams.")));
    }
    if let Some((person, date, minutes)) = overfull_day(plan, changes) {
        let name = plan.people.get(&person).map_or("Somebody", |entry| entry.person.name.as_str());
        let hours = format!("{}:{:02}", minutes / 60, minutes % 60);
        return Err(Refusal::value("hours", format!("{name} would have {hours} hours on {date}; a day has 24.")));
    }
    if any(|change| matches!(change, Change::Link(_)))
        && let Some(names) = link_cycle(plan)
    {
        let message = format!("This would close a circle: {}.", names.join(" → "));
        return Err(Refusal::value("to", message));
    }
    Ok(())
}

/// Somebody who gives more than all of their time to teams, and how much, in hundredths of a percent.
fn overgiven(plan: &Plan) -> Option<(PersonId, i32)> {
    let mut given: BTreeMap<PersonId, i32> = BTreeMap::new();
    for (person, share) in plan.teams.values().flat_map(|team| &team.members) {
        *given.entry(*person).or_default() += share;
    }
    given.into_iter().find(|(_, share)| *share > 10_000)
}

/// The first day touched by these changes on which somebody has logged more than 24 hours.
pub fn overfull_day(plan: &Plan, changes: &[Change]) -> Option<(PersonId, Day, i64)> {
    let touched = changes.iter().filter_map(|change| match change {
        Change::TimeEntry(edit) => edit.after.as_ref(),
        _ => None,
    });
    touched
        .map(|entry| {
            let sum = plan.logged_on(entry.person, entry.date).map(|other| i64::from(other.minutes)).sum();
            (entry.person, entry.date, sum)
        })
        .find(|(_, _, sum)| *sum > 1_440)
}

/// The names of tasks whose links lead back to where they began.
pub fn link_cycle(plan: &Plan) -> Option<Vec<String>> {
    let mut next: HashMap<TaskId, Vec<TaskId>> = HashMap::new();
    for link in plan.links.values().filter(|link| link.kind != LinkKind::Relates) {
        next.entry(link.from).or_default().push(link.to);
    }
    let mut done: HashSet<TaskId> = HashSet::new();
    let mut starts: Vec<TaskId> = next.keys().copied().collect();
    starts.sort_unstable();
    for start in starts {
        // The path so far, each with the successors still to be followed.
        let mut path = vec![(start, next.get(&start).cloned().unwrap_or_default())];
        while let Some((task, rest)) = path.last_mut() {
            let Some(to) = rest.pop() else {
                done.insert(*task);
                path.pop();
                continue;
            };
            if let Some(at) = path.iter().position(|(task, _)| *task == to) {
                let name = |id: TaskId| plan.tasks.get(&id).map_or_else(String::new, |task| task.title.clone());
                return Some(path[at..].iter().map(|(task, _)| *task).chain([to]).map(name).collect());
            }
            if !done.contains(&to) {
                path.push((to, next.get(&to).cloned().unwrap_or_default()));
            }
        }
    }
    None
}

/// Whether a task stands somewhere above itself.
fn is_inside_itself(plan: &Plan, id: TaskId) -> bool {
    let mut seen = HashSet::new();
    let mut above = plan.tasks.get(&id).and_then(|task| task.parent);
    while let Some(parent) = above.filter(|parent| seen.insert(*parent)) {
        if parent == id {
            return true;
        }
        above = plan.tasks.get(&parent).and_then(|task| task.parent);
    }
    false
}

/// Finds somebody who stands above themselves, if anybody does. Each item is an identity and its parent.
pub fn cycle<K: Copy + Eq + Hash>(parents: impl Iterator<Item = (K, Option<K>)>) -> Option<K> {
    let parents: HashMap<K, Option<K>> = parents.collect();
    let mut safe: HashSet<K> = HashSet::new();
    for start in parents.keys() {
        let mut path = vec![*start];
        while let Some(Some(parent)) = parents.get(path.last()?) {
            if safe.contains(parent) {
                break;
            }
            if path.contains(parent) {
                return Some(*parent);
            }
            path.push(*parent);
        }
        safe.extend(path);
    }
    None
}
