//! What a hand does to a booking in a picture: shift it, stretch an end, hand it to somebody, draw its top edge.

use crate::{
    Day, PersonId, Plan, Refusal,
    kinds::{Booking, Unit, Who},
    reshape::minutes_between,
    rules::LONGEST_DAYS,
    spread::round_half_up,
};

/// One gesture; what is not touched is zero or `None`.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Gesture {
    /// Days by which the whole booking moves.
    pub shift: i32,
    /// Days by which its first day moves.
    pub start_shift: i32,
    /// Days by which its last day moves.
    pub end_shift: i32,
    /// Who gets it.
    pub to: Option<PersonId>,
    /// The minutes that its layer is to be thick on a day.
    pub thickness: Option<(Day, i32)>,
}

/// Amounts drawn by hand snap to this: a quarter of an hour, or one percent.
const SNAP_MINUTES: i64 = 15;
const SNAP_PERCENT: i64 = 100;

impl Gesture {
    /// A hand reaches ten years, no farther: beyond that a booking would be cut at the last day that there is.
    ///
    /// # Errors
    /// A sentence, at the field that reaches too far.
    pub fn checked(self) -> Result<Self, Refusal> {
        let reach = -LONGEST_DAYS..=LONGEST_DAYS;
        if [self.shift, self.start_shift, self.end_shift].iter().all(|days| reach.contains(days)) {
            return Ok(self);
        }
        Err(Refusal::value("shift", "That is more than ten years away."))
    }
}

/// The booking after a gesture. An end never passes the other end; an amount never falls below one snap.
#[must_use]
pub fn after(plan: &Plan, booking: &Booking, gesture: &Gesture) -> Booking {
    let inside = |day: Day, shift: i32| {
        let number = i64::from(day.number()) + i64::from(shift);
        let clamped = number.clamp(i64::from(Day::MIN.number()), i64::from(Day::MAX.number()));
        Day::from_number(i32::try_from(clamped).unwrap_or_default())
    };
    let mut next = booking.clone();
    next.start = inside(booking.start, gesture.shift.saturating_add(gesture.start_shift));
    next.end = inside(booking.end, gesture.shift.saturating_add(gesture.end_shift));
    if gesture.start_shift != 0 {
        next.start = next.start.min(next.end);
    }
    next.end = next.end.max(next.start);
    if let Some(person) = gesture.to {
        next.who = Who::Person(person);
    }
    if let Some((day, minutes)) = gesture.thickness {
        let now = minutes_between(plan, booking, day, day);
        let value = i64::from(booking.amount.value);
        if now > 0 {
            let snap = if booking.amount.unit == Unit::Percent { SNAP_PERCENT } else { SNAP_MINUTES };
            let wanted = round_half_up(value * i64::from(minutes.clamp(0, 1_440)), now * snap) * snap;
            next.amount.value = i32::try_from(wanted.max(snap)).unwrap_or(booking.amount.value);
        }
    }
    next
}
