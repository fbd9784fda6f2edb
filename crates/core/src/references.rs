//! Which records refer to which, so that nothing refers to what is not there.

use crate::{
    Plan,
    change::Change,
    kinds::{Identity, Kind, Record, of_kind},
};
use std::collections::{BTreeMap, HashSet};

/// A record by its kind and its bare identity.
type Ref = (Kind, i32);

impl Plan {
    pub(crate) fn knows(&self, (kind, id): Ref) -> bool {
        of_kind!(kind, R => R::find(self, Identity::of(id)).is_some()).unwrap_or_default()
    }

    /// The first field of a change that refers to what is not in this plan, and what kind of record is missing.
    pub(crate) fn missing_ref(&self, change: &Change) -> Option<(&'static str, Kind)> {
        let mut missing = None;
        change.each_ref(&mut |field, kind, id| {
            if missing.is_none() && !self.knows((kind, id)) {
                missing = Some((field, kind));
            }
        });
        missing
    }

    /// What would be left without what it refers to, were these changes made: kinds of records and how many of each.
    pub(crate) fn orphans(&self, changes: &[Change]) -> BTreeMap<Kind, usize> {
        let gone: HashSet<Ref> = changes.iter().filter(|change| change.removes()).map(Change::subject).collect();
        let mut found = BTreeMap::new();
        if gone.is_empty() {
            return found;
        }
        let touched: HashSet<Ref> = changes.iter().map(Change::subject).collect();
        for kind in Kind::ALL {
            let left = of_kind!(*kind, R => left_without::<R>(self, &gone, &touched)).unwrap_or_default();
            if left > 0 {
                found.insert(*kind, left);
            }
        }
        for change in changes.iter().filter(|change| !change.removes()) {
            let mut refers = false;
            change.each_ref(&mut |_, kind, id| refers |= gone.contains(&(kind, id)));
            if refers {
                *found.entry(change.subject().0).or_insert(0) += 1;
            }
        }
        found
    }
}

/// How many records of a kind refer to what is gone, without those that change besides.
fn left_without<R: Record>(plan: &Plan, gone: &HashSet<Ref>, touched: &HashSet<Ref>) -> usize {
    let refers = |record: &R| {
        let mut refers = false;
        record.each_ref(&mut |_, kind, id| refers |= gone.contains(&(kind, id)));
        refers
    };
    let standing = R::all(plan).filter(|record| !touched.contains(&(R::KIND, record.number())));
    standing.filter(|record| refers(record)).count()
}

/// `3 bookings and 1 task`.
pub(crate) fn counted(found: &BTreeMap<Kind, usize>) -> String {
    let part = |(kind, count): (&Kind, &usize)| {
        let (one, several) = kind.about().counts;
        format!("{count} {}", if *count == 1 { one } else { several })
    };
    let parts: Vec<String> = found.iter().map(part).collect();
    match parts.split_last() {
        Some((last, rest)) if !rest.is_empty() => format!("{} and {last}", rest.join(", ")),
        Some((last, _)) => last.clone(),
        None => String::new(),
    }
}
