//! Which version of a record somebody saw. A page carries the tag and not the record, so that it neither grows with what a record
//! holds nor shows what its reader may not see.

use crate::{
    Plan, Refusal,
    change::{Change, Edit},
    kinds::{Kind, Record, of_kind},
    rules::RefusalCode,
};
use std::{
    fmt,
    hash::{DefaultHasher, Hasher as _},
    str::FromStr,
};

/// The bits of a mark: two versions of one record that are told apart by them are not mixed up by chance.
const MARK_BITS: u32 = 32;

/// One version of one record, as `412-9f3ac1d2`: its identity, and a mark of everything that it holds. Every server that runs the
/// same program gives the same version the same tag; after the program was renewed a page that was open may be asked to look again.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Tag {
    /// The identity.
    pub id: i32,
    mark: u64,
}

impl Tag {
    /// The tag of a record.
    pub fn of<R: Record>(record: &R) -> Self {
        let mut hasher = DefaultHasher::new();
        record.hash(&mut hasher);
        Self { id: record.number(), mark: hasher.finish() >> (u64::BITS - MARK_BITS) }
    }
}

impl fmt::Display for Tag {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}-{:x}", self.id, self.mark)
    }
}

impl FromStr for Tag {
    type Err = NoTag;

    fn from_str(text: &str) -> Result<Self, NoTag> {
        let (id, mark) = text.split_once('-').ok_or(NoTag)?;
        let (id, mark) = (id.parse().ok(), u64::from_str_radix(mark, 16).ok());
        id.zip(mark).map(|(id, mark)| Self { id, mark }).ok_or(NoTag)
    }
}

/// What is said of a text that is no tag.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("The page does not say which record is meant.")]
pub struct NoTag;

impl Plan {
    /// The record that somebody saw, if it stands as it was: the `after` of what is returned.
    ///
    /// # Errors
    /// It is gone, or somebody was quicker; then what stands comes along.
    pub fn as_seen(&self, kind: Kind, tag: Tag) -> Result<Change, Refusal> {
        let found = of_kind!(kind, R => {
            let record = R::find(self, crate::kinds::Identity::of(tag.id));
            record.map(|record| (Tag::of(&*record), R::change(Edit::new(record.into_owned()))))
        });
        match found.flatten() {
            None => Err(gone(kind)),
            Some((stands, record)) if stands == tag => Ok(record),
            Some((_, record)) => Err(changed_meanwhile(record)),
        }
    }

    /// The same of a kind that is known.
    ///
    /// # Errors
    /// As [`Plan::as_seen`].
    pub fn record_as_seen<R: Record>(&self, tag: Tag) -> Result<R, Refusal> {
        let seen = self.as_seen(R::KIND, tag)?;
        R::in_change(&seen).and_then(|edit| edit.after.clone()).ok_or_else(|| gone(R::KIND))
    }
}

/// Refuses to alter what is no longer there.
pub(crate) fn gone(kind: Kind) -> Refusal {
    let message = format!("This {} is no longer in the plan; somebody has removed it.", kind.about().words.0);
    Refusal::whole(RefusalCode::NotFound, message)
}

/// Refuses to alter what is no longer as it was seen; `standing` makes it as it is now.
pub(crate) fn changed_meanwhile(standing: Change) -> Refusal {
    let kind = standing.subject().0.about().words.0;
    let message = format!("Somebody else has changed this {kind} since you opened it.");
    Refusal { standing: Some(Box::new(standing)), ..Refusal::whole(RefusalCode::ChangedMeanwhile, message) }
}
