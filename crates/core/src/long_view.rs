//! The long view: teams against weeks or months, what is given to each, and which of it does not fit.

use crate::{
    Day, Plan, ProjectId, TaskId, TeamId,
    cells::{Bucket, Cell, Grain},
    change::Change,
    demand::{Slot, TaskPart, Window, left_of, logged_in, person_load, planned_inside, team_parts},
    effect::days_touched,
    kinds::{Booking, Task, Who},
    load::{Group, Groups, Measure, Query, RowKey},
    network::line,
    spread::round_half_up,
};
use std::collections::{BTreeSet, HashMap};

/// What something in a team's row is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum ItemOf {
    /// A task that names the team, or one inside it: the outermost of those that lie in each other.
    Task(TaskId),
    /// What is booked for the team on a project, with no name and no task yet; `None` for a hold.
    Booked(Option<ProjectId>),
}

/// Something that a team has to do, bucket by bucket.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Item {
    /// What it is.
    pub of: ItemOf,
    /// Minutes in each bucket.
    pub minutes: Vec<i64>,
    /// Those of them that stand above the team's rim.
    pub above: Vec<i64>,
}

impl Item {
    /// All its minutes in these buckets, and those above the rim.
    #[must_use]
    pub fn sums(&self) -> (i64, i64) {
        (self.minutes.iter().sum(), self.above.iter().sum())
    }
}

/// A team's row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TeamRow {
    /// The figures of each bucket: those of the load table.
    pub cells: Vec<Cell>,
    /// What the members do besides, and what they do of their own for projects: load that is no item's.
    pub other: Vec<i64>,
    /// What is given to the team: piled on what is done besides, earlier ones first, so that what comes late spills first.
    pub items: Vec<Item>,
}

/// A team's row over the buckets of `groups`. In each bucket `other` and the items add up to the load of the cell.
#[must_use]
pub fn team_row(groups: &Groups<'_>, team: TeamId) -> TeamRow {
    let key = RowKey::Team(Some(team));
    let (plan, window) = (groups.plan(), groups.window());
    let buckets = groups.buckets();
    let cells = groups.row(&key);
    let inside = plan.team_and_inner(team);
    let mut found: HashMap<ItemOf, Vec<i64>> = HashMap::new();
    let mut add = |of: ItemOf, minutes: &dyn Fn(Bucket) -> i64| {
        let sums = found.entry(of).or_insert_with(|| vec![0; buckets.len()]);
        sums.iter_mut().zip(buckets).for_each(|(sum, bucket)| *sum += minutes(*bucket));
    };
    let mut add_part = |part: &TaskPart, first: Day| {
        let of = ItemOf::Task(item_of(plan, part.task, &inside));
        add(of, &|bucket| part.minutes.sum(indexes(first, part.minutes.len(), bucket)));
    };
    // Work that names the team counts wholly, whoever does it.
    let named = |part: &TaskPart| part.team.is_some_and(|team| inside.contains(&team));
    let first = window.span().0;
    for entry in groups.held(&key).into_iter().filter(|entry| has_named(plan, &entry.tasks, &inside)) {
        person_load(plan, entry, window, false)
            .tasks
            .iter()
            .filter(|part| named(part))
            .for_each(|part| add_part(part, first));
    }
    for inner in &inside {
        for part in &team_parts(plan, *inner, window) {
            add_part(part, first);
        }
    }
    let seats = groups.seats().iter().filter(|seat| matches!(seat.who, Who::Team(id) if inside.contains(&id)));
    for slot in seats.flat_map(|seat| &seat.slots) {
        let range = |bucket: Bucket| indexes(first, slot.load.len(), bucket);
        let besides = |slot: &Slot, at: usize| i64::from((slot.load[at] - slot.task[at]).max(0));
        add(ItemOf::Booked(slot.project), &|bucket| range(bucket).map(|at| besides(slot, at)).sum());
    }
    let mut items: Vec<(ItemOf, Vec<i64>)> =
        found.into_iter().filter(|(_, minutes)| minutes.iter().any(|minutes| *minutes > 0)).collect();
    items.sort_by_cached_key(|(of, minutes)| {
        let task = if let ItemOf::Task(id) = of { plan.tasks.get(id) } else { None };
        let begins = minutes.iter().position(|minutes| *minutes > 0);
        (begins, task.and_then(|task| task.start), task.is_none(), *of)
    });
    piled(cells, items)
}

/// Piles items on what is left of the load besides them. Where less counts than they come to, as where bookings alone do, the later
/// ones are cut.
fn piled(cells: Vec<Cell>, items: Vec<(ItemOf, Vec<i64>)>) -> TeamRow {
    let mut left: Vec<i64> = cells.iter().map(|cell| cell.load).collect();
    let mut counted: Vec<Item> = Vec::with_capacity(items.len());
    for (of, mut minutes) in items {
        for (minutes, left) in minutes.iter_mut().zip(&mut left) {
            *minutes = (*minutes).min(*left);
            *left -= *minutes;
        }
        if minutes.iter().any(|minutes| *minutes > 0) {
            counted.push(Item { of, minutes, above: Vec::new() });
        }
    }
    let mut height = left.clone();
    for item in &mut counted {
        let above = |(at, minutes): (usize, &i64)| {
            let (low, high) = (height[at], height[at] + minutes);
            height[at] = high;
            let limit = cells[at].limit.unwrap_or(i64::MAX);
            high.max(limit) - low.max(limit)
        };
        item.above = item.minutes.iter().enumerate().map(above).collect();
    }
    TeamRow { cells, other: left, items: counted }
}

