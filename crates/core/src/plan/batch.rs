//! Many records at once, for readers of large files: what belongs to one person is put together once.

use super::{
    Plan,
    numbers::{Brick, Name, append},
};
use crate::{AbsenceId, BookingId, PersonId, ProjectId, kinds::Absence};
use std::sync::Arc;

/// New absences and bookings of people, all of whom are in the plan. Nothing is checked, as in [`Plan::apply`].
#[derive(Clone, Debug, Default)]
pub struct Batch {
    /// Time off, in pieces as it was read. Identities are given on the way.
    pub absences: Vec<Vec<Absence>>,
    /// Bookings of people, in pieces as they were read.
    pub bookings: Vec<Vec<BatchBooking>>,
    /// The identity of the first absence, where there is one; the others follow one by one, then bookings, and none was ever used.
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
        let Batch { absences, bookings, first } = batch;
        let number = |records: usize| i32::try_from(records).unwrap_or(i32::MAX);
        let first_booking = first.saturating_add(number(absences.iter().map(Vec::len).sum()));
        let count = number(bookings.iter().map(Vec::len).sum());
        self.reserve_ids(first_booking.saturating_add(count));

        // What is collected for each person, by the person's number: people are few beside what they have.
        let slot = |person: PersonId| usize::try_from(person.0).unwrap_or(0);
        let slots = self.people.get_max().map_or(0, |(last, _)| slot(*last) + 1);
        let bookings = || (first_booking..).map(BookingId).zip(bookings.iter().flatten());
        let mut counts = vec![0_usize; slots];
        bookings().for_each(|(_, it)| counts[slot(it.person)] += 1);
        // All of one kind lie together, as the computation goes through them person by person.
        let (mut bricks, mut names, mut off) = std::thread::scope(|scope| {
            let bricks = scope.spawn(|| {
                let mut found: Vec<Vec<Brick>> = counts.iter().map(|count| Vec::with_capacity(*count)).collect();
                bookings().for_each(|(_, it)| found[slot(it.person)].push(it.brick));
                found
            });
            let off = scope.spawn(|| {
                let mut found: Vec<Vec<Absence>> = vec![Vec::new(); slots];
                for (id, absence) in (first..).map(AbsenceId).zip(absences.into_iter().flatten()) {
                    found[slot(absence.person)].push(Absence { id, ..absence });
                }
                found
            });
            let mut names: Vec<Vec<Name>> = counts.iter().map(|count| Vec::with_capacity(*count)).collect();
            bookings().for_each(|(id, it)| names[slot(it.person)].push(Name::plain(id, it.project)));
            self.homes.extend(bookings().map(|(id, it)| (id, it.person)));
            (bricks.join().unwrap_or_default(), names, off.join().unwrap_or_default())
        });
        let collected = bricks.iter_mut().zip(&mut names).zip(&mut off).enumerate();
        for (at, ((bricks, names), absences)) in
            collected.filter(|(_, ((names, _), off))| !names.is_empty() || !off.is_empty())
        {
            let Some(entry) = self.people.get_mut(&PersonId(number(at))) else { continue };
            let numbers = Arc::make_mut(&mut entry.numbers);
            numbers.append(bricks, names);
            if !absences.is_empty() {
                append(Arc::make_mut(&mut entry.absences), absences);
                numbers.take_off(&entry.absences, &entry.meetings);
            }
        }
    }
}
