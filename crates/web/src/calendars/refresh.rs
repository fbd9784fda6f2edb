//! Reading the calendars that are subscribed to.

use super::{fetch::fetch, reading};
use crate::AppState;
use snug_core::{Command, Day, calendars::changes};
use snug_store::{
    accounts,
    feeds::{self, Feed},
    idempotency, security,
};
use std::time::Duration;

/// How often it is looked whether one is due.
const PACE: Duration = Duration::from_mins(1);

/// The days for which a calendar is taken over: a month back, a year on.
pub fn window(today: Day) -> (Day, Day) {
    (today - 30, today + 365)
}

/// Reads every calendar that is due, again and again, for as long as the server runs.
pub async fn keep_fresh(state: AppState) {
    loop {
        match feeds::take_due(state.keeper.db()).await {
            Ok(due) => {
                for feed in due {
                    read_one(&state, &feed).await;
                }
            }
            Err(error) => tracing::warn!(%error, "it cannot be seen which calendars are due"),
        }
        crate::hours::mail_due(&state).await;
        // What is remembered of attempts that are long over goes, too.
        state.limits.sweep();
        for swept in [security::sweep(state.keeper.db()).await, idempotency::sweep(state.keeper.db()).await] {
            if let Err(error) = swept {
                tracing::warn!(%error, "what is too old cannot be forgotten");
            }
        }
        tokio::time::sleep(PACE).await;
    }
}

/// Reads one calendar and notes how it went; the reason, where it did not.
pub async fn read_one(state: &AppState, feed: &Feed) -> Option<String> {
    let went = take_over(state, feed).await;
    let told = went.as_ref().map(|(changes, left_out)| (*changes, left_out.as_str())).map_err(String::as_str);
    let noted = feeds::note(state.keeper.db(), feed.id, told).await;
    if let Err(error) = noted {
        tracing::warn!(%error, feed = feed.id, "it cannot be noted how a calendar was read");
    }
    went.err()
}

/// How many records changed, and what of it was left out, in words.
async fn take_over(state: &AppState, feed: &Feed) -> Result<(usize, String), String> {
    let hidden = |error: &dyn std::fmt::Display| {
        tracing::error!(%error, feed = feed.id, "a calendar cannot be taken over");
        "It was read, but cannot be taken over just now.".to_owned()
    };
    let bytes = fetch(&feed.address, state.options.inner_feeds).await?;
    let plan = state.keeper.plan();
    let window = window(state.today());
    let read = reading::read(state, bytes, &feed.purpose, window).await;
    let said = read.map_err(|error| hidden(&error))?.map_err(|error| error.to_string())?;
    let changes = changes(&plan, &feed.source(), &feed.purpose, &said.occurrences, window);
    let left_out = match said.left_out {
        0 => String::new(),
        count => format!("{count} not understood and left out: {}", said.reasons.join("; ")),
    };
    let account = accounts::by_id(state.keeper.db(), feed.account).await.map_err(|error| hidden(&error))?;
    let account = account.ok_or("Who subscribed to it is no longer here; subscribe anew.")?;
    let command = Command::ReadCalendar { name: feed.name.clone(), changes };
    if !account.actor().may(&plan, &command) {
        return Err("The role of who subscribed to it no longer allows this.".to_owned());
    }
    match state.keeper.submit(&account.email, command, state.today()).await {
        Ok(outcome) => Ok((outcome.changes.len(), left_out)),
        Err(snug_store::Error::Refused(refusal)) => Err(refusal.message),
        Err(error) => Err(hidden(&error)),
    }
}
