//! What holds between records.

use super::{
    MOST_LEVELS, MOST_MINUTES, Refusal,
    hours::{lines_stand, log_may_stand},
};
use crate::{
    Eyes, PersonId, Plan, TaskId,
    change::Change,
    kinds::{Booking, Key, Task, Who},
    network::links_may_stand,
    plan::Brick,
};
use std::{
    collections::{BTreeMap, HashMap, HashSet},
    hash::Hash,
};

/// A key is given once. `plan` is the one before the change.
///
/// # Errors
/// Another record has the key.
pub fn free_key(plan: &Plan, change: &Change) -> Result<(), Refusal> {
    let (kind, id) = change.subject();
    let about = kind.about();
    let Some(record) = change.record().filter(|_| !change.removes()) else { return Ok(()) };
    let key = record.key();
    let holder = match about.key {
        Key::Named | Key::Ref => plan.find(kind, &key),
        Key::Pair => {
            kind.all(plan).iter().find(|other| other.number() != id && other.key() == key).map(|other| other.number())
        }
        Key::Row => None,
    };
    if holder.is_none_or(|holder| holder == id) {
        return Ok(());
    }
    let shown = record.cell(&Eyes::of_all(plan), about.key_column);
    let message = match about.key {
        Key::Pair => format!("“{shown}” stands there already."),
        _ => format!("There is a {} with “{shown}” already.", about.words.0),
    };
    Err(Refusal::value(about.key_column, message))
}

/// A booking's reference, by which a row of a file finds it again, is given once.
///
/// # Errors
/// Another booking has it.
pub fn free_reference(plan: &Plan, booking: &Booking) -> Result<(), Refusal> {
    let same = |other: &Booking| other.id != booking.id && other.reference == booking.reference;
    if booking.reference.is_empty() || !plan.bookings().any(|other| same(&other)) {
        return Ok(());
    }
    Err(Refusal::value("ref", format!("There is a booking with “{}” already.", booking.reference)))
}

/// What holds between records: nothing is inside itself, nobody gives more time to teams than there is, no day
/// has more than 24 hours, no chain of links closes. `plan` has the changes in it already.
///
/// # Errors
/// What these records may not say together.
pub fn whole(plan: &Plan, changes: &[Change]) -> Result<(), Refusal> {
    let any = |is: fn(&Change) -> bool| changes.iter().any(is);
    let nested = |what: &str, (_, how): (i32, Nesting)| {
        let message = match how {
            Nesting::Circle => format!("A {what} cannot be inside itself."),
            Nesting::TooDeep => format!("Nest {what}s at most {} levels deep.", most_levels()),
        };
        Refusal::value("parent", message)
    };
    if any(|change| matches!(change, Change::Team(_)))
        && let Some(found) = nesting(plan.records.teams.values().map(|team| (team.id.0, team.parent.map(|id| id.0))))
    {
        return Err(nested("team", found));
    }
    if any(|change| matches!(change, Change::Project(_)))
        && let Some(found) = nesting(plan.records.projects.values().map(|it| (it.id.0, it.parent.map(|id| id.0))))
    {
        return Err(nested("project", found));
    }
    let mut moved = changes.iter().filter_map(|change| match change {
        Change::Task(edit)
            if edit.before.as_ref().map(|task| task.parent) != edit.after.as_ref().map(|task| task.parent) =>
        {
            edit.after.as_ref().map(|task| task.id)
        }
        _ => None,
    });
    if let Some(how) = moved.find_map(|id| task_nesting(plan, id)) {
        return Err(nested("task", (0, how)));
    }
    if any(|change| matches!(change, Change::Team(_)))
        && let Some((person, given)) = given(plan).into_iter().find(|(_, share)| *share > 10_000)
    {
        let name = plan.people.get(&person).map_or("Somebody", |entry| entry.person.name.as_str());
        let given = f64::from(given) / 100.0;
        return Err(Refusal::value("members", format!("{name} would give {given} % of their time to teams.")));
    }
    log_may_stand(plan, changes)?;
    lines_stand(plan, changes)?;
    links_may_stand(plan, changes).map_err(|(_, refusal)| refusal)
}

/// What everybody gives of their time to teams, in hundredths of a percent.
pub fn given(plan: &Plan) -> BTreeMap<PersonId, i32> {
    let mut given: BTreeMap<PersonId, i32> = BTreeMap::new();
    for (person, share) in plan.records.teams.values().flat_map(|team| &team.members) {
        *given.entry(*person).or_default() += share;
    }
    given
}

/// How nesting cannot be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Nesting {
    /// Something stands above itself.
    Circle,
    /// Something has more than [`MOST_LEVELS`] above it.
    TooDeep,
}

/// What is wrong with where a task stands: looked at from it, up and down.
fn task_nesting(plan: &Plan, id: TaskId) -> Option<Nesting> {
    let mut above = 0;
    let mut next = plan.tasks.get(&id)?.parent;
    while let Some(parent) = next {
        above += 1;
        if parent == id {
            return Some(Nesting::Circle);
        }
        if above > MOST_LEVELS {
            return Some(Nesting::TooDeep);
        }
        next = plan.tasks.get(&parent).and_then(|task| task.parent);
    }
    let mut level = vec![id];
    while !level.is_empty() {
        if above > MOST_LEVELS {
            return Some(Nesting::TooDeep);
        }
        above += 1;
        level = level.iter().flat_map(|id| plan.children_of(*id)).copied().collect();
    }
    None
}

