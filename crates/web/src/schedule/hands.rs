//! What hands do to work between people and teams: slips that change days and owners, what leaves the tray, what is drawn anew.

use super::{
    asked::Asked,
    long::{minutes_in, team_of},
};
use crate::Error;
use snug_core::{
    Command, Day, PersonId, Plan, ProjectId, Refusal, TeamId,
    change::{Change, Edit},
    demand::left_of,
    handing,
    kinds::{Assignees, Kind, Task},
    long_view::resized,
    network::Mode,
    spread::round_half_up,
    tray,
};

/// Whether a deed is one of these; the others are [`Asked::command`]'s.
pub fn knows(deed: &str) -> bool {
    matches!(deed, "slip" | "hand" | "drop" | "create" | "item" | "size" | "give")
}

/// What a deed asks for.
///
/// # Errors
/// What cannot be read, or no longer stands as it was seen.
pub fn command(asked: &Asked, plan: &Plan, deed: &str, today: Day) -> Result<Command, Error> {
    match deed {
        "slip" | "hand" => slip(asked, plan, today),
        "drop" => {
            let (task, person) = (asked.task(plan)?, taker(asked, plan)?);
            let Some(person) = person else { return Err(Refusal::value("to", "Drop it on somebody.").into()) };
            let day = asked.day_at()?;
            let after = tray::dropped(plan, &task, person, day, today);
            Ok(edit(vec![Change::Task(Edit::alter(task, after))]))
        }
        "create" => create(asked, plan),
        "item" => item(asked, plan, today),
        "size" => {
            let task = asked.task(plan)?;
            let left =
                asked.minutes_typed(plan)?.ok_or_else(|| Refusal::value("estimate", "Say what is left of it."))?;
            let after = resized(plan, &task, left);
            Ok(edit(vec![Change::Task(Edit::alter(task, after))]))
        }
        "give" => given(asked, plan),
        _ => Err(Error::BadRequest("Nobody knows how to do that.".to_owned())),
    }
}

fn edit(changes: Vec<Change>) -> Command {
    Command::Edit { changes }
}

/// On whom something is dropped, if it leaves its row: by number, or by the address that a form says.
fn taker(asked: &Asked, plan: &Plan) -> Result<Option<PersonId>, Error> {
    let to = asked.to.trim();
    if to.is_empty() || to == asked.row {
        return Ok(None);
    }
    let found = to.parse().ok().or_else(|| plan.find(Kind::Person, to)).map(PersonId);
    let found = found.filter(|id| plan.people.contains_key(id));
    found.map(Some).ok_or_else(|| Refusal::value("to", "There is nobody by that address in the plan.").into())
}

/// Slips that are moved to other days, stretched, handed to somebody else, or split with them.
fn slip(asked: &Asked, plan: &Plan, today: Day) -> Result<Command, Error> {
    // What is late lies from today on, whatever its dates say, and moves from there.
    let (tasks, mode) = asked.wanted(plan, Mode::Push, today, &|task| task.is_late(today).then_some(today))?;
    let Some(to) = taker(asked, plan)? else { return Ok(Command::MoveTasks { tasks, mode }) };
    let from = asked.row.parse().ok().map(PersonId);
    let split = asked.split == "yes";
    let is_moved = asked.shift()? != 0;
    let handed = |(task, day): (Task, Day)| -> Result<Change, Error> {
        let assignees = handing::handed(plan, &task.assignees, from, to, split)?;
        let there = if is_moved { handing::redated(plan, &task, day, today)? } else { task.clone() };
        Ok(Change::Task(Edit::alter(task, Task { assignees, ..there })))
    };
    Ok(edit(tasks.into_iter().map(handed).collect::<Result<_, _>>()?))
}

