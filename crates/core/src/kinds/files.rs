//! The files of a workspace, from the kinds of record.

use super::{AboutPart, Change, Kind, Record, Spec, of_kind};
use crate::{Plan, edit::Edit};
use std::sync::LazyLock;

/// One file of a workspace.
#[derive(Debug)]
pub struct File {
    /// Its name.
    pub name: &'static str,
    /// The kind of record that its rows stand for, or add to.
    pub kind: Kind,
    /// Whether its rows add to records of another file.
    pub part: Option<AboutPart>,
    /// Its columns, in the order in which they are written.
    pub columns: Vec<&'static Spec>,
}

impl File {
    /// Whether rows may have values of the workspace's own fields.
    #[must_use]
    pub fn has_own(&self) -> bool {
        self.part.is_none() && self.kind.about().own_fields.is_some()
    }

    /// Where a column stands.
    #[must_use]
    pub fn place(&self, column: &str) -> Option<usize> {
        self.columns.iter().position(|known| known.name == column)
    }
}

static FILES: LazyLock<Vec<File>> = LazyLock::new(|| {
    let mut files = Vec::new();
    for kind in Kind::ALL.iter().copied() {
        if !kind.about().file.is_empty() {
            files.push(File { name: kind.about().file, kind, part: None, columns: kind.columns() });
        }
        for part in kind.parts() {
            files.push(File { name: part.file, kind, part: Some(part), columns: part.columns.iter().collect() });
        }
    }
    files
});

/// The files of a workspace, in the order in which they are read and written.
#[must_use]
pub fn files() -> &'static [File] {
    &FILES
}

/// A file by its name.
#[must_use]
pub fn file(name: &str) -> Option<&'static File> {
    FILES.iter().find(|file| file.name == name)
}

/// The file whose columns a header row names: the one that has the most of them and lacks none it must have.
#[must_use]
pub fn guess(header: &[&str]) -> Option<&'static File> {
    let has = |spec: &&Spec| header.iter().any(|title| title.trim() == spec.name);
    let fits = FILES.iter().filter(|file| file.columns.iter().all(|spec| !spec.must || has(spec)));
    // Of two that have as many, the first.
    fits.rev().max_by_key(|file| file.columns.iter().copied().filter(has).count())
}

/// The rows of a file that adds to other records, in order.
#[must_use]
pub fn part_rows(plan: &Plan, file: &File) -> Vec<Vec<String>> {
    fn rows<R: Record>(plan: &Plan, name: &str) -> Vec<Vec<String>> {
        let Some(part) = R::PARTS.iter().find(|part| part.file == name) else { return Vec::new() };
        let mut owners: Vec<_> = R::all(plan).collect();
        owners.sort_by_cached_key(|owner| owner.owner_key(plan));
        let rows = |owner: &R| {
            let key = owner.owner_key(plan);
            (part.rows)(owner, plan).into_iter().map(move |row| std::iter::once(key.clone()).chain(row).collect())
        };
        owners.iter().flat_map(|owner| rows(owner)).collect()
    }
    of_kind!(file.kind, R => rows::<R>(plan, file.name)).unwrap_or_default()
}

/// What the parts of one record hold: for each its name and its rows, without the key of the record.
#[must_use]
pub fn parts_of(plan: &Plan, record: &Change) -> Vec<(&'static str, Vec<Vec<String>>)> {
    fn parts<R: Record>(plan: &Plan, record: &Change) -> Vec<(&'static str, Vec<Vec<String>>)> {
        let Some(record) = R::in_change(record).and_then(Edit::either) else { return Vec::new() };
        R::PARTS.iter().map(|part| (part.name, (part.rows)(record, plan))).collect()
    }
    of_kind!(record.subject().0, R => parts::<R>(plan, record)).unwrap_or_default()
}
