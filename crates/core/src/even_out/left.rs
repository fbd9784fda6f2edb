//! What is over still, what keeps it there, and who else could take some of it.

use super::{flatten::Flatten, weeks::Spills};
use crate::{
    BookingId, Day, PersonId, Plan, ProjectId, TaskId,
    cells::{Bucket, Grain},
    demand::{Window, person_load},
    kinds::Kind,
    network::{Ground, Stays, figures_of, last_finishes, leaves},
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
        let mut held: Vec<(i64, Holder)> = Vec::new();
        for part in &load.tasks {
            let minutes = part.minutes.sum(days.clone());
            let Some(leaf) = ground.leaf(part.task).filter(|_| minutes > 0) else { continue };
            let id = part.task;
            let has_float = || {
                let figures = figures_of(&ground, &[id], &last).pop();
                figures.and_then(|it| it.free_float).is_some_and(|days| days > 0)
            };
            let behind = || ground.links_out_of(id).flat_map(|link| leaves(plan, link.to)).next();
            held.push((
                minutes,
                match leaf.stays() {
                    Some(Stays::Started | Stays::Done) => Holder::Begun(id),
                    Some(Stays::Fixed) => Holder::Fixed(id),
                    None if ask.pinned.contains(&id) => Holder::Pinned(id),
                    None if has_float() => Holder::Level(id),
                    None => behind().map_or(Holder::Due(id), |other| Holder::Link(id, other)),
                },
            ));
        }
        held.extend(bookings(plan, entry, ask, *week));
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

fn bookings<'a>(
    plan: &'a Plan,
    entry: &'a Entry,
    ask: &'a Flatten,
    week: Day,
) -> impl Iterator<Item = (i64, Holder)> + 'a {
    let window = Window::new(week, week + 6, ask.today);
    let load = person_load(plan, entry, &window, false);
    entry.bookings().filter(move |row| row.brick.touches(week, week + 6)).filter_map(move |row| {
        let minutes = crate::demand::booking_minutes(plan, entry, &load.days, &row);
        let here = minutes.sum(load.days.indexes(week, week + 6));
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

impl Holder {
    /// The record that it is about.
    #[must_use]
    pub fn about(self) -> (Kind, i32) {
        match self {
            Self::Begun(id)
            | Self::Fixed(id)
            | Self::Pinned(id)
            | Self::Link(id, _)
            | Self::Due(id)
            | Self::Level(id) => (Kind::Task, id.0),
            Self::Booking(id, _) | Self::Cut(id, _) => (Kind::Booking, id.0),
        }
    }
}
