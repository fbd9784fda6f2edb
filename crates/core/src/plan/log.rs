//! What is logged, added up where it was logged.

use super::Plan;
use crate::{PersonId, kinds::TimeEntry};
use std::sync::Arc;

/// What one person logged in one place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Logged {
    /// Who.
    pub person: PersonId,
    /// Minutes, corrections included.
    pub minutes: i64,
    /// In so many entries, at least one.
    pub entries: u32,
}

impl Logged {
    fn none(person: PersonId) -> Self {
        Self { person, minutes: 0, entries: 0 }
    }

    fn put(&mut self, entry: &TimeEntry, is_in: bool) {
        let minutes = i64::from(entry.minutes);
        if is_in {
            (self.minutes, self.entries) = (self.minutes + minutes, self.entries + 1);
        } else {
            (self.minutes, self.entries) = (self.minutes - minutes, self.entries.saturating_sub(1));
        }
    }

    /// Takes an entry into what is logged in one place, or out of it again; who has no entry there is not in the list.
    pub(crate) fn put_among(log: &mut Vec<Self>, entry: &TimeEntry, is_in: bool) {
        let at = log.iter().position(|it| it.person == entry.person).unwrap_or_else(|| {
            log.push(Self::none(entry.person));
            log.len() - 1
        });
        log[at].put(entry, is_in);
        if log[at].entries == 0 {
            log.remove(at);
        }
    }
}

impl Plan {
    /// Takes an entry into the sums of its task, or of its project where it is on none, or out of them.
    pub(super) fn put_log(&mut self, entry: &TimeEntry, is_in: bool) {
        if let Some(task) = entry.task {
            let log = Arc::make_mut(self.logged.entry(task).or_default());
            Logged::put_among(log, entry, is_in);
            if log.is_empty() {
                self.logged.remove(&task);
            }
        } else {
            let key = (entry.project, entry.person);
            let log = self.logged_apart.entry(key).or_insert_with(|| Logged::none(entry.person));
            log.put(entry, is_in);
            if log.entries == 0 {
                self.logged_apart.remove(&key);
            }
        }
    }
}
