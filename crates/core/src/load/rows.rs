//! How the cells of a row come about.

use super::{Group, Measure, Query};
use crate::{
    PersonId, Plan, TeamId,
    availability::Days,
    cells::{Bucket, Cell, Grain, PersonLimit, Sum, WHOLE, person_limit},
    demand::{PersonLoad, SeatLoad, Slot, Window, person_load, seat_loads},
    people::Person,
    plan::Entry,
    work::{Team, Who},
};
use num_bigint::BigInt;
use num_rational::BigRational;
use std::{
    collections::{BTreeMap, BTreeSet},
    ops::Range,
};

type Rows = BTreeMap<String, Vec<Sum>>;

/// One person's load and how it is cut into cells.
pub struct PersonCells<'a> {
    person: &'a Person,
    grain: Grain,
    /// The load that the cells sum up.
    pub load: PersonLoad,
}

impl<'a> PersonCells<'a> {
    /// Computes the load of one person.
    #[must_use]
    pub fn of(plan: &Plan, entry: &'a Entry, window: &Window, grain: Grain, by_project: bool) -> Self {
        Self { person: &entry.person, grain, load: person_load(plan, entry, window, by_project) }
    }

    /// The person's own cell of a bucket.
    #[must_use]
    pub fn cell(&self, bucket: Bucket) -> Cell {
        let range = self.load.days.indexes(bucket.from, bucket.to);
        let day = |at: usize| i64::from(self.load.load[at]);
        let PersonLimit { limit, load, peak, cut } =
            person_limit(self.person, &self.load.days, 1, day, range.clone(), self.grain);
        if cut.is_some() {
            let mut sum = Sum::default();
            self.add_to(&mut sum, bucket);
            return sum.cell(None);
        }
        let firm = self.load.firm[range].iter().map(|minutes| i64::from(*minutes)).sum();
        let spill = (load - limit).max(0);
        let over = u32::from(spill > 0 || peak > 0);
        Cell { limit: Some(limit), load, firm, room: (limit - load).max(0), spill, peak, over }
    }

    /// Adds the person to a row's sum of a bucket.
    pub fn add_to(&self, row: &mut Sum, bucket: Bucket) {
        let range = self.load.days.indexes(bucket.from, bucket.to);
        let sum = |of: &[i32]| of[range.clone()].iter().map(|minutes| i64::from(*minutes)).sum::<i64>() * WHOLE;
        let day = |at: usize| i64::from(self.load.load[at]) * WHOLE;
        let limit = person_limit(self.person, &self.load.days, WHOLE, day, range.clone(), self.grain);
        row.add_person(&limit, sum(&self.load.firm));
    }

    /// Adds what the person gives to a team: a share of the load, and `named`, the work that names that team, wholly. `other` is
    /// firm and all load without any work that names a team.
    fn add_share(&self, row: &mut Sum, bucket: Bucket, share: i64, other: (&[i32], &[i32]), named: &[i32]) {
        let range = self.load.days.indexes(bucket.from, bucket.to);
        let part = |of: &[i32], at: usize| share * i64::from(of[at]) + WHOLE * i64::from(named[at]);
        let sum = |of: &[i32]| range.clone().map(|at| part(of, at)).sum::<i64>();
        let limit =
            person_limit(self.person, &self.load.days, share, |at| part(other.1, at), range.clone(), self.grain);
        row.add_person(&limit, sum(other.0));
    }
}

/// One person's cells, the row of the table grouped by person.
#[must_use]
pub fn person_row(plan: &Plan, entry: &Entry, query: &Query, buckets: &[Bucket]) -> Vec<Cell> {
    let cells = PersonCells::of(plan, entry, &query.window, query.grain, false);
    buckets.iter().map(|bucket| cells.cell(*bucket)).collect()
}

/// The rows of the measures that count minutes.
pub(super) fn minutes(plan: &Plan, query: &Query, buckets: &[Bucket]) -> BTreeMap<String, Vec<Cell>> {
    if query.group == Group::Person {
        let row = |entry: &Entry| (entry.person.email.clone(), person_row(plan, entry, query, buckets));
        return plan.people.values().map(row).collect();
    }
    minutes_of(plan, query, buckets, plan.people.values())
}

