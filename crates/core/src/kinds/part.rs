//! Files whose rows add to a record of another file: later working patterns and rates of a person, members of a team.

use super::{Keys, Spec, Wrong};
use crate::{Plan, Role};

/// What a row of such a file did to the record.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Put {
    /// It says something new.
    New,
    /// It says something else of what was there.
    Changed,
    /// It says what was there.
    Same,
}

impl Put {
    /// What it did, from what was there before.
    pub fn over<T: PartialEq>(before: Option<&T>, after: &T) -> Self {
        match before {
            None => Self::New,
            Some(before) if before == after => Self::Same,
            Some(_) => Self::Changed,
        }
    }
}

/// Puts an item into a list that is in the order of `key`, in place of the one with the same.
pub(super) fn put_by<T: PartialEq, K: Ord>(list: &mut Vec<T>, item: T, key: impl Fn(&T) -> K) -> Put {
    let at = list.partition_point(|other| key(other) < key(&item));
    let there = list.get(at).filter(|other| key(other) == key(&item));
    let put = Put::over(there, &item);
    match there {
        Some(_) => list[at] = item,
        None => list.insert(at, item),
    }
    put
}

/// A file whose rows add to records of type `R`.
pub struct Part<R> {
    /// Its name without `.csv`: the name under which forms send its columns, and by which its problems are told.
    pub name: &'static str,
    /// The file.
    pub file: &'static str,
    /// What it is called on pages.
    pub title: &'static str,
    /// What it is for.
    pub says: &'static str,
    /// Its columns: the first is the key of the record, the second tells its rows apart.
    pub columns: &'static [Spec],
    /// What is said where two rows of one record are not told apart.
    pub twice: &'static str,
    /// The rows of a record, without the first column.
    pub rows: fn(&R, &Plan) -> Vec<Vec<String>>,
    /// Puts a row in, without its first cell, in place of the one that it is not told apart from.
    pub put: fn(&mut R, &[&str], &Keys) -> Result<Put, Wrong>,
    /// Takes over what another record has.
    pub keep: fn(&mut R, &R),
}

/// A part of records of a kind, without their type.
#[derive(Clone, Copy, Debug)]
pub struct AboutPart {
    /// Its name without `.csv`.
    pub name: &'static str,
    /// The file.
    pub file: &'static str,
    /// What it is called on pages.
    pub title: &'static str,
    /// What it is for.
    pub says: &'static str,
    /// Its columns: the first is the key of the record.
    pub columns: &'static [Spec],
}

impl AboutPart {
    /// Whether somebody of this role sees it.
    #[must_use]
    pub fn is_for(&self, role: Role) -> bool {
        self.columns.iter().all(|spec| spec.sight.is_for(role))
    }
}

impl<R> Part<R> {
    /// What is said of it, without the type of the records.
    #[must_use]
    pub const fn about(&self) -> AboutPart {
        AboutPart { name: self.name, file: self.file, title: self.title, says: self.says, columns: self.columns }
    }
}
