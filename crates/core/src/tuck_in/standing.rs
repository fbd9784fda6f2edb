//! The days of those who do a task, as everything but that task stands on them; for the checker and for reasons, which ask the load itself and
//! nothing of the search.

use super::{ask::Ask, proposal::Row};
use crate::{
    Day, PersonId, Plan, ProjectId, TaskId,
    demand::{PersonLoad, Slot, Window, effort_of, person_load_of},
    kinds::{Person, Task},
    network::{Dates, Holds},
    plan::Entry,
    settings::Envelope,
    spread::{contour_weights, largest_remainder},
};
use std::{cell::RefCell, collections::HashMap, rc::Rc};

/// Something that somebody does at most so many of at a time.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum AtATime {
    /// Tasks.
    Tasks(i32),
    /// Projects.
    Projects(i32),
}

/// The days of one who does a task.
pub(super) struct Standing<'p> {
    pub person: &'p Person,
    /// Minutes of the task that are theirs.
    pub minutes: i64,
    /// With everything but the task.
    pub with: PersonLoad,
    whole: Rc<Whole>,
    envelope: Envelope,
}

/// What of somebody's days is the same whichever of their tasks is looked at.
struct Whole {
    /// As everything was before.
    was: PersonLoad,
    /// With bookings alone.
    booked: PersonLoad,
}

/// The days of people in a plan before and after.
pub(super) struct People<'p> {
    before: &'p Plan,
    after: &'p Plan,
    pub window: Window,
    known: RefCell<HashMap<PersonId, Rc<Whole>>>,
}

impl<'p> People<'p> {
    /// The days from today up to a last one.
    pub fn until(before: &'p Plan, after: &'p Plan, today: Day, last: Day) -> Self {
        let window = Window::new(today, last.max(today), today);
        Self { before, after, window, known: RefCell::default() }
    }

    fn load(&self, plan: &Plan, entry: &Entry, tasks: Vec<TaskId>) -> PersonLoad {
        person_load_of(plan, entry, tasks, &self.window)
    }

    /// The days of everyone who does a task in the plan after.
    pub fn of(&self, task: &Task) -> Vec<Standing<'p>> {
        let parts = effort_of(self.after, task).map(|effort| effort.parts).unwrap_or_default();
        let one = |(id, minutes): (PersonId, i64)| {
            let (then, now) = (self.before.people.get(&id)?, self.after.people.get(&id)?);
            let whole = Rc::clone(self.known.borrow_mut().entry(id).or_insert_with(|| {
                let was = self.load(self.before, then, then.tasks.to_vec());
                Rc::new(Whole { was, booked: self.load(self.after, now, Vec::new()) })
            }));
            let others = now.tasks.iter().copied().filter(|id| *id != task.id).collect();
            let with = self.load(self.after, now, others);
            Some(Standing { person: &now.person, minutes, with, whole, envelope: self.after.settings.envelope })
        };
        parts.into_iter().filter_map(one).collect()
    }
}

/// The last day on which some rows finish, or, where they wish to be late, could.
pub(super) fn last_day(plan: &Plan, ask: &Ask, rows: &[Row]) -> Day {
    let by = |row: &Row| row.is_wish(plan).then(|| Holds::of(plan, row.task).by).flatten();
    let last = rows.iter().flat_map(|row| [row.dates.or(row.before).map(|dates| dates.1), by(row)]).flatten().max();
    last.map_or(ask.today, |day| day.min(ask.until))
}

/// The project of a task, then those that it lies in.
pub(super) fn line_of(plan: &Plan, task: &Task) -> Vec<ProjectId> {
    plan.project_line(task.project).map(|project| project.id).collect()
}

