//! Minutes of rows: everybody's part of limit and load, and the work that has no person yet.

use super::{Group, PersonCells, RowKey, ground::Groups, teams::Teams};
use crate::{
    availability::Days,
    by_day::ByDay,
    cells::{Bucket, Cell, Sum},
    demand::{SeatLoad, Slot},
    plan::Entry,
};
use std::collections::BTreeMap;

/// Rows while they are summed.
struct Rows<'w> {
    buckets: usize,
    /// The one row that is wanted; all where none is named.
    wanted: Option<&'w RowKey>,
    list: BTreeMap<RowKey, Vec<Sum>>,
}

impl Rows<'_> {
    /// The row of a key, made where it is missing; a project's has no limit.
    fn of(&mut self, key: &RowKey) -> &mut Vec<Sum> {
        if !self.list.contains_key(key) {
            let blank = if matches!(key, RowKey::Project(_)) { Sum::unlimited() } else { Sum::default() };
            self.list.insert(key.clone(), vec![blank; self.buckets]);
        }
        self.list.entry(key.clone()).or_default()
    }
}

/// The rows of a group over these people, by key; one row only, where one is wanted.
pub(super) fn rows<'e>(
    groups: &Groups<'_>,
    group: Group,
    people: impl Iterator<Item = &'e Entry>,
    wanted: Option<&RowKey>,
) -> BTreeMap<RowKey, Vec<Cell>> {
    let (plan, query, buckets) = (groups.plan, &groups.query, groups.buckets.as_slice());
    let mut rows = Rows { buckets: buckets.len(), wanted, list: BTreeMap::new() };
    // Projects and teams have a row whether or not anything stands in it.
    let always: Vec<RowKey> = match (wanted, group) {
        (Some(key), _) => vec![key.clone()],
        (None, Group::Project) => plan.records.projects.keys().map(|id| RowKey::Project(Some(*id))).collect(),
        (None, Group::Team) => plan.records.teams.keys().map(|id| RowKey::Team(Some(*id))).collect(),
        (None, Group::Person | Group::Role | Group::Skill) => Vec::new(),
    };
    for key in &always {
        rows.of(key);
    }
    for entry in people {
        let cells = PersonCells::of(plan, entry, &query.window, query.grain, group == Group::Project);
        match group {
            Group::Team => add_to_teams(groups.teams(), &mut rows, buckets, &cells),
            Group::Project => add_slots(&mut rows, &cells.load.slots, &cells.load.days, buckets),
            Group::Person | Group::Role | Group::Skill => {
                for key in group.of_person(plan, &entry.person).iter().filter(|key| key.is_wanted(wanted)) {
                    for (sum, bucket) in rows.of(key).iter_mut().zip(buckets) {
                        cells.add_to(sum, *bucket);
                    }
                }
            }
        }
    }
    add_seats(groups, group, &mut rows);
    let typed = |key: &RowKey| {
        let RowKey::Team(Some(id)) = key else { return None };
        groups.teams().typed_capacity(plan.records.teams.get(id)?, &query.window, buckets)
    };
    let cells = |(key, row): (RowKey, Vec<Sum>)| {
        let typed = typed(&key);
        let typed = |at: usize| typed.as_ref().and_then(|limits| limits.get(at));
        let cells = row.iter().enumerate().map(|(at, sum)| sum.cell(typed(at))).collect();
        (key, cells)
    };
    rows.list.into_iter().map(cells).collect()
}

/// Adds one person to the rows of their teams, and what is left of them to the row of those without one.
fn add_to_teams(teams: &Teams<'_>, rows: &mut Rows<'_>, buckets: &[Bucket], cells: &PersonCells<'_>) {
    let load = &cells.load;
    let id = cells.person.id;
    let named = load.named();
    let (mut firm, mut all) = (ByDay::default(), ByDay::default());
    if !named.is_empty() {
        (firm, all) = (load.firm.clone(), load.load.clone());
        for (_, minutes) in &named {
            firm.subtract(minutes);
            all.subtract(minutes);
        }
    }
    let wanted = rows.wanted;
    let mut add = |key: &RowKey, share: i64, wholly: &ByDay| {
        let work = (!named.is_empty()).then_some((&firm, &all, wholly));
        for (cell, bucket) in rows.of(key).iter_mut().zip(buckets) {
            cells.add_share(cell, *bucket, share, work);
        }
    };
    let none = ByDay::zeros(load.days.pattern.weeks());
    for (team, inside) in &teams.inside {
        let key = RowKey::Team(Some(team.id));
        if !key.is_wanted(wanted) {
            continue;
        }
        let share = teams.share_of(id, Some(team.id));
        if share == 0 && named.is_empty() {
            continue;
        }
        let mut wholly = none.clone();
        named.iter().filter(|(id, _)| inside.contains(id)).for_each(|(_, minutes)| wholly.add(minutes));
        if share > 0 || wholly.slots().iter().any(|minutes| *minutes > 0) {
            add(&key, share, &wholly);
        }
    }
    let (rest, left) = (RowKey::Team(None), teams.share_of(id, None));
    if left > 0 && rest.is_wanted(wanted) {
        add(&rest, left, &none);
    }
}

/// Adds the work with no person to its rows.
fn add_seats(groups: &Groups<'_>, group: Group, rows: &mut Rows<'_>) {
    let (plan, buckets) = (groups.plan, groups.buckets.as_slice());
    let (first, last) = groups.query.window.span();
    let days = Days::of_workspace(&plan.settings, first, last);
    for seat in groups.seats() {
        if group == Group::Project {
            add_slots(rows, &seat.slots, &days, buckets);
            continue;
        }
        for key in group.of_seat(plan, &seat.who) {
            if key.is_wanted(rows.wanted) {
                rows.of(&key).iter_mut().zip(buckets).for_each(|(cell, bucket)| add_seat(cell, seat, &days, *bucket));
            }
        }
    }
}

fn add_seat(cell: &mut Sum, seat: &SeatLoad, days: &Days, bucket: Bucket) {
    let range = days.indexes(bucket.from, bucket.to);
    let sums = seat.slots.iter().map(|slot| slot_sum(slot, range.clone()));
    let (firm, load) = sums.fold((0, 0), |a, b| (a.0 + b.0, a.1 + b.1));
    cell.add_seats(firm, load);
}

fn add_slots(rows: &mut Rows<'_>, slots: &[Slot], days: &Days, buckets: &[Bucket]) {
    for slot in slots {
        let key = RowKey::Project(slot.project);
        if key.is_wanted(rows.wanted) {
            for (cell, bucket) in rows.of(&key).iter_mut().zip(buckets) {
                let (firm, load) = slot_sum(slot, days.indexes(bucket.from, bucket.to));
                cell.add_seats(firm, load);
            }
        }
    }
}

fn slot_sum(slot: &Slot, range: std::ops::Range<usize>) -> (i64, i64) {
    (slot.firm.sum(range.clone()), slot.load.sum(range))
}
