//! The ticked part of a proposal, put into the plan.

use super::{MOST, asked::Asked};
use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::{self, Here},
    words,
};
use axum::{
    Form,
    extract::State,
    response::{IntoResponse as _, Redirect, Response},
};
use snug_core::{
    Command, Day, PersonId, Plan, Refusal, RefusalCode, Role, Tag, TaskId,
    kinds::{Assignees, Task},
    tuck_in::{Tucked, with_needs},
};
use std::collections::{BTreeMap, BTreeSet};

/// `412-9f3ac1d2|2026-03-16|2026-03-18|7`: a task as it was seen, its first and last day, and who was chosen, if somebody was.
fn tucked(plan: &Plan, text: &str) -> Result<Tucked, Refusal> {
    let broken = || Refusal::value("row", "The page does not say where a task is to go.".to_owned());
    let parts: Vec<&str> = text.split('|').collect();
    let [tag, start, finish, person] = parts.as_slice() else { return Err(broken()) };
    let day = |text: &str| text.parse::<Day>().map_err(|_| broken());
    let tag: Tag = tag.parse().map_err(|_| broken())?;
    let title = |id: i32| plan.tasks.get(&TaskId(id)).map(|task| format!("“{}”: ", task.title)).unwrap_or_default();
    let seen: Task = plan.record_as_seen(tag).map_err(|refusal| {
        let message = format!("{}{}", title(tag.id), refusal.message);
        Refusal { message, ..refusal }
    })?;
    let assignees = match *person {
        "" => seen.assignees.clone(),
        id => Assignees::Even(vec![PersonId(id.parse().map_err(|_| broken())?)]),
    };
    Ok(Tucked { to: (day(start)?, day(finish)?), assignees, seen })
}

/// What is ticked, and what that needs.
fn ticked(plan: &Plan, today: Day, pairs: &Pairs) -> Result<Vec<Tucked>, Refusal> {
    let all =
        |name: &'static str| pairs.iter().filter(move |(known, _)| known == name).map(|(_, value)| value.as_str());
    if all("row").count() > MOST {
        return Err(Refusal::value("row", "These are more tasks than a page offers.".to_owned()));
    }
    let mut offered: BTreeMap<TaskId, &str> = BTreeMap::new();
    for text in all("row") {
        let id = text.split('-').next().and_then(|id| id.parse().ok()).unwrap_or(0);
        offered.insert(TaskId(id), text);
    }
    let wanted: BTreeSet<TaskId> = all("take").filter_map(|id| id.parse().ok()).map(TaskId).collect();
    let wanted = with_needs(plan, today, &offered.keys().copied().collect(), &wanted);
    offered.iter().filter(|(id, _)| wanted.contains(id)).map(|(_, text)| tucked(plan, text)).collect()
}

/// Gives what is ticked its days and people, in a draft that is made for it where it is only to be tried. Where the plan has changed so that
/// it no longer fits, it is searched for again.
pub async fn apply(
    State(live): State<AppState>,
    Here(state): Here,
    user: User,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let plan = state.keeper.plan();
    let word = |name: &str| sent(&pairs, name).to_owned();
    let asked = Asked {
        project: word("project"),
        team: word("team"),
        task: word("task"),
        until: word("until"),
        dates: word("dates"),
        people: word("people"),
        pin: word("pin"),
        from: word("from"),
        go: String::new(),
    };
    let refusal = match ticked(&plan, state.today(), &pairs) {
        Ok(tasks) if tasks.is_empty() => Refusal::value("take", "Nothing is ticked.".to_owned()),
        Ok(tasks) if !word("try").is_empty() => {
            let command = Command::TuckIn { tasks };
            let name = command.done(&plan);
            match drafts::made(&live, &state, &user, (&name, false), Some(command)).await? {
                Ok(_) => return Ok(Redirect::to(asked.room()).into_response()),
                Err(problem) => Refusal::whole(RefusalCode::NotNow, problem),
            }
        }
        Ok(tasks) => {
            let command = Command::TuckIn { tasks };
            let title = command.done(&plan);
            match answer::carry_out(&state, &user, command).await {
                Ok(outcome) => return answer::back_to(&user, &asked.address(""), title, &outcome).await,
                Err(Error::Store(snug_store::Error::Refused(refusal))) => refusal,
                Err(error) => return Err(error),
            }
        }
        Err(refusal) => refusal,
    };
    let message = format!("{} Below is what fits now.", words::capital(&refusal.message));
    answer::again(&user, &asked.address("yes"), message).await
}
