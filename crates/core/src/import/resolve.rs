//! From the lines of files to changes: each line is refused with its place, or becomes a record that is held against what stands.

use super::{
    Dataset, Line, Preview, Tally, Told,
    diff::{Placed, diff},
    read::{keep_parts, lawful, read},
};
use crate::text::Text;
use crate::{
    Day, Plan,
    change::{Change, Edit},
    kinds::{Identity, Keys, Kind, Put, Record, Wrong, of_kind},
};
use std::{
    collections::{BTreeMap, HashMap},
    hash::Hash,
};

pub(super) struct Resolving<'a> {
    pub(super) plan: &'a Plan,
    pub(super) data: &'a Dataset,
    /// The texts that stand; the plan does not hold them.
    texts: &'a [Text],
    /// The day; without one nothing stands yet that dates could break.
    pub(super) today: Option<Day>,
    /// Whether everything that can be inside something is so as it can be.
    pub(super) nests: bool,
    pub(super) keys: Keys,
    pub(super) out: Preview,
    /// What is wrong, by file.
    told: BTreeMap<String, Told>,
    /// The changes of each kind, in the order of the kinds.
    pub(super) changes: BTreeMap<Kind, Vec<Change>>,
    /// The lines that records come from.
    pub(super) lines: HashMap<(Kind, i32), u64>,
}

pub(super) fn resolve(plan: &Plan, data: &Dataset, texts: &[Text], today: Option<Day>) -> Preview {
    let mut work = Resolving {
        plan,
        data,
        texts,
        today,
        nests: true,
        keys: Keys::of(plan),
        out: Preview::default(),
        told: BTreeMap::new(),
        changes: BTreeMap::new(),
        lines: HashMap::new(),
    };
    // Who and what is spoken of most has the smallest identities.
    for kind in [Kind::Person, Kind::Team, Kind::Project, Kind::Task].iter().chain(Kind::ALL) {
        of_kind!(*kind, R => work.hand_out::<R>());
    }
    // What remains of tasks is said beside the log of the same files, so that one is read first.
    let first = [Kind::Field, Kind::TimeEntry];
    for kind in first.iter().chain(Kind::ALL.iter().filter(|kind| !first.contains(kind))) {
        if *kind == Kind::Task {
            work.keys.logs = work.logs();
        }
        of_kind!(*kind, R => work.take::<R>());
    }
    work.between();
    work.out.problems = work.told.into_values().flat_map(Told::problems).collect();
    work.out.changes = work.changes.into_values().flatten().collect();
    work.out
}

