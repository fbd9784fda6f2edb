//! The measures that count something else than minutes: projects or tasks at a time, points, a numeric field of one's own.

use super::{
    Group, Measure,
    groups::{Groups, project_key},
    teams::NO_TEAM,
};
use crate::{
    Day, FieldId, Plan,
    cells::{Bucket, Cell, Figures, Sum, WHOLE},
    demand::{PersonLoad, TaskPart, is_parent, person_load, shares_of},
    fields::FieldOf,
    kinds::{Person, Task},
    plan::Entry,
    spread::round_half_up,
};
use rust_decimal::{Decimal, RoundingStrategy, prelude::ToPrimitive as _};
use std::{collections::BTreeMap, ops::Range};

/// A sprint has two weeks until it says otherwise: over that many days somebody's points a sprint are their limit.
const SPRINT_DAYS: i64 = 14;

/// Counts of rows. Projects and tasks: the largest number on any day of the bucket. Points and fields, in hundredths: those of the
/// leaves whose finish lies in the bucket, cut between assignees like their effort. The limit is the person's own: projects and
/// tasks at a time, points a sprint, and for a field the number that the person has in a field of the same name, a week; points and
/// fields by the days of the bucket, half up. A row of several people adds, and has a limit only where everyone in it has one. In team
/// rows points and fields stand like work: a task that names a team wholly there and in outer teams, whoever does it, and what has no
/// person yet takes the people's summed room first; other tasks, and the limits, by the members' shares.
pub(super) struct Counts<'g, 'a> {
    groups: &'g Groups<'a>,
}

impl<'g, 'a> Counts<'g, 'a> {
    pub fn of(groups: &'g Groups<'a>) -> Self {
        Self { groups }
    }

    pub fn rows<'e>(
        &self,
        group: Group,
        people: impl Iterator<Item = &'e Entry>,
        wanted: Option<&str>,
    ) -> BTreeMap<String, Vec<Cell>> {
        let (plan, measure, buckets) = (self.groups.plan, self.groups.query.measure, &self.groups.buckets);
        let is_wanted = |key: &str| wanted.is_none_or(|wanted| wanted == key);
        let mut rows: BTreeMap<String, Vec<Cell>> = BTreeMap::new();
        let mut put = |key: &str, limited: bool, cells: &dyn Fn(Bucket) -> Cell| {
            if is_wanted(key) {
                let blank = Cell { limit: limited.then_some(0), ..Cell::default() };
                let row = rows.entry(key.to_owned()).or_insert_with(|| vec![blank; buckets.len()]);
                row.iter_mut().zip(buckets).for_each(|(cell, bucket)| add(cell, cells(*bucket)));
            }
        };
        let sized = matches!(measure, Measure::Points | Measure::Field(_));
        if sized && group == Group::Team {
            return self.teams(people, wanted);
        }
        if sized && group == Group::Project {
            // A project has all of its tasks.
            for task in plan.tasks.values() {
                let Some(size) = size_of(plan, measure, task) else { continue };
                let cell = |bucket: Bucket| Cell::of_count(if falls_in(task, bucket) { size } else { 0 }, None);
                put(&project_key(plan, Some(task.project)), false, &cell);
            }
            return rows;
        }
        for entry in people {
            let person = PersonCounts::of(plan, entry, self.groups);
            let keys = match group {
                Group::Team => self.groups.teams().codes_of(entry.person.id),
                _ => self.groups.keys_of(group, &entry.person),
            };
            for key in &keys {
                put(key, true, &|bucket| person.cell(bucket));
            }
            if group == Group::Project {
                person.on_projects(|key, cell| put(&project_key(plan, key), false, cell));
            }
        }
        rows
    }
}

