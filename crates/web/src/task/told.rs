//! What is said about a record, and who is told of it: everybody who follows a task, by mail.

use crate::{AppState, Error, auth::TOO_SMALL, columns::person_name, mail::Letter};
use snug_core::{
    Command, Plan, TaskId, TextId,
    change::{Change, Edit},
    kinds::Task,
    text::{Text, TextOn, TextSlot},
};
use snug_store::{Outcome, accounts::Account};

/// Adds a comment to a record.
///
/// # Errors
/// The role does not allow it, or the rules refuse it.
pub async fn comment(
    state: &AppState,
    account: &Account,
    (on, subject): (TextOn, i32),
    body: String,
) -> Result<Outcome, Error> {
    let text = Text {
        id: TextId(0),
        on,
        subject,
        slot: TextSlot::Comment,
        author: account.email.clone(),
        day: state.today(),
        body: body.clone(),
    };
    let command = Command::Edit { changes: vec![Change::Text(Edit::new(text))] };
    if !account.actor().may(&state.keeper.plan(), &command) {
        return Err(Error::NotAllowed(TOO_SMALL));
    }
    let outcome = state.keeper.submit(&account.email, command, state.today()).await?;
    if let Some(task) = outcome.after.tasks.get(&TaskId(subject)).filter(|_| on == TextOn::Task) {
        tell(state, &outcome.after, task, (&account.email, &body));
    }
    Ok(outcome)
}

/// Sends a comment to everybody who follows a task but whoever wrote it; behind the request, which does not wait for the mail server.
fn tell(state: &AppState, plan: &Plan, task: &Task, (author, comment): (&str, &str)) {
    let people = task.followers.iter().filter_map(|id| plan.people.get(id)).map(|entry| entry.person.email.clone());
    let addresses: Vec<String> = people.filter(|email| !email.eq_ignore_ascii_case(author)).collect();
    let subject = format!("{} on “{}”", person_name(plan, author), task.title);
    let here = format!("{}/tasks/{}#comments", state.base(), task.id);
    let body = format!("{comment}\n\n{here}\nYou follow this task; its page lets you follow it no longer.\n");
    for to in addresses {
        state.mail_later(Letter { to, subject: subject.clone(), body: body.clone() });
    }
}
