//! How far a long piece of work is, and whether it is to stop.

use std::sync::{
    Mutex, PoisonError,
    atomic::{AtomicUsize, Ordering},
};
use tokio_util::sync::CancellationToken;

/// Shared between who works and who watches.
#[derive(Debug, Default)]
pub struct Watch {
    step: Mutex<&'static str>,
    done: AtomicUsize,
    total: AtomicUsize,
    stop: CancellationToken,
    /// It cannot be stopped any more.
    closed: Mutex<bool>,
}

impl Watch {
    /// Another step begins, of so many parts; none where nobody can tell.
    pub fn begin(&self, step: &'static str, total: usize) {
        *self.step.lock().unwrap_or_else(PoisonError::into_inner) = step;
        self.total.store(total, Ordering::Relaxed);
        self.done.store(0, Ordering::Relaxed);
    }

    /// So many further parts of the step are done.
    pub fn on(&self, parts: usize) {
        self.done.fetch_add(parts, Ordering::Relaxed);
    }

    /// The step, how many parts of it are done, and how many it has.
    #[must_use]
    pub fn stands(&self) -> (&'static str, usize, usize) {
        let step = *self.step.lock().unwrap_or_else(PoisonError::into_inner);
        (step, self.done.load(Ordering::Relaxed), self.total.load(Ordering::Relaxed))
    }

    /// Asks to stop; too late where it is as good as done.
    pub fn stop(&self) {
        let closed = self.closed.lock().unwrap_or_else(PoisonError::into_inner);
        if !*closed {
            self.stop.cancel();
        }
    }

    /// From here on it cannot be stopped; `false` where it was before.
    pub(crate) fn close(&self) -> bool {
        let mut closed = self.closed.lock().unwrap_or_else(PoisonError::into_inner);
        *closed = !self.stop.is_cancelled();
        *closed
    }

    /// Waits until it is asked to stop.
    pub async fn stopped(&self) {
        self.stop.cancelled().await;
    }
}
