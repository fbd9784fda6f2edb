//! One person's load, day by day.

use super::{
    Window,
    lanes::{Ground, Lanes, Side},
    tasks::{self, TaskPart},
};
use crate::{
    Day, ProjectId, TaskId, TeamId,
    availability::Days,
    by_day::{ByDay, LANES, sum_of},
    plan::{Entry, Marks, Plan},
    settings::Envelope,
};
use std::sync::Arc;
use wide::i32x8;

/// What stands on one person's days, over whole ISO weeks around the window.
#[derive(Clone, Debug, Default)]
pub struct PersonLoad {
    /// The days of the span: availability and limits.
    pub days: Days,
    /// Firm minutes of each day.
    pub firm: ByDay,
    /// All minutes of each day, firm and pencilled.
    pub load: ByDay,
    /// The same by project; only where asked for, or where tasks make it needed.
    pub slots: Vec<Slot>,
    /// The tasks and where they lie.
    pub tasks: Vec<TaskPart>,
    /// What each week comes to.
    pub weeks: WeekSums,
}

/// What the weeks of a person come to, in minutes: one value a week, and nothing behind the last.
#[derive(Clone, Debug, Default)]
pub struct WeekSums {
    /// Σ rim.
    pub limit: Vec<i32>,
    /// Σ load.
    pub load: Vec<i32>,
    /// Σ firm.
    pub firm: Vec<i32>,
    /// Σ over the days of max(0, load − the day's own limit).
    pub peak: Vec<i32>,
}

/// The load that stands under one project, or under holds (`None`).
#[derive(Clone, Debug)]
pub struct Slot {
    /// The project.
    pub project: Option<ProjectId>,
    /// Firm minutes of each day.
    pub firm: ByDay,
    /// All minutes of each day.
    pub load: ByDay,
    /// Minutes of tasks inside it.
    pub task: ByDay,
    /// Those of them that name a team, by team, where tasks count.
    pub named: Vec<(TeamId, ByDay)>,
}

impl PersonLoad {
    /// The number of projects worked on at an index.
    #[must_use]
    pub fn projects_on(&self, index: usize) -> i64 {
        let on = self.slots.iter().filter(|slot| slot.project.is_some() && slot.load[index] > 0).count();
        i64::try_from(on).unwrap_or(i64::MAX)
    }

    /// The number of tasks worked on at an index.
    #[must_use]
    pub fn tasks_on(&self, index: usize) -> i64 {
        i64::try_from(self.tasks.iter().filter(|part| part.minutes[index] > 0).count()).unwrap_or(i64::MAX)
    }

    /// Minutes of tasks that name a team, by team.
    #[must_use]
    pub fn named(&self) -> Vec<(TeamId, ByDay)> {
        let mut found: Vec<(TeamId, ByDay)> = Vec::new();
        for (team, minutes) in self.slots.iter().flat_map(|slot| &slot.named) {
            match found.iter_mut().find(|(known, _)| known == team) {
                Some((_, sum)) => sum.add(minutes),
                None => found.push((*team, minutes.clone())),
            }
        }
        found
    }
}

/// Computes one person's load over a window. With `by_project` the slots are filled in any case.
#[must_use]
pub fn person_load(plan: &Plan, entry: &Entry, window: &Window, by_project: bool) -> PersonLoad {
    let mut bench = Bench::default();
    bench.compute(plan, entry, window, by_project);
    bench.load
}

/// The same with these of the person's tasks alone.
#[must_use]
pub fn person_load_of(plan: &Plan, entry: &Entry, tasks: Vec<TaskId>, window: &Window) -> PersonLoad {
    person_load(plan, &Entry { tasks: Arc::new(tasks), ..entry.clone() }, window, true)
}

/// Where a person's load is put together: memory that the next person's can use again.
#[derive(Default)]
pub(crate) struct Bench {
    /// The load of the last person.
    pub load: PersonLoad,
    firm: Side,
    pencilled: Side,
}

