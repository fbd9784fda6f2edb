//! The measures that count something else than minutes: projects or tasks at a time, points, a numeric field of one's own.

use super::{
    Group, RowKey,
    ground::Groups,
    measure::{Counted, Size, Thing},
};
use crate::{
    Day, FieldId, Plan,
    cells::{Bucket, Cell, Figures, Sum, WHOLE},
    demand::{PersonLoad, TaskPart, Window, is_parent, person_load, shares_of},
    fields::FieldOf,
    kinds::{Person, Task, Team},
    plan::Entry,
    spread::round_half_up,
};
use rust_decimal::{Decimal, RoundingStrategy, prelude::ToPrimitive as _};
use std::{collections::BTreeMap, ops::Range, sync::Arc};

/// A sprint has two weeks until it says otherwise: over that many days somebody's points a sprint are their limit.
const SPRINT_DAYS: i64 = 14;

/// Counts of rows. Projects and tasks: the largest number on any day of the bucket. Points and fields, in hundredths: those of the
/// leaves whose finish lies in the bucket, cut between assignees like their effort. The limit is the person's own: projects and
/// tasks at a time, points a sprint, and for a field the number that the person has in a field of the same name, a week; points and
/// fields by the days of the bucket, half up. A row of several people adds, and has a limit only where everyone in it has one. In team
/// rows points and fields stand like work: a task that names a team wholly there and in outer teams, whoever does it, and what has no
/// person yet takes the people's summed room first; other tasks, and the limits, by the members' shares.
pub(super) fn rows<'e>(
    groups: &Groups<'_>,
    way: Counted,
    group: Group,
    people: impl Iterator<Item = &'e Entry>,
    wanted: Option<&RowKey>,
) -> BTreeMap<RowKey, Vec<Cell>> {
    let (plan, buckets) = (groups.plan, &groups.buckets);
    let mut rows: BTreeMap<RowKey, Vec<Cell>> = BTreeMap::new();
    let mut put = |key: &RowKey, cells: &dyn Fn(Bucket) -> Cell| {
        if key.is_wanted(wanted) {
            let limited = !matches!(key, RowKey::Project(_));
            let blank = Cell { limit: limited.then_some(0), ..Cell::default() };
            let row = rows.entry(key.clone()).or_insert_with(|| vec![blank; buckets.len()]);
            row.iter_mut().zip(buckets).for_each(|(cell, bucket)| add(cell, cells(*bucket)));
        }
    };
    match (way, group) {
        (Counted::Sizes(size), Group::Team) => return of_teams(groups, size, people, wanted),
        // A project has all of its tasks.
        (Counted::Sizes(size), Group::Project) => {
            for task in plan.tasks.values() {
                let Some(whole) = size.of(plan, task) else { continue };
                let cell = |bucket: Bucket| Cell::of_count(if falls_in(task, bucket) { whole } else { 0 }, None);
                put(&RowKey::Project(Some(task.project)), &cell);
            }
        }
        (Counted::AtATime(_), Group::Project) => {
            for entry in people {
                PersonCounts::of(groups.plan, &groups.query.window, way, entry)
                    .on_projects(|key, cell| put(&RowKey::Project(key), cell));
            }
        }
        (_, Group::Person | Group::Team | Group::Role | Group::Skill) => {
            for entry in people {
                let person = PersonCounts::of(groups.plan, &groups.query.window, way, entry);
                let keys = match group {
                    Group::Team => groups.teams().rows_of(entry.person.id),
                    _ => group.of_person(plan, &entry.person),
                };
                for key in &keys {
                    put(key, &|bucket| person.cell(bucket));
                }
            }
        }
    }
    rows
}