fn indexes(first: Day, days: usize, bucket: Bucket) -> std::ops::Range<usize> {
    let index = |day: Day| usize::try_from(day.since(first)).unwrap_or(0).min(days);
    index(bucket.from)..index(bucket.to + 1)
}

fn has_named(plan: &Plan, tasks: &[TaskId], inside: &[TeamId]) -> bool {
    tasks.iter().filter_map(|id| plan.tasks.get(id)).any(|task| task.team.is_some_and(|team| inside.contains(&team)))
}

/// The item that a task is drawn in: the outermost task around it that names one of the teams, else itself.
fn item_of(plan: &Plan, task: TaskId, teams: &[TeamId]) -> TaskId {
    let names = |id: &TaskId| plan.tasks.get(id).and_then(|task| task.team).is_some_and(|team| teams.contains(&team));
    line(plan, task).filter(names).last().unwrap_or(task)
}

/// A task of which so much is to be left, in minutes. What was logged stays; a typed remaining is typed anew, else the estimate follows.
#[must_use]
pub fn resized(plan: &Plan, task: &Task, left: i64) -> Task {
    let heads = task.assignees.heads();
    let by = left.max(0) - left_of(plan, task).unwrap_or(0);
    let moved = |all: i64| Some(round_half_up((all + by).max(0), heads));
    let mut after = task.clone();
    if let Some(remaining) = task.remaining {
        after.logged_then = logged_in(plan, task.id);
        after.remaining = moved((task.logged_then + remaining * heads - after.logged_then).max(0));
    } else {
        after.estimate = moved(task.estimate.unwrap_or(0) * heads);
    }
    after
}

/// How a task's own estimate holds what is inside it, in minutes: the estimate is its rim.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct OwnRim {
    /// The estimate of the whole.
    pub estimate: i64,
    /// What is inside comes to.
    pub inside: i64,
}

impl OwnRim {
    /// What is inside beyond the estimate.
    #[must_use]
    pub fn spill(&self) -> i64 {
        (self.inside - self.estimate).max(0)
    }
}

/// The own rim of a task that has an estimate and something inside it.
#[must_use]
pub fn own_rim(plan: &Plan, task: &Task) -> Option<OwnRim> {
    let estimate = task.estimate? * task.assignees.heads();
    Some(OwnRim { estimate, inside: planned_inside(plan, task.id)? })
}

/// What changes do to a team.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TeamEffect {
    /// The team.
    pub team: TeamId,
    /// What is over its limits in all weeks that are touched, in minutes, before and after.
    pub spill: (i64, i64),
    /// The week in which most is over afterwards.
    pub worst: Bucket,
    /// What is over in it.
    pub most: i64,
}

/// The teams whose work changes, and those around them.
#[must_use]
pub fn teams_touched(before: &Plan, after: &Plan, changes: &[Change]) -> BTreeSet<TeamId> {
    let mut found = BTreeSet::new();
    for change in changes {
        let teams = match change {
            Change::Task(edit) => edit.before.iter().chain(&edit.after).filter_map(|task| task.team).collect(),
            Change::Booking(edit) => {
                let team = |booking: &Booking| if let Who::Team(team) = booking.who { Some(team) } else { None };
                edit.before.iter().chain(&edit.after).filter_map(team).collect()
            }
            _ => Vec::new(),
        };
        for plan in [before, after] {
            found.extend(teams.iter().flat_map(|team| plan.team_line(*team).map(|team| team.id)));
        }
    }
    found
}

/// What changes of tasks and bookings do to the weeks of teams, over all the days that they touch; teams of which nothing changes are
/// left out.
#[must_use]
pub fn team_effects(before: &Plan, after: &Plan, changes: &[Change], today: Day) -> Vec<TeamEffect> {
    let days: Vec<Day> = [before, after].iter().flat_map(|plan| days_touched(plan, changes, today)).collect();
    let Some((from, to)) = days.iter().min().zip(days.iter().max()) else { return Vec::new() };
    let week = |day: Day| Grain::Week.start_of(day, &after.settings);
    let query = Query {
        window: Window::new(week(*from), week(*to) + 6, today),
        grain: Grain::Week,
        group: Group::Team,
        measure: Measure::Minutes,
    };
    let over = |cell: &Cell| cell.spill.max(cell.peak);
    let (was, is) = (Groups::for_one(before, query), Groups::for_one(after, query));
    let effect = |team: TeamId| {
        let key = RowKey::Team(Some(team));
        let (old, new) = (was.row(&key), is.row(&key));
        let (at, most) = new.iter().map(over).enumerate().max_by_key(|(at, most)| (*most, std::cmp::Reverse(*at)))?;
        let sum = |cells: &[Cell]| cells.iter().map(over).sum();
        (old != new).then(|| TeamEffect { team, spill: (sum(&old), sum(&new)), worst: is.buckets()[at], most })
    };
    teams_touched(before, after, changes).into_iter().filter_map(effect).collect()
}