impl Bench {
    /// Computes one person's load in place of the last one's.
    pub fn compute(&mut self, plan: &Plan, entry: &Entry, window: &Window, by_project: bool) {
        let days_over = |first: Day, last: Day| Days::of(plan, entry, first, last);
        let (first, last) = window.span();
        let mut days = std::mem::take(&mut self.load.days);
        days.fill(&entry.numbers, plan.holidays_of(&entry.person), first, last);
        let ground = Ground { settings: &plan.settings, days: &days, days_over: &days_over };
        self.load.tasks = if entry.tasks.is_empty() {
            Vec::new()
        } else {
            tasks::of_person(plan, entry.person.id, &entry.tasks, window, &ground)
        };
        self.load.slots.clear();
        if by_project || !self.load.tasks.is_empty() {
            self.by_project(plan, entry, window, &ground);
        } else {
            self.as_one(entry, window, &ground, plan.settings.envelope);
        }
        self.load.days = days;
        self.load.sum_weeks();
    }

    /// Bookings alone, which are one sum whatever project they are for.
    fn as_one(&mut self, entry: &Entry, window: &Window, ground: &Ground<'_>, envelope: Envelope) {
        self.firm.clear();
        self.pencilled.clear();
        // Where tasks alone count, a booking that no task fills is nothing; a hold is one under every setting.
        let holds_only = envelope == Envelope::Tasks;
        if window.counted.holds || !holds_only {
            let mut counted = window.counted.choice();
            if holds_only {
                counted = counted.and(Marks::HOLD, true);
            }
            let (bricks, marks) = (entry.numbers.bricks(), entry.numbers.marks());
            self.firm.land(bricks, marks, counted.and(Marks::PENCILLED, false), ground);
            if window.counted.pencilled {
                self.pencilled.land(bricks, marks, counted.and(Marks::PENCILLED, true), ground);
            }
        }
        let PersonLoad { firm, load, .. } = &mut self.load;
        self.firm.settle(ground.days, firm);
        if self.pencilled.is_empty() {
            load.clone_from(firm);
        } else {
            self.pencilled.settle(ground.days, load);
            load.add(firm);
        }
    }

    fn by_project(&mut self, plan: &Plan, entry: &Entry, window: &Window, ground: &Ground<'_>) {
        let days = ground.days;
        let weeks = days.pattern.weeks();
        let (first, last) = (days.first, days.last());
        let mut lanes = Lanes::new(weeks);
        for row in entry.numbers.bookings() {
            if row.brick.touches(first, last) && window.counted.takes(&row.brick) {
                lanes.book(row.project, &row.brick, ground);
            }
        }
        lanes.settle(days);
        for part in &self.load.tasks {
            let line: Vec<ProjectId> = plan.project_line(part.project).map(|project| project.id).collect();
            lanes.fill(&line, part.team, &part.minutes);
        }
        let PersonLoad { firm, load, slots, .. } = &mut self.load;
        *slots = lanes.together(plan.settings.envelope);
        firm.clear(weeks);
        load.clear(weeks);
        for slot in slots.iter() {
            firm.add(&slot.firm);
            load.add(&slot.load);
        }
    }
}

impl PersonLoad {
    fn sum_weeks(&mut self) {
        let Self { days, firm, load, weeks, .. } = self;
        let filled = load.blocks().len() * LANES;
        for sums in [&mut weeks.limit, &mut weeks.load, &mut weeks.firm, &mut weeks.peak] {
            sums.resize(filled, 0);
        }
        let limits = days.limit().blocks().iter().zip(days.rim().blocks());
        let sums = weeks.limit.as_chunks_mut().0.iter_mut().zip(weeks.load.as_chunks_mut().0);
        let sums = sums.zip(weeks.firm.as_chunks_mut().0.iter_mut().zip(weeks.peak.as_chunks_mut().0));
        let minutes = limits.zip(load.blocks().iter().zip(firm.blocks()));
        for (((limits, rims), (load, firm)), ((limit_sums, load_sums), (firm_sums, peaks))) in minutes.zip(sums) {
            *limit_sums = sum_of(rims).to_array();
            *load_sums = sum_of(load).to_array();
            *firm_sums = sum_of(firm).to_array();
            let over = |(load, limit): (&i32x8, &i32x8)| (*load - *limit).max(i32x8::ZERO);
            *peaks = load.iter().zip(limits).map(over).fold(i32x8::ZERO, |sum, over| sum + over).to_array();
        }
    }
}
