//! What was looked at, done as one command, or tried in a draft.

use super::{
    asked::{Asked, Tool},
    flat::evened,
    unworked::ticked,
};
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
use snug_core::{Command, Day, Plan, Role, change::Change};

/// What is to be done, and what it comes to in words.
fn meant(plan: &Plan, asked: &Asked, pairs: &Pairs, user: &User, today: Day) -> (Vec<Change>, String) {
    let picked = asked.picked(plan, today).0;
    if asked.tool() == Tool::Flatten {
        let evened = evened(plan, &picked, today);
        let moved = words::count(evened.moved.len(), "task moved", "tasks moved");
        let cut = words::count(evened.cut.len(), "booking cut", "bookings cut");
        return (evened.changes, format!("Flattened: {moved}, {cut}"));
    }
    let eyes = user.eyes(plan);
    let is_ticked = |key: &str| pairs.iter().any(|(name, value)| name == "take" && value == key);
    let (changes, minutes) = ticked(plan, &picked, today, |person| eyes.knows(person), is_ticked);
    (changes, format!("{} offered again", words::hours(minutes)))
}

/// Does it, unless the plan has changed since it was looked at: then it is shown anew.
pub async fn apply(
    State(live): State<AppState>,
    Here(state): Here,
    user: User,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let (plan, today) = (state.keeper.plan(), state.today());
    let word = |name: &str| sent(&pairs, name).to_owned();
    let asked = Asked::of(&pairs);
    let here = asked.address();
    let again = async |message: String| answer::again(&user, &here, message).await;
    if word("revision") != plan.revision.to_string() {
        let message = "The plan has changed since you looked, so nothing was done. Below is what would come of it now";
        return again(message.to_owned()).await;
    }
    let (changes, deed) = {
        let (asked, pairs, user) = (asked.clone(), pairs.clone(), user.clone());
        crate::worked_out(move || meant(&plan, &asked, &pairs, &user, today)).await?
    };
    if changes.is_empty() {
        return again("There is nothing to do: nothing is ticked, or nothing would move".to_owned()).await;
    }
    let command = Command::EvenOut { deed: deed.clone(), changes };
    if !word("try").is_empty() {
        return match drafts::made(&live, &state, &user, (&deed, false), Some(command)).await? {
            Ok(_) => Ok(Redirect::to("/fit").into_response()),
            Err(problem) => again(problem).await,
        };
    }
    match answer::carry_out(&state, &user, command).await {
        Ok(outcome) => answer::back_to(&user, &here, deed, &outcome).await,
        Err(Error::Store(snug_store::Error::Refused(refusal))) => again(words::capital(&refusal.message)).await,
        Err(error) => Err(error),
    }
}
