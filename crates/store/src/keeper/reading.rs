//! Reading what other servers have written.

use super::{Keeper, News, after};
use crate::{Error, drafts, ledger};
use snug_core::Day;
use std::{
    sync::{Arc, atomic::Ordering},
    time::Duration,
};

impl Keeper {
    /// Holds the plan against the ledger: reads what others have written since, or everything, where entries that the plan holds are
    /// not there any more. Says whether there was anything. So are the drafts in memory.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn catch_up(&self) -> Result<bool, Error> {
        let _writing = self.writing.lock().await;
        let found = self.read_on().await?;
        self.checked.store(self.begun.elapsed().as_secs(), Ordering::Release);
        Ok(found)
    }

    /// Holds the drafts in memory against the ledger; those that are gone, or that nobody has used for long, leave memory.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn catch_up_drafts(&self) -> Result<(), Error> {
        for keeper in self.opened.all() {
            match drafts::one(&self.db, keeper.number()).await? {
                None => self.opened.forget(keeper.number()),
                Some(draft) => {
                    if let Some(known) = &keeper.draft {
                        known.store(Arc::new(draft));
                    }
                    let _writing = keeper.writing.lock().await;
                    keeper.read_on().await?;
                }
            }
        }
        Ok(())
    }

    /// How far behind the ledger the plan is, in entries, and when it was last held against it.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn behind(&self) -> Result<(i64, Duration), Error> {
        let held = self.plan().revision;
        let standing = ledger::standing(&self.db, self.number(), held).await?;
        let checked = self.begun.elapsed().saturating_sub(Duration::from_secs(self.checked.load(Ordering::Acquire)));
        Ok((standing.map_or(0, |standing| (standing.revision - held).abs()), checked))
    }

    pub(super) async fn read_on(&self) -> Result<bool, Error> {
        if !self.is_founded() {
            self.reload().await?;
            return Ok(self.is_founded());
        }
        let held = self.plan().revision;
        let Some(standing) = ledger::standing(&self.db, self.number(), held).await? else { return Ok(false) };
        if standing.line != self.line() {
            let revision = standing.revision;
            tracing::warn!(held, revision, "the database has lost entries of the ledger; everything is read again");
            self.reload().await?;
            let _ = self.events.send(Arc::new(News::StartedOver(self.plan().revision)));
            return Ok(true);
        }
        if standing.revision > held {
            self.read_new_entries().await?;
        }
        if standing.next_id > self.plan().next_id() {
            // Identities that were given in drafts are given in no other plan.
            let mut plan = (*self.plan()).clone();
            plan.reserve_ids(standing.next_id);
            self.plan.store(Arc::new(plan));
        }
        Ok(standing.revision > held)
    }

    async fn read_new_entries(&self) -> Result<(), Error> {
        for entry in self.ledger().since(self.plan().revision).await? {
            let changes = self.ledger().changes_of(entry.revision).await?;
            let (mut plan, _) = after(&self.plan(), &changes, Day::from_date(entry.day));
            plan.revision = entry.revision;
            let standing = ledger::standing(&self.db, self.number(), entry.revision).await?;
            self.put(Arc::new(plan), standing.map(|it| it.line).unwrap_or_default());
            self.tell(entry.revision, &entry.actor, &entry.title, &changes);
        }
        Ok(())
    }
}