/// Points, or a field, of teams.
fn of_teams<'e>(
    groups: &Groups<'_>,
    size: Size,
    people: impl Iterator<Item = &'e Entry>,
    wanted: Option<&RowKey>,
) -> BTreeMap<RowKey, Vec<Cell>> {
    let (plan, buckets, teams) = (groups.plan, &groups.buckets, groups.teams());
    let key_of = |team: &Team| RowKey::Team(Some(team.id));
    let shown = || teams.inside.iter().filter(|(team, _)| key_of(team).is_wanted(wanted));
    let mut rows: BTreeMap<RowKey, Vec<Sum>> =
        shown().map(|(team, _)| (key_of(team), vec![Sum::default(); buckets.len()])).collect();
    for entry in people {
        let person = PersonCounts::of(groups.plan, &groups.query.window, Counted::Sizes(size), entry);
        let mut add = |key: RowKey, share: i64, names: &dyn Fn(&Task) -> bool| {
            let row = rows.entry(key).or_insert_with(|| vec![Sum::default(); buckets.len()]);
            for (sum, bucket) in row.iter_mut().zip(buckets) {
                let part = |task: &Task| if names(task) { WHOLE } else { share * i64::from(task.team.is_none()) };
                let here = person.sizes.iter().filter(|(task, _)| falls_in(task, *bucket));
                let load = here.map(|(task, size)| part(task) * size).sum();
                match person.limit(*bucket) {
                    None if share > 0 => sum.lift(load),
                    limit => {
                        let limit = limit.unwrap_or(0) * share;
                        sum.add_person(Figures { limit, load, firm: load, peak: (load - limit).max(0) });
                    }
                }
            }
        };
        for (team, inside) in shown() {
            let names = |task: &Task| task.team.is_some_and(|id| inside.contains(&id));
            let share = teams.share_of(person.person.id, Some(team.id));
            if share > 0 || person.sizes.iter().any(|(task, _)| names(task)) {
                add(key_of(team), share, &names);
            }
        }
        let left = teams.share_of(person.person.id, None);
        if left > 0 && RowKey::Team(None).is_wanted(wanted) {
            add(RowKey::Team(None), left, &|_| false);
        }
    }
    for task in plan.tasks.values().filter(|task| task.assignees.is_empty()) {
        let (Some(team), Some(whole)) = (task.team, size.of(plan, task)) else { continue };
        for (outer, _) in teams.inside.iter().filter(|(_, inside)| inside.contains(&team)) {
            let row = rows.get_mut(&key_of(outer)).into_iter().flatten();
            let here = row.zip(buckets).filter(|(_, bucket)| falls_in(task, **bucket));
            here.for_each(|(sum, _)| sum.add_seats(whole, whole));
        }
    }
    rows.into_iter().map(|(key, row)| (key, row.iter().map(|sum| sum.cell(None)).collect())).collect()
}

/// The row of one person, by a measure that counts.
pub(super) fn person_row(groups: &Groups<'_>, way: Counted, entry: &Entry) -> Vec<Cell> {
    let person = PersonCounts::of(groups.plan, &groups.query.window, way, entry);
    groups.buckets.iter().map(|bucket| person.cell(*bucket)).collect()
}

/// What a figure counts.
#[derive(Clone, Debug, PartialEq)]
pub struct MadeOf<'a> {
    /// The figure.
    pub cell: Cell,
    /// The first day on which most is going on; only for what is counted at a time.
    pub day: Option<Day>,
    /// The tasks: those of that day, or those that finish in the bucket, each with the person's part of its size in hundredths.
    pub tasks: Vec<(&'a Task, Option<i64>)>,
}

/// What a person's figure of a bucket counts, by a measure that counts; nothing where it is minutes.
#[must_use]
pub fn made_of<'a>(groups: &Groups<'a>, entry: &'a Entry, bucket: Bucket) -> Option<MadeOf<'a>> {
    let person = PersonCounts::of(groups.plan, &groups.query.window, groups.query.measure.counted()?, entry);
    let mut made = MadeOf { cell: person.cell(bucket), day: None, tasks: Vec::new() };
    let Some(load) = &person.load else {
        let here = person.sizes.iter().filter(|(task, _)| falls_in(task, bucket));
        made.tasks = here.map(|(task, size)| (*task, Some(*size))).collect();
        return Some(made);
    };
    let count = |at: &usize| person.at_a_time(load, *at);
    // The first of the largest.
    let busiest = load.days.indexes(bucket.from, bucket.to).rev().max_by_key(count).filter(|at| count(at) > 0);
    if let Some(at) = busiest {
        let on = load.tasks.iter().filter(|part| part.minutes[at] > 0 && person.way == Counted::AtATime(Thing::Tasks));
        made.day = Some(load.days.day(at));
        made.tasks = on.filter_map(|part| groups.plan.tasks.get(&part.task)).map(|task| (&**task, None)).collect();
    }
    Some(made)
}

/// One person's counts.
struct PersonCounts<'a> {
    plan: &'a Plan,
    person: &'a Person,
    way: Counted,
    /// What lies on the days, for what is counted at a time.
    load: Option<PersonLoad>,
    /// Each task with a size and the person's part of it.
    sizes: Vec<(&'a Task, i64)>,
}