/// The row of one team, or of `(no team)`: the same as in the whole table, computed from the people whose load it holds.
#[must_use]
pub fn team_row(plan: &Plan, query: &Query, buckets: &[Bucket], team: Option<TeamId>) -> Vec<Cell> {
    let query = Query { group: Group::Team, ..*query };
    let inside = team.map(|id| plan.team_and_inner(id)).unwrap_or_default();
    let members = inside.iter().filter_map(|id| plan.teams.get(id)).flat_map(|team| &team.members).map(|(id, _)| *id);
    let named = plan.tasks.values().filter(|task| task.team.is_some_and(|id| inside.contains(&id)));
    let held: BTreeSet<PersonId> = members.chain(named.flat_map(|task| task.assignees.people())).collect();
    // What is left of everybody's time stands in the row of those without a team.
    let people: Vec<&Entry> = match team {
        None => plan.people.values().collect(),
        Some(_) => held.iter().filter_map(|id| plan.people.get(id)).collect(),
    };
    let key = team.and_then(|id| plan.teams.get(&id)).map_or("(no team)", |team| team.code.as_str());
    minutes_of(plan, &query, buckets, people.into_iter()).remove(key).unwrap_or_default()
}

fn minutes_of<'a>(
    plan: &'a Plan,
    query: &Query,
    buckets: &[Bucket],
    people: impl Iterator<Item = &'a Entry>,
) -> BTreeMap<String, Vec<Cell>> {
    let mut rows = Rows::new();
    let blank = |limit: bool| vec![if limit { Sum::default() } else { Sum::unlimited() }; buckets.len()];
    let by_project = query.group == Group::Project;
    let shares = if query.group == Group::Team { team_shares(plan) } else { BTreeMap::new() };
    let teams = Teams::new(plan, query, buckets);
    if query.group == Group::Project {
        rows.extend(plan.projects.values().map(|project| (project.code.clone(), blank(false))));
    }
    if query.group == Group::Team {
        rows.extend(plan.teams.values().map(|team| (team.code.clone(), blank(true))));
    }
    for entry in people {
        let id = &entry.person.id;
        let cells = PersonCells::of(plan, entry, &query.window, query.grain, by_project);
        match query.group {
            Group::Person | Group::Role => {
                let row = rows.entry(role_key(&entry.person.role)).or_insert_with(|| blank(true));
                row.iter_mut().zip(buckets).for_each(|(sum, bucket)| cells.add_to(sum, *bucket));
            }
            Group::Team => teams.add(&mut rows, &cells, shares.get(id).map_or(&[], Vec::as_slice), &blank),
            Group::Project => add_slots(plan, &mut rows, &cells.load.slots, &cells.load.days, buckets, &blank),
        }
    }
    add_seats(plan, query, buckets, &mut rows, &blank);
    let typed = if query.group == Group::Team { teams.typed_capacities() } else { BTreeMap::new() };
    let cells = |key: &String, row: Vec<Sum>| {
        let typed = typed.get(key);
        row.iter().enumerate().map(|(index, sum)| sum.cell(typed.map(|limits| limits[index]))).collect()
    };
    rows.into_iter()
        .map(|(key, row)| {
            let cells = cells(&key, row);
            (key, cells)
        })
        .collect()
}

fn role_key(role: &str) -> String {
    if role.is_empty() { "(no role)".to_owned() } else { role.to_owned() }
}

fn add_slots(
    plan: &Plan,
    rows: &mut Rows,
    slots: &[Slot],
    days: &Days,
    buckets: &[Bucket],
    blank: &impl Fn(bool) -> Vec<Sum>,
) {
    for slot in slots {
        let project = slot.project.and_then(|id| plan.projects.get(&id));
        let key = project.map_or_else(|| "(hold)".to_owned(), |project| project.code.clone());
        let row = rows.entry(key).or_insert_with(|| blank(false));
        for (cell, bucket) in row.iter_mut().zip(buckets) {
            let (firm, load) = slot_sum(slot, days.indexes(bucket.from, bucket.to));
            cell.add_seats(firm, load);
        }
    }
}

fn slot_sum(slot: &Slot, range: Range<usize>) -> (i64, i64) {
    let sum = |of: &[i32]| of[range.clone()].iter().map(|minutes| i64::from(*minutes)).sum::<i64>();
    (sum(&slot.firm), sum(&slot.load))
}

/// Adds the work with no person to team, role and project rows. A team's seats stand in the row of every team it is in, too.
fn add_seats(plan: &Plan, query: &Query, buckets: &[Bucket], rows: &mut Rows, blank: &impl Fn(bool) -> Vec<Sum>) {
    if query.group == Group::Person {
        return;
    }
    let (first, last) = query.window.span();
    let days = Days::of_workspace(&plan.settings, first, last);
    let seats = seat_loads(plan, &query.window);
    let mut add = |key: String, seats: &[&SeatLoad]| {
        let row = rows.entry(key).or_insert_with(|| blank(true));
        for (cell, bucket) in row.iter_mut().zip(buckets) {
            let range = days.indexes(bucket.from, bucket.to);
            let slots = seats.iter().flat_map(|seat| &seat.slots);
            let (firm, load) =
                slots.map(|slot| slot_sum(slot, range.clone())).fold((0, 0), |a, b| (a.0 + b.0, a.1 + b.1));
            cell.add_seats(firm, load);
        }
    };
    match query.group {
        Group::Person => {}
        Group::Role => {
            for seat in &seats {
                if let Who::Role(role) = &seat.who {
                    add(role_key(role), &[seat]);
                }
            }
        }
        Group::Team => {
            for team in plan.teams.values() {
                let inside = plan.team_and_inner(team.id);
                let of_team = |seat: &&SeatLoad| matches!(&seat.who, Who::Team(id) if inside.contains(id));
                add(team.code.clone(), &seats.iter().filter(of_team).collect::<Vec<_>>());
            }
        }
        Group::Project => {
            for seat in &seats {
                add_slots(plan, rows, &seat.slots, &days, buckets, blank);
            }
        }
    }
}

