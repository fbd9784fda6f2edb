//! Following what other servers write: as it is told, and by looking every now and then, for what was not told.

use crate::{Error, Keeper, ledger};
use sea_orm::sqlx::{
    PgPool,
    postgres::{PgListener, PgNotification, PgPoolOptions},
};
use std::{
    sync::{Arc, Weak},
    time::Duration,
};
use tokio::{
    sync::mpsc,
    task::JoinSet,
    time::{Instant, MissedTickBehavior, interval_at, timeout},
};

/// The channel on which servers tell each other who looks at what.
pub(crate) const PRESENCE: &str = "presence";
/// The channel on which the database tells which sessions end, by their hash.
const SESSION: &str = "session";

/// How often it is looked whether something was not told.
const PACE: Duration = Duration::from_secs(15);
/// How long a look may take.
const PATIENCE: Duration = Duration::from_mins(1);

/// Follows for as long as the keeper lives; a lost connection is made anew, and what was missed meanwhile is read from the ledger.
pub(crate) async fn follow(keeper: Weak<Keeper>) {
    loop {
        let Some(strong) = keeper.upgrade() else { return };
        let pool = strong.db().get_postgres_connection_pool().clone();
        drop(strong);
        if let Err(error) = listen(&keeper, &pool).await {
            tracing::warn!(error = &error as &dyn std::error::Error, "the database is not heard; trying again");
        }
        tokio::time::sleep(Duration::from_secs(1)).await;
    }
}

/// What the listener heard; `None` says that its connection was lost and made anew.
type Heard = Result<Option<PgNotification>, sea_orm::sqlx::Error>;

async fn listen(keeper: &Weak<Keeper>, pool: &PgPool) -> Result<(), Error> {
    let (tell, mut told) = mpsc::channel(1_024);
    // On a task of its own, which is given up as a whole where nothing is heard any more. It holds no place of the pool.
    let mut ears = JoinSet::new();
    ears.spawn(hear(pool.clone(), tell));
    // The listener looks as it begins, so that the first look of its own is due a while after.
    let mut pace = interval_at(Instant::now() + PACE, PACE);
    pace.set_missed_tick_behavior(MissedTickBehavior::Delay);
    loop {
        tokio::select! {
            heard = told.recv() => {
                let Some(heard) = heard else { return Ok(()) };
                let heard = heard?;
                let Some(keeper) = keeper.upgrade() else { return Ok(()) };
                match heard {
                    // Nobody listening is no failure.
                    Some(news) if news.channel() == PRESENCE => drop(keeper.presence.send(Arc::from(news.payload()))),
                    Some(news) if news.channel() == SESSION => drop(keeper.ended.send(Arc::from(news.payload()))),
                    // Something was written, or the connection was made: what was missed before is read in any case.
                    _ => drop(look(&keeper).await?),
                }
            }
            _ = pace.tick() => {
                let Some(keeper) = keeper.upgrade() else { return Ok(()) };
                // What was there was not told: the listener is deaf, and a new one takes its place.
                if look(&keeper).await? {
                    tracing::warn!("the database did not tell of an entry; listening anew");
                    return Ok(());
                }
            }
        }
    }
}

async fn look(keeper: &Keeper) -> Result<bool, Error> {
    let looked = async {
        let found = keeper.catch_up().await?;
        keeper.catch_up_drafts().await?;
        Ok(found)
    };
    timeout(PATIENCE, looked).await.map_err(|_| Error::Busy)?
}

async fn hear(pool: PgPool, tell: mpsc::Sender<Heard>) {
    let heard = async {
        let options = pool.connect_options().as_ref().clone();
        let own = PgPoolOptions::new().max_connections(1).idle_timeout(None).max_lifetime(None).connect_with(options);
        let mut listener = PgListener::connect_with(&own.await?).await?;
        listener.listen_all([ledger::CHANNEL, PRESENCE, SESSION]).await?;
        let mut heard = None;
        // At the start, too: something may have been written before the listener stood.
        while tell.send(Ok(heard)).await.is_ok() {
            heard = listener.try_recv().await?;
        }
        Ok(())
    };
    if let Err(error) = heard.await {
        // Nobody waits for it any more where this fails.
        let _ = tell.send(Err(error)).await;
    }
}
