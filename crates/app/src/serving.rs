//! Connections: how many, how long one may take to say what it wants, and how they end.

use axum::{
    Router,
    body::Body,
    extract::{ConnectInfo, Request},
};
use hyper::{body::Incoming, server::conn::http1, service::service_fn};
use hyper_util::{
    rt::{TokioIo, TokioTimer},
    server::graceful::GracefulShutdown,
};
use std::{future::Future, sync::Arc, time::Duration};
use tokio::{net::TcpListener, sync::Semaphore};
use tower::Service as _;

/// How long a connection may take to say what it wants, from its beginning or the last answer on.
const HEADER_PATIENCE: Duration = Duration::from_secs(15);
/// How long requests that are under way at the end may go on, and after them imports.
pub const DRAIN: Duration = Duration::from_secs(20);
/// How long no connection is taken after one could not be, as where files cannot be opened any more.
const REST: Duration = Duration::from_millis(100);

/// Serves until told to stop; then takes no more, and lets what is under way come to its end for a while. `most` connections are
/// open at once; further ones wait to be taken.
pub async fn serve(listener: TcpListener, app: Router, most: usize, stop: impl Future<Output = ()>) {
    let places = Arc::new(Semaphore::new(most));
    let graceful = GracefulShutdown::new();
    let mut stop = std::pin::pin!(stop);
    loop {
        let taken = async {
            let place = Arc::clone(&places).acquire_owned().await;
            (place, listener.accept().await)
        };
        let (place, (stream, peer)) = tokio::select! {
            () = &mut stop => break,
            taken = taken => match taken {
                (Ok(place), Ok(taken)) => (place, taken),
                (_, Err(error)) => {
                    tracing::warn!(%error, "a connection could not be taken");
                    tokio::time::sleep(REST).await;
                    continue;
                }
                (Err(_), _) => break,
            },
        };
        // Answers are small and are to be there at once.
        let _ = stream.set_nodelay(true);
        let app = app.clone();
        let answer = service_fn(move |mut request: Request<Incoming>| {
            request.extensions_mut().insert(ConnectInfo(peer));
            app.clone().call(request.map(Body::new))
        });
        let connection = http1::Builder::new()
            .timer(TokioTimer::new())
            .header_read_timeout(HEADER_PATIENCE)
            .serve_connection(TokioIo::new(stream), answer);
        let connection = graceful.watch(connection);
        tokio::spawn(async move {
            // Whoever went away in the middle is no failure of ours.
            let _ = connection.await;
            drop(place);
        });
    }
    drop(listener);
    tokio::select! {
        () = graceful.shutdown() => {}
        () = tokio::time::sleep(DRAIN) => tracing::warn!("requests under way were cut off"),
    }
}