/// Who gives which share of their time to which team, inner teams included; a person in several teams of one parent gives that
/// parent the sum, the whole at most. Shares in hundredths of a percent. What is left of a person's whole is not in here.
#[must_use]
pub fn team_shares(plan: &Plan) -> BTreeMap<PersonId, Vec<(TeamId, i64)>> {
    let mut shares: BTreeMap<PersonId, Vec<(TeamId, i64)>> = BTreeMap::new();
    for team in plan.teams.values() {
        let members = plan
            .team_and_inner(team.id)
            .into_iter()
            .filter_map(|id| plan.teams.get(&id))
            .flat_map(|inner| &inner.members);
        for (person, share) in members {
            let of_person = shares.entry(*person).or_default();
            match of_person.iter_mut().find(|(known, _)| *known == team.id) {
                Some((_, sum)) => *sum = (*sum + i64::from(*share)).min(WHOLE),
                None => of_person.push((team.id, i64::from(*share))),
            }
        }
    }
    shares
}

/// What team rows need besides the people's loads.
struct Teams<'a> {
    plan: &'a Plan,
    query: &'a Query,
    buckets: &'a [Bucket],
}

impl<'a> Teams<'a> {
    fn new(plan: &'a Plan, query: &'a Query, buckets: &'a [Bucket]) -> Self {
        Self { plan, query, buckets }
    }

    /// Adds one person to the rows of their teams, and what is left of them to `(no team)`.
    fn add(
        &self,
        rows: &mut Rows,
        cells: &PersonCells<'_>,
        shares: &[(TeamId, i64)],
        blank: &impl Fn(bool) -> Vec<Sum>,
    ) {
        let load = &cells.load;
        let named = load.named(self.plan.settings.envelope);
        let (mut firm, mut all) = (load.firm.clone(), load.load.clone());
        for (_, minutes) in &named {
            for sum in [&mut firm, &mut all] {
                sum.iter_mut().zip(minutes).for_each(|(sum, minutes)| *sum -= minutes);
            }
        }
        let none = vec![0; load.load.len()];
        let mut add = |key: &str, share: i64, named: &[i32]| {
            let row = rows.entry(key.to_owned()).or_insert_with(|| blank(true));
            for (cell, bucket) in row.iter_mut().zip(self.buckets) {
                cells.add_share(cell, *bucket, share, (&firm, &all), named);
            }
        };
        for team in self.plan.teams.values() {
            let share = shares.iter().find(|(id, _)| *id == team.id).map_or(0, |(_, share)| *share);
            if share == 0 && named.is_empty() {
                continue;
            }
            let inside = self.plan.team_and_inner(team.id);
            let mut wholly = none.clone();
            for (_, minutes) in named.iter().filter(|(id, _)| inside.contains(id)) {
                wholly.iter_mut().zip(minutes).for_each(|(sum, minutes)| *sum += minutes);
            }
            if share > 0 || wholly.iter().any(|minutes| *minutes > 0) {
                add(&team.code, share, &wholly);
            }
        }
        let given: i64 = self
            .plan
            .teams
            .values()
            .flat_map(|team| &team.members)
            .filter(|(id, _)| *id == cells.person.id)
            .map(|(_, share)| i64::from(*share))
            .sum();
        if given < WHOLE {
            add("(no team)", WHOLE - given, &none);
        }
    }

    /// The limits of teams whose capacity was typed: capacity a week × Σ available / Σ pattern of its members.
    fn typed_capacities(&self) -> BTreeMap<String, Vec<i64>> {
        let typed = self.plan.teams.values().filter_map(|team| Some((team, team.week_capacity?)));
        let limits = typed.map(|(team, capacity)| {
            let members = self.members(team);
            (
                team.code.clone(),
                self.buckets.iter().map(|bucket| capacity_in(i64::from(capacity), &members, *bucket)).collect(),
            )
        });
        limits.collect()
    }

