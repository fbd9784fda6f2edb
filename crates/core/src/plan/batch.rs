//! Many records at once, for readers of large files: what belongs to one person is put together once.

use super::{
    Plan,
    numbers::{Brick, Name},
};
use crate::{BookingId, PersonId, ProjectId, people::Absence};
use std::{
    collections::{BTreeSet, HashMap},
    sync::Arc,
};

/// New absences and bookings of people, all of whom are in the plan. Nothing is checked, as in [`Plan::apply`].
#[derive(Clone, Debug, Default)]
pub struct Batch {
    /// Time off, in the order of identities.
    pub absences: Vec<Absence>,
    /// Bookings of people, in pieces as they were read.
    pub bookings: Vec<Vec<BatchBooking>>,
    /// The identity of the first booking; the others follow one by one, and none was ever used.
    pub first: i32,
}

/// A new booking of a person, without words.
#[derive(Clone, Copy, Debug)]
pub struct BatchBooking {
    /// Whose.
    pub person: PersonId,
    /// For which project.
    pub project: Option<ProjectId>,
    /// When, how much, how sure.
    pub brick: Brick,
}

impl Plan {
    /// Takes a batch in: the same as a change for each record, in one step a person.
    pub fn take_in(&mut self, batch: Batch) {
        let bookings = || (batch.first..).map(BookingId).zip(batch.bookings.iter().flatten());
        // How many bookings each person gets, and where they are collected: people are few beside what they have.
        let slot = |person: PersonId| usize::try_from(person.0).unwrap_or(0);
        let mut counts = vec![0_usize; self.people.get_max().map_or(0, |(last, _)| slot(*last) + 1)];
        self.homes.extend(bookings().map(|(id, it)| {
            counts[slot(it.person)] += 1;
            (id, it.person)
        }));
        let count = i32::try_from(batch.bookings.iter().map(Vec::len).sum::<usize>()).unwrap_or(i32::MAX);
        self.reserve_ids(batch.first.saturating_add(count));
        self.reserve_ids(batch.absences.last().map_or(0, |it| it.id.0.saturating_add(1)));

        // All of one kind lie together, as the computation goes through them person by person.
        let (mut bricks, mut names) = std::thread::scope(|scope| {
            let bricks = scope.spawn(|| {
                let mut found: Vec<Vec<Brick>> = counts.iter().map(|count| Vec::with_capacity(*count)).collect();
                bookings().for_each(|(_, it)| found[slot(it.person)].push(it.brick));
                found
            });
            let mut names: Vec<Vec<Name>> = counts.iter().map(|count| Vec::with_capacity(*count)).collect();
            bookings().for_each(|(id, it)| names[slot(it.person)].push(Name::plain(id, it.project)));
            (bricks.join().unwrap_or_default(), names)
        });
        let mut off: HashMap<PersonId, Vec<Absence>> = HashMap::new();
        for absence in batch.absences {
            off.entry(absence.person).or_default().push(absence);
        }
        let with_bookings = (0..).zip(&counts).filter(|(_, count)| **count > 0).map(|(id, _)| PersonId(id));
        let people: BTreeSet<PersonId> = with_bookings.chain(off.keys().copied()).collect();
        for person in people {
            let Some(entry) = self.people.get_mut(&person) else { continue };
            let numbers = Arc::make_mut(&mut entry.numbers);
            if let (Some(bricks), Some(names)) = (bricks.get_mut(slot(person)), names.get_mut(slot(person))) {
                append(&mut numbers.bricks, bricks);
                append(&mut numbers.names, names);
            }
            if let Some(absences) = off.get_mut(&person) {
                append(Arc::make_mut(&mut entry.absences), absences);
                numbers.take_absences(&entry.absences);
            }
        }
    }
}

/// Puts one list behind the other, without a copy where there is nothing yet.
fn append<T>(to: &mut Vec<T>, from: &mut Vec<T>) {
    if to.is_empty() { std::mem::swap(to, from) } else { to.append(from) }
}
