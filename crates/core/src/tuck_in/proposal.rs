//! The answer: where everything goes.

use super::{
    ask::{Ask, taking},
    check::stands_well,
    engine::filling::{Place, Progress, search},
    problem::{built, weight_of},
    reasons::{Obstacle, reasons},
};
use crate::{
    Day, Plan, Refusal, TaskId,
    change::{Change, Edit},
    kinds::{Assignees, Task},
    network::{Dates, Ground},
};

/// What is proposed for a leaf.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Row {
    /// The leaf.
    pub task: TaskId,
    /// The days it has now.
    pub before: Option<Dates>,
    /// The days it is to have; `None` where it is left out or waits for its size.
    pub dates: Option<Dates>,
    /// Who is to do it.
    pub assignees: Assignees,
    /// Working days between its due day and its finish.
    pub late_days: i64,
    /// It has no effort yet, and takes no part.
    pub is_sizeless: bool,
    /// Why it is not earlier, or later, or placed at all.
    pub why: Vec<Obstacle>,
}

/// What a proposal comes to: what is to be little, in this order.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Score {
    /// How many take part and find no place.
    pub left_out: usize,
    /// Σ weight × late days; the weight of a day is 1, 2, 4, 8 from low to urgent.
    pub late: i64,
    /// The last finish but for those that wish to be late; `None` without any.
    pub last: Option<Day>,
    /// Σ of days from today to their finishes.
    pub sum: i64,
    /// How many have other dates or people than now.
    pub changed: usize,
}

impl Score {
    fn of(plan: &Plan, today: Day, rows: &[Row]) -> Self {
        let mut score = Self::default();
        for row in rows.iter().filter(|row| !row.is_sizeless) {
            let (Some(dates), Some(task)) = (row.dates, plan.tasks.get(&row.task)) else {
                score.left_out += 1;
                continue;
            };
            score.late += weight_of(task.priority) * row.late_days;
            score.changed += usize::from(row.before != row.dates || row.assignees != task.assignees);
            if !row.is_wish(plan) {
                score.last = score.last.max(Some(dates.1));
                score.sum += i64::from(dates.1.since(today));
            }
        }
        score
    }
}

/// What is proposed.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Proposal {
    /// A row a leaf that takes part or waits for its size, sorted by reference, then identity.
    pub rows: Vec<Row>,
    /// What it comes to.
    pub score: Score,
}

/// Places what is asked for. `go_on` is told how far the search is, and ends it by saying no; a first answer is made in any case. The same
/// plan, ask, seed and number of steps give the same answer.
///
/// # Errors
/// It is more than is looked at at a time; or the links close a circle, which the rules of links rule out.
pub fn propose(
    plan: &Plan,
    ask: &Ask,
    seed: u64,
    go_on: &mut dyn FnMut(Progress) -> bool,
) -> Result<Proposal, Refusal> {
    let ground = Ground::new(plan, ask.today);
    let taking = taking(plan, &ground, ask);
    let mut part = taking.part.clone();
    let mut stay: Vec<TaskId> = Vec::new();
    // What has dates and finds no others keeps those it has, and everything else is placed around it. Which these are must not hang on
    // how long the search goes on: the first schedule says it.
    let (built, places) = loop {
        let built = built(plan, &ground, ask, &part, &stay)?;
        let (places, score) =
            search(&built.problem, seed, &mut |progress| progress.score.displaced == 0 && go_on(progress));
        if score.displaced == 0 {
            break (built, places);
        }
        let lost = |(at, place): (usize, &Option<Place>)| {
            let lost = place.is_none() && built.problem.activities[at].had_place;
            built.tasks[at].filter(|_| lost)
        };
        stay.extend(places.iter().enumerate().filter_map(lost));
        part.retain(|id| !stay.contains(id));
    };
    let mut rows = Vec::new();
    let row = |task: &Task| Row::of(task, None, task.assignees.clone());
    for (at, place) in places.iter().enumerate() {
        let Some(task) = built.tasks[at].and_then(|id| plan.tasks.get(&id)) else { continue };
        let mut row = row(task);
        if let Some(place) = place {
            let (dates, assignees) = built.proposed(at, *place);
            row.dates = Some(dates);
            row.assignees = assignees.clone();
            let mode = &built.problem.activities[at].modes[place.mode];
            row.late_days = built.problem.late_days(mode, place.finish);
        }
        rows.push(row);
    }
    for task in stay.iter().filter_map(|id| plan.tasks.get(id)) {
        let mut row = row(task);
        row.dates = row.before.filter(|_| stands_well(plan, ask, task.id));
        let leaf = row.dates.and_then(|dates| Some((dates.1, ground.leaf(task.id)?)));
        row.late_days = leaf.map_or(0, |(finish, leaf)| leaf.late_days(finish));
        rows.push(row);
    }
    let sizeless = taking.sizeless.iter().filter_map(|id| plan.tasks.get(id));
    rows.extend(sizeless.map(|task| Row { is_sizeless: true, ..row(task) }));
    rows.sort_by_cached_key(|row| (plan.tasks.get(&row.task).map(|task| task.reference.clone()), row.task));
    let mut proposal = Proposal { score: Score::of(plan, ask.today, &rows), rows };
    let why = reasons(plan, ask, &proposal);
    for (row, why) in proposal.rows.iter_mut().zip(why) {
        row.why = why;
    }
    Ok(proposal)
}

impl Row {
    /// A task with days and people that are proposed for it.
    #[must_use]
    pub fn of(task: &Task, dates: Option<Dates>, assignees: Assignees) -> Self {
        let before = task.start.zip(task.finish);
        Self { task: task.id, before, dates, assignees, late_days: 0, is_sizeless: false, why: Vec::new() }
    }

    /// Whether it is to be as late as possible.
    #[must_use]
    pub fn is_wish(&self, plan: &Plan) -> bool {
        plan.tasks.get(&self.task).is_some_and(|task| task.wishes_to_be_late())
    }

    /// A task with the days and people of the row.
    #[must_use]
    pub fn given(&self, task: &Task) -> Task {
        let (start, finish) = self.dates.unzip();
        Task { start, finish, assignees: self.assignees.clone(), ..task.clone() }
    }
}

impl Proposal {
    /// The changes that it comes to: dates and people of the rows that have some other than now.
    #[must_use]
    pub fn changes(&self, plan: &Plan) -> Vec<Change> {
        let change = |row: &Row| {
            let before = plan.tasks.get(&row.task).filter(|_| row.dates.is_some())?;
            let after = row.given(before);
            (after != **before).then(|| Change::Task(Edit::alter((**before).clone(), after)))
        };
        self.rows.iter().filter_map(change).collect()
    }
}