    fn members(&self, team: &Team) -> Vec<Days> {
        let (first, last) = self.query.window.span();
        let mut ids: Vec<PersonId> = self
            .plan
            .team_and_inner(team.id)
            .into_iter()
            .filter_map(|id| self.plan.teams.get(&id))
            .flat_map(|inner| &inner.members)
            .map(|(id, _)| *id)
            .collect();
        ids.sort_unstable();
        ids.dedup();
        let days = |entry: &Entry| {
            Days::of_person(&entry.person, self.plan.holidays_of(&entry.person), &entry.absences, first, last)
        };
        let days: Vec<Days> = ids.iter().filter_map(|id| self.plan.people.get(id)).map(days).collect();
        if days.is_empty() { vec![Days::of_workspace(&self.plan.settings, first, last)] } else { days }
    }
}

/// A weekly capacity over a bucket: for each week, × available minutes of the bucket's days / pattern minutes of the whole week.
fn capacity_in(capacity: i64, members: &[Days], bucket: Bucket) -> i64 {
    let mut exact = BigRational::from(BigInt::from(0));
    let mut start = bucket.from;
    while start <= bucket.to {
        let monday = start.monday();
        let end = (monday + 6).min(bucket.to);
        let sum = |of: fn(&Days) -> &Vec<i32>, from, to| -> i64 {
            members.iter().flat_map(|days| &of(days)[days.indexes(from, to)]).map(|minutes| i64::from(*minutes)).sum()
        };
        let pattern = sum(|days| &days.pattern, monday, monday + 6);
        if pattern > 0 {
            let minutes = capacity * sum(|days| &days.available, start, end);
            exact += BigRational::new(minutes.into(), pattern.into());
        }
        start = end + 1;
    }
    let half = BigRational::new(1.into(), 2.into());
    i64::try_from((exact + half).floor().to_integer()).unwrap_or(i64::MAX)
}

/// The rows of the measures that count projects or tasks at a time: the largest number on any day of the bucket. The limit is
/// the person's own; a row of several people adds, and has a limit only where everyone in it has one. Projects have none.
pub(super) fn counts(plan: &Plan, query: &Query, buckets: &[Bucket]) -> BTreeMap<String, Vec<Cell>> {
    let mut rows = BTreeMap::new();
    let shares = if query.group == Group::Team { team_shares(plan) } else { BTreeMap::new() };
    for (id, entry) in &plan.people {
        let load = person_load(plan, entry, &query.window, true);
        let keys: Vec<String> = match query.group {
            Group::Person => vec![entry.person.email.clone()],
            Group::Role => vec![role_key(&entry.person.role)],
            Group::Team => match shares.get(id) {
                Some(teams) => teams.iter().filter_map(|(id, _)| Some(plan.teams.get(id)?.code.clone())).collect(),
                None => vec!["(no team)".to_owned()],
            },
            Group::Project => {
                count_by_project(plan, query.measure, &load, buckets, &mut rows);
                continue;
            }
        };
        let most = if query.measure == Measure::Projects { entry.person.max_projects } else { entry.person.max_tasks };
        let count =
            |at: usize| if query.measure == Measure::Projects { load.projects_on(at) } else { load.tasks_on(at) };
        for key in keys {
            let row =
                rows.entry(key).or_insert_with(|| vec![Cell { limit: Some(0), ..Cell::default() }; buckets.len()]);
            for (cell, bucket) in row.iter_mut().zip(buckets) {
                add(cell, count_cell(load.days.indexes(bucket.from, bucket.to), most.map(i64::from), count));
            }
        }
    }
    rows
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
    let load = range.map(count).max().unwrap_or(0);
    let spill = limit.map_or(0, |limit| (load - limit).max(0));
    let room = limit.map_or(0, |limit| (limit - load).max(0));
    Cell { limit, load, firm: load, room, spill, peak: spill, over: u32::from(spill > 0) }
}

/// How many people (projects) or tasks (tasks) are on each project at a time, summed over people.
fn count_by_project(
    plan: &Plan,
    measure: Measure,
    load: &PersonLoad,
    buckets: &[Bucket],
    rows: &mut BTreeMap<String, Vec<Cell>>,
) {
    for slot in &load.slots {
        let Some(project) = slot.project.and_then(|id| plan.projects.get(&id)) else { continue };
        let count = |at: usize| {
            if measure == Measure::Projects {
                return i64::from(slot.load[at] > 0);
            }
            let here = |part: &&crate::demand::TaskPart| part.project == project.id && part.minutes[at] > 0;
            i64::try_from(load.tasks.iter().filter(here).count()).unwrap_or(i64::MAX)
        };
        let row = rows.entry(project.code.clone()).or_insert_with(|| vec![Cell::default(); buckets.len()]);
        for (cell, bucket) in row.iter_mut().zip(buckets) {
            add(cell, count_cell(load.days.indexes(bucket.from, bucket.to), None, count));
        }
    }
}
