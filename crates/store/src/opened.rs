//! The drafts that are in memory: those that somebody has used lately.

use crate::{Error, Keeper};
use std::{
    collections::HashMap,
    sync::{Arc, Mutex, MutexGuard, PoisonError},
    time::{Duration, Instant},
};

/// How long a draft stays in memory that nobody uses.
const UNUSED: Duration = Duration::from_mins(30);
/// The most drafts that are in memory; of more the one that was used longest ago leaves.
const MOST: usize = 200;

/// Drafts by number, each with when it was used last.
#[derive(Default)]
pub(crate) struct Opened {
    known: Mutex<HashMap<i32, (Arc<Keeper>, Instant)>>,
    /// One is put together at a time.
    opening: tokio::sync::Mutex<()>,
}

impl Opened {
    fn known(&self) -> MutexGuard<'_, HashMap<i32, (Arc<Keeper>, Instant)>> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn used(&self, id: i32) -> Option<Arc<Keeper>> {
        let mut known = self.known();
        let (keeper, used) = known.get_mut(&id)?;
        *used = Instant::now();
        Some(Arc::clone(keeper))
    }

    /// A draft in memory, which is opened where it is not there yet; `None` where there is no such draft.
    pub async fn get(
        &self,
        id: i32,
        open: impl AsyncFnOnce() -> Result<Option<Arc<Keeper>>, Error>,
    ) -> Result<Option<Arc<Keeper>>, Error> {
        if let Some(keeper) = self.used(id) {
            return Ok(Some(keeper));
        }
        let _opening = self.opening.lock().await;
        if let Some(keeper) = self.used(id) {
            return Ok(Some(keeper));
        }
        let Some(keeper) = open().await? else { return Ok(None) };
        let mut known = self.known();
        if known.len() >= MOST
            && let Some(oldest) = known.iter().min_by_key(|(_, (_, used))| *used).map(|(id, _)| *id)
        {
            known.remove(&oldest);
        }
        known.insert(id, (Arc::clone(&keeper), Instant::now()));
        Ok(Some(keeper))
    }

    /// All that are in memory, without those that nobody has used for long, which leave.
    pub fn all(&self) -> Vec<Arc<Keeper>> {
        let mut known = self.known();
        known.retain(|_, (_, used)| used.elapsed() < UNUSED);
        known.values().map(|(keeper, _)| Arc::clone(keeper)).collect()
    }

    /// A draft leaves memory.
    pub fn forget(&self, id: i32) {
        self.known().remove(&id);
    }
}
