//! Live: one stream of news a browser, by server-sent events.

use crate::{Error, auth::User, drafts::Here, sessions};
use axum::response::sse::{Event, KeepAlive, Sse};
use futures_util::{Stream, StreamExt as _};
use snug_store::{News, accounts::secret_hash};
use std::{convert::Infallible, sync::Arc, time::Duration};
use tokio::sync::broadcast::{Receiver, error::RecvError};
use tokio_stream::wrappers::BroadcastStream;

/// How long a stream lasts at most. A browser connects again by itself, if its session still stands.
const LONGEST: Duration = Duration::from_mins(15);

/// Tells what changed as it changes; a page that fell behind is told to read everything again. The stream ends with the session.
pub async fn stream(
    Here(state): Here,
    user: User,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Error> {
    let ended = state.keeper.ended_sessions();
    let session = user.session_id().ok_or(Error::SignedOut)?;
    // It may have ended before anybody listened.
    if !sessions::stands(state.keeper.db(), &session).await? {
        return Err(Error::SignedOut);
    }
    let keeper = Arc::clone(&state.keeper);
    let news = BroadcastStream::new(state.keeper.events()).map(move |item| {
        Ok(match item {
            Ok(news) => match &*news {
                News::StartedOver(revision) => reload(*revision),
                News::Entry(event) => {
                    let text = serde_json::json!({
                        "revision": event.revision, "actor": event.actor, "title": event.title, "people": event.people,
                    });
                    Event::default().event("change").id(event.revision.to_string()).data(text.to_string())
                }
            },
            Err(_lagged) => reload(keeper.plan().revision),
        })
    });
    let here = BroadcastStream::new(state.keeper.presence()).filter_map(async |item| {
        // Who fell behind misses who was where, which is over by then.
        item.ok().map(|text| Ok(Event::default().event("presence").data(&*text)))
    });
    // A browser that connects again may have missed something: it compares this revision with the page's.
    let hello = Event::default().event("hello").data(state.keeper.plan().revision.to_string());
    let hello = futures_util::stream::once(async { Ok(hello) });
    let stopping = state.options.stopping.clone();
    let hash = secret_hash(&session);
    let over = async move {
        tokio::select! {
            () = end_of(ended, &hash) => {}
            () = tokio::time::sleep(LONGEST) => {}
            () = stopping.cancelled() => {}
        }
    };
    let stream = hello.chain(futures_util::stream::select(news, Box::pin(here))).take_until(Box::pin(over));
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

/// Tells a page to read everything again, as of a revision; it may be older than what the page knows.
fn reload(revision: i64) -> Event {
    Event::default().event("reload").data(revision.to_string())
}

/// Waits until a session ends, which is told by its hash.
async fn end_of(mut ended: Receiver<Arc<str>>, session: &str) {
    loop {
        match ended.recv().await {
            Ok(hash) if &*hash != session => {}
            // It did, or whether it did was missed: whoever may connects again.
            Ok(_) | Err(RecvError::Lagged(_)) => return,
            Err(RecvError::Closed) => std::future::pending().await,
        }
    }
}
