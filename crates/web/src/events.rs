//! Live: one stream of news a browser, by server-sent events.

use crate::{AppState, auth::User};
use axum::{
    extract::State,
    response::sse::{Event, KeepAlive, Sse},
};
use futures_util::{Stream, StreamExt as _};
use std::convert::Infallible;
use tokio_stream::wrappers::BroadcastStream;

/// Tells what changed as it changes; a page that fell behind is told to read everything again.
pub async fn stream(State(state): State<AppState>, _: User) -> Sse<impl Stream<Item = Result<Event, Infallible>>> {
    let news = BroadcastStream::new(state.keeper.events()).map(|item| {
        Ok(match item {
            Ok(event) => {
                let text = serde_json::json!({
                    "revision": event.revision, "actor": event.actor, "title": event.title, "people": event.people,
                });
                Event::default().event("change").id(event.revision.to_string()).data(text.to_string())
            }
            Err(_lagged) => Event::default().event("reload").data("behind"),
        })
    });
    let here = BroadcastStream::new(state.keeper.presence()).filter_map(async |item| {
        // Who fell behind misses who was where, which is over by then.
        item.ok().map(|text| Ok(Event::default().event("presence").data(&*text)))
    });
    // A browser that connects again may have missed something: it compares this revision with the page's.
    let hello = Event::default().event("hello").data(state.keeper.plan().revision.to_string());
    let hello = futures_util::stream::once(async { Ok(hello) });
    Sse::new(hello.chain(futures_util::stream::select(news, Box::pin(here)))).keep_alive(KeepAlive::default())
}
