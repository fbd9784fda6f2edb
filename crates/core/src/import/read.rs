//! From one line to one record: keys become identities, and the record is held against its rules.

use super::{Dataset, Line};
use crate::{
    Day, Plan, Refusal,
    change::{Change, Edit},
    kinds::{Input, Keys, Kind, Put, Record, Wrong, of_kind},
};

/// The record of a line. One that others name by its key has the identity of that; any other has none yet.
pub(super) fn read<R: Record>(line: &Line<'_>, keys: &Keys) -> Result<R, Wrong> {
    let mut record = R::blank();
    for (at, column) in R::COLUMNS.iter().enumerate() {
        match line.at(at) {
            "" if column.spec.must => return Err((column.spec.name, "is empty".to_owned())),
            "" => {}
            text => (column.access.read)(&mut record, text, keys).map_err(|reason| (column.spec.name, reason))?,
        }
    }
    if let Some((of, _)) = record.own() {
        let values = keys.own(of, line.own())?;
        record.own_mut().into_iter().for_each(|own| own.clone_from(&values));
    }
    record.finish(line, keys)?;
    if R::ABOUT.named() && !record.key().is_empty() {
        record.set_number(keys.get(R::KIND, &record.key()).unwrap_or(0));
    }
    Ok(record)
}

/// Holds a record against its own rules. Whether time lies ahead is not asked of files, which may tell of any time.
pub(super) fn lawful<R: Record>(record: &R, keys: &Keys) -> Result<(), Wrong> {
    record.lawful(&keys.plan, Day::MAX - 7).map_err(|Refusal { field, message, .. }| (field, message))
}

/// The one record that these lines describe, as a form or a program sends it: a line of its own file, and lines of the files that add
/// to it. It has the identity `id`, or 0 for a new one; a key may be another than before.
///
/// # Errors
/// Every cell that cannot be taken, by its column; what adds to it by the name of its part.
pub fn record(plan: &Plan, kind: Kind, data: &Dataset, id: i32) -> Result<Change, Vec<(String, String)>> {
    if !data.problems.is_empty() {
        return Err(data.problems.iter().map(|problem| (problem.column.clone(), problem.reason.clone())).collect());
    }
    let keys = Keys::for_one(plan, id);
    let made = of_kind!(kind, R => one::<R>(data, &keys).map(|record| R::change(Edit::new(record))));
    let made = made.unwrap_or_else(|| Err(("", "There is nothing to read.".to_owned())));
    made.map(|made| made.numbered(id)).map_err(|(column, reason)| vec![(column.to_owned(), reason)])
}

fn one<R: Record>(data: &Dataset, keys: &Keys) -> Result<R, Wrong> {
    let Some(line) = data.lines(R::ABOUT.file).next() else {
        return Err(("", "There is nothing to read.".to_owned()));
    };
    let mut record: R = read(&line, keys)?;
    for part in R::PARTS {
        for line in data.lines(part.file) {
            let put = (part.put)(&mut record, &line.after_key(), keys);
            let put = put.map_err(|(column, reason)| {
                let spec = part.columns.iter().find(|spec| spec.name == column);
                // Who or what is not there says by itself what it is about.
                let label = spec.filter(|spec| !matches!(spec.input, Input::One(_))).map(|spec| spec.label);
                (part.name, label.map_or_else(|| reason.clone(), |label| format!("{label}: {reason}")))
            })?;
            if put != Put::New {
                return Err((part.name, part.twice.to_owned()));
            }
        }
    }
    lawful(&record, keys)?;
    Ok(record)
}

/// Takes over what the parts of a standing record hold.
pub(super) fn keep_parts<R: Record>(record: &mut R, standing: &R) {
    for part in R::PARTS {
        (part.keep)(record, standing);
    }
}

/// Keeps what the parts of a record hold: a program that sends the columns alone says nothing of them.
#[must_use]
pub fn keeping_parts(made: Change, standing: &Change) -> Change {
    fn kept<R: Record>(made: &Change, standing: &Change) -> Option<Change> {
        let (mut edit, standing) = (R::in_change(made)?.clone(), R::in_change(standing)?.after.as_ref()?);
        let record = edit.after.as_mut()?;
        keep_parts(record, standing);
        Some(R::change(edit))
    }
    of_kind!(made.subject().0, R => kept::<R>(&made, standing)).flatten().unwrap_or(made)
}
