//! What is over still, what keeps it there, and who else could take some of it.

use super::{flatten::Flatten, weeks::Spills};
use crate::{
    BookingId, Day, PersonId, Plan, ProjectId, TaskId,
    availability::Days,
    cells::{Bucket, Grain},
    demand::{TaskPart, Window, booking_minutes, person_load},
    network::{Ground, LastFinishes, Leaf, Stays, figures_of, last_finishes, leaves},
    plan::Entry,
    takers::{Need, takers},
};

/// What lies on a week that is over, and why it stays there.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Holder {
    /// A task that is begun.
    Begun(TaskId),
    /// A task whose dates are fixed.
    Fixed(TaskId),
    /// A task that was ticked to stay.
    Pinned(TaskId),
    /// A task without float: the other one is behind it by a link.
    Link(TaskId, TaskId),
    /// A task without float, for its due day or the end of its project.
    Due(TaskId),
    /// A task for which there is no better place.
    Level(TaskId),
    /// A booking that was not to be cut, with its project; of none it is a hold.
    Booking(BookingId, Option<ProjectId>),
    /// A booking that was cut as far as it goes.
    Cut(BookingId, Option<ProjectId>),
}

/// A week that is over still.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Left {
    /// Whose.
    pub person: PersonId,
    /// Its Monday.
    pub week: Day,
    /// Minutes over the limit.
    pub minutes: i64,
    /// What lies on it, the most first.
    pub holders: Vec<Holder>,
    /// Who could take some of it.
    pub others: Vec<PersonId>,
}

/// The most that is told of what lies on a week, and of who could take it.
const MOST: usize = 4;

/// What is over in a plan still, which is flattened already. `spills` are the weeks.
#[must_use]
pub fn left_over(plan: &Plan, ask: &Flatten, spills: &Spills) -> Vec<Left> {
    let ground = Ground::new(plan, ask.today);
    let last = last_finishes(plan);
    let of = |((person, week), minutes): (&(PersonId, Day), &i64)| {
        let entry = plan.people.get(person)?;
        let window = Window::new(*week, *week + 6, ask.today);
        let load = person_load(plan, entry, &window, true);
        let days = load.days.indexes(*week, *week + 6);
        let task = |part: &TaskPart| {
            let minutes = part.minutes.sum(days.clone());
            let leaf = ground.leaf(part.task).filter(|_| minutes > 0)?;
            Some((minutes, of_task(plan, ask, &ground, &last, &leaf)))
        };
        let mut held: Vec<(i64, Holder)> = load.tasks.iter().filter_map(task).collect();
        held.extend(bookings(plan, entry, ask, *week, &load.days));
        held.sort_by_key(|(minutes, _)| -minutes);
        Some(Left {
            person: *person,
            week: *week,
            minutes: *minutes,
            holders: held.into_iter().take(MOST).map(|(_, holder)| holder).collect(),
            others: others(plan, entry, ask, *week, *minutes),
        })
    };
    spills.iter().filter_map(of).collect()
}

/// Why a task stays where it is.
fn of_task(plan: &Plan, ask: &Flatten, ground: &Ground<'_>, last: &LastFinishes, leaf: &Leaf<'_>) -> Holder {
    let id = leaf.task.id;
    match leaf.stays() {
        Some(Stays::Started | Stays::Done) => return Holder::Begun(id),
        Some(Stays::Fixed) => return Holder::Fixed(id),
        None if ask.pinned.contains(&id) => return Holder::Pinned(id),
        None => {}
    }
    let figures = figures_of(ground, &[id], last).pop();
    if figures.and_then(|it| it.free_float).is_some_and(|days| days > 0) {
        return Holder::Level(id);
    }
    let behind = ground.links_out_of(id).flat_map(|link| leaves(plan, link.to)).next();
    behind.map_or(Holder::Due(id), |other| Holder::Link(id, other))
}

/// What lies of somebody's bookings on a week, whose days these are among.
fn bookings<'a>(
    plan: &'a Plan,
    entry: &'a Entry,
    ask: &'a Flatten,
    week: Day,
    days: &'a Days,
) -> impl Iterator<Item = (i64, Holder)> + 'a {
    entry.bookings().filter(move |row| row.brick.touches(week, week + 6)).filter_map(move |row| {
        let here = booking_minutes(plan, entry, days, &row).sum(days.indexes(week, week + 6));
        let holder = if ask.movable.contains(&row.id) { Holder::Cut } else { Holder::Booking };
        (here > 0).then_some((here, holder(row.id, row.project)))
    })
}

fn others(plan: &Plan, entry: &Entry, ask: &Flatten, week: Day, minutes: i64) -> Vec<PersonId> {
    let person = &entry.person;
    let need = Need {
        of: Some(person.id),
        project: None,
        kind: person.kind,
        role: person.role.clone(),
        skills: Vec::new(),
        bucket: Bucket { from: week, to: week + 6 },
        minutes,
    };
    takers(plan, &need, Grain::Week, ask.today, MOST).into_iter().map(|taker| taker.person).collect()
}