impl Resolving<'_> {
    pub(super) fn refuse(&mut self, file: &str, line: u64, (column, reason): Wrong) {
        let tally = self.out.files.entry(file.to_owned()).or_default();
        tally.refused += 1;
        self.told.entry(file.to_owned()).or_default().say(file, line, column, reason);
    }

    /// Gives an identity to every key that is new, so that lines may name each other in any order.
    fn hand_out<R: Record>(&mut self) {
        if !R::ABOUT.named() {
            return;
        }
        for line in self.data.lines(R::ABOUT.file) {
            self.keys.hand_out(R::KIND, R::key_in(&line));
        }
    }

    /// The lines of a kind's file, and of the files that add to its records.
    fn take<R: Record>(&mut self) {
        let (mut rows, mut seen) = (Vec::new(), HashMap::new());
        let data = self.data;
        for line in data.lines(R::ABOUT.file) {
            let made = read::<R>(&line, &self.keys).and_then(|record| self.beside_parts(record));
            match made {
                Err(wrong) => self.refuse(R::ABOUT.file, line.number(), wrong),
                Ok(record) => {
                    let known = !R::ABOUT.key_column.is_empty() && !record.key().is_empty();
                    if !known || self.only_once(&mut seen, record.key(), &line, R::ABOUT.file, R::ABOUT.key_column) {
                        rows.push((record, line.number()));
                    }
                }
            }
        }
        let mut edits = Vec::new();
        if !rows.is_empty() {
            let mut tally = Tally::default();
            let keys = &mut self.keys;
            edits = diff(R::standing_in(self.plan, self.texts), rows, &mut tally, || keys.take_id());
            let counted = self.out.files.entry(R::ABOUT.file.to_owned()).or_default();
            *counted = Tally { refused: counted.refused, ..tally };
        }
        self.add_parts(&mut edits);
        for (edit, line) in edits.into_iter().filter(|(edit, _)| edit.before != edit.after) {
            let change = R::change(edit);
            self.lines.insert(change.subject(), line);
            // Rows of the other files have values of the workspace's own fields.
            if R::KIND == Kind::Field {
                self.keys.plan.apply(&change);
            }
            self.changes.entry(R::KIND).or_default().push(change);
        }
    }

    /// The record of a line with what stands of its parts, held against its rules.
    fn beside_parts<R: Record>(&self, mut record: R) -> Result<R, Wrong> {
        if let Some(standing) = R::find(self.plan, record.id()).filter(|_| !R::PARTS.is_empty()) {
            keep_parts(&mut record, &standing);
        }
        lawful(&record, &self.keys).map(|()| record)
    }

    /// The files whose lines add to records of a kind, each in its turn.
    fn add_parts<R: Record>(&mut self, edits: &mut Vec<Placed<Edit<R>>>) {
        let data = self.data;
        let of = |(place, (edit, _)): (usize, &Placed<Edit<R>>)| Some((edit.after.as_ref()?.number(), place));
        let mut places: HashMap<i32, usize> = edits.iter().enumerate().filter_map(of).collect();
        for part in R::PARTS {
            let (owner, second) = (part.columns[0].name, part.columns[1].name);
            let mut seen = HashMap::new();
            for line in data.lines(part.file) {
                let id = match R::owner(line.at(0), &self.keys) {
                    Ok(id) => id,
                    Err(reason) => {
                        self.refuse(part.file, line.number(), (owner, reason));
                        continue;
                    }
                };
                if !self.only_once(&mut seen, (id, line.at(1).to_lowercase()), &line, part.file, second) {
                    continue;
                }
                let at = places.get(&id).copied().or_else(|| {
                    edits.push((standing_or_fresh(self.plan, id)?, 0));
                    places.insert(id, edits.len() - 1);
                    Some(edits.len() - 1)
                });
                // Where the line of the record itself was refused, there is nothing to add to.
                let Some(record) = at.and_then(|at| edits[at].0.after.as_mut()) else { continue };
                match (part.put)(record, &line.after_key(), &self.keys) {
                    Err(wrong) => self.refuse(part.file, line.number(), wrong),
                    Ok(put) => {
                        let tally = self.out.files.entry(part.file.to_owned()).or_default();
                        match put {
                            Put::New => tally.new += 1,
                            Put::Changed => tally.changed += 1,
                            Put::Same => tally.same += 1,
                        }
                    }
                }
            }
        }
    }

    /// Refuses the second line with the same key.
    fn only_once<K: Eq + Hash>(
        &mut self,
        seen: &mut HashMap<K, u64>,
        key: K,
        line: &Line<'_>,
        file: &str,
        column: &'static str,
    ) -> bool {
        if let Some(first) = seen.get(&key) {
            let reason = format!("stands on line {first} already");
            self.refuse(file, line.number(), (column, reason));
            return false;
        }
        seen.insert(key, line.number());
        true
    }
}

/// An edit of a record that no line of its own file speaks of: of what stands, or of one that is made for what adds to it.
fn standing_or_fresh<R: Record>(plan: &Plan, id: i32) -> Option<Edit<R>> {
    match R::find(plan, Identity::of(id)) {
        Some(standing) => Some(Edit::alter(standing.clone().into_owned(), standing.into_owned())),
        None => R::fresh(Identity::of(id)).map(Edit::new),
    }
}
