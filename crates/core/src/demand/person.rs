//! One person's load, day by day.

use super::{Window, bookings, tasks};
use crate::{
    BookingId, Day, ProjectId, TeamId,
    availability::Days,
    demand::TaskPart,
    plan::{BookingRow, Entry, Plan},
    settings::Envelope,
    work::{Certainty, Unit},
};

/// What stands on one person's days, over whole ISO weeks around the window.
#[derive(Clone, Debug)]
pub struct PersonLoad {
    /// The days of the span: availability and limits.
    pub days: Days,
    /// Firm minutes of each day.
    pub firm: Vec<i32>,
    /// All minutes of each day, firm and pencilled.
    pub load: Vec<i32>,
    /// The same by project; only where asked for, or where tasks make it needed.
    pub slots: Vec<Slot>,
    /// The tasks and where they lie.
    pub tasks: Vec<TaskPart>,
    /// Bookings with no day to land on.
    pub stranded: Vec<BookingId>,
}

/// The load that stands under one project, or under holds (`None`).
#[derive(Clone, Debug)]
pub struct Slot {
    /// The project.
    pub project: Option<ProjectId>,
    /// Firm minutes of each day.
    pub firm: Vec<i32>,
    /// All minutes of each day.
    pub load: Vec<i32>,
    /// Minutes of tasks inside it.
    pub task: Vec<i32>,
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

    /// Minutes at each index of tasks that name a team, by team.
    #[must_use]
    pub fn named(&self, envelope: Envelope) -> Vec<(TeamId, Vec<i32>)> {
        let mut found: Vec<(TeamId, Vec<i32>)> = Vec::new();
        if envelope == Envelope::Bookings {
            return found;
        }
        for part in &self.tasks {
            let Some(team) = part.team else { continue };
            match found.iter_mut().find(|(known, _)| *known == team) {
                Some((_, minutes)) => add(minutes, &part.minutes),
                None => found.push((team, part.minutes.clone())),
            }
        }
        found
    }
}

/// Computes one person's load over a window. With `by_project` the slots are filled in any case.
#[must_use]
pub fn person_load(plan: &Plan, entry: &Entry, window: &Window, by_project: bool) -> PersonLoad {
    let days_over = |first: Day, last: Day| {
        Days::of_person(&entry.person, plan.holidays_of(&entry.person), &entry.absences, first, last)
    };
    let (first, last) = window.span();
    let days = days_over(first, last);
    let parts = tasks::of_person(plan, entry.person.id, &entry.tasks, window, days_over);
    let split = by_project || !parts.is_empty();
    let mut lanes = Lanes { length: days.len(), list: Vec::new() };
    let ground = Ground::new(plan, &days, &days_over);
    let mut stranded = Vec::new();
    let counts =
        |row: &&BookingRow| row.start <= last && row.end >= first && window.counted.takes(row.certainty, row.project);
    for row in entry.bookings.iter().filter(counts) {
        let lane = lanes.of(if split { row.project } else { None });
        let side = if row.certainty == Certainty::Firm { &mut lane.firm } else { &mut lane.pencilled };
        if !side.land(row, &ground) {
            stranded.push(row.id);
        }
    }
    lanes.settle(&days);
    for part in &parts {
        // The envelope: the task's own project, or the nearest one above it where this person is booked that day.
        let line: Vec<ProjectId> = plan.project_line(part.project).map(|project| project.id).collect();
        for (index, minutes) in part.minutes.iter().enumerate().filter(|(_, minutes)| **minutes > 0) {
            let booked = line.iter().copied().find(|project| lanes.booked(*project, index));
            lanes.of(Some(booked.unwrap_or(part.project))).task(index, *minutes);
        }
    }
    let envelope = plan.settings.envelope;
    let mut load = PersonLoad {
        firm: vec![0; days.len()],
        load: vec![0; days.len()],
        slots: Vec::new(),
        tasks: parts,
        stranded,
        days,
    };
    for lane in lanes.list {
        if split {
            let slot = lane.together(envelope, load.days.len());
            add(&mut load.firm, &slot.firm);
            add(&mut load.load, &slot.load);
            load.slots.push(slot);
        } else if envelope != Envelope::Tasks {
            // There is one lane only, and nothing fills it.
            if !lane.firm.minutes.is_empty() {
                load.load.clone_from(&lane.firm.minutes);
                load.firm = lane.firm.minutes;
            }
            add(&mut load.load, &lane.pencilled.minutes);
        }
    }
    load
}

pub(super) fn add(to: &mut [i32], from: &[i32]) {
    to.iter_mut().zip(from).for_each(|(sum, minutes)| *sum += minutes);
}

/// The lanes of one person while their bookings and tasks are laid down.
pub(super) struct Lanes {
    pub length: usize,
    pub list: Vec<Lane>,
}

impl Lanes {
    pub fn of(&mut self, project: Option<ProjectId>) -> &mut Lane {
        let at = self.list.iter().position(|lane| lane.project == project).unwrap_or_else(|| {
            self.list.push(Lane {
                project,
                firm: Side::default(),
                pencilled: Side::default(),
                task: Vec::new(),
                length: self.length,
            });
            self.list.len() - 1
        });
        &mut self.list[at]
    }

