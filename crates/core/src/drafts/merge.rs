//! What becomes of a draft's changes on another plan, which has gone on meanwhile. A record that only the draft changed is taken over; of
//! one that both changed, the draft's fields are laid over the plan's, unless both gave one field another value: then somebody chooses.

use crate::{Plan, change::Change, kinds::Kind, text::Text};
use serde_json::{Map, Value};
use std::collections::{BTreeMap, BTreeSet};

/// Fields that say something together: one is not taken without the others.
const TOGETHER: &[(Kind, &[&str])] = &[
    (Kind::Task, &["start", "finish"]),
    (Kind::Booking, &["who", "start", "end", "amount"]),
    (Kind::Project, &["start", "finish"]),
    (Kind::Sprint, &["start", "finish"]),
];

/// What is taken of a record that was changed in a draft.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Take {
    /// The draft's values, also where the plan has others by now.
    Draft,
    /// The plan's values where both have another one than before, the draft's for the rest.
    Plan,
    /// Nothing: it stays as the plan has it.
    Nothing,
}

crate::words::words!(Take { Draft = "draft", Plan = "plan", Nothing = "nothing" });

/// What becomes of a draft's change on a plan.
#[allow(clippy::large_enum_variant)] // there is one for each record that a draft changed, while it is looked at
#[derive(Clone, Debug, PartialEq)]
pub enum Fate {
    /// The plan says the same already.
    Stands,
    /// It goes in, as this change of the plan.
    GoesIn(Change),
    /// Both have changed the same.
    Conflict(Conflict),
}

/// A record that both have changed.
#[derive(Clone, Debug, PartialEq)]
pub struct Conflict {
    /// From what stands in the plan to the draft's values.
    pub draft: Change,
    /// From what stands in the plan to the draft's values of other fields; `None` where there are none.
    pub plan: Option<Change>,
}

/// What becomes of a change that a draft comes to. `texts` are those that it may be about, as they stand; the plan does not hold them.
#[must_use]
pub fn fate(plan: &Plan, texts: &[Text], change: &Change) -> Fate {
    let standing = plan.standing_with(change, texts);
    if change.left(&standing) {
        return Fate::Stands;
    }
    if change.saw(&standing) {
        return Fate::GoesIn(change.clone());
    }
    // From what stands to the draft's: where the draft took it away, what stands goes.
    let whole = Change::between(&standing, change).unwrap_or_else(|| change.clone());
    match laid_over(&standing, change) {
        Some((fields, laid)) if fields.is_empty() => Fate::GoesIn(laid),
        Some((fields, laid)) => {
            let all = with_fields(&laid, change, &fields).unwrap_or(whole);
            Fate::Conflict(Conflict { draft: all, plan: (!laid.is_idle()).then_some(laid) })
        }
        None => Fate::Conflict(Conflict { draft: whole, plan: None }),
    }
}

/// What goes into a plan of the changes that a draft comes to; of those that are not in `takes`, and in conflict, nothing does.
#[must_use]
pub fn merged(plan: &Plan, texts: &[Text], net: &[Change], takes: &BTreeMap<(Kind, i32), Take>) -> Vec<Change> {
    let goes_in = |change: &Change| match (fate(plan, texts, change), takes.get(&change.subject())) {
        (Fate::Stands, _) | (_, Some(Take::Nothing)) | (Fate::Conflict(_), None) => None,
        (Fate::GoesIn(change), _) => Some(change),
        (Fate::Conflict(conflict), Some(Take::Draft)) => Some(conflict.draft),
        (Fate::Conflict(conflict), Some(Take::Plan)) => conflict.plan,
    };
    net.iter().filter_map(goes_in).collect()
}

/// The fields of one side of a change; `None` where there is no record on it.
fn side(change: &Change, side: &str) -> Option<Map<String, Value>> {
    let Value::Object(mut whole) = serde_json::to_value(change).ok()? else { return None };
    match whole.remove(side) {
        Some(Value::Object(fields)) => Some(fields),
        _ => None,
    }
}

/// The draft's new values laid over what stands, and the fields that both have given another value, which stay as they stand; `None`
/// where there is no record before, in the plan or in the draft.
fn laid_over(standing: &Change, change: &Change) -> Option<(BTreeSet<String>, Change)> {
    let (before, draft, stands) = (side(change, "before")?, side(change, "after")?, side(standing, "after")?);
    let differs = |one: &Map<String, Value>, other: &Map<String, Value>| -> BTreeSet<String> {
        let names = one.keys().chain(other.keys());
        let differs = names.filter(|name| one.get(*name) != other.get(*name)).map(String::as_str);
        differs.flat_map(|name| together(change.subject().0, name)).map(str::to_owned).collect()
    };
    let (of_draft, of_plan) = (differs(&before, &draft), differs(&before, &stands));
    let disputed = differs(&draft, &stands);
    let fields: BTreeSet<String> =
        of_draft.intersection(&of_plan).filter(|name| disputed.contains(*name)).cloned().collect();
    let others: BTreeSet<String> = of_draft.difference(&fields).cloned().collect();
    let nothing_new = Change::between(standing, standing)?;
    Some((fields, with_fields(&nothing_new, change, &others)?))
}

/// A field with those that say something together with it.
fn together(kind: Kind, name: &str) -> Vec<&str> {
    let found = TOGETHER.iter().find(|(of, names)| *of == kind && names.contains(&name));
    found.map_or_else(|| vec![name], |(_, names)| names.to_vec())
}

/// A change that leaves in some fields what another one leaves there.
fn with_fields(change: &Change, from: &Change, names: &BTreeSet<String>) -> Option<Change> {
    let mut whole = serde_json::to_value(change).ok()?;
    let from = side(from, "after")?;
    let after = whole.get_mut("after")?.as_object_mut()?;
    for name in names {
        match from.get(name) {
            Some(value) => drop(after.insert(name.clone(), value.clone())),
            None => drop(after.remove(name)),
        }
    }
    serde_json::from_value(whole).ok()
}
