//! Planned against worked: what was booked, what the plan held, and what was logged on past days, per person and project.

use crate::{
    Day, PersonId, Plan, ProjectId, TaskId,
    availability::Days,
    by_day::ByDay,
    change::{Change, Edit},
    demand::{PersonLoad, Window, booking_minutes, person_load},
    kinds::{Certainty, FIRST_STAGE, ProjectStatus, Task},
    plan::Entry,
};
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

/// What became of one person's work on one project, in minutes over all the days together.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Worked {
    /// Firm bookings, without holds.
    pub booked: i64,
    /// The firm load of the plan as it stands, with the estimate of every task, done or not, over its own dates.
    pub planned: i64,
    /// What was logged; under the project, or the nearest above it in which the person was booked in those days.
    pub logged: i64,
}

impl Worked {
    /// What was booked and not worked: max(0, booked − logged).
    #[must_use]
    pub fn unworked(&self) -> i64 {
        (self.booked - self.logged).max(0)
    }

    fn is_any(&self) -> bool {
        self.booked != 0 || self.planned != 0 || self.logged != 0
    }
}

/// The plan as it was meant: every task with its estimate, whatever was logged on it and whether it is done.
#[derive(Debug)]
pub struct Meant(Plan);

impl Meant {
    /// The whole plan as it was meant.
    #[must_use]
    pub fn of(plan: &Plan) -> Self {
        Self::with(plan, plan.tasks.values().map(|task| task.id).collect())
    }

    /// The same for one person alone: what others do stays as it is.
    #[must_use]
    pub fn for_one(plan: &Plan, entry: &Entry) -> Self {
        let mut tasks: BTreeSet<TaskId> = entry.tasks.iter().copied().collect();
        // What of a parent is not broken down depends on everything inside it.
        let mut inner: Vec<TaskId> = tasks.iter().copied().collect();
        while let Some(id) = inner.pop() {
            inner.extend(plan.children_of(id));
            tasks.extend(plan.children_of(id));
        }
        Self::with(plan, tasks)
    }

    fn with(plan: &Plan, tasks: BTreeSet<TaskId>) -> Self {
        let mut meant = plan.clone();
        for project in plan.records.projects.values().filter(|project| project.status == ProjectStatus::Closed) {
            let open = crate::kinds::Project { status: ProjectStatus::Active, ..(**project).clone() };
            meant.apply(&Change::Project(Edit::alter((**project).clone(), open)));
        }
        for id in tasks {
            meant.logged.remove(&id);
            let Some(task) = meant.tasks.get_mut(&id).filter(|task| task.is_done() || task.remaining.is_some()) else {
                continue;
            };
            let stage = if task.is_done() { FIRST_STAGE.to_owned() } else { task.stage.clone() };
            *task = Arc::new(Task { stage, remaining: None, logged_then: 0, ..(**task).clone() });
        }
        // What stands inside tasks is another sum now.
        meant.inside = Arc::default();
        Self(meant)
    }

    /// What lay on somebody's days, by project; `None` where there is no such person.
    #[must_use]
    pub fn load(&self, person: PersonId, from: Day, to: Day) -> Option<PersonLoad> {
        // On a day before all others nothing is late, and everything lies on its own dates.
        let window = Window::new(from, to, Day::MIN);
        Some(person_load(&self.0, self.0.people.get(&person)?, &window, true))
    }

    /// Firm minutes of a person by project, holds left out, over the weeks around some days, with the days they stand on.
    #[must_use]
    pub fn firm(&self, person: PersonId, from: Day, to: Day) -> Option<(Days, Vec<(ProjectId, ByDay)>)> {
        let load = self.load(person, from, to)?;
        let of_project = load.slots.into_iter().filter_map(|slot| Some((slot.project?, slot.firm)));
        Some((load.days, of_project.collect()))
    }
}

/// What became of each project that a person was booked on, had tasks of, or logged on, from a day to another one, both before
/// `today`; nothing where there is no such day.
#[must_use]
pub fn of_person(
    plan: &Plan,
    meant: &Meant,
    entry: &Entry,
    cut: (Day, Day),
    today: Day,
) -> BTreeMap<Option<ProjectId>, Worked> {
    let (from, to) = (cut.0, cut.1.min(today - 1));
    let mut found: BTreeMap<Option<ProjectId>, Worked> = BTreeMap::new();
    if from > to {
        return found;
    }
    let person = entry.person.id;
    if let Some((days, firm)) = meant.firm(person, from, to) {
        for row in entry.bookings() {
            let is_firm = row.brick.certainty() == Certainty::Firm;
            let Some(project) = row.project.filter(|_| is_firm && row.brick.touches(from, to)) else { continue };
            let landed = booking_minutes(plan, entry, &days, &row).sum(days.indexes(from, to));
            found.entry(Some(project)).or_default().booked += landed;
        }
        for (project, minutes) in firm {
            found.entry(Some(project)).or_default().planned += minutes.sum(days.indexes(from, to));
        }
    }
    let booked: BTreeSet<ProjectId> =
        found.iter().filter(|(_, worked)| worked.booked > 0).filter_map(|(project, _)| *project).collect();
    for logged in plan.log_of(person, from, to) {
        let own = logged.subject(plan).0;
        let above = own.and_then(|id| plan.project_line(id).map(|project| project.id).find(|id| booked.contains(id)));
        found.entry(above.or(own)).or_default().logged += i64::from(logged.minutes);
    }
    found.retain(|_, worked| worked.is_any());
    found
}

/// The same for everybody.
#[must_use]
pub fn table(plan: &Plan, cut: (Day, Day), today: Day) -> Vec<(PersonId, Option<ProjectId>, Worked)> {
    let meant = Meant::of(plan);
    let rows = |(id, entry): (&PersonId, &Entry)| {
        let person = *id;
        of_person(plan, &meant, entry, cut, today).into_iter().map(move |(project, worked)| (person, project, worked))
    };
    plan.people.iter().flat_map(rows).collect()
}