impl Standing<'_> {
    /// The most minutes that a day may hold: the limit, or what was there before.
    pub fn most(&self, at: usize) -> i64 {
        i64::from(self.with.days.limit()[at].max(self.whole.was.load[at]))
    }

    /// The same of a week.
    pub fn most_in_week(&self, week: usize) -> i64 {
        i64::from(self.with.weeks.limit[week].max(self.whole.was.weeks.load[week]))
    }

    /// The project under which work of one whose line this is stands on a day: the nearest that is booked, else its own.
    fn home(&self, line: &[ProjectId], at: usize) -> Option<ProjectId> {
        let is_booked =
            |project: &&ProjectId| slot(&self.whole.booked, **project).is_some_and(|slot| slot.load[at] > 0);
        line.iter().find(is_booked).or(line.first()).copied()
    }

    /// What stands under a project on a day, what of it is work on tasks, and what is booked.
    fn under(&self, project: Option<ProjectId>, at: usize) -> (i64, i64, i64) {
        let of = |load: &PersonLoad, minutes: fn(&Slot, usize) -> i32| {
            project.and_then(|project| slot(load, project)).map_or(0, |slot| i64::from(minutes(slot, at)))
        };
        let load = |slot: &Slot, at: usize| slot.load[at];
        (of(&self.with, load), of(&self.with, |slot, at| slot.task[at]), of(&self.whole.booked, load))
    }

    /// A day's load with more minutes of a project whose line this is.
    pub fn load_with(&self, line: &[ProjectId], at: usize, minutes: i64) -> i64 {
        let (here, tasks, booked) = self.under(self.home(line, at), at);
        let with = match self.envelope {
            Envelope::Larger | Envelope::Bookings => booked.max(tasks + minutes),
            Envelope::Tasks => tasks + minutes,
            Envelope::Sum => booked + tasks + minutes,
        };
        i64::from(self.with.load[at]) - here + with
    }

    /// How many minutes more of a project a day can hold, its week aside.
    pub fn room(&self, line: &[ProjectId], at: usize) -> i64 {
        // What a minute that fills a booking leaves free is told by a load beyond any booking.
        let many = 1 << 20;
        (self.most(at) - (self.load_with(line, at, many) - many)).max(0)
    }

    /// The same as far as the week lets it: what fills a booking adds nothing to the week.
    pub fn room_in_week(&self, line: &[ProjectId], at: usize) -> i64 {
        let left = self.most_in_week(at / 7) - i64::from(self.with.weeks.load[at / 7]);
        let (_, tasks, booked) = self.under(self.home(line, at), at);
        let fills = matches!(self.envelope, Envelope::Larger | Envelope::Bookings);
        left.max(0) + if fills { (booked - tasks).max(0) } else { 0 }
    }

    /// What keeps more work of a project from a day, whatever its minutes: as much as may be at a time is there.
    pub fn is_at_its_most(&self, line: &[ProjectId], at: usize) -> Option<AtATime> {
        let is_new = self.under(self.home(line, at), at).0 == 0;
        let over = |most: Option<i32>, now: i64, then: i64| most.filter(|most| now > i64::from(*most).max(then));
        let tasks = over(self.person.max_tasks, self.with.tasks_on(at) + 1, self.whole.was.tasks_on(at));
        let projects = self.with.projects_on(at) + i64::from(is_new);
        let projects = over(self.person.max_projects, projects, self.whole.was.projects_on(at));
        tasks.map(AtATime::Tasks).or(projects.map(AtATime::Projects))
    }
}

/// Whether a task lands whole, and nobody's days take more than they may, or did before.
pub(super) fn fits(task: &Task, people: &[Standing<'_>], line: &[ProjectId], (start, finish): Dates) -> bool {
    people.iter().filter(|person| person.minutes > 0).all(|person| {
        let days = &person.with.days;
        let range = days.indexes(start, finish);
        let given: Vec<i64> = days.available.days(range.clone()).map(i64::from).collect();
        let Some(laid) = largest_remainder(person.minutes, &contour_weights(&given, task.contour)) else {
            return false;
        };
        let mut weeks: Vec<i64> = person.with.weeks.load.iter().copied().map(i64::from).collect();
        for (at, minutes) in range.zip(laid).filter(|(_, minutes)| *minutes > 0) {
            let load = person.load_with(line, at, minutes);
            weeks[at / 7] += load - i64::from(person.with.load[at]);
            if load > person.most(at) || person.is_at_its_most(line, at).is_some() {
                return false;
            }
        }
        let was = |week: usize| i64::from(person.with.weeks.load[week]);
        weeks.iter().enumerate().all(|(week, load)| *load == was(week) || *load <= person.most_in_week(week))
    })
}

fn slot(load: &PersonLoad, project: ProjectId) -> Option<&Slot> {
    load.slots.iter().find(|slot| slot.project == Some(project))
}
