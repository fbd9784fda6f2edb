//! Work that changes hands: from one person to another, or to a second one besides.

use crate::{
    Day, PersonId, Plan, Refusal, TaskId,
    availability::Days,
    demand::effort_of,
    kinds::{Assignees, Task},
    network::{self, Ground, Mode},
};

/// Who does a task once it is dropped on somebody: in place of `from`, whose part they take; besides everybody with `split`.
///
/// Where each one has a share, a second person takes half of the first one's; who has a part already and gets another one's has both.
///
/// # Errors
/// A split with somebody who has a part of it already, or of a share too small to be cut.
pub fn handed(
    plan: &Plan,
    assignees: &Assignees,
    from: Option<PersonId>,
    to: PersonId,
    split: bool,
) -> Result<Assignees, Refusal> {
    let name = |id: PersonId| plan.people.get(&id).map_or("Somebody", |entry| entry.person.name.as_str());
    if split && assignees.people().any(|person| person == to) {
        return Err(Refusal::value("to", format!("{} has a part of it already.", name(to))));
    }
    let from = from.filter(|from| assignees.people().any(|person| person == *from)).or(assignees.people().next());
    let plain = |people: &[PersonId]| -> Vec<PersonId> {
        let mut people = people.to_vec();
        if split {
            people.push(to);
        } else if people.contains(&to) {
            people.retain(|person| Some(*person) != from);
        } else {
            people.iter_mut().filter(|person| Some(**person) == from).for_each(|person| *person = to);
        }
        if people.is_empty() { vec![to] } else { people }
    };
    if from == Some(to) {
        return Ok(assignees.clone());
    }
    Ok(match assignees {
        Assignees::Even(people) => Assignees::Even(plain(people)),
        Assignees::Full(people) => Assignees::Full(plain(people)),
        Assignees::Shares(shares) => {
            let mut shares = shares.clone();
            let taken = match shares.iter_mut().find(|(person, _)| Some(*person) == from) {
                Some((_, share)) if split => {
                    let half = *share / 2;
                    *share -= half;
                    half
                }
                Some((_, share)) => std::mem::take(share),
                None => 0,
            };
            if taken == 0 {
                return Err(Refusal::value("to", "There is no share here that could be cut in two."));
            }
            if let Some((_, share)) = shares.iter_mut().find(|(person, _)| *person == to) {
                *share += taken;
            } else {
                // Beside who gives it away, as parts are cut in the order written.
                let at = shares.iter().position(|(person, _)| Some(*person) == from).map_or(0, |at| at + 1);
                shares.insert(at, (to, taken));
            }
            shares.retain(|(_, share)| *share > 0);
            Assignees::Shares(shares)
        }
    })
}

/// Where a task stands that goes to another day as it changes hands: there, where it would if it were only moved. What follows it is seen
/// to as after any other edit.
///
/// # Errors
/// What stops such a move.
pub fn redated(plan: &Plan, task: &Task, day: Day, today: Day) -> Result<Task, Refusal> {
    let moved = network::moved(&Ground::new(plan, today), &[(task.id, day)], Mode::Push);
    let moved = moved.map_err(|stopped| network::refused(plan, &stopped))?;
    let own = moved.iter().find(|it| it.task == task.id).map(|it| it.to);
    let (start, finish) = own.map_or((task.start, task.finish), |(start, finish)| (Some(start), Some(finish)));
    Ok(Task { start, finish, ..task.clone() })
}

/// What days off do to a task of somebody's.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct OffDays {
    /// Whose days.
    pub person: PersonId,
    /// How many of its days on which they usually work are off.
    pub off: usize,
    /// Whether no day is left on which they work.
    pub all: bool,
}

/// Those who have a part of a task and are off on days of it on which they usually work, or work on none of them.
#[must_use]
pub fn off_days(plan: &Plan, task: &Task) -> Vec<OffDays> {
    let Some((start, finish)) = task.start.zip(task.finish) else { return Vec::new() };
    let parts = effort_of(plan, task).map(|effort| effort.parts).unwrap_or_default();
    let people = task.assignees.people().filter_map(|id| plan.people.get(&id));
    let has_part = |id: PersonId| parts.iter().any(|(person, part)| *person == id && *part > 0);
    let of_one = |entry: &crate::plan::Entry| {
        let days = Days::of(plan, entry, start, finish);
        let range = days.indexes(start, finish);
        let off = range.clone().filter(|at| days.pattern[*at] > 0 && days.available[*at] == 0).count();
        OffDays { person: entry.person.id, off, all: days.available.sum(range) == 0 }
    };
    people.filter(|entry| has_part(entry.person.id)).map(of_one).filter(|it| it.off > 0 || it.all).collect()
}

/// A task and the parts into which it is broken, one for each of several teams.
pub type Parts = (Task, Vec<Task>);

/// Splits a task without a name between teams: what is left of it, cut by the shares given (in hundredths of a percent, which add up to
/// the whole), becomes a task inside it for each team, on the same days. The task itself stays what it was to everything that hangs on
/// it, and no longer names a team.
///
/// # Errors
/// Shares that do not add up, a team named twice, or a task that people are named for or that has something inside it already.
pub fn split_between_teams(plan: &Plan, task: &Task, shares: &[(crate::TeamId, i32)]) -> Result<Parts, Refusal> {
    if !plan.children_of(task.id).is_empty() {
        let message = "It is broken down already; give what is inside it to the teams.";
        return Err(Refusal::value("shares", message));
    }
    if !task.assignees.is_empty() {
        return Err(Refusal::value(
            "shares",
            "People are named for it; split it between them, or take them off first.",
        ));
    }
    if shares.len() < 2 {
        return Err(Refusal::value("shares", "Name at least two teams with a share."));
    }
    let mut teams: Vec<_> = shares.iter().map(|(team, _)| *team).collect();
    teams.sort_unstable();
    teams.dedup();
    if teams.len() < shares.len() {
        return Err(Refusal::value("shares", "A team stands here twice."));
    }
    if shares.iter().any(|(_, share)| *share <= 0) || shares.iter().map(|(_, share)| *share).sum::<i32>() != 10_000 {
        return Err(Refusal::value("shares", "The shares add up to 100 %, each more than nothing."));
    }
    let weights: Vec<i64> = shares.iter().map(|(_, share)| i64::from(*share)).collect();
    let left = crate::demand::left_of(plan, task);
    let cut = left.and_then(|left| crate::spread::largest_remainder(left, &weights));
    let part = |(at, (team, _)): (usize, &(crate::TeamId, i32))| Task {
        id: TaskId(0),
        reference: String::new(),
        title: match plan.records.teams.get(team) {
            Some(team) => format!("{}: {}", task.title, team.name),
            None => task.title.clone(),
        },
        parent: Some(task.id),
        team: Some(*team),
        estimate: cut.as_ref().map(|cut| cut[at]),
        remaining: None,
        logged_then: 0,
        points: None,
        place: None,
        sprint: None,
        release: None,
        milestones: Vec::new(),
        progress: None,
        ..task.clone()
    };
    let parts = shares.iter().enumerate().map(part).collect();
    Ok((Task { team: None, ..task.clone() }, parts))
}