impl<'a> PersonCounts<'a> {
    fn of(plan: &'a Plan, window: &Window, way: Counted, entry: &'a Entry) -> Self {
        let (load, sizes) = match way {
            Counted::AtATime(_) => (Some(person_load(plan, entry, window, true)), Vec::new()),
            Counted::Sizes(size) => {
                let part = |task: &'a Arc<Task>| {
                    let at = task.assignees.people().position(|id| id == entry.person.id)?;
                    Some((&**task, *shares_of(&task.assignees, size.of(plan, task)?).get(at)?))
                };
                (None, entry.tasks.iter().filter_map(|id| plan.tasks.get(id)).filter_map(part).collect())
            }
        };
        Self { plan, person: &entry.person, way, load, sizes }
    }

    fn cell(&self, bucket: Bucket) -> Cell {
        let limit = self.limit(bucket);
        match &self.load {
            Some(load) => {
                let range = load.days.indexes(bucket.from, bucket.to);
                count_cell(range, limit, |at| self.at_a_time(load, at))
            }
            None => Cell::of_count(self.sum(bucket), limit),
        }
    }

    /// The most that this person may have in a bucket.
    fn limit(&self, bucket: Bucket) -> Option<i64> {
        let days = i64::from(bucket.to.since(bucket.from)) + 1;
        let hundredths = |number: Decimal, per: i64| hundredths(number).map(|whole| round_half_up(whole * days, per));
        match self.way {
            Counted::AtATime(Thing::Projects) => self.person.max_projects.map(i64::from),
            Counted::AtATime(Thing::Tasks) => self.person.max_tasks.map(i64::from),
            Counted::Sizes(Size::Field(field)) => self.limit_of(field).and_then(|number| hundredths(number, 7)),
            Counted::Sizes(Size::Points) => self.person.max_points.and_then(|points| hundredths(points, SPRINT_DAYS)),
        }
    }

    /// Projects or tasks on a day, by its index.
    fn at_a_time(&self, load: &PersonLoad, at: usize) -> i64 {
        match self.way {
            Counted::AtATime(Thing::Projects) => load.projects_on(at),
            Counted::AtATime(Thing::Tasks) => load.tasks_on(at),
            Counted::Sizes(_) => 0,
        }
    }

    fn sum(&self, bucket: Bucket) -> i64 {
        self.sizes.iter().filter(|(task, _)| falls_in(task, bucket)).map(|(_, size)| size).sum()
    }

    fn limit_of(&self, field: FieldId) -> Option<Decimal> {
        let name = &self.plan.records.fields.get(&field)?.name;
        let own = self.plan.records.fields.values().find(|own| own.of == FieldOf::Person && own.name == *name)?;
        self.person.fields.get(&own.id)?.parse().ok()
    }

    /// How many people (projects) or tasks (tasks) are on each project at a time.
    fn on_projects(&self, mut put: impl FnMut(Option<crate::ProjectId>, &dyn Fn(Bucket) -> Cell)) {
        let Some(load) = &self.load else { return };
        for slot in load.slots.iter().filter(|slot| slot.project.is_some()) {
            let count = |at: usize| {
                if self.way == Counted::AtATime(Thing::Projects) {
                    return i64::from(slot.load[at] > 0);
                }
                let here = |part: &&TaskPart| Some(part.project) == slot.project && part.minutes[at] > 0;
                i64::try_from(load.tasks.iter().filter(here).count()).unwrap_or(i64::MAX)
            };
            put(slot.project, &|bucket| count_cell(load.days.indexes(bucket.from, bucket.to), None, count));
        }
    }
}

/// A decimal in hundredths, half up.
fn hundredths(number: Decimal) -> Option<i64> {
    let scaled = number.checked_mul(Decimal::ONE_HUNDRED)?;
    scaled.round_dp_with_strategy(0, RoundingStrategy::MidpointAwayFromZero).to_i64()
}

impl Size {
    /// The size of a leaf, in hundredths.
    fn of(self, plan: &Plan, task: &Task) -> Option<i64> {
        if is_parent(plan, task.id) {
            return None;
        }
        match self {
            Self::Points => hundredths(task.points?),
            Self::Field(field) => hundredths(task.fields.get(&field)?.parse().ok()?),
        }
    }
}

fn falls_in(task: &Task, bucket: Bucket) -> bool {
    task.finish.is_some_and(|day| (bucket.from..=bucket.to).contains(&day))
}

fn add(sum: &mut Cell, cell: Cell) {
    sum.limit = sum.limit.zip(cell.limit).map(|(a, b)| a + b);
    sum.load += cell.load;
    sum.firm += cell.firm;
    sum.room += cell.room;
    sum.spill += cell.spill;
    sum.peak += cell.peak;
    sum.over += cell.over;
}

fn count_cell(range: Range<usize>, limit: Option<i64>, count: impl Fn(usize) -> i64) -> Cell {
    Cell::of_count(range.map(count).max().unwrap_or(0), limit)
}
