//! Even out (`rules/tuck-in.md`): hours that were booked and not worked are offered again, and weeks that spill are flattened.

mod cut;
mod flatten;
mod left;
mod unworked;
mod weeks;

pub use cut::Slice;
pub use flatten::{Evened, Flatten, flatten};
pub use left::{Holder, Left, left_over};
pub use unworked::{Offered, Unworked, in_turn, offered, until, unworked};
pub use weeks::{Spills, spills};

use crate::{BookingId, Plan, change::Change};

/// Changes with identities for new bookings, so that they can be put into the plan to be looked at.
#[must_use]
pub fn to_look_at(plan: &Plan, changes: &[Change]) -> Vec<Change> {
    let mut next = plan.next_id();
    let numbered = |change: &Change| match change.clone() {
        Change::Booking(mut edit) if edit.before.is_none() => {
            edit.after.iter_mut().for_each(|booking| booking.id = BookingId(next));
            next = next.saturating_add(1);
            Change::Booking(edit)
        }
        other => other,
    };
    changes.iter().map(numbered).collect()
}
