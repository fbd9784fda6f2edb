//! What is done in the sheet of a task: whether it is stuck, who follows it, its checklist, what stands elsewhere about it.

use super::asked::{Asked, put};
use crate::{Error, columns};
use rust_decimal::Decimal;
use snug_core::{
    Command, Eyes, Plan, Refusal, Tag,
    change::{Change, Edit},
    kinds::{Check, CheckId, Reference, ReferenceId, Task},
};

/// The deeds of whoever does a task, and of whoever follows one.
pub fn is_for_members(deed: &str) -> bool {
    matches!(deed, "done" | "stuck" | "going" | "follow" | "check-add" | "check" | "check-gone")
}

/// Whether a deed is one of these; the others are [`Asked::command`]'s.
pub fn knows(deed: &str) -> bool {
    matches!(deed, "stuck" | "going" | "follow" | "check-add" | "check" | "check-gone" | "refer" | "refer-gone")
}

/// Lines that are added to a checklist at once.
const MOST_LINES: usize = 100;

/// What a deed asks for; `by` is who asks, by their address.
pub fn command(asked: &Asked, plan: &Plan, deed: &str, by: &str) -> Result<Command, Error> {
    let one = |change: Change| Ok(Command::Edit { changes: vec![change] });
    match deed {
        "stuck" => one(stuck(asked, plan)?),
        "going" => {
            let task = asked.task(plan)?;
            one(put(&task, Task { stuck: String::new(), waiting_on: None, ..task.clone() }))
        }
        "follow" => one(follow(asked, plan, by)?),
        "check-add" => Ok(Command::Edit { changes: more_lines(asked, plan)? }),
        "check" => {
            let line: Check = plan.record_as_seen(asked.seen.parse::<Tag>()?)?;
            let done = !line.done;
            one(Change::Check(Edit::alter(line.clone(), Check { done, ..line })))
        }
        "check-gone" => one(Change::Check(Edit::remove(plan.record_as_seen(asked.seen.parse::<Tag>()?)?))),
        "refer" => one(refer(asked, plan)?),
        "refer-gone" => one(Change::Reference(Edit::remove(plan.record_as_seen(asked.seen.parse::<Tag>()?)?))),
        _ => Err(Error::BadRequest("Nobody knows how to do that.".to_owned())),
    }
}

/// Why it does not go on, and whom it waits for; read like the columns of a file.
fn stuck(asked: &Asked, plan: &Plan) -> Result<Change, Error> {
    let task = asked.task(plan)?;
    let seen = Change::Task(Edit::new(task));
    let cells = [("stuck", asked.text.trim()), ("waiting_on", asked.waiting_on.trim())];
    if cells.iter().all(|(_, value)| value.is_empty()) {
        return Err(Refusal::value("text", "Say why it is stuck, or whom it waits for.").into());
    }
    let to = columns::altered(&Eyes::of_all(plan), &seen, &cells).map_err(|problems| {
        let (_, reason) = problems.into_iter().next().unwrap_or_default();
        Error::from(Refusal::value("text", crate::words::capital(&reason)))
    })?;
    Ok(Change::between(&seen, &to).unwrap_or(seen))
}

/// Whoever asks follows a task from now on, or no longer.
fn follow(asked: &Asked, plan: &Plan, by: &str) -> Result<Change, Error> {
    let task = asked.task(plan)?;
    let Some(person) = plan.person_by_email(by).map(|entry| entry.person.id) else {
        return Err(
            Refusal::value("seen", "Only people of the plan follow tasks; your account is none of them.").into()
        );
    };
    let mut followers = task.followers.clone();
    if followers.contains(&person) {
        followers.retain(|known| *known != person);
    } else {
        followers.push(person);
    }
    Ok(put(&task, Task { followers, ..task.clone() }))
}

/// A line of a checklist for each line that was typed, below those that are there.
fn more_lines(asked: &Asked, plan: &Plan) -> Result<Vec<Change>, Error> {
    let task = asked.other(plan)?.id;
    let typed: Vec<&str> = asked.text.lines().map(str::trim).filter(|line| !line.is_empty()).collect();
    if typed.is_empty() {
        return Err(Refusal::value("text", "Say what is to be ticked off.").into());
    }
    if typed.len() > MOST_LINES {
        return Err(Refusal::value("text", format!("Add at most {MOST_LINES} lines at once.")).into());
    }
    let mut place = plan.checklist(task).last().map_or(Decimal::ZERO, |line| line.place.floor());
    let line = |text: &str| {
        place += Decimal::ONE;
        Change::Check(Edit::new(Check { id: CheckId(0), task, text: text.to_owned(), done: false, place }))
    };
    Ok(typed.into_iter().map(line).collect())
}

fn refer(asked: &Asked, plan: &Plan) -> Result<Change, Error> {
    let task = asked.other(plan)?.id;
    let count = match asked.count.trim() {
        "" => None,
        text => {
            let told = |_| Refusal::value("count", format!("“{text}” is no whole number."));
            Some(text.parse().map_err(told)?)
        }
    };
    let text = |text: &str| text.trim().to_owned();
    Ok(Change::Reference(Edit::new(Reference {
        id: ReferenceId(0),
        task,
        address: text(&asked.address),
        title: text(&asked.title),
        state: text(&asked.state),
        count,
    })))
}