impl Counts<'_, '_> {
    /// Points, or a field, of teams.
    fn teams<'e>(&self, people: impl Iterator<Item = &'e Entry>, wanted: Option<&str>) -> BTreeMap<String, Vec<Cell>> {
        let (plan, measure, buckets) = (self.groups.plan, self.groups.query.measure, &self.groups.buckets);
        let teams = self.groups.teams();
        let is_wanted = |key: &str| wanted.is_none_or(|wanted| wanted == key);
        let mut rows: BTreeMap<String, Vec<Sum>> = BTreeMap::new();
        for (team, _) in teams.inside.iter().filter(|(team, _)| is_wanted(&team.code)) {
            rows.insert(team.code.clone(), vec![Sum::default(); buckets.len()]);
        }
        for entry in people {
            let person = PersonCounts::of(plan, entry, self.groups);
            let mut add = |key: &str, share: i64, names: &dyn Fn(&Task) -> bool| {
                let row = rows.entry(key.to_owned()).or_insert_with(|| vec![Sum::default(); buckets.len()]);
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
            for (team, inside) in teams.inside.iter().filter(|(team, _)| is_wanted(&team.code)) {
                let names = |task: &Task| task.team.is_some_and(|id| inside.contains(&id));
                let share = teams.share_of(person.person.id, Some(team.id));
                if share > 0 || person.sizes.iter().any(|(task, _)| names(task)) {
                    add(&team.code, share, &names);
                }
            }
            let left = teams.share_of(person.person.id, None);
            if left > 0 && is_wanted(NO_TEAM) {
                add(NO_TEAM, left, &|_| false);
            }
        }
        for task in plan.tasks.values().filter(|task| task.assignees.is_empty()) {
            let (Some(team), Some(size)) = (task.team, size_of(plan, measure, task)) else { continue };
            for (outer, _) in teams.inside.iter().filter(|(_, inside)| inside.contains(&team)) {
                let row = rows.get_mut(&outer.code).into_iter().flatten();
                row.zip(buckets)
                    .filter(|(_, bucket)| falls_in(task, **bucket))
                    .for_each(|(sum, _)| sum.add_seats(size, size));
            }
        }
        rows.into_iter().map(|(key, row)| (key, row.iter().map(|sum| sum.cell(None)).collect())).collect()
    }
}

/// The row of one person, by a measure that counts.
pub(super) fn person_row(groups: &Groups<'_>, entry: &Entry) -> Vec<Cell> {
    let person = PersonCounts::of(groups.plan, entry, groups);
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

/// What a person's figure of a bucket counts, by a measure that counts.
#[must_use]
pub fn made_of<'a>(groups: &Groups<'a>, entry: &'a Entry, bucket: Bucket) -> MadeOf<'a> {
    let person = PersonCounts::of(groups.plan, entry, groups);
    let mut made = MadeOf { cell: person.cell(bucket), day: None, tasks: Vec::new() };
    let Some(load) = &person.load else {
        let here = person.sizes.iter().filter(|(task, _)| falls_in(task, bucket));
        made.tasks = here.map(|(task, size)| (*task, Some(*size))).collect();
        return made;
    };
    let count = |at: &usize| person.at_a_time(load, *at);
    // The first of the largest.
    let busiest = load.days.indexes(bucket.from, bucket.to).rev().max_by_key(count).filter(|at| count(at) > 0);
    if let Some(at) = busiest {
        let on = load.tasks.iter().filter(|part| part.minutes[at] > 0 && person.measure == Measure::Tasks);
        made.day = Some(load.days.day(at));
        made.tasks = on.filter_map(|part| groups.plan.tasks.get(&part.task)).map(|task| (&**task, None)).collect();
    }
    made
}

/// One person's counts.
struct PersonCounts<'a> {
    plan: &'a Plan,
    person: &'a Person,
    measure: Measure,
    /// What lies on the days, for projects and tasks at a time.
    load: Option<PersonLoad>,
    /// Each task with a size and the person's part of it.
    sizes: Vec<(&'a Task, i64)>,
}

impl<'a> PersonCounts<'a> {
    fn of(plan: &'a Plan, entry: &'a Entry, groups: &Groups<'_>) -> Self {
        let measure = groups.query.measure;
        let sized = matches!(measure, Measure::Points | Measure::Field(_));
        let load = (!sized).then(|| person_load(plan, entry, &groups.query.window, true));
        let part = |task: &'a Task| {
            let at = task.assignees.people().position(|id| id == entry.person.id)?;
            Some((task, *shares_of(&task.assignees, size_of(plan, measure, task)?).get(at)?))
        };
        let tasks = entry.tasks.iter().filter(|_| sized).filter_map(|id| plan.tasks.get(id));
        Self { plan, person: &entry.person, measure, load, sizes: tasks.filter_map(|task| part(task)).collect() }
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
        match self.measure {
            Measure::Projects => self.person.max_projects.map(i64::from),
            Measure::Tasks => self.person.max_tasks.map(i64::from),
            Measure::Field(field) => self.limit_of(field).and_then(|number| hundredths(number, 7)),
            _ => self.person.max_points.and_then(|points| hundredths(points, SPRINT_DAYS)),
        }
    }

    /// Projects or tasks on a day, by its index.
    fn at_a_time(&self, load: &PersonLoad, at: usize) -> i64 {
        if self.measure == Measure::Projects { load.projects_on(at) } else { load.tasks_on(at) }
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
                if self.measure == Measure::Projects {
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

/// The size of a leaf by a measure, in hundredths.
fn size_of(plan: &Plan, measure: Measure, task: &Task) -> Option<i64> {
    if is_parent(plan, task.id) {
        return None;
    }
    match measure {
        Measure::Field(field) => hundredths(task.fields.get(&field)?.parse().ok()?),
        _ => hundredths(task.points?),
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