    pub fn settle(&mut self, days: &Days) {
        for lane in &mut self.list {
            lane.firm.settle(days);
            lane.pencilled.settle(days);
        }
    }

    fn booked(&self, project: ProjectId, index: usize) -> bool {
        let lane = self.list.iter().find(|lane| lane.project == Some(project));
        lane.is_some_and(|lane| {
            [&lane.firm, &lane.pencilled].iter().any(|side| side.minutes.get(index).is_some_and(|m| *m > 0))
        })
    }
}

/// What is booked and planned under one project.
pub(super) struct Lane {
    pub project: Option<ProjectId>,
    pub firm: Side,
    pub pencilled: Side,
    task: Vec<i32>,
    length: usize,
}

impl Lane {
    pub fn task(&mut self, index: usize, minutes: i32) {
        self.task.resize(self.length, 0);
        self.task[index] += minutes;
    }

    /// firm = max(firm booked, tasks); load = max(firm + pencilled booked, tasks); or as the setting says.
    pub fn together(mut self, envelope: Envelope, length: usize) -> Slot {
        self.task.resize(length, 0);
        self.firm.minutes.resize(length, 0);
        self.pencilled.minutes.resize(length, 0);
        let mut slot =
            Slot { project: self.project, firm: self.firm.minutes, load: self.pencilled.minutes, task: self.task };
        for index in 0..length {
            let (firm, pencilled, task) = (slot.firm[index], slot.load[index], slot.task[index]);
            let hold = self.project.is_none();
            (slot.firm[index], slot.load[index]) = match envelope {
                _ if hold => (firm, firm + pencilled),
                Envelope::Larger => (firm.max(task), (firm + pencilled).max(task)),
                Envelope::Bookings => (firm, firm + pencilled),
                Envelope::Tasks => (task, task),
                Envelope::Sum => (firm + task, firm + pencilled + task),
            };
        }
        slot
    }
}

/// What bookings land on: the days, and how to get others.
pub(super) struct Ground<'a, F> {
    pub plan: &'a Plan,
    pub days: &'a Days,
    /// The indexes of days that are off in part, where every booking loses its own share.
    pub uneven: Vec<usize>,
    pub days_over: F,
}

impl<'a, F: Fn(Day, Day) -> Days> Ground<'a, F> {
    pub fn new(plan: &'a Plan, days: &'a Days, days_over: F) -> Self {
        let off_in_part = |index: &usize| (1..days.pattern[*index]).contains(&days.available[*index]);
        Self { plan, days, uneven: (0..days.len()).filter(off_in_part).collect(), days_over }
    }
}

/// Booked minutes of one certainty. Hours a day, by far the most common unit, go into a difference array: two additions
/// a booking however long it is; the running sum is taken once, in `settle`.
#[derive(Default)]
pub(super) struct Side {
    steps: Vec<i32>,
    pub minutes: Vec<i32>,
}

impl Side {
    /// Lands a booking; `false` when it is stranded.
    pub fn land<F: Fn(Day, Day) -> Days>(&mut self, row: &BookingRow, ground: &Ground<'_, F>) -> bool {
        let days = ground.days;
        let last = days.day(days.len() - 1);
        if row.amount.unit == Unit::PerDay && !row.days_off {
            let range = days.indexes(row.start, row.end);
            self.steps.resize(days.len() + 1, 0);
            self.steps[range.start] += row.amount.value;
            self.steps[range.end] -= row.amount.value;
            if !ground.uneven.is_empty() {
                self.minutes.resize(days.len(), 0);
                for index in ground.uneven.iter().copied().filter(|index| range.contains(index)) {
                    self.minutes[index] +=
                        bookings::per_day(row.amount.value, days.available[index], days.pattern[index]);
                }
            }
            // A booking that reaches beyond the span may land there; only one that lies inside is known to be stranded.
            return row.start < days.first
                || row.end > last
                || days.available[range].iter().any(|minutes| *minutes > 0);
        }
        self.minutes.resize(days.len(), 0);
        let minutes = &mut self.minutes;
        let landing = match bookings::needed(row, (days.first, last)) {
            None => bookings::land(row, days, &ground.plan.settings, |index, landed| minutes[index] += landed),
            Some((first, last)) => {
                let own = (ground.days_over)(first, last);
                bookings::land(row, &own, &ground.plan.settings, |index, landed| {
                    if let Some(at) = days.index(own.day(index)) {
                        minutes[at] += landed;
                    }
                })
            }
        };
        !landing.stranded || row.amount.unit != Unit::Total && (row.start < days.first || row.end > last)
    }

    /// Adds the running sum of the difference array on the days that are whole.
    pub fn settle(&mut self, days: &Days) {
        if self.steps.is_empty() {
            return;
        }
        self.minutes.resize(days.len(), 0);
        let mut running = 0;
        for (index, step) in self.steps.iter().take(days.len()).enumerate() {
            running += step;
            if days.available[index] > 0 && days.available[index] == days.pattern[index] {
                self.minutes[index] += running;
            }
        }
        self.steps = Vec::new();
    }
}
