//! What is booked and planned under one project, side by side with the others.

use super::{
    Slot,
    bookings::{days_needed, land_on, per_day},
};
use crate::{
    Day, ProjectId, TeamId,
    availability::Days,
    by_day::{ByDay, slot, sum_of},
    plan::{Brick, Choice, Marks},
    settings::{Envelope, Settings},
};
use wide::i32x8;

/// What bookings land on: the days, and how to get others.
pub(super) struct Ground<'a> {
    pub settings: &'a Settings,
    pub days: &'a Days,
    pub days_over: &'a dyn Fn(Day, Day) -> Days,
}

/// Adds the steps of chosen bookings, on days that begin on `first` and are `days` many. What lies outside goes up and down on one day.
fn add_steps(steps: &mut [i32], (first, days): (Day, usize), bricks: &[Brick], choice: Choice) {
    let last = u32::try_from(days).unwrap_or(u32::MAX);
    let place = |day: i32| slot(usize::try_from(day.max(0).cast_unsigned().min(last)).unwrap_or(days));
    for brick in bricks.iter().filter(|brick| choice.takes(brick)) {
        steps[place(brick.start.since(first))] += brick.value;
        steps[place(brick.end.since(first) + 1)] -= brick.value;
    }
}

/// Booked minutes of one certainty. Hours a day, by far the most common unit, are steps: two additions a booking however long it is;
/// the running sum is taken once, in [`Side::settle`], a weekday of several weeks at a time. All else goes into `extra`, which most people never need.
#[derive(Default)]
pub(super) struct Side {
    /// Of one week more than there are, so that the day after the last has a place; empty for none.
    steps: ByDay,
    /// Memory for what runs when each week begins.
    before: Vec<i32x8>,
    extra: ByDay,
}

impl Side {
    /// Makes it as new, in the memory that it has.
    pub fn clear(&mut self) {
        self.steps.clear(0);
        self.extra.clear(0);
    }

    pub fn is_empty(&self) -> bool {
        self.steps.is_empty() && self.extra.is_empty()
    }

    /// Lands those of some bookings that are chosen; `marks` are those of all of them.
    pub fn land(&mut self, bricks: &[Brick], marks: Marks, choice: Choice, ground: &Ground<'_>) {
        if !marks.contains(choice.are) || !bricks.iter().any(|brick| choice.takes(brick)) {
            return;
        }
        let days = ground.days;
        if self.steps.is_empty() {
            self.steps.clear(days.pattern.weeks() + 1);
        }
        let even = choice.and(Marks::UNEVEN, false);
        add_steps(self.steps.slots_mut(), (days.first, days.len()), bricks, even);
        let is_chosen = |brick: &&Brick| choice.takes(brick) && brick.touches(days.first, days.last());
        if !days.partly.is_empty() {
            // Days that are off in part have minutes of their own.
            let extra = room_in(&mut self.extra, days.pattern.weeks());
            for brick in bricks.iter().filter(is_chosen).filter(|brick| even.takes(brick)) {
                let range = days.indexes(brick.start, brick.end);
                let first = days.partly.partition_point(|index| *index < range.start);
                for index in days.partly[first..].iter().copied().take_while(|index| *index < range.end) {
                    extra[index] += per_day(brick.value, days.available[index], days.pattern[index]);
                }
            }
        }
        if marks.intersects(Marks::UNEVEN) {
            let extra = room_in(&mut self.extra, days.pattern.weeks());
            for brick in bricks.iter().filter(is_chosen).filter(|brick| !even.takes(brick)) {
                let own = days_needed(brick, days).map(|(first, last)| (ground.days_over)(first, last));
                land_on(brick, days, own.as_ref(), ground.settings, |index, landed| extra[index] += landed);
            }
        }
    }

    /// Writes the minutes of each day: the running sum of the steps on days that are whole, and the rest.
    pub fn settle(&mut self, days: &Days, minutes: &mut ByDay) {
        if self.steps.is_empty() {
            minutes.clear(days.pattern.weeks());
        } else {
            minutes.resize(days.pattern.weeks());
            // What runs when a week begins: all steps of the weeks before it.
            self.before.clear();
            self.before.extend(self.steps.blocks().iter().map(sum_of));
            let mut run = 0;
            for week in bytemuck::must_cast_slice_mut::<_, i32>(&mut self.before) {
                run += std::mem::replace(week, run);
            }
            let columns = minutes.blocks_mut().iter_mut().zip(days.whole.blocks());
            for ((minutes, whole), (steps, before)) in columns.zip(self.steps.blocks().iter().zip(&self.before)) {
                let mut run = *before;
                for ((minutes, whole), steps) in minutes.iter_mut().zip(whole).zip(steps) {
                    run += *steps;
                    *minutes = run & *whole;
                }
            }
        }
        if !self.extra.is_empty() {
            minutes.add(&self.extra);
        }
    }
}

fn room_in(minutes: &mut ByDay, weeks: usize) -> &mut ByDay {
    if minutes.is_empty() {
        minutes.clear(weeks);
    }
    minutes
}

