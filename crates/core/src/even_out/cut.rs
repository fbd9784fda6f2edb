//! A booking cut into weekly amounts inside its own range.

use super::weeks::weeks_of;
use crate::{
    BookingId, Day, PersonId, Plan,
    change::{Change, Edit},
    demand::{Window, booking_minutes},
    kinds::{Amount, Booking, Unit, Who},
};

/// A piece of a booking: first and last day, inside one week, and minutes in all.
pub type Slice = (Day, Day, i64);

/// A booking that may be cut.
#[derive(Clone, Debug)]
pub(super) struct Cut {
    pub booking: Booking,
    pub person: PersonId,
    /// Its weeks with what lies in each; as it stands until `is_changed`.
    pub slices: Vec<Slice>,
    pub is_changed: bool,
    /// Under which identities its pieces stand meanwhile.
    first: i32,
}

impl Cut {
    /// A booking of a person from today on, `None` where it is not one's, has begun, or has nothing to give. `first` is the first of
    /// as many identities as it has weeks, which nothing else has.
    pub fn new(plan: &Plan, id: BookingId, window: &Window, first: i32) -> Option<Self> {
        let booking = plan.booking(id)?;
        let Who::Person(person) = booking.who else { return None };
        let entry = plan.people.get(&person)?;
        if booking.start < window.today || booking.end > window.to {
            return None;
        }
        let whole = Window::new(booking.start, booking.end, window.today);
        let load = crate::demand::person_load(plan, entry, &whole, false);
        let row = entry.bookings().find(|row| row.id == id)?;
        let minutes = booking_minutes(plan, entry, &load.days, &row);
        let mondays = (0..).map(|at| booking.start.monday() + 7 * at).take_while(|monday| *monday <= booking.end);
        let slice = |monday: Day| {
            let (from, to) = (monday.max(booking.start), (monday + 6).min(booking.end));
            let days = load.days.indexes(from, to);
            // Nothing can lie where nobody works.
            let works = days.clone().any(|at| load.days.available[at] > 0);
            (works || minutes.sum(days.clone()) > 0).then(|| (from, to, minutes.sum(days)))
        };
        let slices: Vec<Slice> = mondays.filter_map(slice).collect();
        let all: i64 = slices.iter().map(|slice| slice.2).sum();
        (slices.len() > 1 && all > 0).then_some(Self { person, slices, is_changed: false, first, booking })
    }

    /// The booking as it stood, taken out of a plan, and its pieces put in, each as a change; new ones have identities of the search.
    fn changes(&self, from: Option<&[Slice]>, to: &[Slice]) -> Vec<Change> {
        let piece = |(at, slice): (usize, &Slice)| {
            let id = BookingId(self.first + i32::try_from(at).unwrap_or(0));
            (slice.2 > 0).then(|| Booking { id, reference: String::new(), ..self.piece(slice) })
        };
        let old: Vec<Booking> = match from {
            None => vec![self.booking.clone()],
            Some(slices) => slices.iter().enumerate().filter_map(piece).collect(),
        };
        let gone = old.into_iter().map(|old| Change::Booking(Edit::remove(old)));
        let new = to.iter().enumerate().filter_map(piece).map(|new| Change::Booking(Edit::new(new)));
        gone.chain(new).collect()
    }

    fn piece(&self, (from, to, minutes): &Slice) -> Booking {
        let amount = Amount { value: i32::try_from(*minutes).unwrap_or(i32::MAX), unit: Unit::Total };
        Booking { start: *from, end: *to, amount, ..self.booking.clone() }
    }

    /// The plan with other slices in place of those that it has.
    pub fn sliced(&self, plan: &Plan, slices: &[Slice]) -> Plan {
        plan.with(&self.changes(self.is_changed.then_some(&self.slices), slices))
    }

    /// What it comes to as changes of the plan that it was taken from: the first piece keeps the booking's identity.
    pub fn edits(&self) -> Vec<Change> {
        if !self.is_changed {
            return Vec::new();
        }
        let mut pieces = self.slices.iter().filter(|slice| slice.2 > 0).map(|slice| self.piece(slice));
        let first = pieces.next().map(|first| Change::Booking(Edit::alter(self.booking.clone(), first)));
        let more = pieces
            .map(|piece| Change::Booking(Edit::new(Booking { id: BookingId(0), reference: String::new(), ..piece })));
        first.into_iter().chain(more).collect()
    }

    /// Slices with minutes moved from the fullest week that has some to the emptiest one; `None` where that is the same, or neither
    /// is there.
    pub fn levelled(&self, plan: &Plan, window: &Window, minutes: i64) -> Option<Vec<Slice>> {
        let weeks = weeks_of(plan, self.person, window);
        let fullness = |slice: &Slice| {
            let at = usize::try_from(slice.0.monday().since(window.from) / 7).ok()?;
            let week = weeks.get(at)?;
            Some((week.spill(), week.load))
        };
        let mut slices = self.slices.clone();
        let of: Vec<_> = slices.iter().map(fullness).collect::<Option<_>>()?;
        let from = (0..slices.len()).filter(|at| slices[*at].2 > 0).max_by_key(|at| of[*at])?;
        let to = (0..slices.len()).min_by_key(|at| of[*at])?;
        let moved = minutes.min(slices[from].2);
        slices[from].2 -= moved;
        slices[to].2 += moved;
        (from != to && moved > 0).then_some(slices)
    }
}
