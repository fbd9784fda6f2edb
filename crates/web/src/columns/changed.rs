//! A change as people read it.

use super::{columns, listed, sent, shown};
use snug_core::{
    Eyes, Plan, Role,
    change::Change,
    kinds::{Kind, Who},
    text::Text,
};
use snug_exchange::csv::row_of;

/// What one change did, column by column.
pub struct Changed {
    /// What happened, in words.
    pub says: String,
    /// Where the record is, where it has a page.
    pub href: Option<String>,
    /// Column, before, after.
    pub columns: Vec<(String, String, String)>,
}

/// A change as these eyes see it, in the columns that a role sees.
pub fn changed(eyes: &Eyes<'_>, change: &Change, role: Role) -> Changed {
    let plan = eyes.plan;
    let (kind, id) = change.subject();
    let columns = columns(plan, kind, role);
    let (before, after) = (change.clone().inverse().only_after(), change.clone().only_after());
    let of = |record: &Option<Change>| record.as_ref().and_then(|record| row_of(eyes, record)).unwrap_or_default();
    let (before, after) = (of(&before), of(&after));
    // Of a text, its words say all.
    let (before, after) = if kind == Kind::Text { Default::default() } else { (before, after) };
    let names: Vec<&String> = if after.is_empty() { &before } else { &after }.iter().map(|(name, _)| name).collect();
    let differs = names.into_iter().filter_map(|name| {
        let column = columns.iter().find(|column| column.name == *name)?;
        let (old, new) = (sent(&before, name), sent(&after, name));
        (old != new).then(|| (column.label.clone(), shown(plan, column, old), shown(plan, column, new)))
    });
    let text = match change {
        Change::Text(edit) => {
            let body = |text: &Option<Text>| text.as_ref().map(|text| text.body.clone()).unwrap_or_default();
            vec![("Text".to_owned(), body(&edit.before), body(&edit.after))]
        }
        _ => Vec::new(),
    };
    let there = listed().find(|listed| *listed == kind && kind.one(plan, id).is_some());
    Changed {
        says: named(plan, change),
        href: there.map(|kind| format!("/{}/{id}", kind.about().path)),
        columns: differs.chain(text).collect(),
    }
}

/// What happened, in words: of a booking also whose it is and on what, which is all that one knows it by.
fn named(plan: &Plan, change: &Change) -> String {
    let says = change.says(plan);
    let Change::Booking(edit) = change else { return says };
    let Some(booking) = edit.either() else { return says };
    let who = booked_for(plan, &booking.who);
    let on = booking.project.and_then(|id| plan.records.projects.get(&id));
    let on = on.map(|project| format!(" on {}", project.name)).unwrap_or_default();
    let verb = says.rsplit(' ').next().unwrap_or_default();
    format!("Booking of {who}{on} {verb}")
}

/// Whose a booking is, in words.
pub fn booked_for(plan: &Plan, who: &Who) -> String {
    match who {
        Who::Person(id) => plan.people.get(id).map(|entry| entry.person.name.clone()).unwrap_or_default(),
        Who::Team(id) => plan.records.teams.get(id).map(|team| team.name.clone()).unwrap_or_default(),
        Who::Role(role) => role.clone(),
    }
}