/// Finds something that stands above itself, or too deep, if anything does. Each item is an identity and its parent. Each is looked
/// at once.
pub fn nesting<K: Copy + Eq + Hash + Ord>(parents: impl Iterator<Item = (K, Option<K>)>) -> Option<(K, Nesting)> {
    let parents: BTreeMap<K, Option<K>> = parents.collect();
    let mut depths: HashMap<K, usize> = HashMap::new();
    for start in parents.keys() {
        let (mut path, mut on_path) = (Vec::new(), HashSet::new());
        let mut at = Some(*start);
        while let Some(here) = at.filter(|here| !depths.contains_key(here)) {
            if !on_path.insert(here) {
                return Some((here, Nesting::Circle));
            }
            path.push(here);
            at = parents.get(&here).copied().flatten();
        }
        let first = at.and_then(|above| depths.get(&above)).map_or(0, |depth| depth + 1);
        for (depth, here) in (first..).zip(path.into_iter().rev()) {
            if depth > MOST_LEVELS {
                return Some((here, Nesting::TooDeep));
            }
            depths.insert(here, depth);
        }
    }
    None
}

/// Somebody, a team or a role that would hold more than [`MOST_MINUTES`] after these changes, and how much. `plan` is the one before
/// them. Bookings count with the most that they can come to, tasks with all that is planned of them, whoever's part it is.
pub fn overloaded<'a>(plan: &Plan, changes: impl IntoIterator<Item = &'a Change>) -> Option<(Who, i64)> {
    let mut added: BTreeMap<Who, i64> = BTreeMap::new();
    let mut put = |who: Who, minutes: i64| *added.entry(who).or_default() += minutes;
    for change in changes {
        match change {
            Change::Booking(edit) => {
                let of = |booking: &Option<Booking>, sign: i64| {
                    booking.as_ref().map(|it| (it.who.clone(), sign * Brick::of(it).most()))
                };
                [of(&edit.before, -1), of(&edit.after, 1)].into_iter().flatten().for_each(|(who, most)| put(who, most));
            }
            Change::Task(edit) => {
                edit.before.iter().for_each(|task| each_load(task, &mut |who, most| put(who, -most)));
                edit.after.iter().for_each(|task| each_load(task, &mut put));
            }
            _ => {}
        }
    }
    // What grows is held against the bound, with what stands already.
    added.into_iter().filter(|(_, more)| *more > 0).find_map(|(who, more)| {
        let sum = standing_load(plan, &who) + more;
        (sum > MOST_MINUTES).then_some((who, sum))
    })
}

/// Shows whose load a task can be, and the most that it can come to.
fn each_load(task: &Task, put: &mut impl FnMut(Who, i64)) {
    let heads = task.assignees.heads();
    let typed = task.remaining.map_or(0, |remaining| task.logged_then + remaining * heads);
    let most = typed.max(task.estimate.unwrap_or(0) * heads);
    match task.team {
        Some(team) if task.assignees.is_empty() => put(Who::Team(team), most),
        _ => task.assignees.people().for_each(|person| put(Who::Person(person), most)),
    }
}

/// The most that somebody, a team or a role holds already.
fn standing_load(plan: &Plan, who: &Who) -> i64 {
    let of_tasks = |tasks: &mut dyn Iterator<Item = &TaskId>| {
        let mut sum = 0;
        for task in tasks.filter_map(|id| plan.tasks.get(id)) {
            each_load(task, &mut |of, most| sum += if of == *who { most } else { 0 });
        }
        sum
    };
    match who {
        Who::Person(id) => plan.people.get(id).map_or(0, |entry| {
            entry.numbers.bricks().iter().map(Brick::most).sum::<i64>() + of_tasks(&mut entry.tasks.iter())
        }),
        Who::Team(_) | Who::Role(_) => {
            let seats = plan.seats.values().filter(|seat| seat.who == *who);
            seats.map(|seat| Brick::of(seat).most()).sum::<i64>() + of_tasks(&mut plan.nameless_tasks.iter())
        }
    }
}

/// Nobody's row holds more than can be summed.
///
/// # Errors
/// What one person, team or role would hold beyond what can be added up.
pub fn bounded(plan: &Plan, changes: &[Change]) -> Result<(), Refusal> {
    overloaded(plan, changes).map_or(Ok(()), |(_, minutes)| Err(Refusal::value("amount", too_much(minutes))))
}

/// [`MOST_LEVELS`] in words.
pub fn most_levels() -> String {
    grouped(i64::try_from(MOST_LEVELS).unwrap_or(i64::MAX))
}

/// A whole number as one reads it: 10,000,000.
#[must_use]
pub fn grouped(number: i64) -> String {
    let digits = number.unsigned_abs().to_string();
    let with_comma = |(at, digit): (usize, char)| {
        let comma = at > 0 && (digits.len() - at).is_multiple_of(3);
        [comma.then_some(','), Some(digit)].into_iter().flatten()
    };
    let sign = (number < 0).then_some('−').into_iter();
    sign.chain(digits.chars().enumerate().flat_map(with_comma)).collect()
}

/// The sentence for a row that would hold too much.
pub fn too_much(minutes: i64) -> String {
    let (most, sum) = (grouped(MOST_MINUTES / 60), grouped(minutes / 60));
    format!("One row holds at most {most} hours of bookings and tasks in all; this one would hold {sum}.")
}
