//! Whose each booking is, found by the booking's identity.

use crate::{BookingId, PersonId};
use imbl::OrdMap;
use std::sync::Arc;

/// How many identities lie on one page. Identities are handed out one after the other, so pages are full of neighbours.
const PAGE: i32 = 512;

/// A map from bookings to people, four bytes each: pages of neighbours, of which a change copies one.
#[derive(Clone, Debug, Default)]
pub(super) struct Homes {
    /// By number of the page; 0 where there is no booking.
    pages: OrdMap<i32, Arc<Vec<i32>>>,
    count: usize,
}

impl Homes {
    fn place(id: BookingId) -> (i32, usize) {
        (id.0.div_euclid(PAGE), usize::try_from(id.0.rem_euclid(PAGE)).unwrap_or_default())
    }

    pub fn get(&self, id: BookingId) -> Option<PersonId> {
        let (page, at) = Self::place(id);
        let home = *self.pages.get(&page)?.get(at)?;
        (home != 0).then_some(PersonId(home))
    }

    pub fn insert(&mut self, id: BookingId, person: PersonId) {
        self.set(id, person.0);
    }

    pub fn remove(&mut self, id: BookingId) {
        self.set(id, 0);
    }

    /// Takes many in; fastest in the order of their identities.
    pub fn extend(&mut self, homes: impl Iterator<Item = (BookingId, PersonId)>) {
        let mut open: Option<(i32, Vec<i32>)> = None;
        for (id, person) in homes {
            let (page, at) = Self::place(id);
            if open.as_ref().is_none_or(|(number, _)| *number != page) {
                self.close(open.take());
                open = Some((page, self.pages.get(&page).map_or_else(Self::blank, |page| (**page).clone())));
            }
            if let Some(slot) = open.as_mut().and_then(|(_, slots)| slots.get_mut(at)) {
                self.count += usize::from(*slot == 0);
                *slot = person.0;
            }
        }
        self.close(open);
    }

    fn blank() -> Vec<i32> {
        vec![0; usize::try_from(PAGE).unwrap_or_default()]
    }

    fn close(&mut self, page: Option<(i32, Vec<i32>)>) {
        if let Some((number, slots)) = page {
            self.pages.insert(number, Arc::new(slots));
        }
    }

    fn set(&mut self, id: BookingId, home: i32) {
        let (page, at) = Self::place(id);
        let slots = self.pages.entry(page).or_insert_with(|| Arc::new(Self::blank()));
        if let Some(slot) = Arc::make_mut(slots).get_mut(at) {
            self.count = self.count + usize::from(home != 0) - usize::from(*slot != 0);
            *slot = home;
        }
    }

    /// How many bookings there are.
    pub fn len(&self) -> usize {
        self.count
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn homes_are_found_counted_and_given_up() {
        let mut homes = Homes::default();
        homes.extend([(1, 7), (513, 8), (2, 7)].map(|(id, who)| (BookingId(id), PersonId(who))).into_iter());
        let before = homes.clone();
        homes.insert(BookingId(2), PersonId(9));
        homes.remove(BookingId(513));
        homes.remove(BookingId(900));
        let found = [1, 2, 3, 513].map(|id| homes.get(BookingId(id)).map(|who| who.0));
        assert_eq!((found, homes.len()), ([Some(7), Some(9), None, None], 2));
        assert_eq!((before.get(BookingId(513)), before.len()), (Some(PersonId(8)), 3), "the plan before keeps its own");
    }
}
