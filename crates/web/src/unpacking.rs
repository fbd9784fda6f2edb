//! Files of a workspace unfold to much: one request of an account at a time, and few of all of them.

use crate::AppState;
use std::{
    collections::HashMap,
    sync::{Arc, Mutex, PoisonError, Weak},
};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

/// Requests that unfold files at once; each may take 256 MB, and some more to read them.
const AT_ONCE: usize = 2;

/// Who unfolds files now.
pub struct Unpacking {
    all: Arc<Semaphore>,
    own: Mutex<HashMap<String, Weak<Semaphore>>>,
}

impl Default for Unpacking {
    fn default() -> Self {
        Self { all: Arc::new(Semaphore::new(AT_ONCE)), own: Mutex::default() }
    }
}

impl Unpacking {
    fn own(&self, account: &str) -> Arc<Semaphore> {
        let mut own = self.own.lock().unwrap_or_else(PoisonError::into_inner);
        own.retain(|_, held| held.strong_count() > 0);
        if let Some(held) = own.get(account).and_then(Weak::upgrade) {
            return held;
        }
        let held = Arc::new(Semaphore::new(1));
        own.insert(account.to_owned(), Arc::downgrade(&held));
        held
    }
}

/// Waits until files of an account may be unfolded, and holds the place for as long as it lives.
pub async fn place(state: &AppState, account: &str) -> impl Sized + Send + use<> {
    let own = state.unpacking.own(account).acquire_owned().await;
    let all = Arc::clone(&state.unpacking.all).acquire_owned().await;
    // Nobody closes them.
    (own.ok(), all.ok()) as (Option<OwnedSemaphorePermit>, Option<OwnedSemaphorePermit>)
}
