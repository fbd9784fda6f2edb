//! Estimate against actual as a report: the table of `hours::actuals`, as it stands, in the columns of a report.

use super::{
    Ask, By, Report, Value,
    columns::{Column, Shape, Slot, key_of},
    items::Mark,
};
use crate::{
    Eyes, Plan,
    hours::{Actuals, Cut, Key, actuals},
};
use std::{borrow::Cow, collections::BTreeMap};

const fn column(name: &'static str, label: &'static str, shape: Shape, adds_up: bool) -> Column {
    Column { name, label, shape, adds_up, is_money: false, slot: Slot::Number }
}

const FIGURES: [Column; 7] = [
    column("estimate", "Estimate", Shape::Hours, true),
    column("actual", "Worked", Shape::Hours, true),
    column("remaining", "Remaining", Shape::Hours, true),
    column("projected", "Projected", Shape::Hours, true),
    column("variance", "Variance", Shape::Hours, true),
    column("variance_percent", "In percent", Shape::Percent, false),
    column("without_estimate", "Without estimate", Shape::Count, true),
];

fn values(figures: &Actuals) -> [Value<'static>; 7] {
    [
        if figures.estimated { Value::Minutes(figures.estimate()) } else { Value::Nothing },
        Value::Minutes(figures.actual()),
        Value::Minutes(figures.remaining()),
        Value::Minutes(figures.projected()),
        figures.variance().map_or(Value::Nothing, Value::Minutes),
        figures.variance_per_mille().map_or(Value::Nothing, Value::PerMille),
        Value::Count(i64::try_from(figures.without_estimate).unwrap_or(i64::MAX)),
    ]
}

/// The name of a row; what belongs to none has none.
fn name<'p>(plan: &'p Plan, key: &Key) -> Value<'p> {
    let mark = match key {
        Key::Task(id) => id.map(Mark::Task),
        Key::Project(id) => id.map(Mark::Project),
        Key::Person(id) => id.map(Mark::Person),
        Key::Team(id) => id.map(Mark::Team),
        Key::Role(word) | Key::Kind(word) | Key::Tag(word) => {
            (!word.is_empty()).then(|| Mark::Words(Cow::Owned(word.clone())))
        }
        Key::Level(_) => None,
    };
    mark.map_or(Value::Nothing, |mark| mark.value(plan))
}

/// The row that a row is inside of, whose figures have its own in them.
fn outer(plan: &Plan, key: &Key) -> Option<Key> {
    match key {
        Key::Task(Some(id)) => plan.tasks.get(id)?.parent.map(|id| Key::Task(Some(id))),
        Key::Project(Some(id)) => plan.records.projects.get(id)?.parent.map(|id| Key::Project(Some(id))),
        Key::Team(Some(id)) => plan.records.teams.get(id)?.parent.map(|id| Key::Team(Some(id))),
        _ => None,
    }
}

/// Whether a row is asked for, and seen: what one person has is for them and a few others.
fn counts(eyes: &Eyes<'_>, ask: &Ask, key: &Key) -> bool {
    match key {
        Key::Person(Some(id)) => eyes.knows(*id),
        // Whoever is of a team may be of others too.
        Key::Team(Some(id)) => ask.filter.team.is_none_or(|team| eyes.plan.team_line(*id).any(|it| it.id == team)),
        Key::Team(None) => ask.filter.team.is_none(),
        _ => true,
    }
}

/// The report. A project, team or task that is inside another one is not added to the sums once more.
pub(super) fn report<'p>(eyes: &Eyes<'p>, ask: &Ask) -> Report<'p> {
    let plan = eyes.plan;
    let by = ask.by.first().copied().unwrap_or(By::Task);
    let table_by = match by {
        By::Project => actuals::By::Project,
        By::Person => actuals::By::Person,
        By::Team => actuals::By::Team,
        By::Role => actuals::By::Role,
        By::Kind => actuals::By::Kind,
        _ => actuals::By::Task,
    };
    let is_seen = ask.filter.person.is_none_or(|person| eyes.knows(person));
    let found: BTreeMap<Key, Actuals> =
        if is_seen { actuals::filtered(plan, table_by, Cut::ALL, &ask.filter) } else { BTreeMap::new() };
    // Other rows are inside none.
    let nests = matches!(by, By::Task | By::Project | By::Team);
    let kept: BTreeMap<&Key, &Actuals> = found.iter().filter(|(key, _)| counts(eyes, ask, key)).collect();
    let mut total = Actuals::default();
    let mut rows: Vec<Vec<Value<'p>>> = Vec::new();
    for (key, figures) in &kept {
        let outer = outer(plan, key).filter(|outer| kept.contains_key(outer));
        if outer.is_none() {
            total.add(figures);
        }
        let inside = nests.then(|| outer.map_or(Value::Nothing, |outer| name(plan, &outer)));
        rows.push(std::iter::once(name(plan, key)).chain(inside).chain(values(figures)).collect());
    }
    rows.sort_by(|a, b| a[..1].partial_cmp(&b[..1]).unwrap_or(std::cmp::Ordering::Equal));
    let inside = nests.then(|| column("inside", "Inside", Shape::Text, false));
    let columns: Vec<Column> = std::iter::once(key_of(by)).chain(inside).chain(FIGURES).collect();
    let keys = 1 + usize::from(nests);
    let totals = std::iter::repeat_n(Value::Nothing, keys).chain(values(&total)).collect();
    Report { columns, rows, keys, totals, inside: nests.then_some(1) }
}