/// A task that is drawn where nothing was: whose, and when.
fn create(asked: &Asked, plan: &Plan) -> Result<Command, Error> {
    let project = plan.find(Kind::Project, asked.project.trim()).map(ProjectId);
    let project = project
        .ok_or_else(|| Refusal::value("project", "Say in which project this is; choose one that is offered."))?;
    let estimate = asked.minutes_typed(plan)?;
    let (start, finish) = asked.dates()?;
    let (people, team) = match asked.row.trim() {
        "" => (Vec::new(), None),
        row => match team_of(row) {
            Some(team) => (Vec::new(), Some(team)),
            None => (row.parse().ok().map(PersonId).into_iter().collect(), None),
        },
    };
    let task = Task {
        title: asked.title.trim().to_owned(),
        project,
        team,
        assignees: Assignees::Even(people),
        estimate,
        start: Some(start),
        finish: Some(finish),
        ..<Task as snug_core::kinds::Record>::blank()
    };
    Ok(edit(vec![Change::Task(Edit::new(task))]))
}

/// An item of the long view that is moved, stretched, made larger, or given to another team.
fn item(asked: &Asked, plan: &Plan, today: Day) -> Result<Command, Error> {
    if let Some(to) = team_of(&asked.to).filter(|_| asked.to != asked.row) {
        let split = asked.split == "yes";
        let changes = asked
            .tasks(plan)?
            .into_iter()
            .map(|task| given_to(plan, task, team_of(&asked.row), to, split.then_some(50)));
        return Ok(edit(changes.collect::<Result<Vec<_>, _>>()?.concat()));
    }
    if let Some(wanted) = asked.minutes {
        let (task, team) = (asked.task(plan)?, team_of(&asked.row));
        let now =
            team.map_or(0, |team| minutes_in(plan, &asked.room, team, task.id, asked.day_at().unwrap_or(today), today));
        if now == 0 {
            return Err(Refusal::value("minutes", "Nothing of it lies here to be made larger.").into());
        }
        let left = left_of(plan, &task).unwrap_or(0);
        // To the quarter of an hour, and never down to nothing.
        let left = round_half_up(left * i64::from(wanted.clamp(0, 600_000)), now * 15) * 15;
        let after = resized(plan, &task, left.max(15));
        return Ok(edit(vec![Change::Task(Edit::alter(task, after))]));
    }
    asked.moved_from(plan, Mode::Push, today, &|task| task.is_late(today).then_some(today))
}

/// An item that a form gives to another team, as a whole or a part of it.
fn given(asked: &Asked, plan: &Plan) -> Result<Command, Error> {
    let to = plan.find(Kind::Team, asked.to.trim()).map(TeamId);
    let to = to.ok_or_else(|| Refusal::value("to", "There is no such team; choose one that is offered."))?;
    let percent = match asked.count.trim() {
        "" | "100" => None,
        text => {
            let percent = text.parse().ok().filter(|percent| (1..100).contains(percent));
            Some(percent.ok_or_else(|| Refusal::value("count", "Write a percentage from 1 to 100."))?)
        }
    };
    Ok(edit(given_to(plan, asked.task(plan)?, team_of(&asked.row), to, percent)?))
}

/// What changes when a task goes from one team to another: as a whole, with everything inside it that names the first one, or as many
/// percent of it.
fn given_to(
    plan: &Plan,
    task: Task,
    from: Option<TeamId>,
    to: TeamId,
    percent: Option<i32>,
) -> Result<Vec<Change>, Error> {
    if let Some(percent) = percent {
        let from = task.team.or(from).unwrap_or(to);
        let shares = [(from, (100 - percent) * 100), (to, percent * 100)];
        let (whole, parts) = handing::split_between_teams(plan, &task, &shares)?;
        let parts = parts.into_iter().map(|part| Change::Task(Edit::new(part)));
        return Ok(std::iter::once(Change::Task(Edit::alter(task, whole))).chain(parts).collect());
    }
    let was = task.team;
    let mut left = vec![task.id];
    let mut changes = Vec::new();
    while let Some(id) = left.pop() {
        left.extend(plan.children_of(id));
        let Some(one) = plan.tasks.get(&id) else { continue };
        if id == task.id || one.team.is_some() && one.team == was {
            changes.push(Change::Task(Edit::alter((**one).clone(), Task { team: Some(to), ..(**one).clone() })));
        }
    }
    Ok(changes)
}