/// The lanes of a person or a team while bookings and tasks are laid down.
pub(super) struct Lanes {
    weeks: usize,
    list: Vec<Lane>,
}

/// What stands under one project; a hold under none.
struct Lane {
    project: Option<ProjectId>,
    firm: Side,
    pencilled: Side,
    /// Filled by [`Lanes::settle`].
    firm_minutes: ByDay,
    pencilled_minutes: ByDay,
    task: ByDay,
    /// What of it names a team, by team.
    named: Vec<(TeamId, ByDay)>,
}

impl Lanes {
    pub fn new(weeks: usize) -> Self {
        Self { weeks, list: Vec::new() }
    }

    fn of(&mut self, project: Option<ProjectId>) -> &mut Lane {
        let at = self.list.iter().position(|lane| lane.project == project).unwrap_or_else(|| {
            self.list.push(Lane {
                project,
                firm: Side::default(),
                pencilled: Side::default(),
                firm_minutes: ByDay::default(),
                pencilled_minutes: ByDay::default(),
                task: ByDay::default(),
                named: Vec::new(),
            });
            self.list.len() - 1
        });
        &mut self.list[at]
    }

    pub fn book(&mut self, project: Option<ProjectId>, brick: &Brick, ground: &Ground<'_>) {
        let lane = self.of(project);
        let side = if brick.marks.contains(Marks::PENCILLED) { &mut lane.pencilled } else { &mut lane.firm };
        side.land(std::slice::from_ref(brick), brick.marks, Choice::ALL, ground);
    }

    /// To be called after the last booking and before the first task.
    pub fn settle(&mut self, days: &Days) {
        for lane in &mut self.list {
            for (side, minutes) in
                [(&mut lane.firm, &mut lane.firm_minutes), (&mut lane.pencilled, &mut lane.pencilled_minutes)]
            {
                if !side.is_empty() {
                    side.settle(days, minutes);
                }
            }
        }
    }

    /// Lays a task's minutes down, day by day in the first project of `line` that has a booking on that day, else in the first: `line`
    /// is the task's own project, then those that it lies in. `team` is the one that the task names.
    pub fn fill(&mut self, line: &[ProjectId], team: Option<TeamId>, minutes: &ByDay) {
        let Some(own) = line.first() else { return };
        let weeks = self.weeks;
        let place = |project: &ProjectId| self.list.iter().position(|lane| lane.project == Some(*project));
        let places: Vec<usize> = line.iter().filter_map(place).collect();
        for (index, minutes) in minutes.iter().enumerate().filter(|(_, minutes)| *minutes > 0) {
            let booked = places.iter().copied().find(|at| self.list[*at].is_booked(index));
            let lane = match booked {
                Some(at) => &mut self.list[at],
                None => self.of(Some(*own)),
            };
            room_in(&mut lane.task, weeks)[index] += minutes;
            if let Some(team) = team {
                lane.of_team(team, weeks)[index] += minutes;
            }
        }
    }

    /// What stands under each project, as the setting says.
    pub fn together(self, envelope: Envelope) -> Vec<Slot> {
        let weeks = self.weeks;
        self.list.into_iter().map(|lane| lane.together(envelope, weeks)).collect()
    }
}

impl Lane {
    fn is_booked(&self, index: usize) -> bool {
        [&self.firm_minutes, &self.pencilled_minutes].iter().any(|side| !side.is_empty() && side[index] > 0)
    }

    fn of_team(&mut self, team: TeamId, weeks: usize) -> &mut ByDay {
        let at = self.named.iter().position(|(known, _)| *known == team).unwrap_or_else(|| {
            self.named.push((team, ByDay::zeros(weeks)));
            self.named.len() - 1
        });
        &mut self.named[at].1
    }

    /// firm = max(firm booked, tasks); load = max(firm + pencilled booked, tasks); or as the setting says.
    fn together(self, envelope: Envelope, weeks: usize) -> Slot {
        let filled = |minutes: ByDay| if minutes.is_empty() { ByDay::zeros(weeks) } else { minutes };
        let mut slot = Slot {
            project: self.project,
            firm: filled(self.firm_minutes),
            load: filled(self.pencilled_minutes),
            task: filled(self.task),
            named: if envelope == Envelope::Bookings { Vec::new() } else { self.named },
        };
        let hold = self.project.is_none();
        let days = slot.firm.slots_mut().iter_mut().zip(slot.load.slots_mut()).zip(slot.task.slots());
        for ((firm, load), task) in days {
            let (booked, pencilled, task) = (*firm, *load, *task);
            (*firm, *load) = match envelope {
                _ if hold => (booked, booked + pencilled),
                Envelope::Larger => (booked.max(task), (booked + pencilled).max(task)),
                Envelope::Bookings => (booked, booked + pencilled),
                Envelope::Tasks => (task, task),
                Envelope::Sum => (booked + task, booked + pencilled + task),
            };
        }
        slot
    }
}
