//! Looking harder: a longer search that tells how far it is, can be stopped from whatever server, and then shows the best that it has.

use super::{HARDER, LONG_SEARCHES, asked::Asked, found};
use crate::{Error, auth::User, drafts::Here};
use askama::Template as _;
use axum::{
    Form,
    extract::Query,
    http::StatusCode,
    response::sse::{Event, KeepAlive, Sse},
};
use futures_util::{Stream, StreamExt as _};
use serde::Deserialize;
use snug_store::jobs::{self, State as JobState};
use std::{
    convert::Infallible,
    sync::{
        Arc,
        atomic::{AtomicBool, Ordering},
    },
    time::{Duration, Instant},
};
use tokio::sync::mpsc::{Sender, channel};
use tokio_stream::wrappers::ReceiverStream;
use tokio_util::sync::{CancellationToken, DropGuard};

/// How often it is told how far it is, and looked whether it is to stop.
const BEAT: Duration = Duration::from_millis(300);

/// The longest name of a search.
const LONGEST: usize = 40;

/// By what name a page knows its search.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Named {
    id: String,
}

impl Named {
    /// The name as it is written down: of a search, and of one account.
    fn of(&self, user: &User) -> Result<String, Error> {
        let is_one = (8..=LONGEST).contains(&self.id.len()) && self.id.chars().all(|it| it.is_ascii_alphanumeric());
        let name = is_one.then(|| format!("tuck-in-{}-{}", user.account.id, self.id));
        name.ok_or_else(|| Error::BadRequest("The page does not say which search it means.".to_owned()))
    }
}

/// What the stream tells.
enum Told {
    /// Thousandths of the time, and how many schedules were looked through.
    Progress(u128, u64),
    /// What was found, as it is shown, or why nothing is.
    Done(Result<String, String>),
}

/// Searches, and tells how far it is, then what was found. Whoever goes away ends it.
pub async fn stream(
    Here(state): Here,
    user: User,
    Query(asked): Query<Asked>,
    Query(named): Query<Named>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Error> {
    let id = named.of(&user)?;
    let (plan, db) = (state.keeper.plan(), state.keeper.db().clone());
    let ask = asked.ask(&plan, state.today()).map_err(Error::BadRequest)?;
    if !jobs::begin(&db, &id, user.account.id, "tuck in").await? {
        return Err(Error::BadRequest("This search has begun already.".to_owned()));
    }
    let stop = Arc::new(AtomicBool::new(false));
    let gone = CancellationToken::new();
    let (tell, told) = channel(16);
    let search = {
        let (stop, gone, may_change) = (Arc::clone(&stop), gone.clone(), user.books());
        move || {
            let (begun, mut last) = (Instant::now(), Instant::now());
            let found = found(&plan, &asked, &ask, may_change, &mut |progress| {
                if last.elapsed() > BEAT {
                    last = Instant::now();
                    // Where nobody has read the last one yet, this one is not missed.
                    let _ = tell.try_send(Told::Progress(
                        begun.elapsed().as_millis() * 1000 / HARDER.as_millis(),
                        progress.steps,
                    ));
                }
                begun.elapsed() < HARDER && !stop.load(Ordering::Relaxed) && !gone.is_cancelled()
            });
            let html = found.and_then(|found| found.render().map_err(|_| "What was found cannot be shown.".to_owned()));
            done(&tell, html);
        }
    };
    state.jobs.spawn(async move {
        let Ok(_turn) = LONG_SEARCHES.acquire().await else { return };
        let mut searching = tokio::task::spawn_blocking(search);
        loop {
            tokio::select! {
                _ = &mut searching => break,
                () = tokio::time::sleep(BEAT) => {
                    // A database that does not answer stops nobody.
                    if jobs::beat(&db, &id, ("Looking harder", 0, 0)).await.unwrap_or(false) {
                        stop.store(true, Ordering::Relaxed);
                    }
                }
            }
        }
        if let Err(error) = jobs::end(&db, &id, JobState::Done, None).await {
            tracing::warn!(error = &error as &dyn std::error::Error, "the end of a search was not noted");
        }
    });
    let guard: DropGuard = gone.drop_guard();
    let events = ReceiverStream::new(told).map(move |told| {
        let _held = &guard;
        Ok(match told {
            Told::Progress(part, steps) => Event::default().event("progress").data(format!("{part} {steps}")),
            Told::Done(Ok(html)) => Event::default().event("found").data(html.replace('\r', " ")),
            Told::Done(Err(problem)) => Event::default().event("problem").data(problem.replace('\r', " ")),
        })
    });
    Ok(Sse::new(events).keep_alive(KeepAlive::default()))
}

/// Tells the last thing; whoever has gone does not hear it.
fn done(tell: &Sender<Told>, html: Result<String, String>) {
    let _ = tell.blocking_send(Told::Done(html));
}

/// Asks a search of one's own to stop, whichever server does it.
pub async fn stop(Here(state): Here, user: User, Form(named): Form<Named>) -> Result<StatusCode, Error> {
    jobs::stop(state.keeper.db(), user.account.id, &named.of(&user)?).await?;
    Ok(StatusCode::NO_CONTENT)
}
